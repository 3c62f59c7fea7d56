"""What must be done at the device before the first word."""
