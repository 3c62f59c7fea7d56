"""Small value types that every room shares: settings of a line, signals on contacts, provenance of facts, times."""
