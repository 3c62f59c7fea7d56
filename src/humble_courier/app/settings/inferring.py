"""Settings out of a file: recordings of level changes, or bytes that were received with some settings."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Literal

import numpy as np

from humble_courier.app.settings.turns import OneSide, Turn, turns
from humble_courier.documents.files import read_bounded
from humble_courier.domain.received import Doubt, Heard
from humble_courier.domain.settings import Frame, Parity, Settings
from humble_courier.domain.text import TEXT, escaped
from humble_courier.errors import BadInput
from humble_courier.line.captures import read_csv, read_vcd
from humble_courier.line.from_edges import FromEdges, infer_edges
from humble_courier.line.marked import Unstuffer, stuff

Kind = Literal["vcd", "csv", "marked", "raw"]
KINDS: tuple[Kind, ...] = ("vcd", "csv", "marked", "raw")
MOST_BYTES = 1 << 18  # of received bytes: more of them change nothing
MOST_RECORDING = 256 << 20  # bytes of a recording that are read; the rest is left out, and that is said
MOST_TOLD = 4096  # bytes told in the answer
SAME_RATE = 0.03  # heard at a rate this near, the bytes are the sender's own
FEWEST_BYTES = 1  # without any byte there is nothing to judge


@dataclass(frozen=True)
class Setting:
    """One setting that may be, with its probability."""

    rate: int
    frame: str
    inverted: bool
    probability: float


@dataclass(frozen=True)
class Inferred:
    """What a file says. `measured_rate` only from level changes; `listen_next` only from bytes, and only while in doubt.

    `equivalent`: frames that any receiver would read the same way; `text` None where the bytes are not the sender's.
    """

    best: Setting
    candidates: tuple[Setting, ...]
    equivalent: tuple[str, ...]
    measured_rate: float | None
    text: str | None
    received: bytes
    listen_next: Settings | None = None
    traffic: str = ""
    notes: tuple[str, ...] = ()
    directions: tuple["RecordedDirection", ...] = ()
    turns: tuple[Turn, ...] = ()


@dataclass(frozen=True)
class RecordedDirection:
    """One signal of a recording of two, with what it says."""

    signal: str
    best: Setting
    measured_rate: float


def infer_file(
    path: Path, kind: Kind | None, heard_as: Settings | None, signals: Sequence[str] = (), both: bool = False,
    expected: Settings | None = None,
) -> Inferred:  # fmt: skip
    """Read a file and say what the sender is set to. Raises BadInput with what to do where that cannot be.

    `signals` of a recording: one, or the two directions of a line; with `both`, the two that change are taken. `expected`:
    what the sender is thought to be set to; received bytes are weighed with it.
    """
    data, cut = read_file(path)
    kind = kind or _kind(path, data)
    if kind in ("vcd", "csv"):
        return infer_recording(data, kind, str(path), signals, cut, both)
    if heard_as is None:
        raise BadInput("say with which settings the bytes were received: --heard-as 9600,8N1", file=path)
    if not data:
        raise BadInput("the file is empty: record while something is sent", file=path)
    try:
        return infer_bytes(data[:MOST_BYTES], heard_as, marked=kind == "marked", expected=expected)
    except BadInput as error:
        raise BadInput(error.text, file=path) from None


def read_file(path: Path) -> tuple[bytes, bool]:
    """What stands in a file, and whether it is longer than what is read of it. Raises BadInput."""
    return read_bounded(path, MOST_RECORDING)


def _kind(path: Path, data: bytes) -> Kind:
    """By the name's ending, else by what stands in it."""
    ending = path.suffix.lower().removeprefix(".")
    known: dict[str, Kind] = {"vcd": "vcd", "csv": "csv", "marked": "marked", "raw": "raw", "bin": "raw"}
    if ending in known:
        return known[ending]
    if b"$enddefinitions" in data[: 1 << 16]:
        return "vcd"
    return "marked" if b"\xff\x00" in data or b"\xff\xff" in data else "raw"


