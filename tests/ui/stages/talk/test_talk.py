"""The Talk stage in the window, on the simulated link: typing, searching, finding, proving, playing."""

from pathlib import Path
from typing import Any

import msgspec
import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QLabel
from pytestqt.qtbot import QtBot

from humble_courier.app.link.changes import new_link
from humble_courier.app.link.stages import Stage, TalkPage
from humble_courier.app.link.step import Action
from humble_courier.app.talk.instruments import PY, Library
from humble_courier.domain.text import Terminator
from humble_courier.domain.utterance import Who
from humble_courier.port.log import read_log
from humble_courier.ui.window import Window
from tests.app.link.test_shown import without_sheet
from tests.trials.ptys import far_end
from tests.ui.walk import LEFT, desk, place, stage
from tests.virtual_time import VirtualTime


def opened(window: Window, act: TalkPage) -> None:
    window.go_to("speech")
    stage(window, Stage.TALK).choose(act)


def listening(window: Window, qtbot: QtBot) -> None:
    opened(window, TalkPage.LISTEN)
    qtbot.mouseClick(stage(window, Stage.TALK).listening.listen_button, LEFT)
    qtbot.waitUntil(lambda: "power-up line" in stage(window, Stage.TALK).headline.text(), timeout=15_000)
    window.toggle_arm()


def test_words_are_typed_in_three_ways_waited_for_and_repeated(window: Window, qtbot: QtBot) -> None:
    listening(window, qtbot)
    page, link = stage(window, Stage.TALK).listening, window.work.link
    assert link is not None
    page.card.written.setCurrentIndex(page.card.written.findData("hex"))
    page.card.pattern.setText(r"LV [+-]\d+")
    page.card.words.setText("4C 56 0D 0A")
    qtbot.keyClick(page.card.words, Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: "It came: LV +01" in page.note.text(), timeout=15_000)
    page.card.written.setCurrentIndex(page.card.written.findData("escapes"))
    page.card.pattern.clear()
    page.card.words.setText("\\q")
    qtbot.keyClick(page.card.words, Qt.Key.Key_Return)
    assert "known are" in stage(window, Stage.TALK).reason.text()
    page.card.words.setText("ST")
    page.card.every.setCurrentIndex(page.card.every.findData("0.5"))
    qtbot.keyClick(page.card.words, Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: sum(u.text == "ST" for u in link.live.utterances()) >= 2, timeout=15_000)
    qtbot.mouseClick(page.card.halt, LEFT)
    assert not link.live.repeating
    qtbot.mouseClick(page.card.break_button, LEFT)
    qtbot.waitUntil(lambda: any("break" in u.meaning for u in link.live.utterances()), timeout=5000)


def test_what_was_said_is_searched_and_saved(window: Window, qtbot: QtBot, tmp_path: Path) -> None:
    listening(window, qtbot)
    page, link = stage(window, Stage.TALK).listening, window.work.link
    assert link is not None and link.live.log_path is not None
    page.search.setText("level")
    assert "LEVEL LOGGER" in page.lanes.accessibleName()
    page.search.setText("nobody said this")
    assert page.lanes.accessibleName().startswith("0 utterances")
    page.search.clear()
    desk(window, Stage.TALK).listening.save_text_to(tmp_path / "said.txt", link.live.log_path)
    assert "they said  LEVEL LOGGER FW 3.1 READY" in (tmp_path / "said.txt").read_text()
    assert read_log(link.live.log_path.read_bytes()).pieces


def test_lines_are_shown_and_moved_by_hand(window: Window, qtbot: QtBot) -> None:
    listening(window, qtbot)
    lamps, link = stage(window, Stage.TALK).listening.lamps, window.work.link
    assert link is not None
    qtbot.waitUntil(lambda: "RTS on" in lamps.accessibleName(), timeout=5000)
    qtbot.keyClick(lamps, Qt.Key.Key_Space)
    qtbot.waitUntil(lambda: "RTS off" in lamps.accessibleName(), timeout=5000)


