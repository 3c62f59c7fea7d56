"""The window. Widgets take values through methods and give intents through signals; they compute nothing."""
