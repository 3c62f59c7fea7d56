"""The computer as a talker: which sentences, of which track, how often; what they load the line with."""

import time
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from humble_courier.app.typed import number
from humble_courier.catalog.load import Catalog
from humble_courier.domain.settings import Settings
from humble_courier.errors import BadInput
from humble_courier.protocols.route import STEERING
from humble_courier.protocols.talker import FORMATTERS, Talker, Track

SHORTEST_S, LONGEST_S = 0.05, 3600.0  # between two rounds: faster fills any line, slower is no talker
FASTEST_KN = 600.0  # nothing that such sentences are made for is faster (common practice)
FULL = 1.0  # share of the line


def offered(catalog: Catalog) -> list[tuple[str, str]]:
    """Sentences that can be played, each with what it carries."""
    return [(one, ", ".join(catalog.sentences[one].carries) if one in catalog.sentences else "") for one in FORMATTERS]


@dataclass(frozen=True)
class Load:
    """What sentences do to the line: the share of it (1 is full), that in words, and an example."""

    share: float
    text: str
    example: str


class Playing:
    """What is played: chosen anew at any time, said only while somebody asks `due`."""

    def __init__(self, fields: Mapping[str, str], sentences: Sequence[str]) -> None:
        """`fields` as typed: `speed_kn`, `course` and `turn` (degrees, and degrees a second), `every_s`. Raises BadInput."""
        self._talker = _talker(fields, sentences)

    def change(self, fields: Mapping[str, str], sentences: Sequence[str]) -> None:
        """Other sentences or another track from now on. Raises BadInput; then it goes on as before."""
        wanted = _talker(fields, sentences)
        self._talker.formatters, self._talker.track, self._talker.every_s = sentences, wanted.track, wanted.every_s

    def due(self) -> bytes:
        """What is to be said now; empty while nothing is due."""
        return self._talker.due(time.time())

    @property
    def due_s(self) -> float:
        """Seconds until something is due."""
        return max(0.0, self._talker.next_at - time.time())


def load(fields: Mapping[str, str], sentences: Sequence[str], settings: Settings | None) -> Load:
    """What such a talker would load the line with. Raises BadInput."""
    talker = _talker(fields, sentences)
    share = talker.load(settings) if settings else 0.0
    text = f"{share:.0%} of the line at {settings.spoken if settings else ''}."
    if share > FULL:
        fit = sum(sum(talker.shares(settings)[: i + 1]) <= FULL for i in range(len(sentences))) if settings else 0
        text += f" Too much: the first {fit} of {len(sentences)} fit; a higher rate, fewer, or more time between."
    if set(sentences) & set(STEERING):
        text += " It follows a square of waypoints, W01 to W04, and weaves about it."
    return Load(share, text, talker.due(time.time()).decode("ascii"))


def _talker(fields: Mapping[str, str], sentences: Sequence[str]) -> Talker:
    values: dict[str, float] = {}
    for key, text in fields.items():
        value = number(text)
        if value is None:
            raise BadInput(f"“{text}” is no number")
        values[key] = value
    if not SHORTEST_S <= values["every_s"] <= LONGEST_S:
        raise BadInput(f"expected {SHORTEST_S:g} to {LONGEST_S:g} seconds between sentences")
    if not 0 <= values["speed_kn"] <= FASTEST_KN:
        raise BadInput(f"expected a speed of 0 to {FASTEST_KN:g} knots")
    track = Track(speed_kn=values["speed_kn"], course=values["course"], turn=values["turn"])
    return Talker(track, list(sentences), values["every_s"])
