"""Figures of time for a link: characters, an upload, a poll, the adapter's timer, the rates that both ends really make."""

from collections.abc import Mapping
from dataclasses import dataclass, fields

from humble_courier.app.amounts import Budget, Turns, in_turn
from humble_courier.app.settings.rates import by_bridges
from humble_courier.app.typed import number
from humble_courier.catalog.links import Link
from humble_courier.domain.settings import Handshake, Settings
from humble_courier.errors import BadInput
from humble_courier.line import timing
from humble_courier.line.clocks import tolerance
from humble_courier.wiring.paths import Carried
from humble_courier.wiring.trace import Trace

QUESTION, ANSWER = 8, 8  # bytes of a short question and its answer, as most protocols have them (common practice)
USUAL_LATENCY_MS = (1, 16)  # an adapter set to answer at once, and as it comes (common practice)
MOST_ASKED = 1e9  # bytes or ms: more than any transfer over such a line


@dataclass(frozen=True)
class Figure:
    """One figure: what, the value with its unit, and whether it is in order."""

    what: str
    value: str
    good: bool = True


@dataclass(frozen=True)
class TimingAsked:
    """What the person says: bytes to carry, time-out and turn-around in ms, bytes a second taken, and the buffer."""

    count: int = 1000
    timeout_ms: float = 100.0
    turnaround_ms: float = 10.0
    takes_per_s: float = 500.0
    buffer: int = 256


@dataclass(frozen=True)
class Asked:
    """What `timing` is asked: bytes on the line, times in ms, bytes a second taken, buffer, devices, messages a second."""

    count: int
    turnaround_ms: float = 0.0
    latency_ms: float = 0.0
    timeout_ms: float | None = None
    takes_per_s: float | None = None
    buffer: int = 64
    devices: int = 1
    per_second: float | None = None


@dataclass(frozen=True)
class Reckoned:
    """The times that follow. `flow` and `load_percent` only where they were asked for; `gaps_s` are those of Modbus."""

    trip: timing.RoundTrip
    bytes_per_s: float
    gaps_s: tuple[float, float]
    poll_cycle_s: float
    load_percent: float | None
    flow: timing.Flow | None


def reckon(settings: Settings, asked: Asked) -> Reckoned:
    """How long a transfer, a round trip and a poll of all devices take, and whether a buffer holds out."""
    turnaround, latency = asked.turnaround_ms / 1e3, asked.latency_ms / 1e3
    timeout = None if asked.timeout_ms is None else asked.timeout_ms / 1e3
    gaps = timing.modbus_gaps(settings)
    takes, often = asked.takes_per_s, asked.per_second
    return Reckoned(
        timing.round_trip(settings, asked.count, turnaround, latency, timeout),
        timing.bytes_per_second(settings),
        gaps,
        timing.poll_cycle(settings, asked.devices, asked.count, turnaround, gaps[1], latency),
        None if often is None else timing.talker_load(settings, {asked.count: often}),
        None if takes is None else timing.buffer_flow(settings, asked.count, takes, asked.buffer),
    )


def asked(typed: Mapping[str, str]) -> TimingAsked:
    """What is typed, by the names of `TimingAsked`, as numbers. Raises BadInput."""
    values: dict[str, float] = {}
    for field in fields(TimingAsked):
        value = number(typed[field.name])
        if value is None:
            raise BadInput(f"“{typed[field.name]}” is no number")
        if not 0 <= value < MOST_ASKED:
            raise BadInput(f"“{typed[field.name]}”: expected 0 or more")
        values[field.name] = value
    count, buffer = int(values["count"]), max(1, int(values["buffer"]))
    return TimingAsked(count, values["timeout_ms"], values["turnaround_ms"], values["takes_per_s"], buffer)


def figures(link: Link, asked: TimingAsked) -> list[Figure]:
    """Time figures of a link; empty while the computer's settings are not known."""
    settings = link.computer_settings or link.device_settings
    if settings is None:
        return []
    found = [
        Figure("one character", f"{settings.character_s * 1e3:.3f} ms"),
        Figure("back to back", f"{timing.bytes_per_second(settings):.1f} bytes a second"),
        Figure(f"{asked.count} bytes", _seconds(asked.count * settings.character_s)),
    ]
    for latency in USUAL_LATENCY_MS:
        trip = _trip(settings, asked, latency)
        told = f"{trip.seconds * 1e3:.1f} ms" + ("" if trip.fits else f", too late for {asked.timeout_ms:g} ms")
        found.append(
            Figure(f"question and answer, {QUESTION + ANSWER} bytes, adapter at {latency} ms", told, bool(trip.fits))
        )
    inner, silent = timing.modbus_gaps(settings)
    found.append(Figure("Modbus: longest gap within, shortest between", f"{inner * 1e3:.2f} ms, {silent * 1e3:.2f} ms"))
    return found


