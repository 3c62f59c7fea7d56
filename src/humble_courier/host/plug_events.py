"""Tells at once that something was plugged in or pulled, where udev runs. Elsewhere whoever asks has to poll."""

from pathlib import Path
from typing import Protocol


class Monitor(Protocol):
    """What is needed of udev's monitor."""

    def fileno(self) -> int:
        """The descriptor to wait on."""

    def poll(self, timeout: float) -> object | None:
        """The next event, or None within `timeout` seconds."""


class PlugEvents:
    """Events of the machine's ports and USB devices. Wait on `fileno`, then `drain`, then look at the ports."""

    def __init__(self, monitor: Monitor) -> None:
        self._monitor = monitor

    def fileno(self) -> int:
        """The descriptor that becomes readable."""
        return self._monitor.fileno()

    def drain(self) -> bool:
        """Take all events that wait; True where there was one."""
        seen = False
        while self._monitor.poll(0) is not None:
            seen = True
        return seen


def plug_events() -> PlugEvents | None:
    """The events of this machine; None where udev does not run or its library is missing."""
    if not Path("/run/udev/control").exists():
        return None
    try:
        import pyudev

        monitor = pyudev.Monitor.from_netlink(pyudev.Context())
        for subsystem in ("tty", "usb"):
            monitor.filter_by(subsystem)
        monitor.start()
    except (ImportError, OSError):
        return None
    return PlugEvents(monitor)
