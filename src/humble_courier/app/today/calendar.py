"""The visits as iCalendar (RFC 5545)."""

import datetime

from icalendar import Calendar, Event

from humble_courier.app.today.day import Day

PRODUCT = "-//Humble Courier//Today//EN"
LEAVE_AT = datetime.time(8, 0)  # of the first visit, where the day does not say when


def as_ics(day: Day, today: datetime.date) -> bytes:
    """One event a visit, in the order of the day; where a visit has no time it follows the one before it.

    Times are floating: those of the place, whatever the zone of who reads it.
    """
    calendar = Calendar()
    calendar.add("prodid", PRODUCT)
    calendar.add("version", "2.0")
    at = datetime.datetime.combine(day.date or today, LEAVE_AT)
    for number, visit in enumerate(day.visits):
        if visit.model.at is not None:
            at = datetime.datetime.combine(at.date(), datetime.time.fromisoformat(visit.model.at))
        event = Event()
        event.add("uid", f"{number}-{visit.model.id}-{at:%Y%m%d}@humble-courier")
        event.add("dtstamp", datetime.datetime.combine(today, datetime.time(), datetime.UTC))
        event.add("dtstart", at)
        event.add("dtend", at + datetime.timedelta(minutes=visit.minutes))
        event.add("summary", visit.model.id)
        event.add(
            "description", "\n".join([link.name for link in visit.links] + [visit.model.note] * bool(visit.model.note))
        )
        calendar.add_component(event)
        at += datetime.timedelta(minutes=visit.minutes)
    return bytes(calendar.to_ical())
