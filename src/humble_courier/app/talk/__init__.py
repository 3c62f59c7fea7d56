"""What was said, what it means, and how a silent device is found."""