def test_a_device_is_found_and_opened_with_what_was_found(window: Window, qtbot: QtBot) -> None:
    opened(window, TalkPage.FIND)
    page, link = stage(window, Stage.TALK).finding, window.work.link
    assert link is not None and "nothing is sent" in page.says.text()
    page.armed.setChecked(True)
    assert "Sends “ID”" in page.says.text()
    qtbot.waitUntil(lambda: page.view.accessibleName().startswith("100%"), timeout=10_000)
    qtbot.mouseClick(page.start, LEFT)
    assert window.work.authority.now().may_send and "may send the first words" in window.foot.state.text()
    qtbot.waitUntil(lambda: stage(window, Stage.TALK).headline.text().startswith("Found: 1200 7E1"), timeout=60_000)
    qtbot.waitUntil(lambda: any(fact.subject == "found" for fact in link.facts()), timeout=10_000)
    assert not window.work.authority.now().may_send and not page.grab().isNull()
    qtbot.mouseClick(page.adopt, LEFT)
    assert link.live.listening and stage(window, Stage.TALK).page is TalkPage.LISTEN


def test_a_search_over_nothing_is_told_and_one_that_runs_is_stopped(window: Window, qtbot: QtBot) -> None:
    opened(window, TalkPage.FIND)
    page = stage(window, Stage.TALK).finding
    page.ports.clear()
    page.changed.emit()
    assert stage(window, Stage.TALK).headline.text() == "Nothing to search for yet"
    page.ports.setText("/dev/ttyNONE")
    page.changed.emit()
    qtbot.mouseClick(page.start, LEFT)
    qtbot.waitUntil(lambda: "there is no such port" in stage(window, Stage.TALK).reason.text(), timeout=10_000)
    page.ports.setText("sim://bench/mesh-module?power=on")
    page.sheet.setChecked(False)
    page.armed.setChecked(True)
    qtbot.mouseClick(page.start, LEFT)
    qtbot.waitUntil(lambda: "Searching" in stage(window, Stage.TALK).headline.text(), timeout=10_000)
    qtbot.mouseClick(page.cancel, LEFT)
    qtbot.waitUntil(lambda: stage(window, Stage.TALK).headline.text() == "The search was stopped", timeout=15_000)
    assert page.start.text().startswith("Go on")


def test_the_port_is_proven_with_a_plug(window: Window, qtbot: QtBot) -> None:
    opened(window, TalkPage.PROVE)
    page, link = stage(window, Stage.TALK).prove, window.work.link
    assert link is not None and page.plugged.isVisible()
    for key, headline in (("loop-back", "Proven"), ("latency", "A round trip takes")):
        qtbot.mouseClick(page.buttons[key], LEFT)
        qtbot.waitUntil(
            lambda headline=headline: stage(window, Stage.TALK).headline.text().startswith(headline), timeout=60_000
        )
    assert any("Modbus" in what for _, what, _ in desk(window, Stage.TALK).proofs.proof.rows())
    fact = next(fact for fact in link.facts() if fact.subject == "port proof")
    assert fact.holds and fact.source == "a plug at the far end"


def test_the_talker_plays(window: Window, qtbot: QtBot, clock: VirtualTime) -> None:
    listening(window, qtbot)
    opened(window, TalkPage.PLAY)
    page, link = stage(window, Stage.TALK).play, window.work.link
    assert link is not None and "118%" in page.load_text.text() and "Too much" in page.load_text.text()
    page.sentences["GGA"].setChecked(False)
    assert "Too much" not in page.load_text.text()
    page.fields["every_s"].setText("soon")
    page.changed.emit()
    assert "no number" in stage(window, Stage.TALK).reason.text()
    page.fields["every_s"].setText("0.2")
    page.changed.emit()
    qtbot.mouseClick(page.start, LEFT)
    qtbot.waitUntil(lambda: sum(u.text.startswith("$GPRMC") for u in link.live.utterances()) >= 2, timeout=10_000)
    window.toggle_arm()
    qtbot.waitUntil(lambda: not stage(window, Stage.TALK).reason.text().startswith("Talking"), timeout=5000)
    window.toggle_arm()
    count = sum(u.who is Who.WE for u in link.live.utterances())
    clock.pass_s(0.5)
    said = sum(u.who is Who.WE for u in link.live.utterances())
    assert said == count, "arming again does not begin to talk by itself"


