"""The pages of the Talk stage, one a file, and the desk that serves them."""
