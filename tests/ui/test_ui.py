"""Stop is stop: past defects as walks through the real window, with far ends on ptys as witnesses of what leaves."""

from collections.abc import Callable

import pytest
from PyQt6.QtCore import Qt
from pytestqt.qtbot import QtBot

from humble_courier.app.link.changes import new_link
from humble_courier.app.link.stages import Stage, TalkPage
from humble_courier.port.driver import Driver
from humble_courier.ui.window import Window
from tests.trials.ptys import far_end
from tests.ui.walk import desk, stage
from tests.virtual_time import VirtualTime

SOON_S = 0.3
STOPS: dict[str, Callable[[Window], object]] = {
    "Esc": lambda window: window.escape(),
    "F12": lambda window: window.toggle_arm(),
    "New link": lambda window: window.open_rail(Stage.NEW_LINK),
    "another link": lambda window: window.work.open(window.work.records.links()[-1][0]),  # type: ignore[union-attr]
}  # fmt: skip


def searching(window: Window, qtbot: QtBot, address: str) -> None:
    """An armed search over one port, by hand."""
    work = window.work
    assert work.records is not None
    model = new_link("text-instrument-dce", ["usb-rs232"], address, work.catalog)
    work.open(work.records.add(model, "a stranger"))
    window.go_to("speech")
    stage(window, Stage.TALK).choose(TalkPage.FIND)
    page = stage(window, Stage.TALK).finding
    page.armed.setChecked(True)
    qtbot.waitUntil(lambda: desk(window, Stage.TALK).finding.wanted.laid_out)
    page.started.emit()


def nothing_leaves(window: Window, clock: VirtualTime, *received: bytearray) -> None:
    """From a third of a second after a stop on nothing comes, and the foot says so."""
    clock.pass_s(SOON_S)
    before = [len(one) for one in received]
    clock.pass_s(30.0)
    assert [len(one) for one in received] == before
    now = window.work.authority.now()
    assert not now.may_send and not now.works
    assert "Armed" not in window.foot.state.text() and "nothing is sent" in window.foot._hint.text()


@pytest.mark.parametrize("way", STOPS)
def test_a_search_ends_by_every_way(empty_window: Window, qtbot: QtBot, clock: VirtualTime, way: str) -> None:
    window = empty_window
    with far_end() as there:
        searching(window, qtbot, there.address)
        qtbot.waitUntil(lambda: len(there.received) > 10)
        assert "Armed" in window.foot.state.text() and "Stop" in window.foot.switch.text()
        STOPS[way](window)
        nothing_leaves(window, clock, there.received)


@pytest.mark.parametrize("pressed_again", [False, True])
def test_a_port_typed_over_the_field_ends_the_search_that_runs(
    empty_window: Window, qtbot: QtBot, clock: VirtualTime, pressed_again: bool
) -> None:
    """The search that was forgotten went on for minutes, while the foot said that nothing is sent."""
    window = empty_window
    with far_end() as first, far_end() as second:
        searching(window, qtbot, first.address)
        qtbot.waitUntil(lambda: len(first.received) > 10)
        page = stage(window, Stage.TALK).finding
        page.ports.setText(second.address)
        page.changed.emit()
        clock.pass_s(SOON_S)
        count = len(first.received)
        if pressed_again:
            qtbot.waitUntil(lambda: desk(window, Stage.TALK).finding.wanted.laid_out)
            page.started.emit()
            qtbot.waitUntil(lambda: len(second.received) > 10)
        assert len(first.received) == count
        qtbot.keyClick(window, Qt.Key.Key_Escape)
        nothing_leaves(window, clock, first.received, second.received)


def test_a_field_that_is_only_left_does_not_end_it(empty_window: Window, qtbot: QtBot, clock: VirtualTime) -> None:
    window = empty_window
    with far_end() as there:
        searching(window, qtbot, there.address)
        qtbot.waitUntil(lambda: len(there.received) > 10)
        stage(window, Stage.TALK).finding.changed.emit()
        count = len(there.received)
        clock.pass_s(5.0)
        assert len(there.received) > count
        window.escape()
        nothing_leaves(window, clock, there.received)


def test_port_and_tick_of_the_link_before_do_not_go_to_the_next(
    empty_window: Window, qtbot: QtBot, clock: VirtualTime
) -> None:
    window = empty_window
    assert window.work.records is not None
    with far_end() as there:
        searching(window, qtbot, there.address)
        bare = new_link("text-instrument-dce", ["usb-rs232"], None, window.work.catalog)
        window.work.open(window.work.records.add(bare, "without a port"))
        page = stage(window, Stage.TALK).finding
        assert page.ports.text() == "" and not page.armed.isChecked()
        page.started.emit()
        nothing_leaves(window, clock, there.received)


def test_a_driver_that_dies_says_so_and_may_send_nothing(
    window: Window, qtbot: QtBot, clock: VirtualTime, monkeypatch: pytest.MonkeyPatch
) -> None:
    """A thread that raised read “listening, armed” for ever."""
    link = window.work.link
    assert link is not None
    link.listen()
    link.arm()
    hooked: list[object] = []
    monkeypatch.setattr("threading.excepthook", hooked.append)

    def broken(_: Driver) -> None:
        raise ZeroDivisionError("a defect")

    monkeypatch.setattr(Driver, "step", broken)
    qtbot.waitUntil(lambda: not link.live.listening)
    assert not link.live.armed and not window.work.authority.now().may_send
    assert "not listened to any more" in link.evidence.refusal and len(hooked) == 1
