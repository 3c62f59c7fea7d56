"""What stands on a label: of an adapter, of a cable, of a socket; whose it is, what it connects, with which settings."""

import re
from dataclasses import dataclass
from enum import StrEnum

from humble_courier.app.port.profiles import Profile
from humble_courier.catalog.links import Link
from humble_courier.documents.short_link import short_of
from humble_courier.errors import BadInput

MOST_CONDUCTORS = 9  # that a label names
SMALLEST_MM, LARGEST_MM = 20.0, 150.0


class LabelFor(StrEnum):
    """What the label is stuck on."""

    ADAPTER = "adapter"
    CABLE = "cable"
    SOCKET = "socket"


@dataclass(frozen=True)
class LabelSize:
    """Width and height in mm."""

    width: float = 70.0  # one of 24 on a usual sheet of labels (A4, 3 by 8)
    height: float = 37.0

    @classmethod
    def parse(cls, text: str) -> "LabelSize":
        """As people write it, `62x29`. Raises BadInput."""
        found = re.fullmatch(r"(\d+(?:\.\d+)?)\s*[xX×]\s*(\d+(?:\.\d+)?)", text.strip())
        if found is None:
            raise BadInput(f"size “{text}”: expected width and height in mm, as in 62x29")
        size = cls(float(found[1]), float(found[2]))
        if not all(SMALLEST_MM <= side <= LARGEST_MM for side in (size.width, size.height)):
            raise BadInput(f"size “{text}”: each side between {SMALLEST_MM:g} and {LARGEST_MM:g} mm")
        return size


@dataclass(frozen=True)
class PortLabel:
    """A small label: the place on top, then lines of (what, value). `code`: the link in short, for a QR code."""

    title: str
    lines: tuple[tuple[str, str], ...]
    code: str


def port_label(link: Link, name: str, profile: Profile | None) -> PortLabel:
    """The label of a link's adapter. Raises BadInput where the link has no settings to put on it."""
    settings = link.computer_settings or link.device_settings
    if settings is None:
        raise BadInput("this link has no settings yet: choose those of the computer's end first")
    adapter = next((part for part in link.parts if part.kind == "usb-adapter"), None)
    others = [part.name for part in link.parts if part is not adapter]
    lines = [("Settings", settings.spoken), ("To", f"{link.device.name}")]
    if link.address or profile:
        lines.append(("Port", profile.address if profile else link.address or ""))
    if adapter is not None:
        lines.append(("Adapter", adapter.name))
    if profile is not None and (profile.serial or profile.socket):
        lines.append(("Known by", f"serial {profile.serial}" if profile.serial else f"socket {profile.socket}"))
    if others:
        lines.append(("Through", ", ".join(others)))
    return PortLabel(name or link.device.name, tuple(lines), short_of(link.model, name))


def label_for(link: Link, name: str, profile: Profile | None, what: LabelFor) -> PortLabel:
    """The label of the adapter, the cable or the socket. Raises BadInput where the link has none, or no settings."""
    if what is LabelFor.ADAPTER:
        return port_label(link, name, profile)
    return _cable(link, name) if what is LabelFor.CABLE else _socket(link, name)


def _cable(link: Link, name: str) -> PortLabel:
    cable = next((part for part in link.parts if not part.active and len(part.ends) > 1), None)
    if cable is None:
        raise BadInput("there is no cable in this link: choose one under the wiring first")
    wires = [f"{wire.a.contact}-{wire.b.contact}" for wire in cable.conductors if wire.a.end != wire.b.end]
    more = f" and {len(wires) - MOST_CONDUCTORS} more" if len(wires) > MOST_CONDUCTORS else ""
    lines = [("Ends", " to ".join(str(end.connector) for end in cable.ends)), ("For", name or link.name)]
    if wires:
        lines.append(("Wired", " ".join(wires[:MOST_CONDUCTORS]) + more))
    if cable.length_m:
        lines.append(("Length", f"{cable.length_m:g} m"))
    return PortLabel(cable.name, tuple(lines), short_of(link.model, name))


def _socket(link: Link, name: str) -> PortLabel:
    settings, sheet = link.device_settings or link.computer_settings, link.sheet
    if settings is None:
        raise BadInput("this link has no settings yet: choose those of the computer's end first")
    lines = [("Settings", settings.spoken), ("Connector", str(link.device.connector))]
    if sheet is not None:
        lines.append(("Marked", sheet.port.mark.split(",")[0]))
        lines += [("Not", sheet.port.beside)] if sheet.port.beside else []
    lines += [("Through", ", ".join(part.name for part in link.parts))] if link.parts else []
    return PortLabel(name or link.device.name, tuple(lines), short_of(link.model, name))
