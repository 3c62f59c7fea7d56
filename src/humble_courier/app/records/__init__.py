"""Out of the records and onto paper."""
