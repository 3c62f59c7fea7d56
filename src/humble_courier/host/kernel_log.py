"""Kernel log reading: the events of each USB path in order, and what a technician can conclude from them.

The log is fed line by line and never held: only events are kept, and at most `MOST_EVENTS` of them.
"""

import re
from collections import deque
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from typing import BinaryIO

from humble_courier.catalog.entries import LogEntry

MOST_EVENTS = 20_000  # the newest; a machine that wrote more about USB has told its story long before
PIECE = 1 << 20  # bytes read at once
LONGEST_LINE = 8192  # the kernel's own records are shorter (LOG_LINE_MAX, kernel/printk)
WORDS = (b"usb", b"tty", b"hub", b"cdc_acm", b"failed with error", b"HC died")  # a line with none of these is of no interest
_ESCAPES = re.compile(r"\x1b\[[0-9;?]*[A-Za-z]|[\x00-\x08\x0b-\x1f\x7f]")
_DMESG = re.compile(r"(?:<\d+>)?\[\s*(\d+\.\d+)\](?:\[\s*[TC]\d+\])? ?(.*)")
_DATED = re.compile(r"\[(\w{3} \w{3} +\d+ [\d:]+ \d{4})\] ?(.*)")
_JOURNAL = re.compile(
    r"(\w{3} +\d+ [\d:]+|\d{4}-\d\d-\d\d[T ][\d:.,]+(?:[+-]\d\d:?\d\d|Z)?) \S+ kernel: ?(?:\[\s*[\d.]+\] ?)?(.*)"
)


@dataclass(frozen=True)
class LogEvent:
    """One line that means something. `time` in seconds since the start, or as the log dates it; None without one."""

    line: int
    time: float | str | None
    code: str
    usb_path: str | None
    port: str | None
    program: str | None = None
    usb_id: str | None = None


@dataclass(frozen=True)
class Conclusion:
    """What follows for one USB path: a published code, the lines it rests on, what to do next."""

    code: str
    because: tuple[int, ...]
    next: str
    usb_path: str | None = None


def read_log(chunks: Iterable[bytes], patterns: Iterable[LogEntry]) -> list[LogEvent]:
    """The events of a log that comes in pieces of any size, oldest first.

    Broken UTF-8 and escape sequences do no harm; memory stays bounded, whatever the size of log and lines.
    """
    compiled = [(entry.code, re.compile(entry.pattern)) for entry in patterns]
    events: deque[LogEvent] = deque(maxlen=MOST_EVENTS)
    ports: dict[str, str] = {}
    for number, raw in _interesting(_whole_lines(chunks)):
        time, message = _split(_ESCAPES.sub("", raw[:LONGEST_LINE].decode("utf-8", "replace")).strip())
        event = _match(number, time, message, compiled, ports)
        if event is not None:
            events.append(event)
    return list(events)


def pieces(file: BinaryIO) -> Iterator[bytes]:
    """A file in pieces."""
    while piece := file.read(PIECE):
        yield piece


def _whole_lines(chunks: Iterable[bytes]) -> Iterator[bytes]:
    """Pieces that end where a line ends. Of a line longer than a piece the beginning is kept, the rest is dropped."""
    carry, cut = b"", False
    for chunk in chunks:
        end = chunk.rfind(b"\n") + 1
        if not end:
            room = max(0, LONGEST_LINE - len(carry)) if len(carry) + len(chunk) > PIECE else len(chunk)
            cut = cut or room < len(chunk)
            carry += b"" if cut and len(carry) >= LONGEST_LINE else chunk[:room]
            continue
        if cut:
            first = chunk.find(b"\n")
            yield carry[:LONGEST_LINE] + chunk[first:end]
        else:
            yield carry + chunk[:end]
        carry, cut = chunk[end:], False
    if carry:
        yield carry


def _interesting(blocks: Iterable[bytes]) -> Iterator[tuple[int, bytes]]:
    """Lines with one of the words, with their numbers: searched in whole blocks, since most lines are of no interest."""
    before = 1
    for block in blocks:
        starts: set[int] = set()
        for word in WORDS:
            at = block.find(word)
            while at >= 0:
                starts.add(block.rfind(b"\n", 0, at) + 1)
                end = block.find(b"\n", at)
                at = block.find(word, end) if end >= 0 else -1
        number, seen = before, 0
        for start in sorted(starts):
            number += block.count(b"\n", seen, start)
            seen = start
            end = block.find(b"\n", start)
            yield number, block[start : end if end >= 0 else None]
        before += block.count(b"\n")


def _split(text: str) -> tuple[float | str | None, str]:
    for pattern in (_DMESG, _DATED, _JOURNAL):
        match = pattern.match(text)
        if match:
            return (float(match[1]) if pattern is _DMESG else match[1]), match[2]
    return None, text


