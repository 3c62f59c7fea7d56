"""Simulated devices, adapters and lines behind pyserial's URL interface (`sim://`), and on a pty for other programs."""

from humble_courier.simulator.register import install

__all__ = ["install"]
