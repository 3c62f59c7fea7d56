"""pyserial's entry for `sim://`; the name of this module is pyserial's rule."""

from humble_courier.simulator.port import SimulatedPort as Serial

__all__ = ["Serial"]
