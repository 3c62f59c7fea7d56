"""`find`, `loopback`, `latency`: searches and proofs that send; each says first what it will send."""

from pathlib import Path
from typing import Annotated

import typer

from humble_courier.app.trade import open_catalog
from humble_courier.cli.context import catalog_of, log_of, of, port_of
from humble_courier.cli.options import Json
from humble_courier.cli.output import error_line, line, print_json
from humble_courier.domain.settings import Settings
from humble_courier.domain.text import Terminator, octets
from humble_courier.errors import BadInput

Address = Annotated[str, typer.Argument(help="/dev/ttyUSB0, socket://…, rfc2217://…, sim://bench/DEVICE")]


def _before(text: str, json: bool) -> None:
    """What will be sent stands before anything is; beside JSON it goes to standard error."""
    if json:
        error_line(text)
    else:
        line(text, now=True)


def find(
    ctx: typer.Context,
    addresses: Annotated[list[str], typer.Argument(help="One or more port addresses.")],
    device: Annotated[str | None, typer.Option(help="A device of the catalog: its settings and words go first.")] = None,
    arm: Annotated[bool, typer.Option("--arm", help="Allow sending. Without it the ports are only listened to.")] = False,
    probe: Annotated[str | None, typer.Option(help="text, scpi, modbus-rtu or modbus-ascii: ask only so.")] = None,
    say: Annotated[str, typer.Option(help="Words of your own to ask with; {unit} in them stands for an address.")] = "",
    units: Annotated[str | None, typer.Option("--addresses", help="Addresses of a bus, as in 1-32.")] = None,
    both_ways: Annotated[
        bool, typer.Option("--full-duplex", help="Both ends may speak at once, as on RS-232: quicker.")
    ] = False,
    worked: Annotated[list[str] | None, typer.Option(help="Settings that worked before with this kit.")] = None,
    json: Json = False,
) -> None:
    """Find a silent device: settings, protocol, address. Sends nothing without --arm."""
    from humble_courier.app.talk.device_search import find as run
    from humble_courier.app.talk.device_search import search as search_for
    from humble_courier.app.talk.search_space import counted, spoken

    catalog = catalog_of(ctx)
    sheet = catalog.device(device) if device else None
    before = [Settings.parse(text) for text in worked or ()]
    named = {port_of(ctx, address): address for address in addresses}
    wanted = search_for(
        list(named), catalog, sheet, arm, probe, _range(units), before, say=say, full_duplex=both_ways or None
    )
    _before(f"{wanted.says} Nine in ten devices within {spoken(wanted.most_s)}, at most {spoken(wanted.longest_s)}.", json)
    log = log_of(ctx, "find")
    search, found = run(wanted, log=log, authority=of(ctx).authority)
    seconds = sum(tried.seconds for tried in search.tried)
    if json:
        print_json({
            "found": None if found is None else {
                "address": named[found.address], "settings": str(found.settings), "protocol": found.protocol,
                "unit": found.unit,
                "identity": found.identity, "end": found.end, "equivalent": list(found.equivalent),
            },
            "trials": [{"address": named[t.address], "settings": str(t.settings), "action": t.action,
                        "heard": t.heard,
                        "seconds": round(t.seconds, 3)} for t in search.tried],
            "ports": [{"address": named[a], "ended": end.value, "why": why} for a, (end, why) in search.ends.items()],
            "seconds": round(seconds, 3), "exhaustive_seconds": round(wanted.in_order_s, 1), "left": round(search.left, 4),
            "notes": search.notes, "log": str(log.path),
        })  # fmt: skip
    else:
        for address, (end, why) in search.ends.items():
            line(f"{named[address]}: {end.value}. {why}")
        if found is not None:
            unit = "" if found.unit is None else f", unit {found.unit}"
            line(
                f"Settings {found.settings.spoken}, {found.protocol}{unit}{', ends with ' + found.end if found.end else ''}."
            )
            if found.equivalent:
                line(f"As good for any receiver: {', '.join(found.equivalent)}.")
        for note in search.notes:
            line(f"{note[0].upper()}{note[1:]}.")
        trials, in_order = counted(len(search.tried), "trial"), spoken(wanted.in_order_s)
        line(f"{trials} in {seconds:.1f} s; in order it would take up to {in_order}.")
    if found is None:
        raise typer.Exit(3 if search.ends and all(e.value in ("absent", "refused") for e, _ in search.ends.values()) else 1)


