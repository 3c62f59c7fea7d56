"""Calendars from elsewhere: which day, which links; written and read again; recurrence by Python's own calendar rules."""

import datetime

import pytest
from hypothesis import given
from hypothesis import strategies as st

from humble_courier.app.today.calendar import as_ics
from humble_courier.app.today.calendar_visits import visits_of
from humble_courier.app.today.day import Day, Visit
from humble_courier.documents.visits import VisitModel
from humble_courier.errors import BadInput
from tests.app.today.test_kept_day import LINKS

TODAY = datetime.date(2026, 11, 26)
ELSEWHERE = """BEGIN:VCALENDAR
VERSION:2.0
PRODID:-//made by hand//EN
BEGIN:VTIMEZONE
TZID:Skerrow
BEGIN:STANDARD
DTSTART:19701025T030000
TZOFFSETFROM:+0200
TZOFFSETTO:+0100
END:STANDARD
END:VTIMEZONE
BEGIN:VEVENT
UID:1
DTSTART;TZID=Skerrow:20261127T113000
DTEND;TZID=Skerrow:20261127T123000
SUMMARY:Data concentrator
LOCATION:Relay hut
DESCRIPTION:ring first
END:VEVENT
BEGIN:VEVENT
UID:2
DTSTART:20261127T082000
DURATION:PT35M
SUMMARY:level logger at the weir gauge house
END:VEVENT
BEGIN:VEVENT
UID:3
DTSTART;VALUE=DATE:20261127
SUMMARY:Dentist
END:VEVENT
BEGIN:VEVENT
UID:4
DTSTART:20261127T090000
SUMMARY:Cancelled visit at the ridge
STATUS:CANCELLED
END:VEVENT
BEGIN:VEVENT
UID:5
DTSTART:20261102T140000
RRULE:FREQ=WEEKLY;BYDAY=MO,FR;UNTIL=20261231T230000Z
EXDATE:20261130T140000
SUMMARY:wind sensor
LOCATION:Ridge mast
END:VEVENT
END:VCALENDAR
""".replace("\n", "\r\n")


def test_the_next_day_with_an_event_is_read_in_its_order() -> None:
    date, visits = visits_of(ELSEWHERE.encode(), LINKS, TODAY)
    assert date == datetime.date(2026, 11, 27)
    told = [(visit.at, visit.place, visit.links, visit.minutes) for visit in visits]
    assert told == [
        (None, "Dentist", [], None), ("08:20", "weir gauge house", ["1"], 35), ("11:30", "Relay hut", ["5"], 60),
        ("14:00", "Ridge mast", ["2"], None),
    ]  # fmt: skip
    assert visits[2].note == "ring first"


@pytest.mark.parametrize("day", [datetime.date(2026, 11, 2) + datetime.timedelta(days=n) for n in range(70)])
def test_what_comes_again_is_there_on_its_days(day: datetime.date) -> None:
    wanted = day.isoweekday() in (1, 5) and day <= datetime.date(2026, 12, 31) and day != datetime.date(2026, 11, 30)
    try:
        _, visits = visits_of(ELSEWHERE.encode(), LINKS, TODAY, day)
    except BadInput as error:
        assert "holds nothing on" in str(error) and not wanted
        return
    assert ("Ridge mast" in [visit.place for visit in visits]) == wanted


@pytest.mark.parametrize(
    ("text", "words"),
    [
        (b"", "no event"),
        (b"\x00\xff nonsense", "no iCalendar file"),
        (b"BEGIN:VCALENDAR\r\nEND:VEVENT\r\n", "no event"),
        (ELSEWHERE.replace("FREQ=WEEKLY;BYDAY=MO,FR;UNTIL=20261231T230000Z", "FREQ=NEVER").encode(), "iCalendar|rule"),
        (b"BEGIN:VCALENDAR\r\nVERSION:2.0\r\nEND:VCALENDAR\r\n", "no event"),
    ],
)
def test_what_is_no_calendar_is_said(text: bytes, words: str) -> None:
    with pytest.raises(BadInput, match=words):
        visits_of(text, LINKS, TODAY)


@given(st.binary(max_size=300))
def test_any_bytes_are_a_calendar_or_a_clear_error(noise: bytes) -> None:
    for text in (noise, b"BEGIN:VCALENDAR\r\nBEGIN:VEVENT\r\nDTSTART:" + noise + b"\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n"):
        try:
            visits_of(text, LINKS, TODAY)
        except BadInput:
            continue


def test_a_day_that_is_written_is_read_again() -> None:
    note = "ring, first; twice"
    weir, hut = VisitModel("weir", at="08:20", minutes=35), VisitModel("Relay hut", minutes=50, note=note)
    day = Day("", TODAY, (Visit(weir, ()), Visit(hut, ())))
    date, visits = visits_of(as_ics(day, TODAY), LINKS, TODAY)
    assert date == TODAY and [(v.place, v.at, v.minutes) for v in visits] == [
        ("weir", "08:20", 35),
        ("Relay hut", "08:55", 50),
    ]
    assert note in visits[1].note
