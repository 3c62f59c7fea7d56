"""Finding silent devices, in virtual time: the valley's by their sheets, random ones without, and none at all."""

from collections.abc import Callable
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from humble_courier.app.talk.device_search import finder, of_protocol, search
from humble_courier.catalog.load import Catalog
from humble_courier.domain.clock import ManualClock
from humble_courier.domain.settings import Frame, Parity, Settings
from humble_courier.errors import BadInput
from humble_courier.line.rates import FRAME_PRIORS, RATE_PARTS
from humble_courier.line.uart import hear
from humble_courier.procedures.device_search.found import SearchEnd
from humble_courier.procedures.device_search.plan import Known, Words, exhaustive, space
from humble_courier.procedures.device_search.probes import (
    SHARED,
    burst,
    echoed,
    frames_of,
    frames_of_echo,
    in_dialect,
    without_echo,
)
from humble_courier.procedures.device_search.search import DeviceSearch
from humble_courier.procedures.steps import Outcome, Step
from humble_courier.protocols.modbus_rtu import SPEC as MODBUS_RTU
from humble_courier.protocols.modbus_rtu import alike, sound
from humble_courier.simulator.bench import Wires
from humble_courier.simulator.devices.behaviour import Behaviour
from humble_courier.simulator.devices.device import Device, silent
from humble_courier.simulator.devices.make import device
from humble_courier.simulator.devices.text import TextDevice
from humble_courier.simulator.devices.units import ModbusUnits
from tests.procedures.populations import MET, MIXED, PAIR_ONLY, Kind, LineDevice, Silent
from tests.procedures.virtual import drawn, runner

UNITS = of_protocol(MODBUS_RTU, 1, 247)[0]

CATALOG = Catalog()
RATES = (300, 600, 1200, 2400, 4800, 9600, 14400, 19200, 28800, 38400, 57600, 115200, 230400)
FRAMES = ("8N1", "7E1", "7O1", "8E1", "8O1", "8N2", "7N2")


@pytest.mark.parametrize(
    ("id_", "settings", "identity"),
    [
        ("gauge-logger", "1200,7E1", "SKW-GH-07"),
        ("gauge-logger", "9600,7E1", "SKW-GH-07"),  # another position of its switch bank
        ("bench-meter", "9600,8N1", "BENCH METER"),
        ("mesh-module", "38400,8E1", "M0311"),
        ("mesh-module", "9600,8N1", "M0311"),  # somebody stored something else
        ("chart-recorder", "2400,7E1", "CHART 31"),  # revision A
        ("bridge-controller", "4800,8N1", "CLOSED"),
        ("data-concentrator", "115200,8N1", "192.168.4.1"),
        ("wind-sensor", "4800,8N1", "$WIMWV"),
        ("snow-pillow", "19200,8E1", "unit 1"),
    ],
)
def test_devices_of_the_valley_are_found_by_their_sheets(id_: str, settings: str, identity: str) -> None:
    at, clock = Settings.parse(settings), ManualClock(1000.0)
    machine = finder(search(["p"], CATALOG, CATALOG.device(id_), armed=True))
    runner({"p": (device(id_, at), at)}, clock).run(machine)
    found = machine.found
    assert found is not None and identity in found.identity and found.settings.rate == at.rate
    assert str(at.frame) in {str(found.settings.frame), *found.equivalent}
    assert clock.now() - 1000 < 30 and machine.ends["p"][0] is SearchEnd.FOUND