def _match(
    number: int, time: float | str | None, message: str, compiled: list[tuple[str, re.Pattern[str]]], ports: dict[str, str]
) -> LogEvent | None:
    for code, pattern in compiled:
        match = pattern.search(message)
        if match is None:
            continue
        found = match.groupdict()
        port, path = found.get("port"), _path(found)
        if code == "port-appeared" and port and path:
            ports[port] = path
        if path is None and port:
            path = ports.get(port)
        usb_id = f"{found['vid']}:{found['pid']}".lower() if found.get("vid") else None
        return LogEvent(number, time, code, path, port, found.get("program"), usb_id)
    return None


def _path(found: dict[str, str | None]) -> str | None:
    """The USB path that a line is about: of a hub's socket, the path that a device in it has."""
    path, socket = found.get("path"), found.get("n")
    if path is None:
        return found.get("hub")
    if socket is None:
        return path
    return f"{path.removeprefix('usb')}-{socket}" if path.startswith("usb") else f"{path}.{socket}"


_WIRE = frozenset({
    "descriptor-read-failed", "address-not-accepted", "enumeration-gave-up", "hub-disabled-port", "cannot-enable",
    "power-cycled", "configuration-refused", "transfer-stopped",
})  # fmt: skip
_POWER = frozenset({"over-current", "not-enough-power"})
_NEXT = {
    "healthy": "The port is there: open it.",
    "cable-or-socket": "Exchange the cable for one that is known to carry data, then the socket; leave hubs out.",
    "not-enough-power": "Plug it into the computer itself or a hub with its own supply; take other devices out.",
    "taken-by-program": "Stop or remove that program, then pull the plug and put it back.",
    "no-driver": "Ask which module claims its id; bind the id, or fetch the driver.",
    "came-and-went": "A loose plug, a worn socket or a supply that breaks down: move the plug while watching the log.",
    "nothing-seen": "The computer noticed nothing: a charge-only cable, a dead socket, or a device without power.",
}


_GONE = {"unplugged", "port-vanished"}
_UNCLAIMED = {"attached", "identified", "probe-failed"}
_TAKEN = "taken-by-program"


def conclude(events: list[LogEvent]) -> list[Conclusion]:
    """One conclusion for each USB path that may be a serial adapter, in the order in which they first appear."""
    paths: dict[str, list[LogEvent]] = {}
    for event in events:
        if event.usb_path is not None:
            paths.setdefault(event.usb_path, []).append(event)
    found = [made for path, story in paths.items() if (made := _judge(path, story)) is not None]
    return found or [Conclusion("nothing-seen", (), _NEXT["nothing-seen"])]


def _judge(path: str, story: list[LogEvent]) -> Conclusion | None:
    """What follows for one path: what happened after its last port counts; without a port, all that happened."""
    codes = [e.code for e in story]
    if "other-device" in codes and "port-appeared" not in codes:
        return None
    last_port = max((i for i, code in enumerate(codes) if code == "port-appeared"), default=-1)
    hindered = _hindered(path, story, story[last_port + 1 :])
    return hindered or _came_and_went(path, story, last_port)


def _made(code: str, path: str, because: Iterable[LogEvent], more: str = "") -> Conclusion:
    return Conclusion(code, tuple(event.line for event in because), more + _NEXT[code], path)


def _hindered(path: str, story: list[LogEvent], since: list[LogEvent]) -> Conclusion | None:
    """Power first, since it explains the others; then a program that took it, then cable and socket."""
    now = {event.code for event in since}
    if now & _POWER:
        return _made("not-enough-power", path, (e for e in story if e.code in _POWER))
    if _TAKEN in now:
        takers = [event for event in story if event.code == _TAKEN]
        return _made(_TAKEN, path, takers, f"It is {takers[-1].program}. ")
    if now & _WIRE:
        return _made("cable-or-socket", path, (e for e in story if e.code in _WIRE))
    return None


def _came_and_went(path: str, story: list[LogEvent], last_port: int) -> Conclusion | None:
    """Nothing hinders it: it is there, it came and went, or nobody claims it."""
    codes = [event.code for event in story]
    if last_port >= 0 and "port-vanished" in codes[last_port + 1 :] and "unplugged" not in codes[last_port + 1 :]:
        went = [event for event in story[last_port:] if event.code in ("port-appeared", "port-vanished")]
        return _made(_TAKEN, path, went, "The port went while its plug stayed in, as when a virtual machine takes it over. ")
    gone = _GONE & set(codes[last_port + 1 :])
    if codes.count("unplugged") >= 2 and codes.count("attached") >= 2:
        return _made("came-and-went", path, (e for e in story if e.code in ("attached", "unplugged")))
    if last_port >= 0 and not gone:
        return _made("healthy", path, [story[last_port]], f"/dev/{story[last_port].port}. ")
    if gone and (last_port >= 0 or "attached" in codes):
        return _made("came-and-went", path, (e for e in story if e.code in {"attached", "port-appeared", *_GONE}))
    unclaimed = [event for event in story if event.code in _UNCLAIMED]
    return _made("no-driver", path, unclaimed) if unclaimed else None
