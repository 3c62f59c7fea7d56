"""The route of the talker against spherical trigonometry, and its sentences as pynmea2 reads them."""

from math import acos, asin, atan2, cos, degrees, pi, radians, sin

import pynmea2
import pytest
from hypothesis import given
from hypothesis import strategies as st

from humble_courier.domain.settings import Settings
from humble_courier.protocols.nmea import LONGEST, read, sentence
from humble_courier.protocols.route import ARRIVED_NM, STEERING, WEAVE_NM, Route
from humble_courier.protocols.talker import FORMATTERS, Talker, Track, body

MILE = pi / 180 / 60  # radians
PLACES = st.tuples(st.floats(-60, 60), st.floats(-179, 179), st.floats(0, 359), st.floats(1, 40))


def apart(a: tuple[float, float], b: tuple[float, float]) -> tuple[float, float]:
    """Miles along a great circle, and the bearing at its begin: the textbook formulas of spherical trigonometry."""
    (lat1, lon1), (lat2, lon2) = ((radians(x), radians(y)) for x, y in (a, b))
    cosine = sin(lat1) * sin(lat2) + cos(lat1) * cos(lat2) * cos(lon2 - lon1)
    bearing = atan2(sin(lon2 - lon1) * cos(lat2), cos(lat1) * sin(lat2) - sin(lat1) * cos(lat2) * cos(lon2 - lon1))
    return acos(min(1.0, cosine)) / MILE, degrees(bearing) % 360


@given(PLACES, st.floats(0, 3000))
def test_distances_and_bearings_are_those_of_a_sphere(start: tuple[float, float, float, float], seconds: float) -> None:
    latitude, longitude, _, at = Route(*start).at(seconds)
    begin, end = ((w.latitude, w.longitude) for w in (at.origin, at.destination))
    away, bearing = apart((latitude, longitude), end)
    assert away == pytest.approx(at.range_nm, abs=0.02 + 0.01 * at.range_nm)
    if at.range_nm > 0.3:
        assert abs((bearing - at.bearing + 180) % 360 - 180) < 2
    done, here = apart(begin, (latitude, longitude))
    _, leg = apart(begin, end)
    off = asin(sin(done * MILE) * sin(radians(here - leg))) / MILE  # cross-track distance, to the right
    assert abs(off) == pytest.approx(at.off_nm, abs=0.02)
    assert at.off_nm <= WEAVE_NM + 1e-9 and at.arrived == (at.range_nm < ARRIVED_NM)
    if at.off_nm > 0.02:
        assert at.steer == ("L" if off > 0 else "R"), "it is steered back to the leg"


@pytest.mark.parametrize("formatter", STEERING)
def test_sentences_are_read_by_another_library(formatter: str) -> None:
    fix = Track(speed_kn=12).round_a_route(100.0, 1_700_000_000.0)
    raw = sentence(body(formatter, fix))
    assert len(raw) <= LONGEST and read(raw).ok
    told, at = pynmea2.parse(raw.decode().strip()), fix.steering
    assert at is not None and told.sentence_type == formatter
    if formatter == "RMB":
        assert float(told.cross_track_error) == pytest.approx(at.off_nm, abs=0.006) and told.dest_waypoint_id == "W02"
        assert float(told.dest_range) == pytest.approx(at.range_nm, abs=0.006)
    if formatter in ("APB", "XTE"):
        assert at.steer in told.data and f"{at.off_nm:.3f}" in told.data
    if formatter in ("BWC", "WPL"):
        assert told.data[-2 if formatter == "BWC" else -1] == "W02"
    if formatter == "RTE":
        assert told.data[-4:] == ["W01", "W02", "W03", "W04"]


def test_what_fits_at_4800_once_a_second() -> None:
    talker = Talker(Track(), FORMATTERS, 1.0)
    shares = talker.shares(Settings.parse("4800,8N1"))
    assert sum(shares) == pytest.approx(talker.load(Settings.parse("4800,8N1"))) and sum(shares) > 1
    assert sum(Talker(Track(), ("RMC", "RMB", "APB", "XTE", "BOD", "GGA"), 1.0).shares(Settings.parse("4800,8N1"))) < 1


def test_a_star_that_was_changed_is_damage_and_no_checksum_is_none() -> None:
    whole = sentence("GPXTE,A,A,0.010,L,N,A")
    assert read(whole).ok
    broken = read(whole.replace(b"*", b"#"))
    assert not broken.ok and "came as “#”" in broken.why
    none = read(b"$GPXTE,A,A,0.010,L,N,A\r\n")
    assert none.ok and none.why == "no checksum"
