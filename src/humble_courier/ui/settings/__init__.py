"""The pages of the Settings stage."""
