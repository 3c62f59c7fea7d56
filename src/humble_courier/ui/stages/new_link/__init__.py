"""A link of one's own."""