def test_libraries_are_shown(window: Window, qtbot: QtBot) -> None:
    opened(window, TalkPage.VISA)
    stage(window, Stage.TALK).visa.show_libraries(
        [Library(PY, "here", True), Library("x@ivi", "/x", False, "broken")], window.work.theme
    )
    assert any("pass-through" in one.text() for one in stage(window, Stage.TALK).visa.findChildren(QLabel))
    assert (
        "names no library" in stage(window, Stage.TALK).visa.choice.text()
        and not stage(window, Stage.TALK).visa.grab().isNull()
    )


@pytest.mark.parametrize("key", ["escape", "toggle_arm"])
def test_two_keys_stop_what_sends_and_disarm(window: Window, qtbot: QtBot, key: str, clock: VirtualTime) -> None:
    """Within a third of a second: the words of a person, and the round trips that were asked for."""
    listening(window, qtbot)
    link = window.work.link
    assert link is not None and link.live.armed
    getattr(window, key)()
    assert not link.live.armed and link.live.listening
    opened(window, TalkPage.PROVE)
    proofs = desk(window, Stage.TALK).proofs
    stage(window, Stage.TALK).prove.plugged.setChecked(True)
    stage(window, Stage.TALK).prove.asked.emit("latency")
    qtbot.waitUntil(lambda: proofs.proof is not None and proofs.proof.share > 0, timeout=15_000)
    begun = clock.now()
    getattr(window, key)()
    qtbot.waitUntil(lambda: not proofs.running, timeout=2000)
    assert clock.now() - begun < 0.3 and proofs.proof.share < 1 and not link.live.armed


def test_escape_never_arms(window: Window, qtbot: QtBot) -> None:
    opened(window, TalkPage.LISTEN)
    assert window.work.link is not None
    window.work.link.listen()
    for _ in range(3):
        window.escape()
        assert not window.work.link.live.armed


def test_an_answer_that_no_sheet_knows_is_called_right_by_a_press(window: Window, qtbot: QtBot) -> None:
    """A text instrument of one's own, from the typed word to the kept proof, by widgets alone."""
    link, page = window.work.link, stage(window, Stage.TALK).listening
    assert link is not None
    with far_end(lambda data: b"FLOWMETER TWO\r\n" if b"VER?" in data else b"") as there:
        link.change(msgspec.structs.replace(without_sheet(link), address=there.address))
        window.go_to("speech")
        qtbot.mouseClick(page.listen_button, LEFT)
        assert not page.right_button.isVisible()
        window.toggle_arm()
        page.card.words.setText("VER?")
        qtbot.keyClick(page.card.words, Qt.Key.Key_Return)
        qtbot.waitUntil(page.right_button.isVisible, timeout=5000)
        assert "It replies" in stage(window, Stage.TALK).headline.text()
        assert "FLOWMETER TWO" in link.next_step().text
        qtbot.mouseClick(page.right_button, LEFT)
        assert "It answers: FLOWMETER TWO" in stage(window, Stage.TALK).headline.text()
        assert place(window, "speech").place.title == "FLOWMETER TWO"
        qtbot.mouseClick(window.facts.button, LEFT)
        assert link.proofs()[-1].kind == "marked" and "fair" in stage(window, Stage.TALK).reason.text().lower()
        link.stop()


