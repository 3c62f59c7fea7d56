"""A check at a port that is real as far as the program knows: nothing leaves but what it said it would send."""

import threading

from humble_courier.app.diagnose.own_check import OwnCheckRun, asking_of
from humble_courier.domain.text import Terminator
from humble_courier.port.authority import Authority
from tests.diagnose.links import link_to, unknown_device
from tests.trials.ptys import far_end
from tests.virtual_time import VirtualTime


def test_words_that_a_person_typed_are_tried_with_other_ends_at_a_device_in_no_sheet() -> None:
    with far_end(lambda said: b"FLOWMETER 12 v2.0\r\n" if b"VER?\n" in said else b"") as far:
        link = unknown_device(far.address)
        asking = asking_of(link, "VER?", Terminator.CR)
        assert asking is not None and "other-endings" in asking.checks()
        run = OwnCheckRun(asking, "other-endings", link, None)
        assert run.says == "“VER?”"
        run.run()
        assert run.outcome == "answer"
        assert far.received.replace(b"\r", b"").replace(b"\n", b"") in (b"VER?VER?", b"VER?VER?VER?")


def test_listening_sends_nothing() -> None:
    with far_end() as far:
        link = unknown_device(far.address)
        asking = asking_of(link, "", Terminator.CR)
        assert asking is not None and asking.checks() == ("listen", "power-cycle")
        run = OwnCheckRun(asking, "listen", link, None)
        assert run.says == ""
        run.run()
        assert run.outcome == "nothing" and not far.received


def test_a_port_that_is_not_there_has_no_outcome() -> None:
    link = unknown_device("/dev/ttyNOT0")
    asking = asking_of(link, "X", Terminator.CR)
    assert asking is not None
    run = OwnCheckRun(asking, "ask", link, None)
    run.run()
    assert run.outcome == ""
    assert asking_of(unknown_device(), "X", Terminator.CR) is None


def test_the_words_of_a_sheet_come_before_those_of_a_person() -> None:
    asking = asking_of(link_to("mesh-module"), "X", Terminator.CR)
    assert asking is None, "no port is chosen"


def test_a_check_that_was_stopped_has_no_outcome(clock: VirtualTime) -> None:
    with far_end() as far:
        asking = asking_of(unknown_device(far.address), "VER?", Terminator.CR)
        assert asking is not None and "raise-lines" not in asking.checks()
        run = OwnCheckRun(asking, "other-rates", unknown_device(far.address), None, Authority(clock))
        threading.Thread(target=lambda: (clock.wait(clock.now() + 0.7), run.cancel())).start()
        run.run()
        assert run.outcome == "", "what was not tried to its end is no fact"
