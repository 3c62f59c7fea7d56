"""Where pyserial looks for `sim://`."""
