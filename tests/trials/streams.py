"""Bytes to attack decoders with: noise, one byte for ever, and sound messages of each protocol with faults put in."""

import random
from collections.abc import Iterator

from humble_courier.protocols import df1, iso14230, j1708, kiss, modbus_ascii, modbus_rtu, mstp, nmea, talker
from humble_courier.protocols.slcan import CanFrame

FILLS = [
    bytes((byte,)) for byte in (0x00, 0x01, 0x03, 0x0A, 0x0D, 0x10, 0x17, 0x24, 0x2B, 0x3A, 0x55, 0x80, 0xC0, 0xE0, 0xFF)
]
FIX = talker.Track(57.5, -3.25, 6.0, 271.3).round_a_route(10.0, 1_700_000_000.0)
CAN = [
    CanFrame(0x0CF00400, True, bytes(range(8))),
    CanFrame(0x18FECA00, True, bytes(8)),
    CanFrame(0x123, False, b"\x01\x02"),
]
SOUND: dict[str, list[bytes]] = {
    "text": [b"LEVEL 01.24 M\r\n", b"OK\n", b"\r\n", b"STATUS: RUN\r"],
    "scpi": [b"+1.25E+00,3,4\n", b"MAKER,MODEL,1,2\n", b'-113,"undefined header"\n', b"#15abcde\n", b"*IDN?\n"],
    "nmea-0183": [nmea.sentence(talker.body(one, FIX)) for one in talker.FORMATTERS],
    "modbus-rtu": [
        modbus_rtu.read_request(17, 107, 3), modbus_rtu.with_crc(bytes.fromhex("11 03 06 02 2B 00 64 00 7F")),
        modbus_rtu.with_crc(b"\x11\x83\x02"), modbus_rtu.with_crc(bytes.fromhex("01 2B 0E 01 00")),
        modbus_rtu.with_crc(bytes.fromhex("01 2B 0E 01 01 00 00 01 00 03 61 62 63")),
        modbus_rtu.with_crc(bytes.fromhex("01 17 00 03 00 06 00 0E 00 01 02 00 FF")),
    ],
    "modbus-ascii": [modbus_ascii.ascii_frame(bytes.fromhex("11 03 00 6B 00 03"))],
    "mstp": [mstp.frame(0, 4, 3), mstp.frame(1, 5, 3), mstp.frame(5, 4, 3, b"\x01\x04\x02\x03\x10")],
    "df1": [
        df1.frame(b"\x09\x00\x06\x00\x10\x05\x03"), df1.frame(b"\x09\x00\x46\x00\x10\x05", "bcc"), b"\x10\x06", b"\x10\x15",
    ],
    "kiss": [kiss.frame(kiss.ui_frame("SKW-1", "SKW-2", b"\xc0\xdb hello")), kiss.frame(b"\x20", command=1)],
    "j1708": [j1708.message(128, bytes.fromhex("54 40 BE E8 03")), j1708.message(136, bytes.fromhex("31 00"))],
    "j1939": [frame.line() for frame in CAN],
    "can-ascii": [frame.line() for frame in CAN] + [b"\r", b"\x07", b"(0001.000000) can0 123#0102\n"],
    "iso14230": [
        iso14230.message(b"\xc1\x57\x8f", 0xF1, 0x11), iso14230.message(bytes(range(1, 90)), 0x11), b"\x01\x3e\x3f",
    ],
}  # fmt: skip


def mutated(protocol: str, size: int, seed: int = 1, faults: float = 0.3) -> bytes:
    """Sound messages of a protocol; in some a byte is changed, lost, doubled or put in, or the end is cut off."""
    dice, out = random.Random(seed), bytearray()
    while len(out) < size:
        one = bytearray(dice.choice(SOUND[protocol]))
        if dice.random() < faults:
            at, byte = dice.randrange(len(one)), dice.randrange(256)
            fault = dice.randrange(5)
            one[at : at + (fault != 3)] = ((byte,), (), one[at : at + 1] * 2, (byte,), ())[fault]
            del one[at if fault == 4 else len(one) :]
        out += one
    return bytes(out[:size])


def attacks(protocol: str, size: int) -> Iterator[tuple[str, bytes]]:
    """What a decoder must get through, by what it is."""
    yield "noise", random.Random(2).randbytes(size)
    yield "messages with faults", mutated(protocol, size)
    for fill in FILLS:
        yield f"{fill.hex().upper()} for ever", fill * size
