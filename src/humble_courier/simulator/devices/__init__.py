"""Simulated devices, one kind a file: fed characters and times, they say what they send and when."""
