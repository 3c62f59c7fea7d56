"""What is put together is taken apart again, whatever it holds; damage is told; sums are done a second way."""

import operator
from functools import reduce

import pytest
from crccheck.checksum import Checksum8, ChecksumXor8
from hypothesis import assume, given
from hypothesis import strategies as st

from humble_courier.catalog.load import Catalog
from humble_courier.protocols import df1, iso14230, j1708, j1939, kiss, modbus_ascii, mstp, nmea, slcan
from humble_courier.protocols.framer import Event, Framer
from humble_courier.protocols.iso14230 import Iso14230
from humble_courier.protocols.j1708 import J1708, BySilence
from humble_courier.protocols.j1939 import J1939, Identifier
from humble_courier.protocols.registry import looks_spoken
from humble_courier.protocols.slcan import CanFrame
from humble_courier.protocols.unknown import frames, pause

CATALOG = Catalog()
CALLS = st.from_regex(r"[A-Z0-9]{1,6}(-(1[0-5]|[1-9]))?", fullmatch=True)


def all_of(framer: Framer, data: bytes) -> list[Event]:
    return [*framer.feed(data), *framer.end()]


@given(st.binary(min_size=1, max_size=100), st.sampled_from(["bcc", "crc"]))
def test_df1(data: bytes, check: df1.Check) -> None:
    events = all_of(Framer(df1.cut), df1.frame(data, check))
    assert events[0].ok and bytes.fromhex(events[0].fields["hex"]) == data


@given(st.binary(min_size=1, max_size=60))
def test_the_bcc_of_df1_is_the_twos_complement_of_crccheck(data: bytes) -> None:
    assert (df1.frame(data, "bcc")[-1] + Checksum8.calc(data)) & 0xFF == 0


@given(st.binary(max_size=100), st.integers(0, 15), st.integers(1, 14))
def test_kiss_commands(data: bytes, port: int, command: int) -> None:
    event = all_of(Framer(kiss.cut), kiss.frame(data, port, command))[0]
    assert event.ok and bytes.fromhex(event.fields["value"]) == data and event.fields["port"] == port


@given(CALLS, CALLS, st.binary(max_size=60))
def test_packets(to: str, source: str, info: bytes) -> None:
    packet = kiss.ax25(kiss.ui_frame(to, source, info))
    assert packet == kiss.Ax25(to, source, (), "UI", 0xF0, info)


@given(CALLS, CALLS, CALLS, st.binary(max_size=20))
def test_packets_that_go_by_a_relay(to: str, source: str, via: str, info: bytes) -> None:
    plain = kiss.ui_frame(to, source, info)
    relayed = plain[:7] + kiss.call(source, False) + kiss.call(via, True) + plain[14:]
    packet = kiss.ax25(relayed)
    assert packet is not None and packet.via == (via,) and packet.info == info


@given(st.integers(0, 7), st.integers(0, 254), st.integers(0, 254), st.binary(max_size=300))
def test_mstp(kind: int, to: int, source: int, data: bytes) -> None:
    event = all_of(Framer(mstp.cut), mstp.frame(kind, to, source, data))[0]
    assert event.ok and (event.fields["type"], event.fields["to"], event.fields["from"]) == (kind, to, source)
    assert bytes.fromhex(event.fields.get("hex", "")) == data[:64]


@given(st.integers(0, 254), st.binary(min_size=1, max_size=40), st.integers(0, 10_000), st.integers(0, 7))
def test_a_turned_bit_of_mstp_is_told(to: int, data: bytes, place: int, bit: int) -> None:
    raw = bytearray(mstp.frame(6, to, 3, data))
    raw[place % len(raw)] ^= 1 << bit
    assert not any(event.ok for event in all_of(Framer(mstp.cut), bytes(raw)))


parameters = st.lists(
    st.one_of(
        st.tuples(st.integers(1, 127), st.binary(min_size=1, max_size=1)),
        st.tuples(st.integers(128, 191), st.binary(min_size=2, max_size=2)),
        st.tuples(st.integers(192, 253), st.binary(max_size=4)),
    ),
    min_size=1,
    max_size=3,
)


@given(st.integers(128, 255), parameters)
def test_parameters_of_j1587(mid: int, listed: list[tuple[int, bytes]]) -> None:
    body = b"".join(bytes((pid,)) + (bytes((len(data),)) if pid >= 192 else b"") + data for pid, data in listed)
    raw = j1708.message(mid, body)
    assert sum(raw) & 0xFF == 0 and j1708.parameters(raw[1:-1]) == listed
    by_silence = BySilence(J1708({}, {}))
    assert by_silence.feed(raw, 0.0) == [] and by_silence.feed(b"\x80", 1.0)[0].fields["from"] == mid


@given(st.integers(0, 7), st.integers(0, 0x3FFFF), st.integers(0, 255), st.integers(0, 254))
def test_identifiers_both_ways(priority: int, pgn: int, source: int, destination: int) -> None:
    alone = pgn >> 8 & 0xFF < 240
    who = Identifier(priority, pgn & 0x3FF00 if alone else pgn, source, destination if alone else 255)
    assert Identifier.of(who.id) == who and 0 <= who.id < 1 << 29


