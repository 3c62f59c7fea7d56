"""Talking over a port: the session decides, one thin driver moves bytes."""
