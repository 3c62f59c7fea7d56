"""The computer as a talker: which sentences, of which track, how often; what they load the line with."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from math import cos, radians

from humble_courier.app.amounts import Stint, Turns
from humble_courier.app.typed import number
from humble_courier.catalog.load import Catalog
from humble_courier.domain.clock import Clock, SystemClock
from humble_courier.domain.settings import Settings
from humble_courier.errors import BadInput
from humble_courier.protocols.route import STEERING, Route
from humble_courier.protocols.talker import FORMATTERS, Talker, Track

SHORTEST_S, LONGEST_S = 0.05, 3600.0  # between two rounds: faster fills any line, slower is no talker
FASTEST_KN = 600.0  # nothing that such sentences are made for is faster (common practice)
FULL = 1.0  # share of the line
WAY_POINTS, LONGEST_WAY_S = 120, 1800.0  # of the way that is drawn
SLOWEST_KN = 0.1  # a route at rest takes no time that could be drawn


def offered(catalog: Catalog) -> list[tuple[str, str]]:
    """Sentences that can be played, each with what it carries."""
    return [(one, ", ".join(catalog.sentences[one].carries) if one in catalog.sentences else "") for one in FORMATTERS]


@dataclass(frozen=True)
class Load:
    """What sentences do to the line: the share of it (1 is full), that in words, and an example."""

    share: float
    text: str
    example: str


@dataclass(frozen=True)
class Picture:
    """What is played as a picture: a lane for each sentence of a round, which shall be over after `every_s`; the way in
    nautical miles east and north of the start; and the waypoints there, where sentences lead along them."""

    lanes: tuple[Turns, ...]
    every_s: float
    way: tuple[tuple[float, float], ...]
    waypoints: tuple[tuple[str, float, float], ...]
    lasts_s: float


class Playing:
    """What is played: chosen anew at any time, said only while somebody asks `due`."""

    def __init__(self, fields: Mapping[str, str], sentences: Sequence[str], clock: Clock = SystemClock()) -> None:
        """`fields` as typed: `speed_kn`, `course` and `turn` (degrees, and degrees a second), `every_s`. Raises BadInput."""
        self._talker, self._clock = _talker(fields, sentences), clock

    def change(self, fields: Mapping[str, str], sentences: Sequence[str]) -> None:
        """Other sentences or another track from now on. Raises BadInput; then it goes on as before."""
        wanted = _talker(fields, sentences)
        self._talker.formatters, self._talker.track, self._talker.every_s = sentences, wanted.track, wanted.every_s

    def due(self) -> bytes:
        """What is to be said now; empty while nothing is due."""
        return self._talker.due(self._clock.wall())

    @property
    def due_s(self) -> float:
        """Seconds until something is due."""
        return max(0.0, self._talker.next_at - self._clock.wall())


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
    return Load(share, text, talker.due(0.0).decode("ascii"))


def headline(fields: Mapping[str, str], sentences: Sequence[str], settings: Settings | None) -> str:
    """The answer of the page. Raises BadInput."""
    if not sentences:
        return "Nothing is said yet: tick a sentence"
    share = _talker(fields, sentences).load(settings) if settings else 0.0
    beyond = ", more than it carries" if share > FULL else ""
    if len(sentences) == 1:
        return f"{sentences[0]} takes {share:.0%} of the line{beyond}"
    return f"{len(sentences)} sentences take {share:.0%} of the line{beyond}"


def picture(fields: Mapping[str, str], sentences: Sequence[str], settings: Settings | None) -> Picture:
    """The track and one round of sentences. Raises BadInput."""
    talker = _talker(fields, sentences)
    lanes, at = [], 0.0
    for formatter, share in zip(sentences, talker.shares(settings) if settings else [], strict=False):
        lanes.append(Turns(formatter, (Stint(f"{share:.0%}", at, share * talker.every_s),)))
        at += share * talker.every_s
    track, steers = talker.track, bool(set(sentences) & set(STEERING))
    route = Route(track.latitude, track.longitude, track.course, track.speed_kn)
    lasts = min(LONGEST_WAY_S, 360 / abs(track.turn)) if track.turn else LONGEST_WAY_S
    if steers:
        lasts = 4 * route.leg_nm / max(track.speed_kn, SLOWEST_KN) * 3600
    fixes = [talker.fix(lasts * i / WAY_POINTS, 0.0) for i in range(WAY_POINTS + 1)]
    way = tuple(_miles(track, fix.latitude, fix.longitude) for fix in fixes)
    points = [(w.name, *_miles(track, w.latitude, w.longitude)) for w in route.waypoints()] if steers else []
    return Picture(tuple(lanes), talker.every_s, way, tuple(points), lasts)


def _miles(start: Track, latitude: float, longitude: float) -> tuple[float, float]:
    """East and north of the start, in nautical miles; so near it the ground is flat."""
    return (longitude - start.longitude) * 60 * cos(radians(start.latitude)), (latitude - start.latitude) * 60


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
