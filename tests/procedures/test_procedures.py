"""Loop-back, latency and endurance on simulated plugs and adapters, in virtual time."""

import contextlib
import os
import pty
import tty
from dataclasses import replace
from threading import Event, Thread

import pytest

from humble_courier import simulator
from humble_courier.domain.clock import ManualClock
from humble_courier.domain.received import Doubt, Heard
from humble_courier.domain.settings import Settings
from humble_courier.port.permit import Permit
from humble_courier.procedures.endurance import Endurance
from humble_courier.procedures.latency import Latency, WaitFit, judged
from humble_courier.procedures.loopback import LoopBack, LoopVerdict
from humble_courier.procedures.runner import Runner
from humble_courier.procedures.wake import wake
from humble_courier.protocols.iso14230 import RATE, FastStart
from humble_courier.protocols.kline_units import StoredTrouble, UnitRound, changed, code_of
from humble_courier.simulator.bench import Bench, Wires
from humble_courier.simulator.devices.behaviour import UnitOfKLine
from humble_courier.simulator.devices.device import Device
from humble_courier.simulator.devices.kline import KLineUnits
from tests.procedures.virtual import VirtualPort


def timed(clock: ManualClock) -> Runner:
    """A runner whose simulated ports live on a clock that moves only when somebody waits."""
    simulator.install()
    return Runner(clock=clock, permit=Permit("the words of a test"))


@pytest.mark.parametrize(
    ("address", "verdict", "rts_cts"),
    [
        ("sim://bench/loop-back", LoopVerdict.PROVEN, True),
        ("sim://bench/loop-back?fault=loses-large", LoopVerdict.ERRORS, True),
        ("sim://bench/mesh-module?power=on", LoopVerdict.NOTHING, False),
        ("/dev/ttyNONE", LoopVerdict.REFUSED, None),
    ],
)
def test_loop_back(address: str, verdict: LoopVerdict, rts_cts: bool | None) -> None:
    proof = LoopBack(address)
    timed(ManualClock(50.0)).run(proof)
    assert proof.verdict is verdict and proof.pairs["rts_cts"] is rts_cts
    if verdict is LoopVerdict.PROVEN:
        assert [(r.settings.rate, r.errors) for r in proof.results] == [(9600, 0), (115200, 0)]
        assert proof.pairs == {"rts_cts": True, "dtr_dsr": True, "dtr_dcd": True}
    if verdict is LoopVerdict.NOTHING:
        assert len(proof.results) == 1, "further rates would tell nothing"


@pytest.mark.parametrize(("text", "characters"), [(b"U", 1), (b"HELLO WORLD", 1)])
def test_no_round_trip_is_quicker_than_the_line(text: bytes, characters: int) -> None:
    """A plug hands the first character back while the next one is sent: none comes before one has been."""
    machine = Latency("sim://bench/loop-back", Settings(9600), text, times=12)
    Runner(permit=Permit("a test")).run(machine)
    assert machine.line_ms == pytest.approx(characters * 10 / 9.6) and min(machine.ms) >= machine.line_ms


def test_an_answer_takes_all_words_and_one_character_at_least() -> None:
    machine = Latency("sim://bench/gauge-logger?power=on", Settings.parse("1200,7E1"), b"ID\r\n", times=4)
    Runner(permit=Permit("a test")).run(machine)
    assert machine.line_ms == pytest.approx(5 * 10 / 1.2) and min(machine.ms) >= machine.line_ms


@pytest.mark.parametrize(("latency", "expected"), [("0", 0.26), ("16", 16.2), ("100", 100.2)])
def test_round_trips(latency: str, expected: float) -> None:
    """One character there (0.09 ms at 115 200), and back after the adapter's timer."""
    machine = Latency(f"sim://bench/loop-back?latency={latency}", Settings(115200), times=20)
    timed(ManualClock(50.0)).run(machine)
    figures = machine.figures()
    assert figures is not None and figures["p50"] == pytest.approx(expected, abs=0.2) and machine.missed == 0
    fits = {g.protocol: g.verdict for g in machine.good_for([("slow", 1000.0), ("quick", 10.0)])}
    assert fits == {"slow": WaitFit.GOOD, "quick": WaitFit.GOOD if latency == "0" else WaitFit.FAILS}


def test_words_for_a_fit_carry_their_numbers() -> None:
    told = {"p50": 15.0, "p95": 18.0, "max": 24.0}
    assert [judged("x", ms, told).verdict for ms in (36, 35, 18, 17)] == [
        WaitFit.GOOD,
        WaitFit.MARGINAL,
        WaitFit.MARGINAL,
        WaitFit.FAILS,
    ]
    assert "18.0" in judged("x", 17, told).why and "17" in judged("x", 17, told).why


def test_nobody_answers_a_round_trip() -> None:
    machine = Latency("sim://bench/mesh-module?power=on", Settings(9600))
    timed(ManualClock(50.0)).run(machine)
    assert machine.figures() is None and machine.missed == 5


