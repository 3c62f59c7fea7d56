"""How simulated devices behave, in data (`simulator/data/ID.yaml`), and the faults that can be given to them."""

from pathlib import Path
from typing import Literal

import msgspec

from humble_courier.documents.base import Strict, Text
from humble_courier.documents.reader import convert, parse, read_text
from humble_courier.errors import BadInput

DATA = Path(__file__).parent.parent / "data"
FAULTS = Path(__file__).parent.parent / "faults.yaml"


class Command(Strict, frozen=True):
    """A command of a text device and its answer; `{name}` takes a value. `sets`: values that it
    changes (`*`: the rest of it). `lines`: how many times the answer is said, with `{n}` counting.
    """

    say: Text
    answer: str
    sets: dict[str, str] = {}
    lines: int = 1


class Talk(Strict, frozen=True):
    """What a device says by itself, again and again.

    `body` (text) or `hex` is what its protocol puts into a message of its own, with its check; `text` is said as it stands.
    `to` and `source` where a message goes from one station to another. In text, `{n}` counts and `{a}` wanders in a circle.
    """

    every_s: float
    body: str = ""
    text: str = ""
    hex: str = ""
    to: str = ""
    source: str = ""


class Boot(Strict, frozen=True):
    """A text after power-up that a key stops for a while: then another prompt, and nothing of the usual."""

    stop_within_s: float
    stopped: Text


class Revision(Strict, frozen=True):
    """What a revision of a device does otherwise; `silent`: it says nothing at power-up."""

    values: dict[str, str] = {}
    silent: bool = False


class UnitOfKLine(Strict, frozen=True):
    """A control unit: `troubles` in hexadecimal, two bytes of code and one of state each; null where it does not tell."""

    address: int
    identity: str
    troubles: list[str] | None = []


class Behaviour(Strict, frozen=True, kw_only=True):
    """A simulated device. `protocol`: the id of what it speaks."""

    protocol: Text
    source: Text
    end: Literal["cr", "lf", "crlf"] = "crlf"
    echo: bool = False
    prompt: str = ""
    power_up: str | None = None
    power_up_s: float = 0.0
    boot: Boot | None = None
    think_s: float = 0.0
    commands: list[Command] = []
    unknown: str | None = None
    values: dict[str, str] = {}
    talks: list[Talk] = []
    units: list[int] = []
    registers: list[int] = []
    rate: int = 0
    masters: list[int] = []
    control_units: list[UnitOfKLine] = []
    buffer: int = 0
    takes_per_s: float = 0.0
    revisions: dict[str, Revision] = {}
    unplugged: str = ""


class Fault(Strict, frozen=True):
    """A fault that a bench can be given: at which stage of a link it lies, and what it is."""

    id: Text
    stage: Literal["prepare", "wire", "port", "driver", "settings", "talk"]
    what: Text


def has_behaviour(device: str) -> bool:
    """Whether a behaviour is shipped for this id."""
    return "/" not in device and (DATA / f"{device}.yaml").is_file()


def behaviour(device: str) -> Behaviour:
    """The behaviour of a simulated device; raises BadInput where there is none."""
    path = DATA / f"{device}.yaml"
    known = sorted(file.stem for file in DATA.glob("*.yaml"))
    if device not in known:
        raise BadInput(f"no simulated device “{device}”: known are {', '.join(known)}")
    return convert(parse(read_text(path), str(path)), Behaviour)


def revised(how: Behaviour, revision: str | None) -> Behaviour:
    """A behaviour as one revision of the device shows it."""
    one = how.revisions.get(revision) if revision is not None else None
    if one is None:
        return how
    power_up = None if one.silent else how.power_up
    return msgspec.structs.replace(how, values={**how.values, **one.values}, power_up=power_up)


def faults() -> dict[str, Fault]:
    """All faults by id."""
    document = parse(read_text(FAULTS), str(FAULTS))
    return {entry.id: entry for entry in (convert(document, Fault, (i,)) for i in range(len(document.data)))}
