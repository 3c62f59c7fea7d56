"""What the faults of `faults.yaml` do to a bench: to the device's settings, to the wiring, to the line, to the opening."""

import errno
from collections.abc import Collection
from dataclasses import replace

from humble_courier.domain.settings import Handshake, Parity, Settings

# Nothing passes, and no line is driven: the plug is elsewhere, or something between is dead.
APART = {"covered", "wrong-socket", "unplugged", "wrong-port", "adapter-dead", "port-dead", "wrong-cable"}
NOISE = {"noise": 0.01, "long-line": 0.004, "reflections": 0.006, "no-ground": 0.2}  # share of the bits that are turned over
INVERTED = {"inverted-line", "logic-level"}  # what is mark at one end is space at the other
STARTS_S = 20.0  # for which a device is still starting
FACTORY = (9600, 1200)  # what was set before a change that was not stored
FLOW = {"RTS", "CTS", "DTR", "DSR"}
REFUSED = {"held": (errno.EBUSY, "Device or resource busy"), "no-permission": (errno.EACCES, "Permission denied")}

Lines = dict[tuple[str, str], tuple[str, str]]


def faulty_settings(settings: Settings, faults: Collection[str]) -> Settings:
    """What the device is set to in truth."""
    frame, rate, handshake = settings.frame, settings.rate, settings.handshake
    if "wrong-rate" in faults:
        rate //= 2
    if "double-rate" in faults:
        rate *= 2
    if "old-rate" in faults:
        rate = next(one for one in FACTORY if one != rate)
    if "wrong-parity" in faults:
        frame = replace(frame, parity=Parity.ODD if frame.parity is not Parity.ODD else Parity.EVEN)
    if "seven-bits" in faults:
        frame = replace(frame, data_bits=7 if frame.data_bits == 8 else 8)
    if "waits-for-us" in faults:
        handshake = Handshake.RTS_CTS
    return replace(settings, rate=rate, frame=frame, handshake=handshake)


def faulty_ways(
    to_device: bool, to_computer: bool, echo: bool, lines: Lines, faults: Collection[str]
) -> tuple[bool, bool, bool, Lines]:
    """What of the wiring is left: whether each way carries, whether our words come back, which line drives which."""
    apart = bool(APART & set(faults))
    meet = "senders-meet" in faults  # transmit on transmit, receive on receive: neither hears the other
    if apart or "open-handshake" in faults:
        lines = {key: driver for key, driver in lines.items() if not apart and key[1] not in FLOW}
    if meet:
        lines = {key: driver for key, driver in lines.items() if driver[0] == key[0]}
    return (
        to_device and not (apart or meet or "deaf" in faults),
        to_computer and not (apart or meet or "mute" in faults),
        (echo and not apart) or "local-echo" in faults,
        lines,
    )


def noise_of(faults: Collection[str]) -> float:
    """Share of the bits that are turned over on the way."""
    return max((share for fault, share in NOISE.items() if fault in faults), default=0.0)
