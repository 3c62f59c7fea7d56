"""Addresses: switch banks, bus plans, I/O points, networks. Opens nothing."""
