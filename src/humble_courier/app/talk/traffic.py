"""What received bytes look like at a glance."""

from enum import StrEnum

from humble_courier.domain.text import share_of_text

MOSTLY_TEXT = 0.9  # share of printable bytes from which it is called text (common practice)
SELDOM_DAMAGED = 0.05  # more bytes with an error are no noise but another rate or frame (common practice)


class Traffic(StrEnum):
    """What comes in."""

    NOTHING = "nothing"
    TEXT = "text"
    BINARY = "binary"
    WRONG_SETTINGS = "wrong-settings"


def looks_like(data: bytes, doubtful: int) -> Traffic:
    """The look of `data`; `doubtful`: how many of the bytes came with an error."""
    if not data:
        return Traffic.NOTHING
    if doubtful > SELDOM_DAMAGED * len(data):
        return Traffic.WRONG_SETTINGS
    return Traffic.TEXT if share_of_text(data) >= MOSTLY_TEXT else Traffic.BINARY