@pytest.mark.parametrize("full_duplex", [True, False])
def test_random_devices_are_found_with_the_right_settings_in_a_fifth_of_the_time(full_duplex: bool) -> None:
    random = np.random.default_rng(11)
    frames = np.array([FRAME_PRIORS[f] for f in FRAMES])
    rates = np.array([RATE_PARTS.get(r, 1) for r in RATES], float)

    def shares() -> tuple[int, str]:
        return int(random.choice(RATES, p=rates / rates.sum())), str(random.choice(FRAMES, p=frames / frames.sum()))

    seconds = in_order = 0.0
    for _ in range(14):
        one = drawn(random, shares)
        known = Known(("p",), words=(Words(b"*IDN?"), UNITS), armed=True, units=(1, 10), full_duplex=full_duplex)
        machine = DeviceSearch(known)
        clock = ManualClock(1000.0)
        runner({"p": (one.device, one.settings)}, clock, one_pair=not full_duplex).run(machine)
        found = machine.found
        assert found is not None and found.settings.rate == one.settings.rate, one
        assert str(one.settings.frame) in {str(found.settings.frame), *found.equivalent} and found.unit == one.unit
        words = UNITS if one.kind == "modbus" else Words(b"*IDN?")
        seconds += clock.now() - 1000.0
        in_order += exhaustive(known, one.settings, words, one.unit)[1]
    assert seconds * 5 < in_order


@pytest.mark.parametrize("full_duplex", [True, False])
@pytest.mark.parametrize("draw", [MET, MIXED, PAIR_ONLY])
def test_silent_devices_of_each_population_are_found(draw: Callable[..., Silent], full_duplex: bool) -> None:
    """Units that think long, are mute to a function or forget; lines with strict ends, echo, prompts, rubbish before."""
    random, rates = np.random.default_rng(23), (2400, 9600, 19200, 115200)
    for _ in range(7):
        one = draw(random, rates)
        known = Known(("p",), words=(Words(b"*IDN?"), UNITS), armed=True, rates=rates, full_duplex=full_duplex)
        machine = DeviceSearch(known)
        runner({"p": (one.device, one.settings)}, ManualClock(1000.0), one_pair=not full_duplex).run(machine)
        found = machine.found
        assert found is not None and (found.settings.rate, found.unit) == (one.settings.rate, one.unit), one
        assert str(one.settings.frame) in {str(found.settings.frame), *found.equivalent}
        assert not one.ends or found.end in one.ends, one


@pytest.mark.parametrize("draw", [MIXED, PAIR_ONLY])
def test_text_devices_are_found_at_any_rate_and_frame_and_their_end_is_named(draw: Callable[..., Silent]) -> None:
    random, rates = np.random.default_rng(77), (300, 600, 1200, 2400, 4800, 9600, 19200, 38400, 57600, 115200)
    for i, frame in enumerate(("7E1", "7O1", "8E1", "8N2", "8N1")):
        one, at = draw(random, rates), Settings(int(random.choice(rates)), Frame.parse(frame))
        known = Known(("p",), words=(Words(b"*IDN?"),), armed=True, rates=rates, full_duplex=bool(i % 2))
        machine = DeviceSearch(known)
        runner({"p": (one.device, at)}, ManualClock(1000.0), one_pair=not i % 2).run(machine)
        found = machine.found
        assert found is not None and found.settings.rate == at.rate, (one, at)
        assert frame in {str(found.settings.frame), *found.equivalent}
        assert not one.ends or found.end in one.ends, one


# Text devices that answer late, line after line, with prompts and echoes: an empty line
# brings the prompt alone, and the answer to the words follows as long after it again.
SLOW_LINES = {
    "9600,8E1": Kind("lf", True, True, b"> ", b"", True, 0.274, 2.0),
    "2400,8E1": Kind("lf", True, True, b"> ", b"ERR 04 UNKNOWN\r\n", True, 0.239, np.inf),
    "9600,8N1": Kind("cr", True, False, b"> ", b"", True, 0.371, 2.0),
}


@pytest.mark.parametrize("at", SLOW_LINES)
def test_late_answers_belong_to_the_question_before_them(at: str) -> None:
    clock, settings, kind = ManualClock(1000.0), Settings.parse(at), SLOW_LINES[at]
    machine = DeviceSearch(Known(("p",), words=(Words(b"*IDN?"),), armed=True, full_duplex=True))
    runner({"p": (LineDevice(kind, b"YuNfJ)^/^"), settings)}, clock, deaf_beyond=12.0).run(machine)
    found = machine.found
    assert found is not None and (found.settings, found.protocol) == (settings, "text")
    assert found.end in ({kind.end.upper()} if kind.strict else {"CR", "CR LF"})
    assert "SKERROW WORKSHOP" in found.identity


