"""It does not work: from the first key to the device's answer, by widgets alone."""

import subprocess
from pathlib import Path

import pytest
from pytestqt.qtbot import QtBot

from humble_courier.app.diagnose.evidence_sheet import evidence_sheet
from humble_courier.app.link.changes import new_link
from humble_courier.app.link.stages import Stage
from humble_courier.catalog.load import Catalog
from humble_courier.documents.link import LinkModel, LinkPort, LinkSettings
from humble_courier.domain.text import Terminator
from humble_courier.ui.paper.evidence_sheet import write_evidence
from humble_courier.ui.stages.diagnose.desk import DiagnoseDesk
from humble_courier.ui.window import Window
from tests.trials.ptys import far_end
from tests.ui.walk import LEFT, desk
from tests.virtual_time import VirtualTime

# What a person would see at a device that is alive, reached by a sound cable, and set as it should be.
HEALTHY = {
    "power-lamp": "lit", "adapter-lamp": "lit", "mark": "right", "seated": "home", "menu": "none", "key": "on",
    "pull-and-put-back": "mine", "other-programs": "none", "power-cycle": "nothing", "program-settings": "none",
    "manual-words": "same", "volts": "fits", "meter-cable": "as-drawn", "virtual-machine": "none",
    "acts-done": "done", "read-plate": "same", "read-switches": "agree", "read-settings": "agree",
    "shake-cable": "same", "edition": "fits", "without-hub": "none", "exchange-socket": "same", "motors-off": "same",
    "lower-rate": "same", "loop-adapter": "echoes", "loop-cable": "echoes", "cross": "same",
    "exchange-cable": "same", "exchange-adapter": "same", "other-socket": "same", "device-search": "silent",
    "long-transfer": "breaks", "list-ports": "seen", "kernel-log": "fine", "other-units": "nothing",
    "wait-start": "same", "bus-plan": "unique", "exchange-pair": "same", "read-address": "agree", "alone": "same",
    "latency-test": "quick", "supply-pin": "none", "judge-bytes": "other",
}  # fmt: skip


@pytest.fixture
def window(empty_window: Window) -> Window:
    return empty_window


def opened(window: Window, model: LinkModel) -> DiagnoseDesk:
    records = window.work.opened_records()
    window.work.open(records.add(model, "Pump house"))
    window.open_rail(Stage.DIAGNOSE)
    made: DiagnoseDesk = desk(window, Stage.DIAGNOSE)
    return made


def walk(made: DiagnoseDesk, qtbot: QtBot, truth: dict[str, str], most: int = 25) -> list[str]:
    """Follow what is recommended until it works: the program's checks by a press, the others as the truth is."""
    done = []
    for _ in range(most):
        if made.stage.headline.text().startswith("It works"):
            return done
        act = made._now()
        done.append(act.code)
        if made.stage.run.isVisible():
            before = made._diagnosis().case.facts
            for _press in range(2):
                if made.stage.run.isVisible() and made.stage.run.isEnabled():
                    qtbot.mouseClick(made.stage.run, LEFT)
            qtbot.waitUntil(lambda: made._run is None, timeout=60_000)
            assert made._diagnosis().case.facts != before or made.link().diagnosis.works
        elif act.is_check:
            outcome = {**HEALTHY, **truth}[act.code]
            qtbot.mouseClick(made.stage.rows.keys[[one.id for one in act.outcomes].index(outcome)], LEFT)
        else:
            works = act.code in truth.get("mends", "").split()
            qtbot.mouseClick(made.stage.rows.keys[0 if works else 1], LEFT)
            if works:
                return [*done, "mended"]
    raise AssertionError(f"no end: {done}")


