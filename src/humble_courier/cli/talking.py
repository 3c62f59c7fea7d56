"""`listen` and `say`: one port, from the command line."""

from pathlib import Path
from typing import Annotated

import typer

from humble_courier.cli.context import catalog_of, log_of, of, port_of
from humble_courier.cli.options import Json
from humble_courier.cli.output import line, print_json
from humble_courier.domain.settings import Settings
from humble_courier.domain.text import Terminator, printable
from humble_courier.errors import BadInput

Address = Annotated[str, typer.Argument(help="/dev/ttyUSB0, socket://…, rfc2217://…, sim://bench/DEVICE")]
SettingsText = Annotated[str, typer.Option("--settings", help="RATE,FRAME[,HANDSHAKE] of this end.")]

_LOOKS = {
    "nothing": "Nothing arrived.",
    "text": "It looks like text: the settings are probably right.",
    "binary": "Not text, and no errors: a binary protocol, or the right rate with another meaning.",
    "wrong-settings": "It looks like other settings: many characters came with errors.",
}


def listen(
    ctx: typer.Context,
    address: Address,
    settings: SettingsText,
    seconds: Annotated[float, typer.Option(min=0.01, max=86_400, help="How long.")] = 5.0,
    json: Json = False,
) -> None:
    """Listen to a port; nothing is sent."""
    wanted = Settings.parse(settings)
    from humble_courier.app.talk.one_call import listen as hear

    log = log_of(ctx, "listen")
    result = hear(port_of(ctx, address), wanted, seconds, log, of(ctx).authority)
    if json:
        told = {"bytes": result.data.hex(), "text": result.text, "errors": result.errors, "looks_like": result.looks_like}
        print_json({**told, "log": str(log.path)})
    else:
        for part in result.data.splitlines():
            line(printable(part))
        line(f"{len(result.data)} bytes, {result.errors} with errors. {_LOOKS[result.looks_like]}")
        line(f"Kept in {log.path}.")
    if result.gone is not None:
        raise result.gone
    if not result.data:
        raise typer.Exit(1)


def say(
    ctx: typer.Context,
    address: Address,
    settings: SettingsText,
    text: Annotated[str | None, typer.Option(help="The line to send.")] = None,
    hex_: Annotated[str | None, typer.Option("--hex", help="Bytes to send in its place, as in 01 03 00 00 00 01.")] = None,
    check: Annotated[str, typer.Option(help="A check to put behind them, as in crc16-modbus.")] = "",
    end: Annotated[Terminator, typer.Option(help="How the line ends.")] = Terminator.CR,
    expect: Annotated[str | None, typer.Option(help="Regular expression that the answer has to match.")] = None,
    arm: Annotated[bool, typer.Option("--arm", help="Allow sending. Without it nothing leaves the port.")] = False,
    timeout: Annotated[float, typer.Option(min=0.01, max=3600, help="Seconds to wait for the answer.")] = 2.0,
    json: Json = False,
) -> None:
    """Send one line, or bytes, and wait for the answer. Needs --arm."""
    wanted = Settings.parse(settings)
    from humble_courier.app.talk.one_call import say as tell
    from humble_courier.app.talk.typed_words import Typed, Written

    if (text is None) == (hex_ is None):
        raise BadInput("expected --text LINE, or --hex BYTES in its place")
    written = Written.PLAIN if hex_ is None else Written.HEX
    words = Typed(text or hex_ or "", written, end, expect=expect or "", check=check)
    log = log_of(ctx, "say")
    result = tell(port_of(ctx, address), wanted, words, arm, timeout, log, of(ctx).authority)
    if json:
        sent, received = result.sent.decode("latin-1"), result.received.decode("latin-1")
        print_json(
            {
                "sent": sent,
                "received": received,
                "matched": result.matched,
                "fields": result.fields,
                "ms": round(result.ms, 1),
                "unsent": result.unsent,
                "log": str(log.path),
            }
        )
    else:
        line(f"said  {printable(result.sent)}  ({end.spoken if hex_ is None else 'as bytes'})")
        if result.unsent:
            line(f"not sent: the last {result.unsent} of {len(result.sent)} bytes, the device held us off")
        line(f"heard {result.text or 'nothing'}" + (f"  after {result.ms:.0f} ms" if result.received else ""))
        for name, value in result.fields.items():
            line(f"  {name}: {value}")
        line(f"Kept in {log.path}.")
    if result.matched is False or not result.received or result.unsent:
        raise typer.Exit(1)


