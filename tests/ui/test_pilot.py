"""From the plug to the proof with one permit: devices that are in no sheet, each on a pty, in the window."""

import threading
from collections.abc import Callable

import pytest
from pytestqt.qtbot import QtBot

from humble_courier.app.link.stages import Stage
from humble_courier.domain.proven import ProofKind
from humble_courier.protocols.modbus_rtu import with_crc
from humble_courier.protocols.nmea import sentence
from humble_courier.ui.window import Window
from tests.trials.ptys import FarEnd, far_end
from tests.ui.walk import LEFT, desk, stage
from tests.virtual_time import VirtualTime


@pytest.fixture
def window(empty_window: Window) -> Window:
    return empty_window


def begin(window: Window, qtbot: QtBot, kind: str, address: str) -> None:
    """Three acts: what it is, the port, on the line."""
    window.open_rail(Stage.NEW_LINK)
    desk(window, Stage.NEW_LINK).choose(kind)
    page = stage(window, Stage.NEW_LINK)
    page.port.setCurrentText(address)
    qtbot.mouseClick(page.create_button, LEFT)
    assert window.work.link is not None and not window.work.link.live.listening


def go_alone(window: Window, qtbot: QtBot, seconds: float = 60) -> None:
    """Two presses: the first says what may be sent."""
    link = window.work.link
    assert link is not None
    qtbot.mouseClick(window.facts.by_itself, LEFT)
    assert not window.pilot.going and "may send" in window.desk(window.current).stage.reason.text()
    qtbot.mouseClick(window.facts.by_itself, LEFT)
    assert window.pilot.going
    qtbot.waitUntil(lambda: not window.pilot.going, timeout=round(seconds * 1000))


def text_device(said: bytes) -> bytes:
    return b"FLOWMETER 12 v2.0\r\n" if b"*IDN?\r\n" in said else b""


def modbus_unit(said: bytes) -> bytes:
    return with_crc(bytes((1, 3, 2, 0, 42))) if said[:2] == b"\x01\x03" else b""


@pytest.mark.parametrize(
    ("kind", "answer", "proof"),
    [("text-instrument-dce", text_device, None), ("modbus-rtu-rs485", modbus_unit, ProofKind.READ)],
)
def test_a_device_in_no_sheet_is_found_and_asked(
    window: Window, qtbot: QtBot, kind: str, answer: Callable[[bytes], bytes], proof: ProofKind | None
) -> None:
    with far_end(answer) as far:
        begin(window, qtbot, kind, far.address)
        go_alone(window, qtbot)
        link = window.work.link
        assert link is not None
        if proof is None:
            assert link.evidence.reply is not None and link.evidence.reply.answer == "FLOWMETER 12 v2.0"
            qtbot.mouseClick(window.facts.button, LEFT)  # it is right
        else:
            assert link.evidence.shown is not None and link.evidence.shown.kind is proof
        assert link.evidence.proven
        link.stop()


def test_a_talker_is_only_heard(window: Window, qtbot: QtBot, clock: VirtualTime) -> None:
    with far_end() as far:
        over = threading.Event()

        def talk(end: FarEnd) -> None:
            while not over.is_set():
                clock.wait(clock.now() + 0.4)
                end.say(sentence("GPVTG,214.8,T,,M,004.2,N,007.8,K"))

        thread = threading.Thread(target=talk, args=(far,))
        thread.start()
        try:
            begin(window, qtbot, "nmea-talker", far.address)
            go_alone(window, qtbot)
            link = window.work.link
            assert link is not None and link.evidence.shown is not None
            assert link.evidence.shown.kind is ProofKind.HEARD and not far.received, "nobody has to speak to a talker"
            link.stop()
        finally:
            over.set()
            thread.join()


def test_it_is_stopped_at_any_step_and_nothing_more_leaves(window: Window, qtbot: QtBot, clock: VirtualTime) -> None:
    with far_end() as far:
        begin(window, qtbot, "text-instrument-dce", far.address)
        qtbot.mouseClick(window.facts.by_itself, LEFT)
        qtbot.mouseClick(window.facts.by_itself, LEFT)
        qtbot.waitUntil(lambda: bool(far.received), timeout=20_000)
        window.escape()
        assert not window.pilot.going
        clock.pass_s(0.4)
        count = len(far.received)
        clock.pass_s(0.8)
        assert len(far.received) == count