def _range(text: str | None) -> tuple[int, int] | None:
    if text is None:
        return None
    low, _, high = text.partition("-")
    if not low.isdecimal() or not (high or low).isdecimal():
        raise BadInput(f"--addresses {text}: expected A-B, as in 1-32")
    return int(low), int(high or low)


def loopback(
    ctx: typer.Context,
    address: Address,
    rate: Annotated[list[int] | None, typer.Option(help="Rates to try in place of 9600 and 115200.")] = None,
    arm: Annotated[bool, typer.Option("--arm", help="Allow sending. Without it nothing leaves the port.")] = False,
    long: Annotated[int, typer.Option(min=0, max=50_000_000, help="Bytes of a long transfer after that.")] = 0,
    json: Json = False,
) -> None:
    """Prove port, driver and cable with a loop-back plug at the far end. Needs --arm; take the device off first."""
    from humble_courier.app.talk.proving import loop_back

    for one in rate or ():
        Settings.parse(f"{one},8N1")
    log = log_of(ctx, "loopback")
    proof = loop_back(
        port_of(ctx, address),
        arm,
        tuple(rate) if rate else None,
        long,
        lambda text: _before(text, json),
        log,
        of(ctx).authority,
    )
    loop, endurance = proof.loop, proof.endurance
    if loop.refused:
        raise loop.refused
    if json and endurance is not None and endurance.refused:
        raise endurance.refused  # one document, and not half a proof before it
    sent, errors = sum(r.sent for r in loop.results), sum(r.errors for r in loop.results)
    if json:
        rates = [
            {"settings": str(r.settings), "sent": r.sent, "errors": r.errors, "first_wrong": r.first_wrong}
            for r in loop.results
        ]
        transfer = (
            None
            if endurance is None
            else {"sent": endurance.sent, "code": endurance.verdict[0], "text": endurance.verdict[1]}
        )
        print_json({"bytes": sent, "errors": errors, "lines": loop.pairs, "verdict": loop.verdict.value, "rates": rates,
                    "long": transfer, "log": str(log.path)})  # fmt: skip
    else:
        for r in loop.results:
            line(f"{r.settings.spoken}: {r.sent - r.errors} of {r.sent} bytes came back")
        for name, follows in loop.pairs.items():
            told = "cannot be told here" if follows is None else "joined" if follows else "not joined"
            line(f"{name.upper().replace('_', ' and ')}: {told}")
        line(proof.words)
        if endurance is not None:
            line(f"Long transfer: {endurance.verdict[1]}.")
    if endurance is not None and endurance.refused:
        raise endurance.refused
    if not proof.good:
        raise typer.Exit(1)


def latency(
    ctx: typer.Context,
    address: Address,
    settings: Annotated[str, typer.Option("--settings", help="RATE,FRAME[,HANDSHAKE] of this end.")],
    text: Annotated[str, typer.Option(help="Words to time; else one character that a loop-back plug returns.")] = "",
    end: Annotated[Terminator, typer.Option(help="How the words end.")] = Terminator.NONE,
    times: Annotated[int, typer.Option(min=1, max=10_000, help="How often.")] = 60,
    arm: Annotated[bool, typer.Option("--arm", help="Allow sending. Without it nothing leaves the port.")] = False,
    json: Json = False,
) -> None:
    """Time the round trip, and tell which protocols bear it. Needs --arm."""
    from humble_courier.app.talk.proving import measure

    wanted = Settings.parse(settings)
    say = octets(text) + end.octets if text else b"U"
    log = log_of(ctx, "latency")
    timed, good_for = measure(
        port_of(ctx, address), arm, wanted, say, times, open_catalog(), lambda text: _before(text, json), log,
        of(ctx).authority,
    )  # fmt: skip
    if timed.refused:
        raise timed.refused
    figures = timed.figures()
    if json:
        told = [{"protocol": g.protocol, "verdict": g.verdict.value, "waits_ms": g.waits_ms, "why": g.why} for g in good_for]
        ms = {name: round(value, 3) for name, value in figures.items()} if figures else None
        print_json({"ms": ms, "good_for": told, "missed": timed.missed, "line_ms": round(timed.line_ms, 3),
                    "log": str(log.path)})  # fmt: skip
    elif figures is None:
        line("Nothing came back: no plug at the far end, or nothing answers these words.")
    else:
        p50, p95, slowest = figures["p50"], figures["p95"], figures["max"]
        line(f"Half within {p50:.2f} ms, 19 of 20 within {p95:.2f} ms, slowest {slowest:.2f} ms.")
        line(f"The line itself takes {timed.line_ms:.2f} ms of that.")
        for g in good_for:
            line(f"{g.verdict.value:10} {g.protocol}: {g.why}")
    if figures is None:
        raise typer.Exit(1)


