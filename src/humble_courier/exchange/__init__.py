"""The judge of one exchange: what came of a question, and what it shows."""
