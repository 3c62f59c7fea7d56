"""A stand-in for the tty calls of this process: it writes down each call in its order, and keeps what a kernel would keep.

A pty has no lines, no parity and no stop bits, so what a port is asked for cannot be seen there. Here `open`, `flock`, the
attributes, the ioctls of lines and breaks, flushes and writes of one device node go to `RecordingTty`, and all other calls
to the system. What the kernel does by itself is done too: DTR and RTS rise at opening (drivers/tty/tty_port.c,
tty_port_block_til_ready), and RTS belongs to the driver while CRTSCTS is set.
"""

import errno
import fcntl
import os
import select
import struct
import termios
from dataclasses import dataclass, field
from typing import Any

import serial.serialposix as posix

NODE = "/dev/ttyRECORDED0"
WORD = struct.Struct("I")
LINES = {posix.TIOCM_DTR_str: "DTR", posix.TIOCM_RTS_str: "RTS"}
FLUSHED = {termios.TCIFLUSH: "in", termios.TCOFLUSH: "out", termios.TCIOFLUSH: "both"}
RATES = [int(name[1:]) for name in dir(termios) if name[0] == "B" and name[1:].isdigit()]
INPUTS = {"CTS": posix.TIOCM_CTS, "DSR": posix.TIOCM_DSR, "DCD": posix.TIOCM_CD, "RI": posix.TIOCM_RI}


@dataclass
class RecordingTty:
    """One device node. `calls`: what was asked of it, in order; `fails`: errno to raise, by the name of a call."""

    held: bool = False
    fails: dict[str, int] = field(default_factory=dict)
    calls: list[tuple[Any, ...]] = field(default_factory=list)
    attributes: list[Any] = field(
        default_factory=lambda: [termios.ICRNL | termios.IXON, 5, termios.CS8, 35387, 15, 15, [0] * 32]
    )
    inputs: set[str] = field(default_factory=set)
    lines: dict[str, bool] = field(default_factory=dict)
    waiting: int = 0
    takes: int = 4096
    came: bytes = b""
    descriptor: int = -1
    custom_rate: int = 0

    def of(self, *names: str) -> list[tuple[Any, ...]]:
        """The calls of some names."""
        return [call for call in self.calls if call[0] in names]

    def note(self, *call: Any) -> None:
        self.calls.append(call)
        if call[0] in self.fails:
            number = self.fails[call[0]]
            raise (termios.error if call[0] in ("get", "set", "flush") else OSError)(number, os.strerror(number))

    @property
    def rate(self) -> int:
        """What was asked for in bit/s."""
        if self.attributes[4] == posix.BOTHER:
            return self.custom_rate
        return next(rate for rate in RATES if self.attributes[4] == getattr(termios, f"B{rate}"))

    def has(self, word: int, *flags: str) -> set[str]:
        """Which of some flags are set in the input (0), output (1), control (2) or local (3) modes."""
        bits = {name: posix.CMSPAR if name == "CMSPAR" else getattr(termios, name) for name in flags}
        return {name for name, bit in bits.items() if self.attributes[word] & bit == bit}


class _Stand:
    """A module in which some calls go to the recording tty where they are about its node or its descriptor."""

    def __init__(self, tty: RecordingTty, real: Any) -> None:
        self._tty, self._real = tty, real

    def __getattr__(self, name: str) -> Any:
        return getattr(self._real, name)

    def _ours(self, descriptor: object) -> bool:
        return descriptor == self._tty.descriptor


class _Os(_Stand):
    def open(self, path: str, flags: int, *mode: int) -> int:
        if path != NODE:
            return os.open(path, flags, *mode)
        self._tty.note("open", flags)
        self._tty.descriptor = os.open(os.devnull, os.O_RDWR)
        self._tty.lines = {"DTR": True, "RTS": True}
        return self._tty.descriptor

    def close(self, descriptor: int) -> None:
        if self._ours(descriptor):
            self._tty.note("close")
            self._tty.descriptor = -1
        os.close(descriptor)

    def write(self, descriptor: int, data: bytes) -> int:
        if not self._ours(descriptor):
            return os.write(descriptor, data)
        taken = data[: self._tty.takes]
        self._tty.note("write", bytes(taken))
        return len(taken)

    def read(self, descriptor: int, size: int) -> bytes:
        if not self._ours(descriptor):
            return os.read(descriptor, size)
        self._tty.note("read", size)
        got, self._tty.came = self._tty.came[:size], self._tty.came[size:]
        return got


