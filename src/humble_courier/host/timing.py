"""How long an adapter holds answers back: its latency timer, read by the list of ports and changed here on request."""

from pathlib import Path

from humble_courier.errors import BadInput, MachineRefused
from humble_courier.host.kinds import HostPort

LEAST_MS, MOST_MS = 1, 255  # one byte in drivers/usb/serial/ftdi_sio.c (from memory)


def timer_path(port: HostPort) -> str:
    """The file of the kernel that holds the timer (drivers/usb/serial/ftdi_sio.c, `latency_timer`)."""
    return f"/sys/class/tty/{port.name}/device/latency_timer"


def timer_command(port: HostPort, ms: int) -> str:
    """The command that sets the timer, for somebody who may become administrator."""
    return f"echo {ms} | sudo tee {timer_path(port)}"


def set_timer(root: Path, port: HostPort, ms: int) -> int:
    """Set the timer; returns the old value in ms.

    Raises BadInput for a port without a timer or a value beyond it, MachineRefused where the kernel says no.
    """
    if port.latency_ms is None:
        raise BadInput(f"{port.address}: its driver has no latency timer")
    if not LEAST_MS <= ms <= MOST_MS:
        raise BadInput(f"latency {ms} ms: expected {LEAST_MS} to {MOST_MS}")
    file = root / timer_path(port).lstrip("/")
    try:
        old = int(file.read_text())
        file.write_text(f"{ms}\n")
    except PermissionError:
        command = timer_command(port, ms)
        raise MachineRefused(f"{port.address}: the timer may be set by an administrator only", f"Run: {command}") from None
    except (OSError, ValueError) as error:
        raise MachineRefused(f"{port.address}: the timer could not be set ({error})", "See that the plug is in") from None
    return old


def flag_command(port: HostPort, low: bool) -> str:
    """The command that sets the low-latency flag of a built-in port. It opens the port, and so moves DTR and RTS."""
    return f"sudo setserial {port.address} {'' if low else '^'}low_latency"
