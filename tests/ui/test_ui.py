"""Stop is stop: past defects as walks through the real window, with far ends on ptys as witnesses of what leaves."""

from collections.abc import Callable

import pytest
from PyQt6.QtCore import Qt
from pytestqt.qtbot import QtBot

from humble_courier.app.link.changes import new_link
from humble_courier.app.link.open_link import OpenLink
from humble_courier.app.link.stages import Stage, TalkPage
from humble_courier.domain.text import Terminator
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


def talking_to(window: Window, address: str) -> OpenLink:
    """A link to a device that nobody knows, at a port, on the line."""
    work = window.work
    assert work.records is not None
    model = new_link("text-instrument-dce", ["usb-rs232"], address, work.catalog)
    work.open(work.records.add(model, "a stranger"))
    assert work.link is not None
    return work.link


def searching(window: Window, qtbot: QtBot, address: str) -> None:
    """An armed search over one port, by hand."""
    talking_to(window, address)
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


def test_the_talker_talks_though_the_device_has_never_said_a_byte(
    empty_window: Window, qtbot: QtBot, clock: VirtualTime
) -> None:
    """Play said “Talking.” and sent nothing: the window's tick began with the first byte heard."""
    window = empty_window
    with far_end() as far:
        link = talking_to(window, far.address)
        window.go_to("speech")
        stage(window, Stage.TALK).choose(TalkPage.PLAY)
        page = stage(window, Stage.TALK).play
        qtbot.mouseClick(page.listen_button, Qt.MouseButton.LeftButton)
        assert link.live.listening and not page.listen_button.isVisible(), "F4 is there where it is asked for"
        link._acts_passed = True
        window.toggle_arm()
        qtbot.mouseClick(page.start, Qt.MouseButton.LeftButton)
        clock.pass_s(3.0)
        assert far.received.count(b"$") >= 3 and "bytes have left" in stage(window, Stage.TALK).reason.text()
        window.escape()
        nothing_leaves(window, clock, far.received)


def test_a_search_borrows_the_open_port_and_gives_it_back(empty_window: Window, qtbot: QtBot, clock: VirtualTime) -> None:
    """It was closed and opened again, so that DTR and RTS rose."""
    window = empty_window
    with far_end() as far:
        link = talking_to(window, far.address)
        link.listen()
        session = link.live.session
        window.go_to("speech")
        stage(window, Stage.TALK).choose(TalkPage.FIND)
        page = stage(window, Stage.TALK).finding
        page.armed.setChecked(True)
        qtbot.waitUntil(lambda: desk(window, Stage.TALK).finding.wanted.laid_out)
        page.started.emit()
        qtbot.waitUntil(lambda: len(far.received) > 10)
        assert link.live.lent == "the device search" and link.live.session is session
        window.escape()
        qtbot.waitUntil(lambda: not link.live.lent)
        far.say(b"still heard\r\n")
        qtbot.waitUntil(lambda: any("still heard" in one.text for one in link.live.utterances()))
        assert link.live.session is session and not link.evidence.refusal, "its own port is no port of another program"


def test_keeping_the_device_before_the_proof_keeps_proof_talk_and_permit(
    empty_window: Window, qtbot: QtBot, clock: VirtualTime
) -> None:
    window = empty_window
    with far_end(lambda said: b"FLOWMETER 12 v2.0\r\n" if said.rstrip() == b"VER?" and said[-1:] in b"\r\n" else b"") as far:
        link = talking_to(window, far.address)
        link.listen()
        link._acts_passed = True
        link.arm()
        for alike in (1, 2):
            link.say("VER?")
            qtbot.waitUntil(lambda alike=alike: link.evidence.reply is not None and link.evidence.reply.alike == alike)
        link.mark_right()
        shown, session, said = link.evidence.shown, link.live.session, len(link.live.utterances())
        assert shown is not None
        window.go_to("speech")
        stage(window, Stage.TALK).choose(TalkPage.KEEP)
        keep = stage(window, Stage.TALK).keep
        keep.name.setText("Flow meter")
        keep.renamed.emit("Flow meter")
        keep.kept.emit()
        assert link.document.link.sheet is not None and link.document.link.sheet.id == "flow-meter"
        assert link.live.session is session and link.live.armed and len(link.live.utterances()) == said
        clock.pass_s(1.0)
        assert link.evidence.shown is not None and link.evidence.shown.grade is shown.grade
        assert not link.evidence.proof_kept and link.keep_proof()


def test_nothing_of_one_link_stands_on_another(empty_window: Window, qtbot: QtBot, clock: VirtualTime) -> None:
    window = empty_window
    with far_end() as far, far_end() as other:
        first = talking_to(window, far.address)
        window.go_to("speech")
        desk(window, Stage.TALK)
        stage(window, Stage.TALK).listening.card.words.setText("half a com")
        talking_to(window, other.address)
        assert stage(window, Stage.TALK).listening.card.words.text() == ""
        assert stage(window, Stage.TALK).finding.ports.text() == other.address
        window.work.open(first.id)
        assert stage(window, Stage.TALK).listening.card.words.text() == "half a com"
        assert stage(window, Stage.TALK).finding.ports.text() == far.address


STRANGERS = {
    "refuses": (b"?CMD\r\n", "It refuses “VER?”", "?CMD"),
    "echoes": (None, "Only “VER?” itself came back", "nobody has answered"),
    "acknowledges": (b"OK\r\n", "It takes “VER?”", "proves nobody"),
    "names nothing": (b"ABOVE\r\n", "It replies; what it says is not known", "Only you can say"),
}


@pytest.mark.parametrize("kind", STRANGERS)
def test_what_a_stranger_does_is_told_as_it_is(empty_window: Window, qtbot: QtBot, clock: VirtualTime, kind: str) -> None:
    answer, headline, reason = STRANGERS[kind]
    window = empty_window

    def behaves(said: bytes) -> bytes:
        return (said if answer is None else answer) if said.endswith((b"\r", b"\n")) else b""

    with far_end(behaves) as far:
        link = talking_to(window, far.address)
        window.go_to("speech")
        link.listen()
        link._acts_passed = True
        link.arm()
        link.say("VER?", Terminator.CR)
        shown = stage(window, Stage.TALK)
        qtbot.waitUntil(lambda: shown.headline.text() == headline)
        assert reason in shown.reason.text() and not link.evidence.proven
        assert shown.listening.right_button.isVisible() is (kind == "names nothing")
