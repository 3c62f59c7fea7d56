"""A search in pictures and words, for each way in which it can end."""

import msgspec
import pytest

from humble_courier.app.link.changes import new_link
from humble_courier.app.link.evidence import Evidence
from humble_courier.app.link.proof import make_proof
from humble_courier.app.talk.device_search import find, finder, search, wanted_here
from humble_courier.app.talk.search_space import cells, counted, rows_of, spoken, told
from humble_courier.catalog.links import resolve_link
from humble_courier.catalog.load import Catalog
from humble_courier.domain.received import Heard
from humble_courier.domain.settings import Settings
from humble_courier.errors import BadInput, MachineRefused, Refusal
from humble_courier.procedures.device_search.search import DeviceSearch
from humble_courier.procedures.device_search.several import Searches
from humble_courier.procedures.steps import Outcome
from tests.trials.ptys import far_end

CATALOG = Catalog()


def answered(machine: DeviceSearch, words: bytes) -> None:
    """Silent until the first question; from then on the same answer to everything."""
    while (step := machine.next()) is not None:
        said = words if step.say else b""
        machine.done(step, Outcome([(0.1, Heard(byte)) for byte in said], 0.5))


def test_one_that_is_found() -> None:
    wanted = search(["p"], CATALOG, CATALOG.device("bench-meter"), armed=True)
    machine = finder(wanted)
    answered(machine, b"SKERROW WORKSHOP,BENCH METER,1042,2.0\n")
    headline, reason = told(Searches([machine]), running=False)
    assert headline == "Found: 9600 8N1, ends with LF" and "BENCH METER" in reason and "8N2" in reason
    marked = [cell for cell in cells(wanted.spaces, Searches([machine])) if cell.found]
    assert [(cell.rate, cell.row) for cell in marked] == [(9600, "text, 7 or 8 bits")]
    assert not any(cell.now for cell in cells(wanted.spaces, Searches([machine])))


def test_one_that_stays_silent_excludes_everything() -> None:
    wanted = search(["p", "q"], CATALOG, CATALOG.device("bench-meter"), armed=True)
    machine = finder(wanted)
    answered(machine, b"")
    headline, reason = told(Searches([machine]), running=False)
    assert headline == "Not found" and reason.count("opens, and nothing answers") == 2
    assert sum(cell.left for cell in cells(wanted.spaces, Searches([machine]))) == 0 == machine.left


def test_ports_that_refuse_are_named() -> None:
    machine = finder(search(["/dev/a", "/dev/b"], CATALOG, armed=True))
    for code in (Refusal.ABSENT, Refusal.NO_PERMISSION):
        step = machine.next()
        assert step is not None
        machine.done(step, Outcome(refusal=MachineRefused("said in any words", code=code)))
    assert machine.next() is None
    _, reason = told(Searches([machine]), running=False)
    assert "/dev/a: there is no such port" in reason and "/dev/b: cannot be opened" in reason


def test_one_that_runs_shows_where_it_is() -> None:
    wanted = search(["p"], CATALOG, armed=True, worked=[Settings.parse("300,8N1")])
    machine = finder(wanted)
    for _ in range(4):
        step = machine.next()
        assert step is not None
        machine.done(step, Outcome(seconds=0.5))
    now = [cell for cell in cells(wanted.spaces, Searches([machine])) if cell.now]
    assert {cell.rate for cell in now} == {machine.tried[-1].settings.rate}
    headline, reason = told(Searches([machine]), running=True)
    assert headline.startswith("Searching: ") and "nine in ten devices within" in reason and reason.startswith("Now ")
    rows = {row for trial in wanted.spaces[0].trials for row in rows_of(trial)}
    assert rows == {cell.row for cell in cells(wanted.spaces, None)}
    assert machine.tried[1].settings.rate == 300, "what worked before goes first"


@pytest.mark.parametrize(("seconds", "text"), [(1.4, "1 s"), (119, "119 s"), (180, "3 min"), (9000, "2.5 h")])
def test_times_for_people(seconds: float, text: str) -> None:
    assert spoken(seconds) == text and counted(1, "trial") == "1 trial" and counted(2, "trial") == "2 trials"


def test_what_the_window_asks_for(catalog: Catalog) -> None:
    """The link's own port with its bench behind it, other words as they stand, and what worked here goes first."""
    model = new_link("gauge-logger", ["usb-rs232", "crossed-de9-3wire"], "sim://bench/gauge-logger", catalog)
    link = resolve_link(model, catalog)
    proof = make_proof(link, Evidence(), [], [], at=0.0)
    wanted = wanted_here(link, "sim://bench/gauge-logger  /dev/ttyUSB7", catalog, False, True, [proof])
    own, other = wanted.known.addresses
    assert "link=" in own and other == "/dev/ttyUSB7"
    assert Settings.parse(proof.computer_settings) in [settings for settings, _ in wanted.known.likely]
    assert wanted.known.armed and wanted.sheet is None
    assert wanted_here(link, "p", catalog, True, False).sheet is link.sheet
    with pytest.raises(BadInput, match="name one port"):
        wanted_here(link, "  ", catalog, True, False)


def test_a_search_is_laid_out_once() -> None:
    wanted = search(["p"], CATALOG, armed=True)
    assert not wanted.laid_out and wanted.lay_out() is wanted and wanted.laid_out
    assert wanted.spaces is wanted.spaces


def test_an_end_of_lines_that_the_sheet_has_wrong_is_found_all_the_same() -> None:
    sheet = msgspec.structs.replace(CATALOG.device("mesh-module"), end="cr")
    _, what = find(search(["sim://bench/mesh-module?power=on&pace=5"], CATALOG, sheet, armed=True))
    assert what is not None and what.end == "LF" and what.settings.rate == 38400


def test_an_unarmed_search_that_hears_nothing_says_how_to_go_on() -> None:
    found, what = find(search(["sim://bench/mesh-module?power=on&pace=5"], CATALOG, None))
    assert what is None and told(found, running=False)[0] == "Nothing speaks by itself"
    assert "Allow sending" in told(found, running=False)[1]


def test_words_of_ones_own_find_a_device_that_answers_nothing_else() -> None:
    """A servo whose words begin with its address, in no sheet, on a pty that takes any settings."""
    with far_end(lambda data: b"04 V2.1\r\n" if b"04 VER\r" in data else b"") as there:
        wanted = search([there.address], CATALOG, armed=True, say="{unit:02} VER", rates=(9600,))
        assert "“01 VER”" in wanted.says and "and 28 more" in wanted.says and "only you know" in wanted.says
        _, what = find(wanted)
    assert what is not None and "V2.1" in what.identity
    with pytest.raises(BadInput, match="stands for an address"):
        search([there.address], CATALOG, say="{nobody}")