@pytest.mark.parametrize("at", ["9600,8N1", "19200,8E1"])
def test_a_device_that_only_echoes_is_found_as_such_and_a_loop_is_not(at: str) -> None:
    """It knows none of our words: its rate is known once all is tried; a plug echoes at each rate."""
    settings, words = Settings.parse(at), (Words(b"*IDN?"),)
    known = Known(("p",), words=words, rates=(2400, 9600, 19200), armed=True, full_duplex=True)
    how = Behaviour(protocol="text", source="a test", end="cr", echo=True)
    machine = DeviceSearch(known)
    runner({"p": (TextDevice(how, settings), settings)}, ManualClock(1000.0)).run(machine)
    assert machine.found is not None and "echoes" in machine.found.identity
    assert machine.found.settings.rate == settings.rate
    loop = DeviceSearch(known)
    runner({"p": (silent(), settings)}, ManualClock(1000.0), Wires.loop()).run(loop)
    assert loop.found is None


@pytest.mark.parametrize("full_duplex", [True, False])
def test_each_belief_stands_in_the_plan_once(full_duplex: bool) -> None:
    """The units' beliefs sum to what is believed of units at a rate: nothing is lost or counted twice."""
    known = Known(("p",), words=(Words(b"ID"), UNITS), rates=(9600,), armed=True, full_duplex=full_duplex)
    trials = space(known, "p").trials
    assert sum(trial.unit_prior for trial in trials) == pytest.approx(1.0, abs=0.01)
    reached = {unit for trial in trials for unit in trial.units}
    assert reached == set(range(1, 248))


def test_a_gateway_proves_the_settings_and_the_unit_behind_it_is_looked_for() -> None:
    """Exceptions 0A and 0B are the gateway's (Application Protocol V1.1b3, 7): only unit 30 is really there."""

    class Gateway(ModbusUnits):
        def _answer(self, frame: bytes, registers: list[int]) -> bytes:
            return super()._answer(frame, registers) if frame[0] == 30 else bytes((frame[0], frame[1] | 0x80, 0x0B))

    at = Settings.parse("19200,8E1")
    how = Behaviour(protocol="modbus-rtu", source="invented", units=list(range(1, 248)), registers=[5], think_s=0.01)
    machine = finder(search(["p"], CATALOG, armed=True, probe="modbus-rtu", rates=[19200]))
    runner({"p": (Gateway(how, at), at)}, ManualClock(1000.0)).run(machine)
    assert machine.found is not None and (machine.found.unit, machine.found.settings) == (30, at)


def test_a_gateway_with_nobody_behind_it_still_proves_rate_and_frame() -> None:
    class Alone(ModbusUnits):
        @staticmethod
        def _answer(frame: bytes, registers: list[int]) -> bytes:
            return bytes((frame[0], frame[1] | 0x80, 0x0A))

    at = Settings.parse("9600,8N1")
    how = Behaviour(protocol="modbus-rtu", source="invented", units=list(range(1, 248)), registers=[5], think_s=0.01)
    machine = finder(search(["p"], CATALOG, armed=True, probe="modbus-rtu", rates=[9600]))
    runner({"p": (Alone(how, at), at)}, ManualClock(1000.0)).run(machine)
    found = machine.found
    assert found is not None and (found.unit, found.settings) == (None, at) and "no unit behind it" in found.identity


@pytest.mark.parametrize("unit", range(1, 248))
def test_a_request_whose_parity_is_always_one(unit: int) -> None:
    """Read by the UART simulator at the parity of the unit's address and at none, from an opening with two stop bits."""
    request = alike(unit)
    for frame in ("8E1" if unit.bit_count() % 2 else "8O1", "8N1"):
        got = hear(Settings.parse("9600,8N2"), Settings.parse(f"9600,{frame}"), request)
        assert got.values.tobytes() == request and not got.framing.any() and not got.parity.any()
    assert sound(request) and request[1] in (1, 3) and request[0] == unit