def wake(
    ctx: typer.Context,
    address: Address,
    target: Annotated[str, typer.Option(help="Address of the controller, in hexadecimal; 33 is whoever is there.")] = "33",
    arm: Annotated[bool, typer.Option("--arm", help="Allow it. Without it nothing is sent.")] = False,
    json: Json = False,
) -> None:
    """Wake a controller on a K-line (ISO 14230, fast start). Needs --arm; key on, engine off, brake on."""
    from humble_courier.app.talk.proving import fast_start

    try:
        number = int(target, 16)
    except ValueError:
        number = -1
    if not 0 <= number <= 0xFF:
        raise BadInput(f"--target {target}: expected two hexadecimal digits, as in 33")
    start = fast_start(port_of(ctx, address), arm, number, log_of(ctx, "wake"), of(ctx).authority)
    if json:
        print_json({"keys": None if start.keys is None else [f"{k:02X}" for k in start.keys], "refusal": start.refusal})
    elif start.keys is not None:
        line(f"It is awake: key bytes {start.keys[0]:02X} {start.keys[1]:02X}.")
    else:
        line(start.refusal or "Nothing answers: key off, another wake-up (five baud), or no K-line at this contact.")
    if start.keys is None:
        raise typer.Exit(1)


def units(
    ctx: typer.Context,
    address: Address,
    arm: Annotated[bool, typer.Option("--arm", help="Allow it. Without it nothing is sent.")] = False,
    addresses: Annotated[str, typer.Option(help="Addresses to go through, in hexadecimal, as in 10-5F.")] = "10-5F",
    hold: Annotated[float, typer.Option(min=0, max=600, help="Seconds to keep each session alive.")] = 0.0,
    before: Annotated[
        Path | None, typer.Option(help="What an earlier round wrote with --json: what came, what went.")
    ] = None,
    json: Json = False,
) -> None:
    """List all control units of a K-line with their identity and stored troubles; clears nothing. Needs --arm."""
    from humble_courier.app.talk import unit_round

    low, _, high = addresses.partition("-")
    try:
        through = range(int(low, 16), int(high or low, 16) + 1)
    except ValueError:
        through = range(0)
    if not through or through[0] < 0 or through[-1] > 0xFF:
        raise BadInput(f"--addresses {addresses}: expected two hexadecimal numbers, the lower first, as in 10-5F")
    earlier = unit_round.before(before) if before is not None else None
    catalog, log = catalog_of(ctx), log_of(ctx, "units")
    at, authority = port_of(ctx, address), of(ctx).authority
    run = unit_round.round_of(at, arm, catalog, log, through, hold, lambda text: _before(text, json), authority)
    came, gone = unit_round.differences(earlier, run) if earlier is not None else ([], [])
    if json:
        print_json({"units": unit_round.as_json(run), "came": came, "gone": gone, "log": str(log.path)})
    else:
        line(f"{run.headline()[0]}.")
        for _, name, told in run.rows():
            line(f"{name}: {told}")
        if earlier is not None:
            line(f"Since then came: {', '.join(came) or 'nothing'}; gone: {', '.join(gone) or 'nothing'}.")
    if not run.good:
        raise typer.Exit(1)


COMMANDS = {"find": find, "loopback": loopback, "latency": latency, "wake": wake, "units": units}
