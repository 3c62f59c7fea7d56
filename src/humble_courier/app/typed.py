"""What people type into fields, as values."""

import math


def number(word: str) -> float | None:
    """A number as people type it, with a comma too; None where it is none."""
    try:
        value = float(word.replace(",", ".").replace("−", "-"))
    except ValueError:
        return None
    return value if math.isfinite(value) else None
