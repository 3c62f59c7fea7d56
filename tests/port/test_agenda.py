"""What is said by itself: when it is due, and that it ends with its permit."""

from hypothesis import given
from hypothesis import strategies as st

from humble_courier.domain.clock import ManualClock
from humble_courier.port.agenda import NEVER, Agenda, Speech
from humble_courier.port.permit import Permit


class Ticker:
    """Speaks once a second by a clock."""

    def __init__(self, clock: ManualClock) -> None:
        self._clock, self._at = clock, clock.now()

    def due(self) -> bytes:
        if self._clock.now() < self._at:
            return b""
        self._at += 1.0
        return b"$T\r\n"

    @property
    def due_s(self) -> float:
        return max(0.0, self._at - self._clock.now())


def taken(agenda: Agenda, clock: ManualClock) -> list[bytes]:
    """What is due at this moment."""
    return [words.data for words, _ in agenda.take(clock.now())]


def test_a_talker_speaks_at_once_though_nothing_was_heard_and_then_in_its_time() -> None:
    clock = ManualClock()
    agenda, permit = Agenda(), Permit("a talker", clock=clock)
    assert agenda.due_in(clock.now()) == NEVER
    agenda.play(Ticker(clock), permit)
    assert agenda.due_in(clock.now()) == 0 and taken(agenda, clock) == [b"$T\r\n"]
    assert taken(agenda, clock) == [] and agenda.due_in(clock.now()) == 1.0
    clock.wait(clock.now() + 1.0)
    assert taken(agenda, clock) == [b"$T\r\n"] and agenda.played == 8


def test_questions_follow_each_other_after_an_answer_or_when_its_time_is_over() -> None:
    clock = ManualClock()
    agenda, permit = Agenda(), Permit("three questions", clock=clock)
    agenda.ask([Speech(one) for one in (b"A", b"B", b"C")], answer_s=2.0, quiet_s=0.5, permit=permit)
    assert taken(agenda, clock) == [b"A"] and taken(agenda, clock) == []
    agenda.hear(b"answer", clock.now() + 0.1)
    clock.wait(clock.now() + 0.59)
    assert taken(agenda, clock) == []
    clock.wait(clock.now() + 0.02)
    assert taken(agenda, clock) == [b"B"] and agenda.asking
    clock.wait(clock.now() + 1.99)
    assert taken(agenda, clock) == []
    clock.wait(clock.now() + 0.02)
    assert taken(agenda, clock) == [b"C"] and not agenda.asking


@given(st.sampled_from(["repeat", "play", "ask", "when"]), st.floats(0.01, 5))
def test_nothing_is_said_after_its_permit_and_no_later_one_revives_it(what: str, later: float) -> None:
    clock = ManualClock()
    agenda, permit = Agenda(), Permit("something", clock=clock)
    if what == "repeat":
        agenda.repeat(Speech(b"U"), 0.05, permit, clock.now())
    elif what == "play":
        agenda.play(Ticker(clock), permit)
    elif what == "ask":
        agenda.ask([Speech(b"A")], 1.0, 0.2, permit)
    else:
        agenda.wait_for("READY", clock.now(), at_once=True, then=Speech(b"x"), permit=permit)
        agenda.hear(b"READY", clock.now())
    permit.withdraw()
    clock.wait(clock.now() + later)
    assert taken(agenda, clock) == []
    assert not (agenda.repeating or agenda.asking or agenda.playing) and agenda.due_in(clock.now()) == NEVER


def test_as_soon_as_it_came_it_is_said_once() -> None:
    clock = ManualClock()
    agenda, permit = Agenda(), Permit("a key", clock=clock)
    agenda.wait_for("any key", clock.now(), at_once=True, then=Speech(b" "), permit=permit)
    agenda.hear(b"press any", clock.now())
    assert taken(agenda, clock) == []
    agenda.hear(b" key", clock.now())
    assert taken(agenda, clock) == [b" "] and taken(agenda, clock) == []
    assert agenda.waiting is not None and agenda.waiting.answer is not None
