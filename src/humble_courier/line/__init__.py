"""The asynchronous line: frames as waveforms, and what a receiver makes of them."""
