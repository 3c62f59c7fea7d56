"""The rows of the simulated bench: what faults do to checks, and that real time gives the same."""

from dataclasses import replace
from functools import cache

import pytest
import serial

from humble_courier import simulator
from humble_courier.app.port.opening import open_lines
from humble_courier.diagnose.asking import OwnCheck
from humble_courier.diagnose.bench_link import BenchLink
from humble_courier.diagnose.model import HEALTHY, Rows
from humble_courier.diagnose.rows import BEFORE_THE_LINE, tried_once
from humble_courier.domain.clock import ManualClock
from humble_courier.port.permit import Permit
from humble_courier.procedures.runner import Runner
from tests.diagnose.links import CATALOG, link_to, rows_for, unknown_device

DEVICES = ("gauge-logger", "scpi-instrument-handshake", "board-console", "modbus-rtu-rs485", "mesh-module")
rows = cache(rows_for)


def likeliest(table: Rows, check: str, cause: str) -> str:
    return max(table[check][cause], key=lambda outcome: table[check][cause][outcome])


@pytest.mark.parametrize("device", DEVICES)
def test_a_healthy_link_answers_and_each_share_is_one(device: str) -> None:
    table = rows(device)
    assert table["ask"][HEALTHY] == {"answer": 1.0} and table["wait"][HEALTHY] == {"answer": 1.0}
    assert all(abs(sum(shares.values()) - 1) < 1e-9 for row in table.values() for shares in row.values())
    assert all(set(shares) <= set(CATALOG.checks[check].outcomes) for check, row in table.items() for shares in row.values())


def test_each_fault_that_the_bench_makes_acts_on_one_of_these_links() -> None:
    acts = {
        cause
        for device in DEVICES
        for row in rows(device).values()
        for cause, shares in row.items()
        if shares != row[HEALTHY]
    }
    made = {id_ for id_, cause in CATALOG.causes.items() if cause.fault and cause.fault not in BEFORE_THE_LINE}
    # A device that lives on its lines is asked with these low only where its sheet wants them low; an echo is no answer.
    assert made - acts <= {"echo-off", "line-powered", "handshake-set", "other-bus-rate"}


@pytest.mark.parametrize(
    ("check", "cause", "outcome"),
    [
        ("ask", "no-supply", "nothing"), ("ask", "terminator", "part"), ("other-endings", "terminator", "answer"),
        ("other-endings", "frame", "nothing"), ("other-frames", "frame", "answer"), ("other-frames", "rate", "nothing"),
        ("other-rates", "rate", "answer"), ("other-rates", "not-stored", "answer"), ("wait", "slow-answer", "answer"),
        ("power-cycle", "rate", "garbled"), ("power-cycle", "no-supply", "nothing"),
        ("power-cycle", "broken-transmit", "clean"), ("listen", "chatters", "clean"),
    ],
)  # fmt: skip
def test_what_a_technician_would_see_at_a_logger(check: str, cause: str, outcome: str) -> None:
    table = rows("gauge-logger")
    if cause in table[check]:
        assert likeliest(table, check, cause) == outcome


def test_handshake_off_tells_a_handshake_that_does_not_come() -> None:
    table = rows("scpi-instrument-handshake")
    assert likeliest(table, "handshake-off", "stalls") == "works" != likeliest(table, "ask", "stalls")
    assert likeliest(table, "handshake-off", "no-supply") == "same"


def test_who_only_hears_and_who_is_in_no_sheet_has_no_rows() -> None:
    assert rows("nmea-listener") == {}
    assert not BenchLink(unknown_device(), CATALOG).simulated


CELLS = {
    "mesh-module": [
        ("", "ask"), ("", "listen"), ("wrong-end", "ask"), ("wrong-end", "other-endings"), ("seven-bits", "ask"),
        ("seven-bits", "other-frames"), ("mute", "ask"), ("no-power", "wait"),
    ],
    "gauge-logger": [("", "ask"), ("wrong-rate", "other-rates"), ("no-power", "ask")],
    "modbus-rtu-rs485": [("", "ask"), ("mute", "ask"), ("no-power", "listen")],
}  # fmt: skip


@pytest.mark.parametrize(
    ("device", "fault", "check"), [(device, *cell) for device, cells in CELLS.items() for cell in cells]
)
def test_the_same_comes_by_the_road_to_a_simulated_port(device: str, fault: str, check: str) -> None:
    """A sample of cells against pyserial's road to the simulator."""
    simulator.install()
    assert serial.protocol_handler_packages
    link = link_to(device)
    bench, lines = BenchLink(link, CATALOG), open_lines(link.sheet)
    address = f"sim://bench/{device}?power=on" + (f"&fault={fault}" if fault else "")
    procedure = OwnCheck(replace(bench.asking, address=address), check)
    Runner(lambda _: lines, ManualClock(1000.0), permit=Permit("a sample of the test")).run(procedure)
    assert procedure.outcome == tried_once(bench, fault, check, lines)
