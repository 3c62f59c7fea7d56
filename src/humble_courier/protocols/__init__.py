"""Protocols as machines without input or output: bytes in, events out, and the safe first words of each."""
