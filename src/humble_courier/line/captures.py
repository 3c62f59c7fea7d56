"""Recordings from files: VCD (IEEE 1364, clause 18) and CSV (`seconds,level`, changes or samples, levels or volts)."""

import re
from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from humble_courier.errors import BadInput
from humble_courier.line.edges import Edges

_UNITS = {"s": 1.0, "ms": 1e-3, "us": 1e-6, "ns": 1e-9, "ps": 1e-12, "fs": 1e-15}
_VAR = re.compile(rb"\$var\s+(\w+)\s+(\d+)\s+(\S+)\s+((?:[^$]|\$(?!var|end)){1,500}?)\s*\$end", re.DOTALL)
_SCALE = re.compile(rb"\$timescale\s+(\d{1,18})\s*([munpf]?s)\s*\$end")
_BLANK = re.compile(rb"\s")
PIECE = 2 << 20  # bytes of a body that are taken apart at a time
STAMP = ord("#")
MOST_DIGITS = 18  # of a time stamp: what whole numbers of 64 bits hold
MOST_SIGNALS = 256  # each is looked for in the whole file; a logic analyser has 32 at most (common practice)
MOST_NAMES = 8  # told in an error; all stand in the file
EVEN = 0.05  # intervals that differ by less than this share are those of a sampled recording


@dataclass(frozen=True)
class Recording:
    """The signals of a recording by name, in the order of the file; `cut` where the file ends in the middle."""

    signals: dict[str, Edges]
    cut: bool = False

    def signal(self, name: str | None, file: str) -> Edges:
        """The signal of that name; without a name the only one that changes. Raises BadInput where one must be chosen."""
        if name is not None:
            if name not in self.signals:
                raise BadInput(f"there is no signal “{name}”: the recording has {_names(list(self.signals))}", file=file)
            return self.signals[name]
        alive = [n for n, edges in self.signals.items() if len(edges)]
        if len(alive) > 1:
            raise BadInput(f"{len(alive)} signals change: say which, --signal NAME ({_names(alive)})", file=file)
        if not alive:
            raise BadInput("no level changes: record while something is sent", file=file)
        return self.signals[alive[0]]


def _names(names: list[str]) -> str:
    return ", ".join(names[:MOST_NAMES]) + (", …" if len(names) > MOST_NAMES else "")


def read_vcd(data: bytes, file: str) -> Recording:
    """Single-bit signals of a VCD file. A file that is cut off is read as far as it goes. Raises BadInput."""
    ends = data.find(b"$enddefinitions")
    if ends < 0:
        raise BadInput("not a whole VCD file: its head has no $enddefinitions", file=file)
    head, begin = data[:ends], data.find(b"$end", ends + len(b"$enddefinitions"))
    scale = _SCALE.search(head)
    if scale is None:
        raise BadInput("the VCD file tells no time scale: expected as in $timescale 1 us $end", file=file)
    unit = int(scale[1]) * _UNITS[scale[2].decode()]
    names: dict[bytes, str] = {}
    for kind, width, code, name in _VAR.findall(head):
        if width == b"1" and kind not in (b"real", b"event"):
            names.setdefault(code, name.decode(errors="replace"))
    if not names:
        raise BadInput("the VCD file has no signal of one bit", file=file)
    if len(names) > MOST_SIGNALS:
        raise BadInput(f"{len(names)} signals of one bit: save those of the serial line only", file=file)
    begin = begin + len(b"$end") if begin >= 0 else len(data)
    cut = bool(data[begin:][-100:].strip()) and not data.endswith((b"\n", b" ", b"\r"))
    end = (
        max(data.rfind(b"\n", begin), data.rfind(b" ", begin), begin) if cut else len(data)
    )  # the last word may lack its end
    read = _Changes(list(names), file)
    for piece in _pieces(data, begin, end):
        read.feed(piece)
    signals: dict[str, Edges] = {}
    for code, name in names.items():
        signals[_free(name, signals)] = read.edges(code, unit)
    return Recording(signals, cut)


