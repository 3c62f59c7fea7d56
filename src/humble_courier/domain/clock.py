"""Time as it is handed in: the computer's own, a faster one, or one that tests move by hand."""

import time
from typing import Protocol

MONTHS = (
    "January", "February", "March", "April", "May", "June", "July", "August", "September", "October", "November", "December",
)  # fmt: skip


class Clock(Protocol):
    """Seconds that only go forward, the time of day, and waiting for a moment. Whoever needs time is handed one."""

    def now(self) -> float:
        """Seconds of a clock that does not jump."""

    def wall(self) -> float:
        """The time of day: seconds since the epoch, which may jump."""

    def wait(self, until: float) -> None:
        """Return when `now` is `until` or later."""


class SystemClock:
    """The computer's own."""

    def now(self) -> float:
        """Seconds since some moment."""
        return time.monotonic()

    def wall(self) -> float:
        """Seconds since the epoch."""
        return time.time()

    def wait(self, until: float) -> None:
        """Sleep until then."""
        time.sleep(max(0.0, until - self.now()))


class PacedClock:
    """Another clock, of which `pace` seconds pass in one."""

    def __init__(self, clock: Clock, pace: float) -> None:
        self._clock, self._pace = clock, pace

    def now(self) -> float:
        """Simulated seconds."""
        return self._clock.now() * self._pace

    def wall(self) -> float:
        """Seconds since the epoch, which pace does not move."""
        return self._clock.wall()

    def wait(self, until: float) -> None:
        """Wait until then."""
        self._clock.wait(until / self._pace)


class ManualClock:
    """Stands still until somebody waits; waiting moves it there at once."""

    def __init__(self, t: float = 0.0) -> None:
        self._t = t

    def now(self) -> float:
        """Seconds."""
        return self._t

    def wall(self) -> float:
        """The same seconds."""
        return self._t

    def wait(self, until: float) -> None:
        """Be there."""
        self._t = max(self._t, until)


def clock_text(at: float) -> str:
    """Local time of day for people; of another day its date as well."""
    then, today = time.localtime(at), time.localtime()
    same = (then.tm_year, then.tm_yday) == (today.tm_year, today.tm_yday)
    return time.strftime("%H:%M:%S" if same else "%Y-%m-%d %H:%M", then)


def minutes_in_words(minutes: float) -> str:
    """A time as people say it."""
    if minutes < 1:
        return f"{max(5, 5 * round(minutes * 12))} seconds"
    return "1 minute" if round(minutes) == 1 else f"{minutes:.0f} minutes"


def day_in_words(at: float, short: bool = False) -> str:
    """The day of a moment (seconds since the epoch) where the computer stands: “30 September 2026”, or “30 Sep 2026”."""
    day = time.localtime(at)
    month = MONTHS[day.tm_mon - 1]
    return f"{day.tm_mday} {month[:3] if short else month} {day.tm_year}"


def hour_in_words(at: float) -> str:
    """The hour of a moment (seconds since the epoch) where the computer stands, as in “14:05”."""
    return time.strftime("%H:%M", time.localtime(at))


def same_day(one: float, other: float) -> bool:
    """Whether two moments (seconds since the epoch) lie on one day where the computer stands."""
    return time.localtime(one)[:3] == time.localtime(other)[:3]
