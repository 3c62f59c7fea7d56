"""What all simulated devices have in common: an outbox with times, lines in and out, alarms."""

from collections.abc import Sequence

from humble_courier.domain.received import Heard

NEVER = float("inf")


class Outbox:
    """What waits to be said, each with its time in seconds after power-up."""

    def __init__(self) -> None:
        self._waiting: list[tuple[float, bytes]] = []

    def put(self, t: float, data: bytes) -> None:
        """Say this at `t`."""
        self._waiting.append((t, data))

    def due(self) -> float:
        """When the first is due; infinity for nothing."""
        return min((t for t, _ in self._waiting), default=NEVER)

    def take(self, t: float) -> bytes:
        """All that is due at `t`, in order of time."""
        ready = sorted((pair for pair in self._waiting if pair[0] <= t), key=lambda pair: pair[0])
        self._waiting = [pair for pair in self._waiting if pair[0] > t]
        return b"".join(data for _, data in ready)

    def clear(self) -> None:
        """Forget what waits."""
        self._waiting.clear()


class Device:
    """A device without a line: characters in, bytes out at a time. Times are seconds after power-up."""

    on_unplugged = ""
    own_rate = True  # False where the serial side takes any settings, as an adapter on USB does

    def __init__(self) -> None:
        self.outbox = Outbox()
        self.alarms: list[tuple[float, str]] = []

    def hear(self, t: float, heard: Heard) -> None:
        """A character, complete at `t`."""

    def due(self) -> float:
        """When it next wants to say something; infinity for not at all."""
        return self.outbox.due()

    def say(self, t: float) -> bytes:
        """What it says at `t`; empty where nothing is due."""
        return self.outbox.take(t)

    def skip(self, t: float) -> None:
        """It has been on for `t` seconds already: what it said meanwhile is gone."""
        while self.due() <= t:
            self.say(self.due())

    def others(self) -> Sequence[bytes]:
        """What others on the same pair say at the same moment as the last `say`, handed out once: a collision."""
        return ()

    def ready(self, t: float) -> bool:  # noqa: ARG002 (devices with a buffer need the time)
        """Whether it takes more: the state of its handshake output."""
        return True

    def unplugged(self, t: float) -> None:
        """The plug is pulled: what follows of that at the device."""
        if self.on_unplugged:
            self.alarms.append((t, self.on_unplugged))

    def set_line(self, t: float, name: str, on: bool) -> None:
        """A line from the computer changed, as the wiring brings it: `RTS`, `DTR` by the name at the device."""


def silent() -> Device:
    """A device that neither hears nor speaks: key off, no supply, another mode, or nothing there."""
    return Device()
