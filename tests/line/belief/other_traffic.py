"""Traffic from which the tables were not made: text of this repository, packed numbers, compressed bytes, records."""

import struct
import zlib
from pathlib import Path

import numpy as np

ROOT = Path(__file__).parents[3]


def licence_text(random: np.random.Generator, size: int) -> bytes:
    text = (ROOT / "LICENSE").read_bytes().replace(b"\n", b"\r\n")
    text *= size // len(text) + 2
    at = int(random.integers(0, len(text) - size))
    return text[at : at + size]


def yaml_text(random: np.random.Generator, size: int) -> bytes:
    text = (ROOT / "src/humble_courier/catalog/data/parts.yaml").read_bytes()
    text *= size // len(text) + 2
    at = int(random.integers(0, len(text) - size))
    return text[at : at + size]


def packed_floats(random: np.random.Generator, size: int) -> bytes:
    values = 20 + np.cumsum(random.normal(0, 0.1, size))
    return b"".join(b"\x02" + struct.pack("<Hf", i & 0xFFFF, v) + b"\x03" for i, v in enumerate(values))[:size]


def hex_records(random: np.random.Generator, size: int) -> bytes:
    made = bytearray()
    while len(made) < size:
        body = bytes([16, *random.integers(0, 256, 18, np.uint8).tolist()])
        made += b":" + body.hex().upper().encode() + b"%02X\r\n" % (-sum(body) & 0xFF)
    return bytes(made[:size])


def compressed(random: np.random.Generator, size: int) -> bytes:
    text = (ROOT / "LICENSE").read_bytes()
    begin = int(random.integers(0, 4000))
    packed = zlib.compress(text[begin:]) * (size // 4000 + 2)
    at = int(random.integers(10, 4000))
    return packed[at : at + size]


def numbers(random: np.random.Generator, size: int) -> bytes:
    return b"".join(b"%+08.3f %5d\r" % (random.normal(0, 10), random.integers(0, 5000)) for _ in range(size // 10 + 1))[
        :size
    ]


def counters(random: np.random.Generator, size: int) -> bytes:
    begin = int(random.integers(0, 256))
    return bytes((begin + i) & 0xFF for i in range(size))


OTHER = {f.__name__: f for f in (licence_text, yaml_text, packed_floats, hex_records, compressed, numbers, counters)}