def test_three_kinds_of_failure_are_told_apart_and_nothing_is_said_unarmed() -> None:
    said: list[bytes] = []

    def told(step: Step, outcome: Outcome) -> None:
        said.append(step.say)

    wanted = search(["quiet", "none"], CATALOG, CATALOG.device("mesh-module"))
    machine = finder(wanted)
    runner({"quiet": (silent(), Settings(9600))}, ManualClock(0.0), armed=False).run(machine, told)
    assert machine.found is None and not any(said) and wanted.longest_s < 10 and "nothing is sent" in wanted.says
    assert machine.ends["none"][0] is SearchEnd.ABSENT and machine.ends["quiet"][0] is SearchEnd.STOPPED
    armed = finder(search(["quiet"], CATALOG, CATALOG.device("mesh-module"), armed=True))
    runner({"quiet": (silent(), Settings(9600))}, ManualClock(0.0)).run(armed)
    assert armed.ends["quiet"][0] is SearchEnd.SILENT and armed.left == 0


def test_a_search_is_cancelled_and_goes_on_where_it_was() -> None:
    at = Settings.parse("600,8N1")
    machine = finder(search(["p"], CATALOG, CATALOG.device("bridge-controller"), armed=True))
    first = runner({"p": (device("bridge-controller", at), at)}, ManualClock(1000.0))

    def cancel(step: Step, outcome: Outcome) -> None:
        if len(machine.tried) >= 4:
            first.stop()

    first.run(machine, cancel)
    done, left = len(machine.tried), machine.seconds_left
    assert machine.found is None and done == 4 and 0 < machine.left < 1
    runner({"p": (device("bridge-controller", at), at)}, ManualClock(1000.0)).run(machine)
    assert machine.found is not None and machine.found.settings == at and left > 0
    whole = finder(search(["p"], CATALOG, CATALOG.device("bridge-controller"), armed=True))
    runner({"p": (device("bridge-controller", at), at)}, ManualClock(1000.0)).run(whole)
    assert len(machine.tried) <= len(whole.tried) + 1, "nothing is tried again but what was under way"


@pytest.mark.parametrize("unit", [1, 7, 23])
def test_a_unit_is_found_on_a_pair_that_hands_our_words_back(unit: int) -> None:
    at = Settings.parse("9600,8E1")
    how = Behaviour(protocol="modbus-rtu", source="invented", units=[unit], registers=[5], think_s=0.01)
    machine = finder(search(["p"], CATALOG, armed=True, probe="modbus-rtu"))
    echoing = replace(Wires.ideal(), echo=True)
    runner({"p": (ModbusUnits(how, at), at)}, ManualClock(1000.0), echoing).run(machine)
    assert machine.found is not None and (machine.found.unit, machine.found.settings) == (unit, at)


def test_a_plug_that_hands_everything_back_is_no_device() -> None:
    machine = finder(search(["p"], CATALOG, CATALOG.device("mesh-module"), armed=True))
    runner({"p": (silent(), Settings(9600))}, ManualClock(1000.0), Wires.loop()).run(machine)
    assert machine.found is None and machine.ends["p"][0] is SearchEnd.SILENT


def test_two_units_with_one_address_are_suspected() -> None:
    at = Settings.parse("19200,8E1")
    wanted = search(["p"], CATALOG, CATALOG.device("snow-pillow"), armed=True, units=(6, 6))
    machine = finder(wanted)
    one = device("snow-pillow", at, ["two-alike"])
    stop = runner({"p": (one, at)}, ManualClock(1000.0))

    def told(step: Step, outcome: Outcome) -> None:
        if len(machine.tried) > 3:
            stop.stop()

    stop.run(machine, told)
    assert any("two with one address" in note for note in machine.notes)


def test_nothing_but_noise_is_garbled_and_ends() -> None:
    class Noise(Device):
        def __init__(self) -> None:
            super().__init__()
            self._t, self._random = 0.0, np.random.default_rng(4)

        def due(self) -> float:
            return self._t

        def skip(self, t: float) -> None:
            self._t = t

        def say(self, t: float) -> bytes:
            self._t = t + 0.4
            return self._random.integers(0, 256, 12, np.uint8).tobytes()

    machine = finder(search(["p"], CATALOG, CATALOG.device("gauge-logger"), armed=True, rates=[9600]))
    noise = Noise()
    noise.skip(60.0)
    runner({"p": (noise, Settings(9600, Frame(8, Parity.SPACE)))}, ManualClock(1000.0)).run(machine)
    assert machine.found is None, f"noise was taken for {machine.found}"
    assert machine.ends["p"][0] is SearchEnd.GARBLED


