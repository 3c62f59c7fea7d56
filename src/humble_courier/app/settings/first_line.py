"""What a device would send first, to show what a mismatch makes of it."""

from humble_courier.app.settings.hearing import Comparison, compare
from humble_courier.catalog.links import Link

PLAIN = "LEVEL +01.284 M"  # what a sheet without a power-up line is shown with: letters, digits, signs


def sample_text(link: Link) -> str:
    """The power-up line as the sheet prints it, else a plain line; with the terminator the device uses."""
    power_up = link.sheet.power_up if link.sheet else None
    end = {"cr": "\r", "lf": "\n", "crlf": "\r\n"}.get(link.sheet.end if link.sheet else "", "")
    return (power_up.example if power_up else PLAIN) + end


def as_predicted(link: Link, received: bytes) -> tuple[int, int]:
    """How many of the received bytes are those that the settings on paper would make of the sample: (like, of)."""
    both = comparison(link)
    if both is None:
        return 0, len(received)
    return sum(a.byte == b for a, b in zip(both.appears, received, strict=False)), len(received)


def comparison(link: Link) -> Comparison | None:
    """What the computer makes of the device's first line; None while an end's settings are not known."""
    if link.computer_settings is None or link.device_settings is None:
        return None
    return compare(link.device_settings, link.computer_settings, sample_text(link).encode("ascii", "replace"))