def decode(
    file: Annotated[Path, typer.Argument(help="Received bytes: raw, marked (.marked), or a log of this program (.jsonl).")],
    protocol: Annotated[
        str, typer.Option(help="A protocol, unknown for frames by their pauses (logs), or auto for what it looks like.")
    ] = "auto",
    json: Json = False,
) -> None:
    """Read received bytes as a protocol: what each message says, and what is wrong with it."""
    from humble_courier.app.talk.decoding import decode_file
    from humble_courier.app.trade import open_catalog

    found = decode_file(file, protocol, open_catalog())
    good = any(event.ok for event in found.events)
    if json:
        events = [
            {"offset": e.offset, "kind": e.kind, "ok": e.ok, "fields": e.fields, "why": e.why, "size": e.size}
            for e in found.events
        ]
        print_json({"protocol": found.protocol, "events": events, "notes": list(found.notes)})
    else:
        line(f"Read as {found.protocol}." if found.protocol else "Read as frames that nobody knows.")
        for e in found.events:
            said = ", ".join(f"{name} {value}" for name, value in e.fields.items())
            line(f"{e.offset:8d}  {'' if e.ok else 'BAD '}{e.kind}  {said}{'  · ' + e.why if e.why else ''}")
        for note in found.notes:
            line(note[0].upper() + note[1:] + ".")
    if not good:
        raise typer.Exit(1)


def learn(
    ctx: typer.Context,
    address: Address,
    settings: SettingsText,
    words: Annotated[str, typer.Option("--say", help="Words that change nothing in it.")],
    id_: Annotated[str, typer.Option("--as", help="Id of the sheet, as in flow-meter.")],
    end: Annotated[Terminator, typer.Option(help="How the line ends.")] = Terminator.CR,
    name: Annotated[str, typer.Option(help="What the device is called.")] = "",
    kind: Annotated[str, typer.Option(help="The kind whose connector and acts it begins with.")] = "text-instrument-dce",
    asks: Annotated[bool, typer.Option("--asks", help="You say that these words only ask, and change nothing.")] = False,
    arm: Annotated[bool, typer.Option("--arm", help="Allow sending. Without it nothing leaves the port.")] = False,
    timeout: Annotated[float, typer.Option(min=0.01, max=3600, help="Seconds to wait for the answer.")] = 2.0,
    json: Json = False,
) -> None:
    """Ask a device once and keep a sheet of it, made from its answer. Needs --arm."""
    from humble_courier.app.link.learn import Wanted
    from humble_courier.app.link.learn import learn as ask

    log = log_of(ctx, "learn")
    wanted = Wanted(port_of(ctx, address), Settings.parse(settings), words, end, id_, name, kind, asks)
    learned = ask(wanted, catalog_of(ctx), arm, timeout, log, of(ctx).authority)
    if learned is None:
        if json:
            print_json({"sheet": None, "fields": {}, "answer": None, "log": str(log.path)})
        else:
            line("Nothing came back: other settings, another end (--end), or search for it: humble-courier find.")
        raise typer.Exit(1)
    if json:
        told = {
            "sheet": str(learned.path),
            "fields": learned.fields,
            "answer": learned.answer,
            "said_again": learned.said_again,
        }
        print_json({**told, "log": str(log.path)})
    else:
        line(f"heard {learned.answer}")
        for field, value in learned.fields.items():
            line(f"  {field}: {value}")
        if not learned.said_again:
            line(f"“{words}” is listed, and not said again: nothing tells that it only asks. Say --asks if you know it.")
        line(f"Kept as {learned.path}. It counts in every command: humble-courier simulate {id_}")


def exchanges(
    logs: Annotated[list[Path], typer.Argument(help="Logs of this program (.jsonl), of whatever day.")], json: Json = False
) -> None:
    """Judge what was asked and what came, offline: what answered, what refused, and what all of it is worth."""
    from humble_courier.app.talk.exchanges import of_logs

    files = of_logs(logs)
    if json:
        print_json({"files": files})
        return
    for one in files:
        line(f"{one['log']}:")
        for each in one["exchanges"]:
            named = ", ".join(f"{part['name']} {part['value']}" for part in each["parts"])
            told = f": {each['answer']}" if each["answer"] else ""
            line(f"  {each['sent'] or each['sent_hex']}  {each['state']}{told}" + (f"  ({named})" if named else ""))
            line(f"      {each['why']}; the words: {each['words']}")
        for text in one["itself"][:5]:
            line(f"  by itself: {text}")
        proof = one["proof"]
        line(f"  {proof['grade'].capitalize()} proof: {proof['reason']}." if proof else "  It proves nothing.")


COMMANDS = {"exchanges": exchanges, "learn": learn, "listen": listen, "say": say, "decode": decode}
