"""Settings from received bytes alone: tables made with the simulated receiver, and the belief that follows from them."""
