"""What runs at a port by itself: machines that are asked for a step and told the outcome, and their one runner."""
