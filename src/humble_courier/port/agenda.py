"""What is to be said by itself at an open port: again and again, played, as soon as something comes, one after another.

Theory of operation. Whoever wants something said at a time puts it here with the permit under which it may be said; the
driver's thread asks, before it waits for bytes, what is due and when the next will be. Nothing needs a window to be shown or
a byte to be heard. What its permit no longer covers is forgotten, and no later permit revives it. No input or output: times
in seconds of the driver's clock and bytes go in, words come out.
"""

import threading
from collections import deque
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Protocol

from humble_courier.port.permit import Permit
from humble_courier.protocols.lines import Answer, Expect

NEVER = float("inf")


class Talks(Protocol):
    """Something that speaks by itself, and knows when."""

    def due(self) -> bytes:
        """What is to be said now; empty while nothing is due."""

    @property
    def due_s(self) -> float:
        """Seconds until something is due."""


@dataclass(frozen=True)
class Speech:
    """Something to say, with what it means to a person."""

    data: bytes
    meaning: str = ""


@dataclass
class _Repeat:
    words: Speech
    every_s: float
    at: float
    permit: Permit


@dataclass
class _Round:
    """Questions one after another: the next once the one before was answered, or had time enough."""

    left: deque[Speech]
    answer_s: float
    quiet_s: float
    permit: Permit
    asked_at: float = -NEVER
    heard_at: float | None = None

    def due_at(self) -> float:
        late = self.asked_at + self.answer_s
        return late if self.heard_at is None else max(self.heard_at + self.quiet_s, self.asked_at)


@dataclass(frozen=True)
class Waiting:
    """Something that is waited for since `begun`; `then`: what is said once it has come."""

    pattern: str
    begun: float
    expect: Expect
    then: Speech | None = None
    permit: Permit | None = None

    @property
    def answer(self) -> Answer | None:
        """What came; None while nothing has."""
        return self.expect.answer


class Agenda:
    """Of one port. Everything may be called from any thread."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._repeat: _Repeat | None = None
        self._talks: tuple[Talks, Permit] | None = None
        self._round: _Round | None = None
        self.waiting: Waiting | None = None
        self.played = 0  # bytes that the talker has said

    def repeat(self, words: Speech, every_s: float, permit: Permit, now: float) -> None:
        """Say it again every `every_s`, from then on."""
        with self._lock:
            self._repeat = _Repeat(words, every_s, now + every_s, permit)

    def stop_repeating(self) -> None:
        """Say it no more."""
        with self._lock:
            self._repeat = None

    @property
    def repeating(self) -> bool:
        """Whether something is said again and again."""
        return self._repeat is not None and self._repeat.permit.holds

    def play(self, talks: Talks, permit: Permit) -> None:
        """Say what it says, whenever it is due."""
        with self._lock:
            self._talks, self.played = (talks, permit), 0

    def stop_playing(self) -> None:
        """Play no more."""
        with self._lock:
            self._talks = None

    @property
    def playing(self) -> Talks | None:
        """What is played."""
        talks = self._talks
        return talks[0] if talks is not None and talks[1].holds else None

    def ask(self, words: Sequence[Speech], answer_s: float, quiet_s: float, permit: Permit) -> None:
        """Say one after another: the next when an answer has come and it was quiet for `quiet_s`, else after `answer_s`."""
        with self._lock:
            self._round = _Round(deque(words), answer_s, quiet_s, permit)

    @property
    def asking(self) -> bool:
        """Whether questions are left to ask."""
        return self._round is not None and bool(self._round.left) and self._round.permit.holds

    def wait_for(
        self, pattern: str, now: float, at_once: bool = False, then: Speech | None = None, permit: Permit | None = None
    ) -> None:  # fmt: skip
        """Wait for a text; `then` is said once, as soon as it has come. Raises BadInput for a pattern that is none."""
        waiting = Waiting(pattern, now, Expect(pattern, at_once=at_once), then, permit)
        with self._lock:
            self.waiting = waiting

    def hear(self, data: bytes, now: float) -> None:
        """Something came."""
        with self._lock:
            if self.waiting is not None and self.waiting.answer is None:
                self.waiting.expect.feed(data)
            if self._round is not None:
                self._round.heard_at = now

    def due_in(self, now: float) -> float:
        """Seconds until `take` has something, as far as is known now; infinite where nothing is planned."""
        with self._lock:
            times = [self._repeat.at - now] if self._repeat is not None else []
            times += [self._talks[0].due_s] if self._talks is not None else []
            times += [self._round.due_at() - now] if self._round is not None and self._round.left else []
        return max(0.0, min(times, default=NEVER))

    def take(self, now: float) -> list[tuple[Speech, Permit]]:
        """What is due, each with the permit under which it may be said."""
        with self._lock:
            self._forget()
            return [*self._taken_then(), *self._taken_round(now), *self._taken_talk(), *self._taken_repeat(now)]

    def clear(self) -> None:
        """Forget all of it; what is waited for as well."""
        with self._lock:
            self._repeat = self._talks = self._round = self.waiting = None

    def _forget(self) -> None:
        """What its permit no longer covers."""
        if self._repeat is not None and not self._repeat.permit.holds:
            self._repeat = None
        if self._talks is not None and not self._talks[1].holds:
            self._talks = None
        if self._round is not None and not self._round.permit.holds:
            self._round = None
        waiting = self.waiting
        if waiting is not None and waiting.permit is not None and not waiting.permit.holds:
            self.waiting = None

    def _taken_then(self) -> list[tuple[Speech, Permit]]:
        waiting = self.waiting
        if waiting is None or waiting.then is None or waiting.permit is None or waiting.answer is None:
            return []
        self.waiting = Waiting(waiting.pattern, waiting.begun, waiting.expect)
        return [(waiting.then, waiting.permit)]

    def _taken_round(self, now: float) -> list[tuple[Speech, Permit]]:
        asks = self._round
        if asks is None or not asks.left or now < asks.due_at():
            return []
        asks.asked_at, asks.heard_at = now, None
        return [(asks.left.popleft(), asks.permit)]

    def _taken_talk(self) -> list[tuple[Speech, Permit]]:
        if self._talks is None:
            return []
        talks, permit = self._talks
        data = talks.due()
        self.played += len(data)
        return [(Speech(data, "played"), permit)] if data else []

    def _taken_repeat(self, now: float) -> list[tuple[Speech, Permit]]:
        again = self._repeat
        if again is None or now < again.at:
            return []
        again.at = max(again.at + again.every_s, now)
        return [(again.words, again.permit)]