@pytest.mark.parametrize(
    ("address", "code"),
    [
        ("sim://bench/loop-back", "whole"),
        ("sim://bench/loop-back?fault=loses-large", "cut-at"),
        ("sim://bench/mesh-module?power=on", "nothing"),
        ("/dev/ttyNONE", "refused"),
    ],
)
def test_a_long_transfer(address: str, code: str) -> None:
    machine = Endurance(address, Settings(115200), 4096)
    timed(ManualClock(50.0)).run(machine)
    assert machine.verdict[0] == code
    assert ("512 bytes" in machine.verdict[1]) is (code == "cut-at")


class KLine(Device):
    """A controller on one wire that begins when it was woken, or refuses."""

    def __init__(self, answer: bytes) -> None:
        super().__init__()
        self._answer, self._heard, self._woken = answer, bytearray(), False

    def hear(self, t: float, heard: Heard) -> None:
        if heard.doubt is Doubt.BREAK:
            self._woken = True
            self._heard.clear()
            return
        self._heard.append(heard.byte)
        if self._woken and self._heard == bytes.fromhex("C133F18166"):
            self.outbox.put(t + 0.03, self._answer)


@pytest.mark.parametrize(
    ("answer", "keys", "refused"),
    [("83F111C1EF8FC4", (0xEF, 0x8F), False), ("83F1117F811095", None, True), ("", None, False)],
)
def test_a_controller_is_woken_on_one_wire(answer: str, keys: tuple[int, int] | None, refused: bool) -> None:
    """ISO 14230-2, 5.2.4: break of 25 ms, request, answer; on a K-line our own words come back first."""
    clock, at = ManualClock(100.0), Settings(RATE)
    wires = replace(Wires.ideal(), echo=True)
    bench = Bench(KLine(bytes.fromhex(answer)), at, wires, {}, 0.0)
    port, start = VirtualPort(bench, clock, "k"), FastStart()
    port.set(at)
    wake(port, start, clock, Permit("the wake-up"))  # type: ignore[arg-type]
    assert start.keys == keys and bool(start.refusal) is refused


UNITS = (
    UnitOfKLine(address=0x10, identity="ENGINE 4.2", troubles=["012360", "C15524"]),
    UnitOfKLine(address=0x28, identity="BRAKES 7", troubles=None),
    UnitOfKLine(address=0x40, identity="\x01\x02", troubles=[]),
)


def test_all_control_units_are_listed_and_let_go() -> None:
    """Who is there wakes, says who it is, tells its troubles or that it does not; its session is kept alive, and ended."""
    clock, at = ManualClock(100.0), Settings(RATE)
    device = KLineUnits(UNITS, 0.03)
    bench = Bench(device, at, replace(Wires.ideal(), echo=True), {}, 0.0)
    port, going = VirtualPort(bench, clock, "k"), UnitRound((0x10, 0x11, 0x28, 0x40), hold_s=6.0)
    port.set(at)
    wake(port, going, clock, Permit("the round"))  # type: ignore[arg-type]
    engine, brakes, body = going.units
    assert engine.identity == "ENGINE 4.2" and engine.troubles == (
        StoredTrouble("P0123", 0x60),
        StoredTrouble("U0155", 0x24),
    )
    assert brakes.troubles is None and "code 11" in brakes.refused[0]
    assert body.identity == "01 02" and body.troubles == () and [u.kept_alive for u in going.units] == [3, 3, 3]
    assert not device._awake
    after = [replace(engine, troubles=(StoredTrouble("P0300", 0x20),)), brakes, body]
    assert changed(going.units, after) == (["10 P0300"], ["10 P0123", "10 U0155"])


@pytest.mark.parametrize(("octets", "code"), [("0123", "P0123"), ("4123", "C0123"), ("9234", "B1234"), ("E100", "U2100")])
def test_codes_are_printed_as_manuals_print_them(octets: str, code: str) -> None:
    """ISO 15031-6, from memory: two bits of letter, two bits of digit, three hexadecimal digits."""
    assert code_of(*bytes.fromhex(octets)) == code


def test_a_port_without_modem_lines_is_proven_for_data_and_says_so() -> None:
    """A pty whose far end hands everything back: it has no DTR and no RTS, and that is no lost port."""
    master, slave = pty.openpty()
    tty.setraw(slave)
    os.set_blocking(master, False)
    over = Event()

    def hand_back() -> None:
        while not over.wait(0.002):
            with contextlib.suppress(BlockingIOError):
                os.write(master, os.read(master, 4096))

    far = Thread(target=hand_back)
    far.start()
    proof = LoopBack(os.ttyname(slave), (115200,))
    Runner(permit=Permit("a plug")).run(proof)
    over.set()
    far.join()
    os.close(master)
    os.close(slave)
    assert proof.verdict is LoopVerdict.DATA_ONLY and not proof.refused and set(proof.pairs.values()) == {None}
