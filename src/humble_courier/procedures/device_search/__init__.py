"""Finding a silent device: over ports, rates, frames, words and addresses, by what each trial is worth per second."""
