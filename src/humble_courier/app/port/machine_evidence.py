"""What the machine shows by itself of a port that does not open: whether it is listed, what the kernel's log says of it.

Outcomes are those of the checks `list-ports` and `kernel-log` of the diagnosis.
"""

from collections.abc import Callable
from pathlib import Path

from humble_courier.app.port.kernel_log import live_log, log_story
from humble_courier.app.port.listing import REAL, all_ports
from humble_courier.catalog.load import Catalog
from humble_courier.errors import BadInput, MachineRefused
from humble_courier.host.kernel_log import Conclusion
from humble_courier.host.kinds import HostPort

CHECKS = ("list-ports", "kernel-log")
# What a conclusion of the log is as an outcome; an adapter that came and went does not get through to the computer either.
OUTCOMES = {
    "healthy": "fine", "cable-or-socket": "cable", "came-and-went": "cable", "nothing-seen": "cable",
    "not-enough-power": "power", "taken-by-program": "taken", "no-driver": "no-driver",
}  # fmt: skip


def machine_evidence(address: str, catalog: Catalog, root: Path = REAL, log: Callable[[], str] = live_log) -> dict[str, str]:
    """Both checks, as far as this user may look. Reads the machine and changes nothing; up to a second."""
    names = {address, str(Path(address).resolve())}
    port = next((one for one in all_ports(root) if names & {one.address, one.by_id, one.by_path}), None)
    found = {"list-ports": "seen" if port is not None else "absent"}
    try:
        conclusions = log_story([log().encode()], catalog).conclusions
    except (MachineRefused, BadInput):
        return found  # a log that may not be read, or is empty, says nothing of any cable
    about = _about(port, conclusions)
    return found | ({"kernel-log": OUTCOMES[about.code]} if about is not None else {})


def _about(port: HostPort | None, conclusions: list[Conclusion]) -> Conclusion | None:
    """The conclusion about this port; of a port that is gone, the one that rests on the newest lines."""
    if port is not None:
        return next((one for one in conclusions if port.usb is not None and one.usb_path == port.usb.path), None)
    return max(conclusions, key=lambda one: max(one.because, default=-1), default=None)
