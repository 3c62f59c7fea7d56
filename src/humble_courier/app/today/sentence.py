"""A visit out of a sentence, as one says it on the telephone: “six pillows at the upper station, address changes”.

What stands after the last “at” or “in” is the place, and the links are those whose names share the words before it.
"""

import re
from collections.abc import Sequence

from humble_courier.app.today.kept import KeptVisit
from humble_courier.errors import BadInput

SHORTEST = 3  # letters of a word by which a link is meant
PLACE = re.compile(r"\b(?:at|in)\s+(?:the\s+)?([^,.;]+)", re.IGNORECASE)
TIME = re.compile(r"\b([01]?\d|2[0-3]):([0-5]\d)\b")


def visit_of(sentence: str, links: Sequence[tuple[str, str]]) -> KeptVisit:
    """A visit from a sentence. `links`: ids and names. Raises BadInput where nothing is said."""
    if not sentence.strip():
        raise BadInput("say what is done, and where: as in “level logger at the weir gauge house”")
    when = TIME.search(sentence)
    plain = TIME.sub("", sentence)
    said = list(PLACE.finditer(plain))
    place = said[-1][1].strip() if said else ""
    what = plain[: said[-1].start()] + plain[said[-1].end() :] if said else plain
    wanted = _stems(what) or _stems(place)
    meant = {link_id: len(wanted & _stems(name)) for link_id, name in links}
    place_words = _stems(place)
    best = max(meant.values(), default=0)
    chosen = [link_id for link_id, name in links if meant[link_id] and _means(wanted, _stems(name), place_words, best)]
    at = f"{int(when[1]):02d}:{when[2]}" if when else None
    return KeptVisit((place or sentence.strip())[:80], chosen, at)


def _means(wanted: set[str], name: set[str], place: set[str], best: int) -> bool:
    """Whether a link is meant: it shares as many words as any, or all its words but those of the place are said."""
    left = name - place
    return len(wanted & name) == best or (bool(left) and left <= wanted)


def _stems(text: str) -> set[str]:
    words = re.findall(r"[a-z0-9]+", text.lower())
    return {word.rstrip("s") for word in words if len(word) >= SHORTEST} - {"the", "and", "with", "address", "change"}
