"""An instrument played by the computer: a moving track as NMEA 0183 sentences, to test a listener on the bench.

Position by a rhumb line on a sphere (1 minute of latitude is 1 nautical mile); formats as in NMEA 0183 version 4, approved
sentences, from memory. Machines only: time is fed in, sentences come out when they are due.
"""

from collections.abc import Sequence
from dataclasses import dataclass, field
from datetime import UTC, datetime
from math import cos, radians, sin

from humble_courier.domain.settings import Settings
from humble_courier.errors import BadInput
from humble_courier.protocols.nmea import sentence
from humble_courier.protocols.route import STEERING, Route, Steering, place, steering_body

FORMATTERS = ("GGA", "GLL", "RMC", "VTG", "ZDA", "HDT", "MWV", "DPT", *STEERING)


@dataclass(frozen=True)
class Fix:
    """Where the track is at a moment: degrees north and east, knots, degrees, seconds since the epoch."""

    latitude: float
    longitude: float
    speed_kn: float
    course: float
    t: float
    steering: Steering | None = None


@dataclass(frozen=True)
class Track:
    """A track from a start, with a slow turn (degrees a second); or `round_a_route`, weaving about it."""

    latitude: float = 0.5
    longitude: float = 0.5
    speed_kn: float = 6.0
    course: float = 45.0
    turn: float = 0.2

    def round_a_route(self, seconds: float, t: float) -> Fix:
        """The fix after `seconds` of a route between waypoints, for a listener that steers; it turns at these alone."""
        route = Route(self.latitude, self.longitude, self.course, self.speed_kn)
        latitude, longitude, course, steering = route.at(seconds)
        return Fix(latitude, longitude, self.speed_kn, course, t, steering)

    def at(self, seconds: float, t: float) -> Fix:
        """The fix after `seconds`, stamped with `t`; the way is summed in steps of at most a second."""
        latitude, longitude, done = self.latitude, self.longitude, 0.0
        while done < seconds:
            step = min(1.0, seconds - done)
            course = radians(self.course + self.turn * (done + step / 2))
            way = self.speed_kn * step / 3600 / 60  # degrees of latitude
            latitude += way * cos(course)
            longitude += way * sin(course) / max(0.01, cos(radians(latitude)))
            done += step
        return Fix(latitude, longitude, self.speed_kn, (self.course + self.turn * seconds) % 360, t)


def body(formatter: str, fix: Fix) -> str:
    """One sentence's body; raises BadInput for a formatter that is not played."""
    when = datetime.fromtimestamp(fix.t, UTC)
    clock, day = when.strftime("%H%M%S.") + f"{when.microsecond // 10000:02d}", when.strftime("%d%m%y")
    where = place(fix.latitude, fix.longitude)
    if fix.steering is not None and formatter in STEERING:
        return steering_body(formatter, fix.steering, clock)
    match formatter:
        case "GGA":
            return f"GPGGA,{clock},{where},1,08,1.0,12.0,M,0.0,M,,"
        case "GLL":
            return f"GPGLL,{where},{clock},A,A"
        case "RMC":
            return f"GPRMC,{clock},A,{where},{fix.speed_kn:05.1f},{fix.course:05.1f},{day},,,A"
        case "VTG":
            return f"GPVTG,{fix.course:05.1f},T,,M,{fix.speed_kn:05.1f},N,{fix.speed_kn * 1.852:05.1f},K,A"
        case "ZDA":
            return f"GPZDA,{clock},{when:%d,%m,%Y},00,00"
        case "HDT":
            return f"HEHDT,{fix.course:05.1f},T"
        case "MWV":
            return f"WIMWV,{(fix.course + 40) % 360:05.1f},R,{4 + sin(fix.t / 7):05.1f},M,A"
        case "DPT":
            return f"SDDPT,{12 + 2 * sin(fix.t / 11):05.1f},0.5,100.0"
    raise BadInput(f"no sentence {formatter} is played; known are {', '.join(FORMATTERS)}")


@dataclass
class Talker:
    """Says its sentences every `every_s`; alternates can be switched on and off while it talks."""

    track: Track
    formatters: Sequence[str]
    every_s: float = 1.0
    _begun: float | None = None
    _next: float = 0.0
    said: dict[str, int] = field(default_factory=dict)

    def due(self, t: float) -> bytes:
        """What is to be said at `t` (seconds since the epoch); empty while nothing is due."""
        if self._begun is None:
            self._begun = self._next = t
        if t < self._next:
            return b""
        self._next = max(self._next + self.every_s, t)  # what could not be said in time is left out
        fix = self.fix(t - self._begun, t)
        for formatter in self.formatters:
            self.said[formatter] = self.said.get(formatter, 0) + 1
        return b"".join(sentence(body(formatter, fix)) for formatter in self.formatters)

    @property
    def next_at(self) -> float:
        """When something is due, in seconds since the epoch; 0 before the first time."""
        return self._next

    def load(self, settings: Settings) -> float:
        """Share of the line's time that the sentences take (1 is full)."""
        return sum(self.shares(settings))

    def shares(self, settings: Settings) -> list[float]:
        """The same for each sentence, in their order."""
        fix = self.fix(0.0, 0.0)
        counts = [len(sentence(body(formatter, fix))) for formatter in self.formatters]
        return [count * settings.character_s / self.every_s for count in counts]

    def fix(self, seconds: float, t: float) -> Fix:
        """Where it is `seconds` after it began: on its route where a sentence leads along one, else on its track."""
        steers = set(self.formatters) & set(STEERING)
        return self.track.round_a_route(seconds, t) if steers else self.track.at(seconds, t)
