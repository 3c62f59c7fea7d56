"""What is kept: links, facts with provenance, proofs with every word sent and received. SQLite in WAL mode."""
