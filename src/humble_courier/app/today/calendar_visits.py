"""Visits out of a calendar from elsewhere (iCalendar, RFC 5545): one day of it.

Times are taken as the clock at the place of an event shows them. What comes again does so by its rule, without the days that
it leaves out; what was cancelled is no visit.
"""

import datetime
import re
from collections.abc import Sequence
from dataclasses import dataclass

from dateutil.rrule import rruleset, rrulestr
from icalendar import Calendar, Event

from humble_courier.app.today.kept import KeptVisit
from humble_courier.app.today.sentence import PLACE, visit_of
from humble_courier.errors import BadInput

A_DAY = datetime.timedelta(days=1)
MIDNIGHT = datetime.time()
MINUTES_OF_A_DAY = 1440
MOST_NOTE = 2000  # letters of what an event says
SAID = 5  # days that are named where a calendar holds nothing on the day asked for


@dataclass(frozen=True)
class CalendarEvent:
    """`rule`: None where it comes once. `minutes`: None where it does not say, or lasts for days."""

    first: datetime.datetime
    whole_day: bool
    minutes: int | None
    rule: rruleset | None
    what: str
    more: str
    where: str

    def on(self, day: datetime.date) -> list[datetime.datetime]:
        """When it begins on a day."""
        if self.rule is None:
            return [self.first] if self.first.date() == day else []
        midnight = datetime.datetime.combine(day, MIDNIGHT)
        return list(self.rule.between(midnight, midnight + A_DAY - datetime.timedelta(seconds=1), inc=True))

    def next_day(self, around: datetime.date) -> datetime.date:
        """Its day; of one that comes again the first from `around` on, where there is one."""
        later = self.rule.after(datetime.datetime.combine(around, MIDNIGHT), inc=True) if self.rule is not None else None
        return (later or self.first).date()


def visits_of(
    text: bytes, links: Sequence[tuple[str, str]], today: datetime.date, date: datetime.date | None = None,
) -> tuple[datetime.date, list[KeptVisit]]:  # fmt: skip
    """The visits of one day in their order, and that day.

    `date`: which; None takes today where something stands there, else the next day with an event, else the last one.
    `links`: ids and names, by which what an event says is understood. Raises BadInput where it is no calendar, or nothing of
    it is on that day.
    """
    events = _events(text)
    days = {event.next_day(date or today) for event in events}
    if not days:
        raise BadInput("this calendar holds no event")
    chosen = date or min((day for day in days if day >= today), default=max(days))
    there = sorted((start, number) for number, event in enumerate(events) for start in event.on(chosen))
    if not there:
        told = ", ".join(day.isoformat() for day in sorted(days)[:SAID])
        raise BadInput(f"this calendar holds nothing on {chosen.isoformat()}; it has events on {told}")
    return chosen, [_visit(events[number], start, links) for start, number in there]


def _events(text: bytes) -> list[CalendarEvent]:
    try:
        calendars = Calendar.from_ical(text, multiple=True)
        found = [event for one in calendars for event in one.walk("VEVENT") if isinstance(event, Event)]
        return [_event(one) for one in found if one.get("dtstart") and str(one.get("status", "")).upper() != "CANCELLED"]
    except (ValueError, OverflowError) as error:  # a value that is none, and a date that no calendar of Python has
        raise BadInput(f"this is no iCalendar file (RFC 5545) that can be read: {error}") from None


def _event(event: Event) -> CalendarEvent:
    """Raises ValueError where a value of it cannot be read."""
    start = event.get("dtstart").dt
    if not isinstance(start, datetime.date):
        raise ValueError(f"DTSTART {start} has no date")
    if isinstance(start, datetime.datetime):
        first, minutes, whole = start.replace(tzinfo=None), _minutes(event, start), False
    else:
        first, minutes, whole = datetime.datetime.combine(start, MIDNIGHT), None, True
    what, more, where = (str(event.get(key, "")).strip() for key in ("summary", "description", "location"))
    return CalendarEvent(first, whole, minutes, _rule(event, first), what, more, where)


def _rule(event: Event, first: datetime.datetime) -> rruleset | None:
    rule = event.get("rrule")
    if rule is None:
        return None
    text = rule.to_ical().decode()
    made = rruleset()
    # An end in UTC stands beside starts by the clock of the place: the library takes both in one way only.
    made.rrule(rrulestr(re.sub(r"(UNTIL=\d{8}T\d{6})Z", r"\1", text), dtstart=first))
    left_out = event.get("exdate")
    for one in left_out if isinstance(left_out, list) else [left_out] * (left_out is not None):
        for at in one.dts:
            whole = not isinstance(at.dt, datetime.datetime)
            made.exdate(datetime.datetime.combine(at.dt, MIDNIGHT) if whole else at.dt.replace(tzinfo=None))
    return made


def _minutes(event: Event, start: datetime.datetime) -> int | None:
    end, length = event.get("dtend"), event.get("duration")
    if end is not None and isinstance(end.dt, datetime.datetime) and (end.dt.tzinfo is None) == (start.tzinfo is None):
        spent = end.dt - start
    elif length is not None and isinstance(length.dt, datetime.timedelta):
        spent = length.dt
    else:
        return None
    minutes = round(spent.total_seconds() / 60)
    return minutes if 1 <= minutes <= MINUTES_OF_A_DAY else None


def _visit(event: CalendarEvent, start: datetime.datetime, links: Sequence[tuple[str, str]]) -> KeptVisit:
    said = visit_of(f"{event.what}. {event.more}" if event.what or event.more else event.where or "a visit", links)
    place = event.where or (said.place if PLACE.search(event.what) else event.what) or said.place
    at = None if event.whole_day else f"{start:%H:%M}"
    return KeptVisit(place[:80], said.links, at, minutes=event.minutes, note=event.more[:MOST_NOTE])