class _Fcntl(_Stand):
    def flock(self, descriptor: int, operation: int) -> None:
        if not self._ours(descriptor):
            return fcntl.flock(descriptor, operation)
        self._tty.note("flock", operation)
        if self._tty.held:
            raise OSError(errno.EAGAIN, os.strerror(errno.EAGAIN))
        return None

    def ioctl(self, descriptor: int, request: int, argument: Any = 0, *more: Any) -> Any:
        if not self._ours(descriptor):
            return fcntl.ioctl(descriptor, request, argument, *more)
        return self._asked(request, argument)

    def _asked(self, request: int, argument: Any) -> Any:
        tty = self._tty
        if request in (posix.TIOCMBIS, posix.TIOCMBIC):
            name, on = LINES[argument], request == posix.TIOCMBIS
            tty.note("line", name, on)
            tty.lines[name] = on
        elif request in (posix.TIOCSBRK, posix.TIOCCBRK):
            tty.note("break", request == posix.TIOCSBRK)
        elif request == posix.TIOCMGET:
            tty.note("inputs")
            return WORD.pack(sum(INPUTS[name] for name in tty.inputs))
        elif request in (posix.TIOCINQ, posix.TIOCOUTQ):
            return WORD.pack(len(tty.came) if request == posix.TIOCINQ else tty.waiting)
        else:
            assert request in (posix.TCGETS2, posix.TCSETS2), f"an ioctl that nobody expects: {request:#x}"
            if request == posix.TCSETS2:
                tty.custom_rate = argument[9]  # c_ispeed of struct termios2 (asm-generic/termbits.h)
                tty.note("rate", tty.custom_rate)
        return argument


class _Termios(_Stand):
    def tcgetattr(self, descriptor: int) -> list[Any]:
        if not self._ours(descriptor):
            return termios.tcgetattr(descriptor)
        self._tty.note("get")
        return [*self._tty.attributes[:6], list(self._tty.attributes[6])]

    def tcsetattr(self, descriptor: int, when: int, attributes: list[Any]) -> None:
        if not self._ours(descriptor):
            return termios.tcsetattr(descriptor, when, attributes)
        self._tty.note("set", when)
        self._tty.attributes = [*attributes[:6], list(attributes[6])]
        return None

    def tcflush(self, descriptor: int, queue: int) -> None:
        if not self._ours(descriptor):
            return termios.tcflush(descriptor, queue)
        self._tty.note("flush", FLUSHED[queue])
        self._tty.waiting = 0 if queue != termios.TCIFLUSH else self._tty.waiting
        return None

    def tcsendbreak(self, descriptor: int, duration: int) -> None:
        self._tty.note("tcsendbreak", duration)


class _Select(_Stand):
    def select(self, reads: list[int], writes: list[int], errors: list[int], within_s: float | None = None) -> Any:
        tty = self._tty
        if tty.descriptor not in (*reads, *writes):
            return select.select(reads, writes, errors, within_s)
        tty.note("select", "read" if tty.descriptor in reads else "write", within_s)
        ready = [tty.descriptor] if tty.descriptor in reads and tty.came else []
        return ready, [tty.descriptor] if tty.descriptor in writes and tty.takes else [], []


def stands(tty: RecordingTty) -> dict[str, Any]:
    """What stands in the place of the modules `os`, `fcntl`, `termios` and `select`."""
    return {
        "os": _Os(tty, os),
        "fcntl": _Fcntl(tty, fcntl),
        "termios": _Termios(tty, termios),
        "select": _Select(tty, select),
    }