def test_a_device_that_never_stops_talking_is_read() -> None:
    at = Settings.parse("19200,7O1")
    machine = finder(search(["p"], CATALOG, armed=True))
    runner({"p": (device("gauge-logger", at, ["chatters"]), at)}, ManualClock(1000.0)).run(machine)
    assert machine.found is not None and machine.found.settings == at and "ALARM" in machine.found.identity


def test_what_is_asked_for_must_make_sense() -> None:
    with pytest.raises(BadInput, match="one port address"):
        search([], CATALOG)
    with pytest.raises(BadInput, match="no safe first words"):
        search(["p"], CATALOG, probe="kiss")
    with pytest.raises(BadInput, match="within 1 to 247"):
        search(["p"], CATALOG, units=(0, 300))


words = st.binary(min_size=1, max_size=12).map(lambda data: bytes(b & 0x7F for b in data))


@given(words, st.sampled_from(SHARED))
def test_a_dialect_is_read_by_its_frame(text: bytes, frame: str) -> None:
    """Against the UART simulator: opened with eight bits and two stop bits, each frame reads its dialect."""
    got = hear(Settings.parse("9600,8N2"), Settings(9600, Frame.parse(frame)), in_dialect(text, frame))
    assert got.values.tobytes() == text and not got.framing.any() and not got.parity.any()


@given(st.text("ABCDEFGHIJ 0123456789", min_size=12, max_size=30), st.sampled_from(SHARED))
def test_the_frame_of_an_answer_is_among_those_named(text: str, frame: str) -> None:
    heard = in_dialect(text.encode() + b"\r\n", frame)
    assert frame in frames_of(heard, SHARED)


@pytest.mark.parametrize(("seven", "eight"), [("7E1", "8O1"), ("7O1", "8E1")])
def test_an_echo_that_two_frames_give_alike_is_asked_about_in_both(seven: str, eight: str) -> None:
    said, opened = burst(b"*IDN?", SHARED), Settings(9600, Frame(8, Parity.NONE, 2))
    echoes = {}
    for frame in (seven, eight):
        own = Settings(9600, Frame.parse(frame))
        there = hear(opened, own, said, idle_bits=3)
        whole = there.values[~(there.framing | there.parity)].tobytes()
        echoes[frame] = hear(own, opened, whole, idle_bits=3).values.tobytes()
    assert echoes[seven] == echoes[eight]
    assert {seven, eight} <= set(frames_of_echo(echoes[seven], b"*IDN?", SHARED))


def test_echoes() -> None:
    assert without_echo(b"ID\rOK", b"ID\r") == b"OK" and without_echo(b"OK", b"ID\r") == b"OK"
    assert without_echo(b"IDOK\r", b"ID\r") == b"OK"  # an answer amid the echo
    assert echoed(b"DN?\r\n", b"*IDN?\r\n") and echoed(b"*IDN?\r\n", b"*IDN?\r")
    assert echoed(b"\r:IDN?\r", b"\r*IDN?\r") and not echoed(b"\r:IDN!\r", b"\r*IDN?\r")
    assert not echoed(b"?", b"*IDN?*IDN?") and not echoed(b"*IDN?\r\nMETER", b"*IDN?\r")
    assert len(burst(b"ID", SHARED)) == 4 * len(burst(b"ID", ("8E1",)))


def test_the_space_is_sorted_by_worth_and_holds_all_belief() -> None:
    one = space(Known(("p",), likely=((Settings.parse("300,8O1"), 1.0),), armed=True), "p")
    worths = [trial.worth for trial in one.trials]
    assert worths == sorted(worths, reverse=True) and one.left == pytest.approx(1)
    assert (one.trials[0].step.settings.rate, one.trials[0].frames) == (300, ("8O1",))
