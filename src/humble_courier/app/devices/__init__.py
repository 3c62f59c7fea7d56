"""Device sheets of one's own."""