def test_a_unit_of_a_bus_is_chosen_and_read(window: Window, qtbot: QtBot) -> None:
    records, page = window.work.opened_records(), stage(window, Stage.TALK).listening
    model = new_link("snow-pillow", ["usb-rs485"], "sim://bench/snow-pillow?power=on&pace=5", window.work.catalog)
    assert window.work.open(records.add(model, "pillow"))
    window.go_to("speech")
    link = window.work.link
    assert link is not None and page.unit.isVisible() and (page.unit.minimum(), page.unit.maximum()) == (1, 247)
    page.unit.setValue(3)
    assert link.document.model.unit == 3
    for act in link.undone():
        link.tick(act.id, done=True)
    qtbot.mouseClick(page.listen_button, LEFT)
    assert not page.read.isEnabled()
    window.toggle_arm()
    qtbot.mouseClick(page.read, LEFT)
    qtbot.waitUntil(lambda: "temperature -4 °C" in stage(window, Stage.TALK).headline.text(), timeout=10_000)
    assert place(window, "speech").place.title == "unit 3"


def test_words_that_brought_nothing_are_said_again_with_another_end(window: Window, qtbot: QtBot) -> None:
    """A device that nobody knows wants LF: it is found by one press, and the link remembers it."""
    link, page = window.work.link, stage(window, Stage.TALK).listening
    assert link is not None
    with far_end(lambda data: b"OK 12\n" if data.endswith(b"VER?\n") else b"") as there:
        link.change(msgspec.structs.replace(without_sheet(link), address=there.address))
        window.go_to("speech")
        qtbot.mouseClick(page.listen_button, LEFT)
        window.toggle_arm()
        page.card.words.setText("VER?")
        qtbot.keyClick(page.card.words, Qt.Key.Key_Return)
        assert not page.find_row.isVisible()
        qtbot.waitUntil(page.find_row.isVisible, timeout=10_000)
        assert stage(window, Stage.TALK).headline.text() == "Nothing came after “VER?” with CR"
        assert [end.spoken for end, made in page.ends_tried.items() if made.isVisible()] == ["LF", "CR LF", "no terminator"]
        assert link.next_step().button == "Say it with LF"
        qtbot.mouseClick(page.ends_tried[Terminator.LF], LEFT)
        qtbot.waitUntil(page.right_button.isVisible, timeout=10_000)
        assert not page.find_row.isVisible() and link.document.model.end == "lf"
        assert any(fact.text == "Its lines end with LF" for fact in link.facts())
        link.stop()


def test_silence_leads_into_the_search_by_one_press_and_out_of_it_by_another(window: Window, qtbot: QtBot) -> None:
    """Our own words bring nothing, as the device knows others; the search asks what most devices answer."""
    link = window.work.link
    assert link is not None
    with far_end(lambda data: b"FLOW METER 12\r\n" if b"*IDN?\r" in data else b"") as there:
        link.change(msgspec.structs.replace(without_sheet(link), address=there.address))
        opened(window, TalkPage.LISTEN)
        talk = stage(window, Stage.TALK)
        qtbot.mouseClick(talk.listening.listen_button, LEFT)
        window.toggle_arm()
        talk.listening.card.words.setText("VER?")
        qtbot.keyClick(talk.listening.card.words, Qt.Key.Key_Return)
        qtbot.waitUntil(talk.listening.search_button.isVisible, timeout=15_000)
        qtbot.mouseClick(talk.listening.search_button, LEFT)
        assert talk.finding.armed.isChecked() and "*IDN?" in talk.finding.says.text()
        assert "The search goes on" in link.next_step().text
        qtbot.waitUntil(lambda: link.next_step().action is Action.ADOPT, timeout=60_000)
        assert talk.headline.text().startswith("Found: ")
        window.act()
        assert link.live.listening and link.next_step().action is Action.SAY
        assert link.next_step().words == "*IDN?"
        window.act()
        qtbot.waitUntil(lambda: link.evidence.reply is not None, timeout=15_000)
        assert "FLOW METER 12" in link.evidence.reply.answer


