"""`hear`: what one end makes of what the other sends."""

from typing import Annotated

import typer

from humble_courier.cli.options import Json
from humble_courier.cli.output import line, marked, print_json
from humble_courier.domain.settings import Settings
from humble_courier.errors import BadInput


def octets(text: str | None, hex_: str | None) -> bytes:
    """The bytes of `--text` or `--hex`; raises BadInput unless there is exactly one of them."""
    from humble_courier.domain.text import octets as text_octets

    if (text is None) == (hex_ is None):
        raise BadInput("expected one of --text and --hex")
    if text is not None:
        return text_octets(text.encode().decode("unicode_escape") if "\\" in text else text)
    try:
        return bytes.fromhex(hex_ or "")
    except ValueError:
        raise BadInput(f"--hex “{hex_}”: expected pairs of hexadecimal digits, as in 4F4B0D") from None


def hear(
    sent: Annotated[str, typer.Option(help="Settings of the sender, as in 1200,7E1.")],
    heard_as: Annotated[str, typer.Option(help="Settings of the receiver.")],
    text: Annotated[str | None, typer.Option(help="What is sent, as text.")] = None,
    hex: Annotated[str | None, typer.Option(help="What is sent, as hexadecimal digits.")] = None,
    idle: Annotated[float, typer.Option(min=0, max=1000, help="Idle bits between characters.")] = 0.0,
    inverted: Annotated[bool, typer.Option("--inverted", help="The line is inverted on the way.")] = False,
    drift: Annotated[float, typer.Option(min=-20, max=20, help="The sender's clock slows down by so many percent.")] = 0.0,
    jitter: Annotated[float, typer.Option(min=0, max=1, help="Scatter of each level change, one sigma in bits.")] = 0.0,
    rise: Annotated[float, typer.Option(min=0, max=5, help="Time constant of slow edges, in bits.")] = 0.0,
    majority: Annotated[bool, typer.Option("--majority", help="The receiver reads each bit three times.")] = False,
    json: Json = False,
) -> None:
    """What a receiver makes of what is sent, bit by bit."""
    sender, receiver, data = Settings.parse(sent), Settings.parse(heard_as), octets(text, hex)
    from humble_courier.app.settings.hearing import OnTheWay
    from humble_courier.app.settings.hearing import received as heard

    received = heard(sender, receiver, data, OnTheWay(idle, inverted, drift, jitter, rise, majority))
    if json:
        rows = [
            {"byte": h.byte, "framing_error": h.framing_error, "parity_error": h.parity_error, "break": h.is_break}
            for h in received
        ]
        print_json({"received": rows})
        return
    line(f"{sender.spoken} sends {len(data)} characters; {receiver.spoken} receives {len(received)}:")
    line(" ".join(marked(h.byte, h.doubtful) for h in received))
    errors = sum(h.doubtful for h in received)
    line(f"{errors} with errors (marked ?)." if errors else "No errors are seen.")


COMMANDS = {"hear": hear}
