"""`rate`, `timing`, `infer`: the clocks of both ends, how long things take, and settings out of what arrives."""

from dataclasses import asdict
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from humble_courier.cli.options import Json
from humble_courier.cli.output import line, print_json
from humble_courier.domain.settings import Settings
from humble_courier.errors import BadInput

if TYPE_CHECKING:
    from humble_courier.app.settings.inferring import Inferred

TOLD = 6  # candidates that are told to people; all stand in the document
FULL = 100.0  # percent of the line


def rate(
    rate: Annotated[float, typer.Option(min=0.01, max=1e10, help="The wanted rate in bit/s.")],
    clock: Annotated[float | None, typer.Option(min=1, max=1e10, help="The UART's clock in Hz.")] = None,
    bridge: Annotated[str, typer.Option(help="A bridge in its place, DRIVER or DRIVER/KIND, as in cp210x/table.")] = "",
    oversample: Annotated[int, typer.Option(min=1, max=64, help="Samples a bit.")] = 16,
    step: Annotated[str, typer.Option(help="Smallest step of the divisor, as 1, 0.125 or 1/8.")] = "1",
    frame: Annotated[str, typer.Option(help="The frame, as in 8N1.")] = "8N1",
    other: Annotated[float, typer.Option(min=0, max=50, help="Percent that the far end may be off.")] = 1.5,
    json: Json = False,
) -> None:
    """The rate that a clock or a bridge really makes, its error, and what the frame leaves for it."""
    from humble_courier.app.settings.rates import by_bridges, divided

    if bridge:
        _of_bridge(bridge, rate, frame, json)
        return
    if clock is None:
        raise BadInput("expected --clock HZ, or --bridge DRIVER in its place")
    found, made = divided(clock, rate, oversample, step, frame, other), by_bridges(rate, frame)
    if json:
        print_json({
            "divisor": int(found.divisor) if found.divisor.is_integer() else found.divisor,
            "actual": found.actual, "error_percent": found.error_percent, "budget_percent": found.budget_percent,
            "other_percent": found.other_percent, "ok": found.ok,
            "bridges": [
                {"driver": b.driver, "kind": b.kind, "chip": b.chip, "actual": b.actual, "how": b.how} for b in made
            ],
        })  # fmt: skip
    else:
        line(f"divisor {found.divisor:g}: {found.actual:.2f} bit/s, {found.error_percent:+.2f} %")
        told = "read right" if found.ok else "not safe"
        line(f"Both ends together may be off {found.budget_percent:.2f} %; with {other:g} % at the far end: {told}.")
        for b in made:
            line(f"{b.driver:10}{b.chip:34}{b.told}")
    if not found.ok:
        raise typer.Exit(1)


def _of_bridge(bridge: str, rate: float, frame: str, json: bool) -> None:
    """What one bridge makes of a rate; of several kinds the first one stands for the answer where they agree on it."""
    from humble_courier.app.settings.rates import budget_percent, by_bridge

    made = by_bridge(bridge, rate, frame)
    ok = all(one.ok for one in made)
    if json:
        first = made[0] if len({(one.actual, one.how) for one in made}) == 1 else None
        print_json({
            "divisor": None, "actual": first.actual if first else None, "how": first.how if first else None,
            "error_percent": first.error_percent if first else None, "budget_percent": budget_percent(frame), "ok": ok,
            "kinds": [{"kind": one.kind, "actual": one.actual, "how": one.how, "ok": one.ok} for one in made],
        })  # fmt: skip
    else:
        for one in made:
            line(f"{one.driver}/{one.kind}: {one.told}: {'read right' if one.ok else 'not safe'}")
    if not ok:
        raise typer.Exit(1)


