"""The use cases that the window and the command line share. Nothing here prints, and nothing here draws."""
