"""A search in pictures and words, for each way in which it can end."""

import pytest

from humble_courier.app.talk.device_search import finder, search
from humble_courier.app.talk.search_space import cells, counted, row_of, spoken, told
from humble_courier.catalog.load import Catalog
from humble_courier.domain.received import Heard
from humble_courier.domain.settings import Settings
from humble_courier.errors import MachineRefused, Refusal
from humble_courier.procedures.device_search.search import DeviceSearch
from humble_courier.procedures.steps import Outcome

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
    headline, reason = told(machine, running=False)
    assert headline == "Found: 9600 8N1" and "BENCH METER" in reason and "8N2" in reason
    marked = [cell for cell in cells(wanted.spaces, machine) if cell.found]
    assert [(cell.rate, cell.row) for cell in marked] == [(9600, "7 and 8 bits, any end")]
    assert not any(cell.now for cell in cells(wanted.spaces, machine))


def test_one_that_stays_silent_excludes_everything() -> None:
    wanted = search(["p", "q"], CATALOG, CATALOG.device("bench-meter"), armed=True)
    machine = finder(wanted)
    answered(machine, b"")
    headline, reason = told(machine, running=False)
    assert headline == "Not found" and reason.count("opens, and nothing answers") == 2
    assert sum(cell.left for cell in cells(wanted.spaces, machine)) == 0 == machine.left


def test_ports_that_refuse_are_named() -> None:
    machine = finder(search(["/dev/a", "/dev/b"], CATALOG, armed=True))
    for code in (Refusal.ABSENT, Refusal.NO_PERMISSION):
        step = machine.next()
        assert step is not None
        machine.done(step, Outcome(refusal=MachineRefused("said in any words", code=code)))
    assert machine.next() is None
    _, reason = told(machine, running=False)
    assert "/dev/a: there is no such port" in reason and "/dev/b: cannot be opened" in reason


def test_one_that_runs_shows_where_it_is() -> None:
    wanted = search(["p"], CATALOG, armed=True, worked=[Settings.parse("300,8N1")])
    machine = finder(wanted)
    for _ in range(4):
        step = machine.next()
        assert step is not None
        machine.done(step, Outcome(seconds=0.5))
    now = [cell for cell in cells(wanted.spaces, machine) if cell.now]
    assert {cell.rate for cell in now} == {machine.tried[-1].settings.rate}
    assert told(machine, running=True)[0].startswith("Searching: ") and "min left" in told(machine, running=True)[1]
    assert {row_of(trial) for trial in wanted.spaces[0].trials} == {cell.row for cell in cells(wanted.spaces, None)}
    assert machine.tried[1].settings.rate == 300, "what worked before goes first"


@pytest.mark.parametrize(("seconds", "text"), [(1.4, "1 s"), (119, "119 s"), (180, "3 min"), (9000, "2.5 h")])
def test_times_for_people(seconds: float, text: str) -> None:
    assert spoken(seconds) == text and counted(1, "trial") == "1 trial" and counted(2, "trial") == "2 trials"