def _pieces(data: bytes, begin: int, end: int) -> Iterator[bytes]:
    """A body in pieces that end behind a word: only one at a time is taken apart, which takes thirty times its size."""
    while begin < end:
        blank = _BLANK.search(data, min(begin + PIECE, end), end)
        stop = blank.start() if blank is not None else end
        yield data[begin:stop]
        begin = stop


def _free(name: str, taken: dict[str, Edges]) -> str:
    return name if name not in taken else f"{name}#{sum(n.partition('#')[0] == name for n in taken) + 1}"


class _Changes:
    """Gathers the changes of some signals, piece by piece: the ticks at which they change, and their first level."""

    def __init__(self, codes: list[bytes], file: str) -> None:
        self._file, self._now = file, 0
        self._ticks: dict[bytes, list[NDArray[np.int64]]] = {code: [] for code in codes}
        self._first: dict[bytes, int] = {}
        self._last: dict[bytes, int] = {}

    def feed(self, piece: bytes) -> None:
        """Take whole words. Raises BadInput."""
        words = _Words(piece, self._now, self._file)
        for code in self._ticks:
            ticks, levels = words.changes(code)
            if not len(levels):
                continue
            first = self._first.setdefault(code, int(levels[0]))
            changed = levels != np.concatenate(([self._last.get(code, first)], levels[:-1]))
            self._ticks[code].append(ticks[changed])
            self._last[code] = int(levels[-1])
        self._now = words.end

    def edges(self, code: bytes, unit: float) -> Edges:
        """The changes of a signal so far, `unit` seconds in a tick; high where it never had a level."""
        ticks = self._ticks.pop(code)
        times = np.concatenate(ticks) * unit if ticks else np.zeros(0)
        return Edges(times, self._first.get(code, 1), self._now * unit)


class _Words:
    """The words of a piece of a VCD file, and for each the time stamp that holds for it; all at once, as arrays."""

    def __init__(self, piece: bytes, now: int, file: str) -> None:
        """`now`: the time stamp that holds at the begin of the piece."""
        self._bytes = np.frombuffer(b"\n" + piece, np.uint8)
        blank = self._bytes <= 32  # spaces, tabs and ends of lines
        self._starts = np.flatnonzero(blank[:-1] & ~blank[1:]) + 1
        ends = np.flatnonzero(~blank[:-1] & blank[1:]) + 1
        if len(ends) < len(self._starts):
            ends = np.append(ends, len(self._bytes))
        self._lengths = ends - self._starts
        self._first = self._bytes[self._starts]
        stamped = self._first == STAMP
        stamps = np.concatenate(([now], self._numbers(np.flatnonzero(stamped), file)))
        if np.any(np.diff(stamps) < 0):
            raise BadInput("the time stamps of the VCD file run backwards", file=file)
        self._times = stamps[np.cumsum(stamped)]
        self.end = int(stamps[-1])

    def _numbers(self, which: NDArray[np.int64], file: str) -> NDArray[np.int64]:
        """The numbers behind the sign of a time stamp."""
        lengths, starts = self._lengths[which] - 1, self._starts[which] + 1
        values = np.zeros(len(which), np.int64)
        for i in range(int(lengths.max(initial=0))):
            there = lengths > i
            digits = self._bytes[np.minimum(starts + i, len(self._bytes) - 1)].astype(np.int64) - ord("0")
            if np.any(there & ((digits < 0) | (digits > 9))):
                raise BadInput("a time stamp of the VCD file is no number", file=file)
            values = np.where(there, values * 10 + digits, values)
        if np.any(lengths < 1) or np.any(lengths > MOST_DIGITS):
            raise BadInput("a time stamp of the VCD file is no number", file=file)
        return values

    def changes(self, code: bytes) -> tuple[NDArray[np.int64], NDArray[np.uint8]]:
        """Ticks and levels that a signal is set to; x and z count as no change."""
        which = (self._lengths == len(code) + 1) & ((self._first == ord("0")) | (self._first == ord("1")))
        at = np.flatnonzero(which)
        for i, byte in enumerate(code, start=1):
            at = at[self._bytes[self._starts[at] + i] == byte]
        return self._times[at], self._first[at] - ord("0")


