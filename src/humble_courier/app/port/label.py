"""What stands on the label of an adapter: whose it is, what it is called, what it connects, and with which settings."""

from dataclasses import dataclass

from humble_courier.app.port.profiles import Profile
from humble_courier.catalog.links import Link
from humble_courier.documents.short_link import short_of
from humble_courier.errors import BadInput


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
