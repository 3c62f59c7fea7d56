"""The day: what to take, what to do before leaving, what to do at each place."""
