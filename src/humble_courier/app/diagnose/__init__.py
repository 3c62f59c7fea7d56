"""The next check that is worth most, for the window and the command line."""
