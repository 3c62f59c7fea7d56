"""A route between waypoints that the played instrument follows, weaving about it, so that a listener has something to steer.

A square of waypoints, flown round and round. On so small a piece a minute of latitude is a nautical mile and a minute of
longitude is that times the cosine of the latitude; the error against a sphere stays below a thousandth of a mile there.
Formats of the sentences as in NMEA 0183 version 4, approved sentences, from memory; the order of fields as pynmea2 has it.
"""

from dataclasses import dataclass
from math import atan2, cos, degrees, hypot, pi, radians, sin

LEG_H, SHORTEST_NM = 0.1, 0.2  # each leg takes so long, and has this length at least
WEAVE_NM, WEAVES_NM = 0.04, 0.5  # how far from the leg, and after what way it comes round
ARRIVED_NM = 0.03  # radius of the arrival circle
NAMES = ("W01", "W02", "W03", "W04")
STEERING = ("RMB", "APB", "BOD", "XTE", "BWC", "WPL", "RTE")


@dataclass(frozen=True)
class Waypoint:
    """A named place, degrees north and east."""

    name: str
    latitude: float
    longitude: float


@dataclass(frozen=True)
class Steering:
    """What a listener steers by. Miles are nautical, bearings true degrees; `steer`: to which side, `L` or `R`."""

    origin: Waypoint
    destination: Waypoint
    off_nm: float
    steer: str
    leg: float
    bearing: float
    range_nm: float
    closing_kn: float
    arrived: bool


@dataclass(frozen=True)
class Route:
    """A square that begins at a place with a course and turns right. `speed_kn`: along it."""

    latitude: float
    longitude: float
    course: float
    speed_kn: float

    @property
    def leg_nm(self) -> float:
        """Length of a leg."""
        return max(SHORTEST_NM, self.speed_kn * LEG_H)

    def waypoints(self) -> tuple[Waypoint, ...]:
        """The four corners, the start first."""
        found, north, east = [], 0.0, 0.0
        for i, name in enumerate(NAMES):
            found.append(Waypoint(name, *self._place(north, east)))
            way = radians(self.course + 90 * i)
            north, east = north + self.leg_nm * cos(way), east + self.leg_nm * sin(way)
        return tuple(found)

    def at(self, seconds: float) -> tuple[float, float, float, Steering]:
        """Latitude, longitude, course over ground, and what a listener steers by, after so many seconds."""
        done = self.speed_kn * seconds / 3600
        number, along = int(done // self.leg_nm), done % self.leg_nm
        leg = (self.course + 90 * number) % 360
        phase = 2 * pi * done / WEAVES_NM
        off = WEAVE_NM * sin(phase)  # to the right of the leg
        drift = degrees(atan2(WEAVE_NM * 2 * pi / WEAVES_NM * cos(phase), 1.0)) if self.speed_kn else 0.0
        corners = self.waypoints()
        begin, end = corners[number % 4], corners[(number + 1) % 4]
        north, east = self._corner(number % 4)
        way, right = radians(leg), radians(leg + 90)
        north, east = north + along * cos(way) + off * cos(right), east + along * sin(way) + off * sin(right)
        left_nm = self.leg_nm - along
        bearing = (leg + degrees(atan2(-off, left_nm))) % 360
        away = hypot(left_nm, off)
        closing = self.speed_kn * cos(radians(leg + drift - bearing))
        steering = Steering(begin, end, abs(off), "L" if off > 0 else "R", leg, bearing, away, closing, away < ARRIVED_NM)
        return (*self._place(north, east), (leg + drift) % 360, steering)

    def _corner(self, number: int) -> tuple[float, float]:
        """Miles north and east of the start."""
        north = east = 0.0
        for i in range(number):
            way = radians(self.course + 90 * i)
            north, east = north + self.leg_nm * cos(way), east + self.leg_nm * sin(way)
        return north, east

    def _place(self, north: float, east: float) -> tuple[float, float]:
        return self.latitude + north / 60, self.longitude + east / 60 / max(0.01, cos(radians(self.latitude)))


def angle(value: float, digits: int) -> str:
    """Degrees and minutes as the sentences write them: `0030.0000`."""
    whole, minutes = divmod(round(abs(value) * 60, 4), 60)
    return f"{int(whole):0{digits}d}{minutes:07.4f}"


def place(latitude: float, longitude: float) -> str:
    """A position in four fields."""
    north, east = "N" if latitude >= 0 else "S", "E" if longitude >= 0 else "W"
    return f"{angle(latitude, 2)},{north},{angle(longitude, 3)},{east}"


def steering_body(formatter: str, at: Steering, clock: str) -> str:
    """The body of a sentence by which a listener steers; `clock`: the time as sentences write it."""
    off, there = f"{at.off_nm:.3f}", place(at.destination.latitude, at.destination.longitude)
    arrived, names = "A" if at.arrived else "V", (at.origin.name, at.destination.name)
    match formatter:
        case "RMB":
            speeds = f"{at.range_nm:.2f},{at.bearing:05.1f},{at.closing_kn:.1f}"
            return f"GPRMB,A,{at.off_nm:.2f},{at.steer},{names[0]},{names[1]},{there},{speeds},{arrived},A"
        case "APB":
            ways = f"{at.leg:05.1f},T,{names[1]},{at.bearing:05.1f},T,{at.bearing:05.1f},T"
            return f"GPAPB,A,A,{off},{at.steer},N,{arrived},V,{ways},A"
        case "BOD":
            return f"GPBOD,{at.leg:05.1f},T,,M,{names[1]},{names[0]}"
        case "XTE":
            return f"GPXTE,A,A,{off},{at.steer},N,A"
        case "BWC":
            return f"GPBWC,{clock},{there},{at.bearing:05.1f},T,,M,{at.range_nm:.2f},N,{names[1]},A"
        case "WPL":
            return f"GPWPL,{there},{names[1]}"
        case _:
            return f"GPRTE,1,1,c,SQUARE,{','.join(NAMES)}"