def test_a_word_button_ends_its_words_as_the_sheet_says_whatever_stands_in_the_field(window: Window, qtbot: QtBot) -> None:
    listening(window, qtbot)
    page, link = stage(window, Stage.TALK).listening, window.work.link
    assert link is not None
    page.card.tail.choose(Terminator.NONE)
    qtbot.mouseClick(page.word_buttons[0], LEFT)
    qtbot.waitUntil(lambda: link.live.session is not None and link.live.session.last_said is not None, timeout=5000)
    assert link.live.session is not None and link.live.session.last_said is not None
    assert link.live.session.last_said.data == b"ID\r\n"


def console(window: Window, qtbot: QtBot, address: str) -> Any:
    link, page = window.work.link, stage(window, Stage.TALK).listening
    assert link is not None
    link.change(msgspec.structs.replace(without_sheet(link), address=address))
    window.go_to("speech")
    qtbot.mouseClick(page.listen_button, LEFT)
    return page


def test_keys_go_out_as_they_are_pressed_once_armed(window: Window, qtbot: QtBot, clock: VirtualTime) -> None:
    with far_end(lambda data: data.replace(b"\r", b"\r\n> ")) as there:
        page = console(window, qtbot, there.address)
        assert not page.card.keys.isEnabled()
        qtbot.keyClick(page.card.keys, Qt.Key.Key_A)
        window.toggle_arm()
        page.card.keys.setFocus()
        qtbot.keyClicks(page.card.keys, "show")
        for key, modifier in (
            (Qt.Key.Key_Return, Qt.KeyboardModifier.NoModifier), (Qt.Key.Key_Up, Qt.KeyboardModifier.NoModifier),
            (Qt.Key.Key_C, Qt.KeyboardModifier.ControlModifier), (Qt.Key.Key_Escape, Qt.KeyboardModifier.NoModifier),
        ):  # fmt: skip
            qtbot.keyClick(page.card.keys, key, modifier)
        qtbot.waitUntil(lambda: bytes(there.received) == b"show\r\x1b[A\x03\x1b", timeout=5000)
        link = window.work.link
        assert link is not None and link.live.armed
        said = [u for u in link.live.utterances() if u.who is Who.WE]
        assert b"".join(u.data for u in said) == bytes(there.received) and len(said) < 6
        window.toggle_arm()
        qtbot.keyClick(page.card.keys, Qt.Key.Key_B)
        clock.pass_s(0.2)
        assert b"b" not in there.received
        link.stop()


def test_a_text_is_waited_for_and_answered_once_before_anything_else(
    window: Window, qtbot: QtBot, clock: VirtualTime
) -> None:
    """A boot that one key can stop: armed before the power is on, and the prompt has no line end."""
    with far_end() as there:
        page = console(window, qtbot, there.address)
        page.card.pattern.setText("ready")
        qtbot.mouseClick(page.card.wait, LEFT)
        assert page.note.text() == "Waiting for ready"
        there.say(b"now ready\r\n")
        qtbot.waitUntil(lambda: page.note.text() == "It came: ready", timeout=5000)
        assert bytes(there.received) == b"" and not page.card.then.isEnabled()
        window.toggle_arm()
        page.card.pattern.setText("PRESS ANY KEY")
        page.card.words.setText("x")
        page.card.tail.choose(Terminator.NONE)
        qtbot.mouseClick(page.card.then, LEFT)
        qtbot.waitUntil(lambda: "switch the device on now" in page.note.text(), timeout=5000)
        for _ in range(3):
            there.say(b"BOOT 1.0 PRESS ANY KEY")
            clock.pass_s(0.15)
        qtbot.waitUntil(lambda: bytes(there.received) == b"x", timeout=5000)
        link = window.work.link
        assert link is not None
        link.stop()


def test_control_units_are_asked_on_a_k_line_only(window: Window) -> None:
    """The wake-up holds the line low for a while: of any other device it is not asked."""
    window.go_to("speech")
    desk(window, Stage.TALK).proofs.read_units()
    assert "no K-line" in stage(window, Stage.TALK).reason.text() and not window.work.authority.now().may_send