def test_a_device_in_no_sheet_that_wants_another_end_is_brought_to_its_answer(window: Window, qtbot: QtBot) -> None:
    with far_end(lambda said: b"FLOWMETER 12 v2.0\r\n" if said.strip(b"\r") in (b"VER?\n", b"\nVER?\n") else b"") as far:
        ends, settings = (LinkPort(port="dte-de9"), LinkPort(port="dce-de9")), LinkSettings(computer="9600,8N1")
        model = LinkModel("link/1", *ends, settings=settings, address=far.address)
        made = opened(window, model)
        link = made.link()
        link.listen()
        link.arm()
        link.say("VER?", Terminator.CR)
        qtbot.waitUntil(lambda: [link.poll(), link.evidence.silence is not None][1], timeout=20_000)
        window.refresh()
        done = walk(made, qtbot, {})
        assert "other-endings" in done and len(done) <= 6
        assert "at 9600 8N1, lines ended with LF" in made.stage.reason.text()
        names = made.stage.names
        wanted = next(name for name in names if "its lines end otherwise" in name.text())
        assert names.index(wanted) <= 1, "the true cause is among the first"
        qtbot.mouseClick(wanted, LEFT)
        assert link.diagnosis.causes_met() == {"terminator": 1}
        assert link.document.model.end == "lf" and link.live.listening, "it goes on with what was found"


CABLES = "straight-for-crossed crossed-for-straight"  # what a technician who exchanges the cable has mended


@pytest.mark.parametrize(
    ("device", "parts", "fault", "truth", "cause"),
    [
        ("mesh-module", ["usb-rs232", "converter-rs232-ttl-3v3"], "wrong-parity", {}, "other data bits, parity"),
        ("bench-meter", ["usb-rs232", "crossover-adapter-de9"], "wrong-end", {}, "lines end otherwise"),
        ("modbus-rtu-rs485", ["usb-rs485"], "wrong-rate", {"read-switches": "differ"}, "another rate"),
        ("gauge-logger", ["usb-rs232", "crossed-de9-3wire"], "senders-meet",
         {"volts": "senders-meet", "meter-cable": "other", "cross": "works", "loop-cable": "silent", "mends": CABLES},
         "straight cable"),
    ],
)  # fmt: skip
def test_faults_of_several_devices_are_found(
    window: Window, qtbot: QtBot, catalog: Catalog, device: str, parts: list[str], fault: str, truth: dict[str, str],
    cause: str,
) -> None:  # fmt: skip
    address = f"sim://bench/{device}?power=on&pace=6&fault={fault}"
    made = opened(window, new_link(device, parts, address, catalog))
    qtbot.waitUntil(lambda: made._diagnosis().simulated, timeout=30_000)
    done = walk(made, qtbot, truth)
    assert len(done) <= 14, done
    if done[-1] != "mended":
        assert any(cause in name.text() for name in made.stage.names), [name.text() for name in made.stage.names]


def test_answers_are_taken_back_and_what_is_not_at_hand_is_left_out(window: Window, qtbot: QtBot, catalog: Catalog) -> None:
    made = opened(window, new_link("gauge-logger", ["usb-rs232", "crossed-de9-3wire"], "sim://bench/gauge-logger", catalog))
    made.link().diagnosis.checked("power-lamp", "dark")
    window.refresh()
    assert "no supply" in window.belief.accessibleName() or "device" in window.belief.accessibleName()
    while made._now().code != "no-supply":
        qtbot.mouseClick(made.stage.other, LEFT)
    assert made.stage.headline.text().startswith("Put its supply in")
    qtbot.mouseClick(made.stage.rows.keys[1], LEFT)  # still no answer
    assert made._now().code != "no-supply"
    qtbot.mouseClick(made.stage.back[-1], LEFT)
    assert "no-supply" in [one.code for one in made._diagnosis().advice().causes[:8]]
    for _ in range(30):
        if made._now().needs:
            break
        made._pass()
    needs = made._now().needs
    made.show()
    assert needs and made.stage.lacking.isVisible() and needs[0] in made.stage.lacking.text()
    qtbot.mouseClick(made.stage.lacking, LEFT)
    assert not any(set(act.needs) & set(needs) for act in made._diagnosis().advice().acts if act.is_check)


