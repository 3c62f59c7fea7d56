"""The demo: an invented place with its records and its machine."""
