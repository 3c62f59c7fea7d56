"""What a check of the program says, and the class of what came."""

from collections.abc import Callable

import pytest

from humble_courier.diagnose.asking import Asking, OwnCheck, Question, may_raise
from humble_courier.diagnose.situation import tags_of
from humble_courier.domain.received import Doubt, Heard
from humble_courier.domain.settings import Settings
from humble_courier.domain.text import Terminator
from humble_courier.errors import MachineRefused, Refusal
from humble_courier.procedures.steps import Outcome
from tests.diagnose.links import CATALOG, link_to, unknown_device

ID = Question((b"ID\r",), lambda data: b"SKW" in data, ("ID",), Terminator.CR)


def asking(settings: str = "9600,8N1", question: Question | None = ID, reads: Callable[[bytes], bool] = bool) -> Asking:
    return Asking("p", Settings.parse(settings), question, reads, may_raise=True)


def came(data: bytes, doubtful: int = 0) -> Outcome:
    return Outcome([(0.1, Heard(b, Doubt.ERROR if i < doubtful else Doubt.NONE)) for i, b in enumerate(data)])


@pytest.mark.parametrize(
    ("check", "data", "doubtful", "outcome"),
    [
        ("ask", b"", 0, "nothing"), ("ask", b"ID SKW-7\r", 0, "answer"), ("ask", b"ID\r", 0, "echo"),
        ("ask", b"?\r\n", 0, "part"), ("ask", b"\x00\xfe\xfe\x00", 4, "garbled"), ("ask", b"SKW", 1, "garbled"),
        ("wait", b"SKW", 0, "answer"), ("wait", b"?", 0, "nothing"), ("handshake-off", b"SKW", 0, "works"),
        ("handshake-off", b"", 0, "same"), ("listen", b"", 0, "nothing"), ("listen", b"READY", 0, "clean"),
        ("listen", b"READY", 3, "garbled"), ("power-cycle", b"READY", 0, "clean"),
    ],
)  # fmt: skip
def test_the_class_of_what_came(check: str, data: bytes, doubtful: int, outcome: str) -> None:
    assert asking().outcome(check, came(data, doubtful)) == outcome


def test_each_check_says_only_the_first_words() -> None:
    made = asking("1200,7E1,rts-cts")
    for check in made.checks():
        for step in made.steps(check):
            assert step.say.strip(b"\r\n") in (b"ID", b"")
    assert [step.say for step in made.steps("other-endings")] == [b"\rID\r", b"\nID\n", b"\r\nID\r\n"]
    assert {str(step.settings.frame) for step in made.steps("other-frames")} == {"8N1", "7E1", "7O1", "8E1", "8O1"}
    assert 1200 not in {step.settings.rate for step in made.steps("other-rates")}
    assert all(step.lines == (True, True) for step in made.steps("raise-lines"))
    with pytest.raises(KeyError):
        list(made.steps("power-lamp"))


def test_who_is_asked_nothing_is_only_heard() -> None:
    assert asking(question=None).checks() == ("listen", "power-cycle")
    assert (
        "handshake-off" not in asking().checks()
        and "other-endings" not in asking(question=Question((b"\x01",), bool)).checks()
    )


def test_a_check_ends_at_the_answer_and_at_a_refusal() -> None:
    check = OwnCheck(asking(), "other-endings")
    step = check.next()
    assert step is not None
    check.done(step, came(b""))
    assert check.outcome == "nothing" and check.next() is not None
    check.done(step, came(b"SKW"))
    assert check.outcome == "answer" and check.next() is None
    refused = OwnCheck(asking(), "ask")
    refused.done(step, Outcome(refusal=MachineRefused("held", "end it", code=Refusal.HELD)))
    assert refused.refused and refused.next() is None and refused.outcome == ""


@pytest.mark.parametrize("device", CATALOG.device_ids())
def test_lines_that_a_sheet_holds_low_are_never_raised(device: str) -> None:
    sheet = CATALOG.device(device)
    held = "low" in (sheet.lines_at_open.dtr, sheet.lines_at_open.rts)
    made = Asking("p", Settings.parse("9600,8N1,rts-cts"), ID, bool, may_raise=may_raise(sheet))
    assert ("raise-lines" in made.checks()) is not held
    ups = [step.lines for check in made.checks() for step in made.steps(check) if step.lines is not None]
    assert not ups or not held
    assert ("lines-free" in tags_of(link_to(device))) is not held


def test_nobody_raises_lines_at_a_device_that_nobody_knows() -> None:
    assert not may_raise(None) and "lines-free" not in tags_of(unknown_device()) | tags_of(None)