def infer_recording(
    data: bytes, kind: Kind, file: str, signals: Sequence[str] = (), cut: bool = False, both: bool = False
) -> Inferred:
    """Settings from a recording of level changes; of two signals, each by itself and who said what when."""
    recording = read_vcd(data, file) if kind == "vcd" else read_csv(data, file)
    alive = [name for name, edges in recording.signals.items() if len(edges)]
    names: Sequence[str | None] = signals or (alive if both and len(alive) == 2 else [None])
    if len(names) > 2:
        raise BadInput(f"{len(names)} signals: a line has two directions at most", file=file)
    try:
        read = [infer_edges(recording.signal(name, file)) for name in names]
    except BadInput as error:
        raise error if error.file else BadInput(error.text, file=file) from None
    first = _told(read[0], cut or recording.cut)
    if len(read) == 1:
        return first
    settings = [_told(one, False).best for one in read]
    directions = tuple(
        RecordedDirection(str(name), best, float(one.measured_rate))
        for name, best, one in zip(names, settings, read, strict=True)
    )
    said = [
        OneSide(str(name), one.read.starts, one.read.values.tobytes(), best.rate / Frame.parse(best.frame).bits)
        for name, best, one in zip(names, settings, read, strict=True)
    ]
    differ = f"the two directions are set differently: {' and '.join(f'{b.rate} {b.frame}' for b in settings)}"
    notes = first.notes if settings[0].rate == settings[1].rate else (*first.notes, differ)
    return replace(first, directions=directions, turns=turns(said), notes=notes)


def _told(found: FromEdges, cut: bool) -> Inferred:
    notes = []
    if cut:
        notes.append("the file is cut off; what is there was read")
    if found.glitches:
        notes.append(f"{found.glitches} spikes too short for a bit were left out")
    if found.left_out:
        notes.append(f"judged by the first {found.judged} level changes")
    values = found.read.values.tobytes()[:MOST_TOLD]
    settings = tuple(Setting(c.rate, str(c.frame), c.inverted, float(c.probability)) for c in found.candidates)
    return Inferred(
        settings[0], settings, tuple(str(f) for f in found.equivalent), float(found.measured_rate), as_text(values), values,
        notes=tuple(notes),
    )  # fmt: skip


def as_text(data: bytes) -> str:
    """Bytes as text: lines and tabs as they are, what is no text as its number."""
    return escaped(data, TEXT)


def infer_bytes(data: bytes, heard_as: Settings, marked: bool, expected: Settings | None = None) -> Inferred:
    """Settings from received bytes, with their errors marked (PARMRK) or without."""
    from humble_courier.line.belief.belief import CERTAIN, Belief, counted, in_order

    if marked:
        heard = Unstuffer().feed(data)
        values = np.array([h.byte for h in heard], np.uint8)
        errors = np.array([h.doubt is not Doubt.NONE for h in heard], np.bool_)
    else:
        values = np.frombuffer(data, np.uint8)
        errors = np.zeros(len(values), np.bool_)
    if len(values) < FEWEST_BYTES:
        raise BadInput("no whole byte was received: listen longer")
    belief = Belief(expected=expected)
    if marked:
        belief.listen_in_order(heard_as, in_order(values, errors))
    else:
        belief.listen(heard_as, counted(values, errors), errors_known=False)
    settings = tuple(Setting(b.rate, str(b.frame), b.inverted, b.probability) for b in belief.told())
    best = settings[0]
    family, _ = belief.family()
    received = values.tobytes()[:MOST_TOLD]
    text = None
    if abs(best.rate / heard_as.rate - 1) <= SAME_RATE and not best.inverted and heard_as.frame.data_bits >= 7:
        mask = (1 << Frame.parse(best.frame).data_bits) - 1
        text = as_text(bytes(b & mask for b in received))
    following = belief.next_listen() if best.probability < CERTAIN else None
    return Inferred(best, settings, equivalent(best.frame, values), None, text, received, following, family)


def equivalent(frame: str, values: "np.typing.NDArray[np.uint8]") -> tuple[str, ...]:
    """Frames that a receiver of eight bits cannot tell from this one by what came."""
    from humble_courier.line.belief.belief import SAME_TO_A_RECEIVER

    found = Frame.parse(frame)
    same = {one: (two,) for two, one in SAME_TO_A_RECEIVER.items()}
    others = list(same.get(frame, ()))
    if found.data_bits == 7 or (found.parity is Parity.NONE and len(values) and bool((values > 127).all())):
        others += [f for f in ("8N1", "7N2") if f != frame and f not in others]
    return tuple(others)


def infer_heard(heard: list[Heard], ours: Settings, expected: Settings | None = None) -> Inferred:
    """The same from what a port has heard so far, opened with `ours`; `expected`: what a sheet says of the sender."""
    return infer_bytes(stuff(heard), ours, marked=True, expected=expected)