def read_csv(data: bytes, file: str) -> Recording:
    """Columns `seconds` and one or more levels or voltages, with or without a head. Raises BadInput with the line."""
    first = next((i for i, line in enumerate(data.split(b"\n", 64)) if _numbers(line)), None)
    if first is None:
        raise BadInput("no numbers found: expected seconds,level in each line", file=file)
    lines = data.split(b"\n", first)
    head = [cell.strip().strip('"') for cell in lines[first - 1].decode(errors="replace").split(",")] if first else []
    body = lines[first]
    cut = not body.endswith(b"\n")
    width = body.split(b"\n", 1)[0].count(b",") + 1
    if width < 2:
        raise BadInput("one column only: expected seconds,level", file=file, line=first + 1)
    table = _table(body, width, file, first)
    times = table[:, 0]
    if np.any(np.diff(times) < 0):
        raise BadInput("the seconds run backwards", file=file, line=first + int(np.argmax(np.diff(times) < 0)) + 2)
    names = [head[i] if i < len(head) and head[i] else f"level {i}" for i in range(1, width)]
    signals: dict[str, Edges] = {}
    for i, name in enumerate(names, start=1):
        signals[_free(name, signals)] = _levels(times, table[:, i])
    return Recording(signals, cut)


def _numbers(line: bytes) -> bool:
    try:
        cells = [float(cell) for cell in line.split(b",")]
    except ValueError:
        return False
    return bool(cells) and all(np.isfinite(cells))


def _table(body: bytes, width: int, file: str, first: int) -> NDArray[np.float64]:
    """The numbers in rows; where a line is odd the slow way finds it."""
    try:
        flat = np.fromstring(body.replace(b"\r", b"").replace(b"\n", b",").strip(b","), np.float64, sep=",")
    except ValueError:
        flat = np.zeros(0)
    rows = body.count(b"\n") + (not body.endswith(b"\n"))
    if len(flat) == rows * width and np.isfinite(flat).all():
        return flat.reshape(rows, width)
    kept = []
    lines = body.split(b"\n")
    for number, line in enumerate(lines):
        if not line.strip():
            continue
        cells = line.split(b",")
        if len(cells) == width and _numbers(line):
            kept.append([float(cell) for cell in cells])
        elif number < len(lines) - 1:  # the last line may be cut off
            raise BadInput(f"expected {width} numbers", file=file, line=first + number + 1)
    return np.array(kept).reshape(len(kept), width)


def _levels(times: NDArray[np.float64], values: NDArray[np.float64]) -> Edges:
    """Levels, or volts cut at the middle between the two ends of their range, with a dead zone around it."""
    low, high = float(values.min()), float(values.max())
    if low == high:
        return Edges(np.zeros(0), int(high > 0), float(times[-1]))
    if set(np.unique(values[:1000])) <= {0.0, 1.0} and {low, high} == {0.0, 1.0}:
        levels = values.astype(np.uint8)
    else:
        levels = _cut(values, low, high)
    changed = np.flatnonzero(levels[1:] != levels[:-1]) + 1
    steps = np.diff(times[: min(len(times), 10_000)])
    middle = float(np.median(steps)) if len(steps) else 0.0
    even = len(steps) > 8 and middle > 0 and np.abs(steps - middle).max() < EVEN * middle
    shift = middle / 2 if even else 0.0
    return Edges(times[changed] - shift, int(levels[0]), float(times[-1]), middle if even else 0.0)


def _cut(values: NDArray[np.float64], low: float, high: float) -> NDArray[np.uint8]:
    """Volts as levels: above 60 % of the range is high, below 40 % low, between stays as it was."""
    sure = np.where(values > low + 0.6 * (high - low), 1, np.where(values < low + 0.4 * (high - low), 0, -1))
    last = np.maximum.accumulate(np.where(sure >= 0, np.arange(len(sure)), 0))
    kept = sure[last]
    return np.where(kept < 0, int(values[0] > (low + high) / 2), kept).astype(np.uint8)
