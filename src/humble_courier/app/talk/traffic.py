"""What received bytes look like at a glance."""

PLAIN = bytes((9, 10, 13, *range(32, 127)))


def looks_like(data: bytes, doubtful: int) -> str:
    """`nothing`, `text`, `wrong-settings` or `binary`; `doubtful`: how many of the bytes came with an error.

    More than one byte in twenty with an error is no noise but another rate or frame (common practice); text is nine
    in ten printable.
    """
    if not data:
        return "nothing"
    if doubtful * 20 > len(data):
        return "wrong-settings"
    shown = len(data) - len(data.translate(None, PLAIN))
    return "text" if shown * 10 >= 9 * len(data) else "binary"
