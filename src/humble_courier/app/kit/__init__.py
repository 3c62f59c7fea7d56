"""What is in the bag."""