def test_it_is_entered_by_one_key_and_from_the_header(window: Window, qtbot: QtBot, catalog: Catalog) -> None:
    opened(window, new_link("gauge-logger", ["usb-rs232"], "sim://bench/gauge-logger", catalog))
    window.open_rail(None)
    assert window.current is not Stage.DIAGNOSE and not window.belief.isVisible()
    qtbot.mouseClick(window.header.wrong, LEFT)
    assert window.current is Stage.DIAGNOSE and window.belief.isVisible() and window.line.isVisible()
    window.open_rail(None)
    key = window.rail._buttons[Stage.DIAGNOSE]
    assert key.shortcut().toString() == "F11"
    qtbot.mouseClick(key, LEFT)
    assert window.current is Stage.DIAGNOSE


def test_without_a_link_it_says_so(window: Window) -> None:
    window.open_rail(Stage.DIAGNOSE)
    assert desk(window, Stage.DIAGNOSE).stage.headline.text() == "No link is on the line"


def test_the_sheet_for_the_support(window: Window, qtbot: QtBot, catalog: Catalog, tmp_path: Path) -> None:
    made = opened(window, new_link("gauge-logger", ["usb-rs232"], "sim://bench/gauge-logger", catalog))
    diagnosis = made._diagnosis()
    diagnosis.seen("power-lamp", "lit")
    path = tmp_path / "e.pdf"
    write_evidence(evidence_sheet(made.link().document.link, diagnosis.done(), diagnosis.advice()), path)
    text = subprocess.run(["pdftotext", str(path), "-"], capture_output=True, text=True, check=True).stdout
    assert "It does not work" in text and "it is lit" in text and "sim://" not in text


def test_what_one_sees_is_said_in_words_of_ones_own(window: Window, qtbot: QtBot, catalog: Catalog) -> None:
    made = opened(window, new_link("gauge-logger", ["usb-rs232", "crossed-de9-3wire"], "sim://bench/gauge-logger", catalog))
    assert made.stage.words.isVisible()
    made.stage.words.setText("no LED is lit, all dark")
    wanted = next(meaning for meaning in made.stage.meanings if "All is dark" in meaning.text())
    qtbot.mouseClick(wanted, LEFT)
    assert made._diagnosis().advice().causes[0].code == "no-supply"
    assert not made.stage.meanings and not made.stage.words.text()


def test_a_check_that_sends_is_armed_to_see_and_ends_at_once(window: Window, qtbot: QtBot, clock: VirtualTime) -> None:
    with far_end() as far:
        ends, settings = (LinkPort(port="dte-de9"), LinkPort(port="dce-de9")), LinkSettings(computer="9600,8N1")
        made = opened(window, LinkModel("link/1", *ends, settings=settings, address=far.address))
        link = made.link()
        link.listen()
        link.arm()
        link.say("VER?", Terminator.CR)
        qtbot.waitUntil(lambda: [link.poll(), link.evidence.silence is not None][1], timeout=20_000)
        link.live.disarm()
        before = bytes(far.received)
        window.refresh()
        while made._now().code != "other-rates":
            qtbot.mouseClick(made.stage.other, LEFT)
        qtbot.mouseClick(made.stage.run, LEFT)
        assert "it sends" in made.stage.reason.text().lower() and not window.work.authority.now().may_send
        clock.pass_s(0.3)
        assert bytes(far.received) == before, "the first press says what is sent, and sends nothing"
        qtbot.mouseClick(made.stage.run, LEFT)
        assert (
            window.work.authority.now().may_send
            and "Armed" in window.foot.state.text()
            and made.stage.headline.text().startswith("Under way")
        )
        qtbot.waitUntil(lambda: len(far.received) > len(before), timeout=10_000)
        window.escape()
        qtbot.waitUntil(lambda: made._run is None, timeout=10_000)
        after = bytes(far.received)
        clock.pass_s(1.5)
        assert bytes(far.received) == after and window.foot.state.text() == "Listening only"
