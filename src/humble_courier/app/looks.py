"""What received bytes look like at a glance."""

from humble_courier.line.marked import Doubt, Heard


def looks_like(heard: list[Heard]) -> str:
    """`nothing`, `text`, `wrong-settings` or `binary`.

    More than one byte in twenty with an error is no noise but another rate or frame (common practice); text is nine
    in ten printable.
    """
    if not heard:
        return "nothing"
    doubtful = sum(one.doubt is not Doubt.NONE for one in heard)
    if doubtful * 20 > len(heard):
        return "wrong-settings"
    shown = sum(32 <= one.byte < 127 or one.byte in (9, 10, 13) for one in heard)
    return "text" if shown * 10 >= 9 * len(heard) else "binary"