def timing(
    settings: Annotated[str, typer.Option(help="Settings of the line, as in 19200,8E1.")],
    bytes: Annotated[int, typer.Option(min=0, help="Bytes on the line, question and answer together.")],
    turnaround: Annotated[float, typer.Option(min=0, help="Time until the device answers, in ms.")] = 0.0,
    latency: Annotated[float, typer.Option(min=0, help="Time that the adapter holds an answer back, in ms.")] = 0.0,
    timeout: Annotated[float | None, typer.Option(min=0, help="When the protocol gives up, in ms.")] = None,
    takes: Annotated[float | None, typer.Option(min=0, help="Bytes a second that the receiver takes.")] = None,
    buffer: Annotated[int, typer.Option(min=1, help="The receiver's buffer in bytes.")] = 64,
    devices: Annotated[int, typer.Option(min=1, help="Devices that are asked one after the other.")] = 1,
    per_second: Annotated[float | None, typer.Option(min=0, help="A talker says the bytes so often a second.")] = None,
    json: Json = False,
) -> None:
    """How long a character, a transfer and a round trip take, and whether a buffer holds out without handshake."""
    from humble_courier.app.settings.timings import Asked, reckon

    end = Settings.parse(settings)
    found = reckon(end, Asked(bytes, turnaround, latency, timeout, takes, buffer, devices, per_second))
    trip, flow, load, (inner, silent) = found.trip, found.flow, found.load_percent, found.gaps_s
    if json:
        print_json({
            "character_ms": end.character_s * 1e3, "bytes_per_s": found.bytes_per_s, "seconds": trip.line_s,
            "round_trip_ms": trip.seconds * 1e3, "fits": trip.fits,
            "poll_cycle_s": found.poll_cycle_s, "load_percent": load,
            "modbus_gaps_ms": {"inner": inner * 1e3, "silent": silent * 1e3},
            "flow": {"lost": flow.lost, "after_s": flow.after_s, "fullest": flow.fullest} if flow else None,
        })  # fmt: skip
    else:
        line(f"A character takes {end.character_s * 1e3:.3f} ms; {found.bytes_per_s:.1f} bytes a second.")
        line(f"{bytes} bytes take {trip.line_s:.3f} s; the round trip {trip.seconds * 1e3:.1f} ms.")
        if trip.fits is not None:
            line("That fits." if trip.fits else f"Too late: the protocol gives up after {timeout:g} ms.")
        if devices > 1:
            line(f"Asking {devices} devices once takes {found.poll_cycle_s:.3f} s, with the gaps of Modbus.")
        if load is not None:
            line(f"The talker takes {load:.0f} % of the line.")
        if flow is not None and flow.lost:
            line(f"Without handshake {flow.lost} bytes are lost, the first after {flow.after_s:.2f} s.")
        elif flow is not None:
            line(f"The buffer holds out: at most {flow.fullest:.0f} of {buffer} bytes.")
    if trip.fits is False or (flow is not None and flow.lost) or (load or 0) > FULL:
        raise typer.Exit(1)


def infer(
    file: Annotated[Path, typer.Argument(help="A recording (VCD, CSV) or received bytes.")],
    format: Annotated[str | None, typer.Option(help="vcd, csv, marked or raw; else by the name.")] = None,
    heard_as: Annotated[str | None, typer.Option(help="Settings with which the bytes were received.")] = None,
    signal: Annotated[
        list[str] | None, typer.Option(help="Which signal of the recording; twice for both directions.")
    ] = None,
    expect: Annotated[str | None, typer.Option(help="What the sheet says of the sender; bytes are weighed with it.")] = None,
    json: Json = False,
) -> None:
    """Rate and frame of a sender, out of its level changes or out of what was received of it."""
    from humble_courier.app.settings.inferring import KINDS, infer_file

    kind = next((k for k in KINDS if k == format), None)
    if format is not None and kind is None:
        raise BadInput(f"--format {format}: expected {', '.join(KINDS)}")
    ours, theirs = (Settings.parse(text) if text else None for text in (heard_as, expect))
    found = infer_file(file, kind, ours, signal or (), expected=theirs)
    if json:
        print_json({
            "best": {"rate": found.best.rate, "frame": found.best.frame, "inverted": found.best.inverted},
            "measured_rate": found.measured_rate, "candidates": [asdict(c) for c in found.candidates],
            "equivalent": list(found.equivalent), "text": found.text, "bytes": found.received.hex(),
            "listen_next": str(found.listen_next) if found.listen_next else None, "traffic": found.traffic,
            "notes": list(found.notes), "directions": [asdict(d) for d in found.directions],
            "turns": [{**asdict(t), "data": t.data.hex()} for t in found.turns],
        })  # fmt: skip
        return
    _print_inferred(found)


def _print_inferred(found: "Inferred") -> None:
    for c in found.candidates[:TOLD]:
        line(f"{c.probability:7.1%}  {c.rate} {c.frame}{' inverted' if c.inverted else ''}")
    if found.measured_rate is not None:
        line(f"measured: {found.measured_rate:.1f} bit/s")
    if found.equivalent:
        line("The data cannot tell it from " + ", ".join(found.equivalent) + ".")
    if found.listen_next is not None:
        line(f"To learn more, listen with {found.listen_next.spoken}.")
    for note in found.notes:
        line(note[0].upper() + note[1:] + ".")
    for d in found.directions:
        line(f"{d.signal}: {d.best.rate} {d.best.frame}, measured {d.measured_rate:.1f} bit/s")
    for t in found.turns:
        line(f"{t.seconds:10.4f} s  {t.signal}  {t.text}")
    if found.text and not found.turns:
        line(found.text)


COMMANDS = {"rate": rate, "timing": timing, "infer": infer}
