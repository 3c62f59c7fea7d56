"""Time as it is handed in: the computer's own, a faster one, or one that tests move by hand."""

import time
from typing import Protocol


class Clock(Protocol):
    """Seconds that only go forward, and waiting for a moment."""

    def now(self) -> float:
        """Seconds."""

    def wait(self, until: float) -> None:
        """Return at `until` or later."""


class SystemClock:
    """The computer's clock; `pace` simulated seconds pass in one real second."""

    def __init__(self, pace: float = 1.0) -> None:
        self._pace = pace

    def now(self) -> float:
        """Simulated seconds."""
        return time.monotonic() * self._pace

    def wait(self, until: float) -> None:
        """Sleep until then."""
        time.sleep(max(0.0, (until - self.now()) / self._pace))


class ManualClock:
    """Stands still until somebody waits; waiting moves it there at once."""

    def __init__(self, t: float = 0.0) -> None:
        self._t = t

    def now(self) -> float:
        """Seconds."""
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