def _trip(settings: Settings, asked: TimingAsked, latency_ms: float) -> timing.RoundTrip:
    turnaround, timeout = asked.turnaround_ms / 1e3, asked.timeout_ms / 1e3
    return timing.round_trip(settings, QUESTION + ANSWER, turnaround, latency_ms / 1e3, timeout)


def exchange(link: Link, asked: TimingAsked) -> tuple[Turns, ...]:
    """A question and its answer true to time, once for each usual latency of the adapter; empty without settings."""
    settings = link.computer_settings or link.device_settings
    if settings is None:
        return ()
    turns = []
    for latency in USUAL_LATENCY_MS:
        steps = [
            ("question", QUESTION * settings.character_s, False), ("device", asked.turnaround_ms / 1e3, True),
            ("answer", ANSWER * settings.character_s, False), ("adapter", latency / 1e3, True),
        ]  # fmt: skip
        turns.append(in_turn(f"adapter at {latency} ms", steps))
    return tuple(turns)


def budgets(link: Link, asked: TimingAsked) -> tuple[Budget, ...]:
    """What the transfer fills of the receiver's buffer; empty without settings."""
    settings = link.computer_settings or link.device_settings
    if settings is None:
        return ()
    held = timing.buffer_flow(settings, asked.count, asked.takes_per_s, asked.buffer)
    told = f"{held.lost} bytes too many for {asked.buffer}" if held.lost else f"{held.fullest:.0f} of {asked.buffer} bytes"
    what = f"the buffer, {asked.count} bytes without handshake"
    return (Budget(what, told, held.fullest + held.lost, asked.buffer),)


def headline(link: Link, asked: TimingAsked) -> tuple[str, str]:
    """The answer of the page: whether the answer is there in time, and what is lost without handshake."""
    settings = link.computer_settings or link.device_settings
    if settings is None:
        return "How long things take is not known yet", "Settle the computer's settings first: See a character."
    trips = {latency: _trip(settings, asked, latency) for latency in USUAL_LATENCY_MS}
    held = timing.buffer_flow(settings, asked.count, asked.takes_per_s, asked.buffer)
    lost = f" Without handshake {held.lost} of {asked.count} bytes are lost." if held.lost else ""
    quick, slow = (trips[latency] for latency in USUAL_LATENCY_MS)
    took = (
        f"At {settings.spoken} a short question and its answer take {_seconds(quick.seconds)} to {_seconds(slow.seconds)}."
    )
    if slow.fits:
        return f"Answers are there before {asked.timeout_ms:g} ms are over", took + lost
    if quick.fits:
        told = f"In time only with the adapter set to {USUAL_LATENCY_MS[0]} ms"
        return told, took + " Its latency is changed under Port." + lost
    return f"Too late: the program gives up after {asked.timeout_ms:g} ms", took + lost


def flow(link: Link, trace: Trace, asked: TimingAsked) -> list[Figure]:
    """Whether the receiver's buffer holds out without handshake, and which handshake the wiring carries."""
    settings = link.computer_settings or link.device_settings
    if settings is None:
        return []
    held = timing.buffer_flow(settings, asked.count, asked.takes_per_s, asked.buffer)
    if held.lost:
        told = f"{held.lost} of {asked.count} bytes are lost, the first after {_seconds(held.after_s or 0)}"
    else:
        told = f"nothing is lost; at most {held.fullest:.0f} of {asked.buffer} bytes wait"
    wired = ((Handshake.RTS_CTS, trace.rts_cts), (Handshake.DTR_DSR, trace.dtr_dsr))
    carried = [str(kind) for kind, how in wired if how is Carried.THROUGH]
    carried.append(str(Handshake.XON_XOFF))
    return [
        Figure("without handshake", told, not held.lost),
        Figure("handshake that this wiring can carry", ", ".join(carried)),
        Figure("handshake in use", str(settings.handshake)),
    ]


def clocks(link: Link) -> list[Figure]:
    """What adapters make of the wanted rate, against what the frame leaves for both ends."""
    settings = link.computer_settings or link.device_settings
    if settings is None:
        return []
    budget = tolerance(settings.frame) * 100
    found = [Figure("both ends together may be off", f"{budget:.2f} %")]
    for bridge in by_bridges(settings.rate, str(settings.frame)):
        found.append(Figure(f"{bridge.driver}, {bridge.chip}", bridge.told, bridge.ok))
    return found


def _seconds(seconds: float) -> str:
    if seconds < 1:
        return f"{seconds * 1e3:.0f} ms"
    return f"{seconds:.1f} s" if seconds < 90 else f"{seconds / 60:.1f} minutes"
