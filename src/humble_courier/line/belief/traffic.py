"""Kinds of traffic from which the tables are made: what devices say, so far as it shapes the bytes (common practice)."""

from collections.abc import Callable

import numpy as np
from crccheck.crc import CrcModbus

Make = Callable[[np.random.Generator, int], bytes]

_TEXT = """
level flow pump valve alarm ready error start stop value sensor time date channel offset gain range status mode set get open
closed high low battery supply signal noise input output port link reset memory free total version serial number temperature
pressure depth wind speed course north south east west mean minimum maximum sample store print help quit
"""
_WORDS = _TEXT.split()


def _words(random: np.random.Generator, count: int) -> list[str]:
    return [_WORDS[i] for i in random.integers(0, len(_WORDS), count)]


def _until(size: int, piece: Callable[[], bytes]) -> bytes:
    made = bytearray()
    while len(made) < size:
        made += piece()
    return bytes(made[:size])


def log_text(random: np.random.Generator, size: int) -> bytes:
    """Lines with a time, words and numbers."""

    def line() -> bytes:
        h, m, s = random.integers(0, 24), random.integers(0, 60), random.integers(0, 60)
        words = " ".join(_words(random, int(random.integers(2, 6))))
        return f"{h:02d}:{m:02d}:{s:02d} {words} {random.normal(0, 50):.{random.integers(0, 4)}f}\r\n".encode()

    return _until(size, line)


def sentences(random: np.random.Generator, size: int) -> bytes:
    """Fields with commas, a talker in front, a checksum behind."""

    def line() -> bytes:
        name = "".join(chr(c) for c in random.integers(65, 91, 5))
        fields = []
        for _ in range(random.integers(3, 10)):
            kind = random.integers(0, 4)
            number = f"{abs(random.normal(0, 300)):0{random.integers(3, 7)}.{random.integers(0, 3)}f}"
            fields.append(("", chr(random.integers(65, 91)), number, number)[kind])
        body = ",".join([name, *fields])
        check = int(np.bitwise_xor.reduce(np.frombuffer(body.encode(), np.uint8)))
        return f"${body}*{check:02X}\r\n".encode()

    return _until(size, line)


def console(random: np.random.Generator, size: int) -> bytes:
    """Prompts, commands, mixed case, now and then a line of signs."""

    def line() -> bytes:
        words = [w.title() if random.random() < 0.4 else w for w in _words(random, int(random.integers(1, 8)))]
        kind = random.integers(0, 5)
        text = " ".join(words)
        made = (f"{words[0]}> ", f"{text}: ", f"{text}.\r\n", "-" * int(random.integers(4, 40)) + "\r\n", f"[{text}]\r\n")
        return made[kind].encode()

    return _until(size, line)


def binary(random: np.random.Generator, size: int) -> bytes:
    """Requests and answers with small numbers and a CRC."""
    station = int(random.integers(1, 40))

    def message() -> bytes:
        registers = random.integers(0, 2, 12) * random.integers(0, 256, 12)
        count = int(random.integers(1, 7))
        body = bytes([station, int(random.choice([1, 3, 3, 4, 6, 16])), 2 * count])
        body += b"".join(int(r * random.integers(0, 40)).to_bytes(2, "big") for r in registers[:count])
        return body + int(CrcModbus.calc(body)).to_bytes(2, "little")

    return _until(size, message)


def uniform(random: np.random.Generator, size: int) -> bytes:
    """Any byte as likely as any other."""
    return random.integers(0, 256, size, np.uint8).tobytes()


def ascii_signs(random: np.random.Generator, size: int) -> bytes:
    """Any printable sign as likely as any other, or the letters of an alphabet above 127."""
    if random.random() < 0.5:
        return random.integers(32, 127, size, np.uint8).tobytes()
    return random.choice(np.concatenate((np.arange(0xA0, 0x100), np.full(20, 32))), size).astype(np.uint8).tobytes()


def filler(random: np.random.Generator, size: int) -> bytes:
    """Mostly one byte, a few others between."""
    made = np.full(size, random.choice([0x00, 0x00, 0xFF, 0x20, 0x55, 0x7E]), np.uint8)
    others = random.random(size) < random.choice([0.05, 0.15, 0.3])
    made[others] = random.integers(0, 256, int(others.sum()), np.uint8)
    return made.tobytes()


FAMILIES: dict[str, tuple[Make, float]] = {
    "log text": (log_text, 1.0),
    "sentences": (sentences, 1.0),
    "console text": (console, 1.0),
    "binary messages": (binary, 1.0),
    "any bytes": (uniform, 0.5),
    "any signs": (ascii_signs, 0.5),
    "mostly one byte": (filler, 0.5),
}