@given(st.binary(min_size=9, max_size=1785), st.integers(0, 253))
def test_long_messages_of_j1939(data: bytes, source: int) -> None:
    packets = -(-len(data) // 7)
    announce = bytes((32, len(data) & 0xFF, len(data) >> 8, packets, 0xFF)) + (0xFEEB).to_bytes(3, "little")
    assume(packets <= 255)
    sent = [slcan.CanFrame(Identifier(7, j1939.TRANSPORT, source).id, True, announce)]
    for i in range(packets):
        part = bytes((i + 1,)) + data[7 * i : 7 * i + 7].ljust(7, b"\xff")
        sent.append(slcan.CanFrame(Identifier(7, j1939.TRANSPORT_DATA, source).id, True, part))
    machine = J1939(CATALOG.names("j1939-groups"), CATALOG.names("j1939-controllers"))
    events = machine.feed(b"".join(frame.line() for frame in sent))
    assert events[-1].fields["pgn"] == 0xFEEB and bytes.fromhex(events[-1].fields["hex"]) == data
    assert machine.end() == []


@given(st.binary(min_size=1, max_size=200), st.integers(0, 255), st.integers(0, 255), st.booleans())
def test_iso14230(data: bytes, target: int, source: int, functional: bool) -> None:
    raw = iso14230.message(data, target, source, functional)
    assert raw[-1] == Checksum8.calc(raw[:-1])
    event = all_of(Framer(Iso14230(CATALOG.names("iso14230-services")).cut), raw)[0]
    assert event.ok and bytes.fromhex(event.fields["hex"]) == data
    assert (event.fields["to"], event.fields["from"]) == (target, source)


@pytest.mark.parametrize(
    ("raw", "what", "kind"),
    [
        ("68 6A F1 01 00 C4", "current data", "request"),  # the worked example of most manuals, from memory
        ("48 6B 11 41 00 BE 3E B8 11 CA", "current data", "answer"),
        ("68 6A F1 03 C6", "stored troubles", "request"), ("68 6A F1 07 CA", "pending troubles", "request"),
        ("82 10 F1 13 00 96", "read troubles", "request"), ("82 10 F1 17 00 9A", "read state of troubles", "request"),
        ("81 10 F1 20 A2", "stop the diagnostic session", "request"),
    ],
)  # fmt: skip
@pytest.mark.parametrize("lot", [1, 3, 100])
def test_a_k_line_with_headers_of_emission_testers(raw: str, what: str, kind: str, lot: int) -> None:
    data, facts = bytes.fromhex(raw), CATALOG.names("iso14230-services")
    assert sum(data[:-1]) & 0xFF == data[-1]
    machine, events = iso14230.SPEC.decoder(CATALOG), []
    for begin in range(0, len(data), lot):
        events += machine.feed(data[begin : begin + lot])
    events += machine.end()
    assert [(event.kind, event.fields["what"]) for event in events if event.ok] == [(kind, what)] and facts


def test_frames_of_eleven_bits_are_can_and_not_j1939() -> None:
    short = b"".join(CanFrame(0x123 + i, False, bytes(4)).line() for i in range(6))
    long = b"".join(CanFrame(0x18FECA00, True, bytes(8)).line() for _ in range(6))
    assert [getattr(looks_spoken(data, CATALOG), "id", None) for data in (short, long)] == ["can-ascii", "j1939"]


@given(st.binary(min_size=2, max_size=120))
def test_modbus_ascii(body: bytes) -> None:
    line = modbus_ascii.ascii_frame(body)
    event = all_of(Framer(modbus_ascii.ascii_line), line)[0]
    assert event.ok and event.fields["unit"] == body[0]
    assert (modbus_ascii.lrc(body) + Checksum8.calc(body)) & 0xFF == 0


@given(st.text(st.characters(min_codepoint=32, max_codepoint=126, exclude_characters="$!*"), min_size=1, max_size=60))
def test_the_checksum_of_a_sentence(body: str) -> None:
    assert nmea.checksum(body) == f"{ChecksumXor8.calc(body.encode()):02X}" == f"{reduce(operator.xor, body.encode()):02X}"


@pytest.mark.parametrize("rate", sorted(slcan.RATES))
def test_an_adapter_is_opened_to_listen_only(rate: int) -> None:
    assert slcan.listen_only(rate) == (b"C\r", f"S{slcan.RATES[rate]}\r".encode(), b"L\r")


@given(st.lists(st.integers(3, 12), min_size=6, max_size=20), st.floats(0.02, 2.0), st.floats(0.0, 0.0005))
def test_frames_are_cut_where_the_pauses_are(lengths: list[int], between: float, jitter: float) -> None:
    character = 0.00104
    times: list[float] = []
    t = 0.0
    for length in lengths:
        times += [t + i * character + jitter * (i % 2) for i in range(length)]
        t = times[-1] + character + between
    data = bytes(i & 0xFF for i in range(len(times)))
    cut = frames(data, times, character)
    assert cut is not None and [len(frame) for frame in cut[0]] == lengths and b"".join(cut[0]) == data
    assert pause(times[: lengths[0]], character) is None or lengths[0] > 4
