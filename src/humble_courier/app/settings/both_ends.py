"""Both ends side by side: each setting with where it is set, what differs, what that looks like, which end to change."""

from dataclasses import dataclass

from humble_courier.catalog.links import Link
from humble_courier.documents.device import DeviceEntry, SetIn
from humble_courier.domain.settings import Parity, Settings

COMPUTER_MINUTES = 0.2  # another rate at the computer is a choice in a list
KEYS = {"rate": "rate", "data bits": "frame", "parity": "frame", "stop bits": "frame", "handshake": "handshake"}
SECOND_PLACE = "The program that talks has its own page for this: whoever opens the port last decides. Set both alike."


@dataclass(frozen=True)
class MatchRow:
    """One setting at both ends. `looks` what the difference makes of what arrives, `change` what to do, empty if alike."""

    setting: str
    computer: str
    device: str
    device_by: str
    differs: bool
    looks: str = ""
    change: str = ""


def match(link: Link) -> list[MatchRow]:
    """All settings of both ends in the order in which one would mend them; empty while an end is not known."""
    ours, theirs = link.computer_settings, link.device_settings
    if ours is None or theirs is None:
        return []
    differ = ours.differences(theirs)
    return [_row(link.sheet, name, ours, theirs, name in differ) for name in KEYS]


def _row(sheet: DeviceEntry | None, name: str, ours: Settings, theirs: Settings, differs: bool) -> MatchRow:
    place = sheet.port.set_in.get(KEYS[name]) if sheet else None  # type: ignore[call-overload]  # the keys are those
    by = f"{place.kind}: {place.how}" if place else (sheet.port.set_by if sheet else "as you typed it")
    mine, others = _value(name, ours), _value(name, theirs)
    if not differs:
        return MatchRow(name, mine, others, by, differs=False)
    return MatchRow(name, mine, others, by, True, looks(name, ours, theirs), _change(name, theirs, place))


def _value(name: str, settings: Settings) -> str:
    frame = settings.frame
    values = {
        "rate": f"{settings.rate}", "data bits": f"{frame.data_bits}", "parity": PARITY_WORDS[frame.parity],
        "stop bits": f"{frame.stop_bits}", "handshake": f"{settings.handshake}",
    }  # fmt: skip
    return values[name]


PARITY_WORDS = {Parity.NONE: "none", Parity.EVEN: "even", Parity.ODD: "odd", Parity.MARK: "mark", Parity.SPACE: "space"}


def looks(name: str, ours: Settings, theirs: Settings) -> str:
    """What a difference makes of what arrives at the computer."""
    mine, others = ours.frame, theirs.frame
    if name == "rate":
        if ours.rate > theirs.rate:
            return "few different characters, many with errors; breaks where the device is far slower"
        return "too few characters, no pattern, errors now and then"
    if name == "data bits":
        return "text is right but for the top bit" if mine.data_bits > others.data_bits else "errors in every character"
    if name == "parity":
        if mine.parity is Parity.NONE:
            return "some letters right, others 128 too high"
        return "about half of the characters with errors" if others.parity is not Parity.NONE else "errors now and then"
    if name == "stop bits":
        return "fine until characters follow at once" if mine.stop_bits > others.stop_bits else "nothing is seen of it"
    return "fine at first; long answers stop or lose their middle"


def _change(name: str, theirs: Settings, place: SetIn | None) -> str:
    if place is None or place.kind == "fixed" or place.minutes > COMPUTER_MINUTES:
        why = "the device's is fixed" if place is not None and place.kind == "fixed" else "seconds, nothing is stored"
        return f"Set the computer to {_value(name, theirs)}: {why}."
    return f"Either end: at the device, {place.how}."
