"""What the Talk stage stands on, without a window: log, escapes, waiting, repeating, plugs that come back, the talker."""

from dataclasses import replace
from pathlib import Path

import msgspec
import pynmea2
import pytest
from hypothesis import given
from hypothesis import strategies as st

from humble_courier.app.link.open_link import OpenLink
from humble_courier.app.port import profiles
from humble_courier.app.talk import meanings
from humble_courier.app.talk.decoding import alternates, decode, decode_file
from humble_courier.app.talk.instruments import PY, Library, ask, bare_choice, found_files, libraries
from humble_courier.app.talk.search_space import cells, told
from humble_courier.catalog.load import Catalog
from humble_courier.documents.link_changes import with_settings
from humble_courier.domain.received import Chunk, Doubt
from humble_courier.domain.settings import Settings
from humble_courier.errors import BadInput, MachineRefused, NotArmed
from humble_courier.host.kinds import HostPort, PortKind, UsbDevice
from humble_courier.port import log
from humble_courier.port.log import LineLog, as_text, read_log, search
from humble_courier.port.permit import Permit
from humble_courier.protocols.framer import Event
from humble_courier.protocols.j1708 import message
from humble_courier.protocols.mstp import frame
from humble_courier.protocols.nmea import sentence
from humble_courier.protocols.registry import all_specs, spec_named
from humble_courier.protocols.route import STEERING
from humble_courier.protocols.spelled import numbers, spelled
from humble_courier.protocols.talker import FORMATTERS, Fix, Talker, Track, body
from humble_courier.protocols.unknown import check_of, shape
from tests.conftest import until
from tests.protocols.test_spec import STREAMS

CATALOG = Catalog()


def heard(link: OpenLink, text: str) -> bool:
    link.poll()
    return any(text in u.text for u in link.live.utterances())


def test_the_log_holds_every_byte_and_is_searched_and_told(link: OpenLink) -> None:
    link.listen()
    until(lambda: heard(link, "READY"))
    link.arm()
    link.say("ID")
    until(lambda: heard(link, "SN 20418"))
    link.live.say_bytes(spelled(r"\x1bLV\r\n"))
    until(lambda: len(link.live.utterances()) >= 5)
    path = link.live.log_path
    link.stop()
    assert path is not None
    pieces = read_log(path.read_bytes()).pieces
    theirs = b"".join(p.data for p in pieces if p.who == "they")
    assert theirs.startswith(b"LEVEL LOGGER FW 3.1 READY\r\nID SKW-GH-07") and b"\x1bLV" in [p.data[:3] for p in pieces]
    assert [p.who for p in search(pieces, "id\r")] == ["we"] and search(pieces, "0D 0A") and not search(pieces, "none")
    assert any("they said  LEVEL LOGGER" in line for line in as_text(pieces))
    assert link.live.search("sn 20418")
    events = decode_file(path, "text", CATALOG).events
    assert events[0].fields["text"] == "LEVEL LOGGER FW 3.1 READY"


def test_an_answer_is_waited_for_and_words_are_repeated(link: OpenLink) -> None:
    link.listen()
    until(lambda: heard(link, "READY"))
    with pytest.raises(BadInput, match="arm first"):
        link.live.say_bytes(b"x")
    link.arm()
    with pytest.raises(BadInput, match="regular expression"):
        link.live.wait_for("(")
    link.live.wait_for(r"LV [+-]\d+")
    assert link.live.waiting.startswith("Waiting for")
    link.live.repeat(b"LV\r\n", 0.05)
    until(lambda: (link.poll(), link.live.waiting.startswith("It came: LV +01"))[1])
    until(lambda: (link.poll(), sum(u.text == "LV" for u in link.live.utterances()) >= 3)[1])
    link.live.disarm()
    link.poll()
    assert not link.live.repeating


def test_a_pulled_plug_that_is_back_goes_on_with_the_same_session(link: OpenLink) -> None:
    link.change(msgspec.structs.replace(link.document.model, address="sim://bench/gauge-logger?pace=10&vanish=5"))
    link.listen()
    until(lambda: (link.poll(), bool(link.evidence.refusal))[1])
    assert not link.live.listening and not link.live.armed
    until(lambda: (link.poll(), link.live.listening)[1])
    until(lambda: (link.poll(), sum("READY" in u.text for u in link.live.utterances()) >= 2)[1])
    link.stop()
    link.poll()
    assert not link.live.listening, "what a person closed stays closed"


def test_what_our_presence_does_at_a_simulated_device_is_a_fact(link: OpenLink) -> None:
    link.change(msgspec.structs.replace(link.document.model, address="sim://bench/chart-recorder?power=on"))
    link.change(with_settings(link.document.model, computer=Settings.parse("2400,7O2")))
    link.listen()
    link.arm()
    link.live.say_bytes(b"?\r" * 200)
    until(lambda: (link.poll(), any(f.subject == "alarm" for f in link.facts()))[1])
    assert next(f for f in link.facts() if f.subject == "alarm").text.startswith("Buffer full")


def test_lines_that_key_stay_low(catalog: Catalog, link: OpenLink) -> None:
    model = link.document.model
    device, computer = msgspec.structs.replace(model.device, device="packet-radio"), msgspec.structs.replace(model.computer)
    link.change(msgspec.structs.replace(model, device=device, computer=computer, chain=[]))
    with pytest.raises(BadInput, match="RTS stays low"):
        link.set_line("RTS", True)


def test_a_full_disk_stops_the_log_and_not_the_session(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    log = LineLog(tmp_path / "logs" / "a.jsonl")
    log.begin("p", "9600,8N1")
    log.heard(1.0, Chunk(b"before", {2: Doubt.ERROR}))

    class Full:
        room = 7

        def write(self, data: bytes) -> int:
            taken, self.room = min(self.room, len(data)), 0
            if not taken:
                raise OSError(28, "No space left on device")
            real.write(data[:taken])
            return taken

        def close(self) -> None:
            real.close()

    real, log._file = log._file, Full()  # type: ignore[assignment]
    log.heard(2.0, Chunk(b"during", {}))
    assert "free some space" in log.problem
    for _ in range(30):
        log.heard(3.0, Chunk(bytes(200_000), {}))
    assert log.lost > 0 and sum(map(len, log._held)) <= log.HELD_MOST + 500_000
    log._file = real
    log.said(4.0, b"after")
    assert log.problem == ""
    log.close()
    pieces = read_log(log.path.read_bytes()).pieces
    assert [p.data[:6] for p in pieces][:2] == [b"before", b"during"] and pieces[-1].data == b"after"
    assert pieces[0].places == {2: Doubt.ERROR}


@given(st.binary(max_size=200))
def test_a_damaged_line_costs_that_line_only(data: bytes) -> None:
    good = b'{"t":1,"who":"they","hex":"4142"}'
    logged = read_log(b'{"courier":"line-log/1"}\n' + good + b"\n" + data + b"\n" + good)
    assert [piece.data for piece in (logged.pieces[0], logged.pieces[-1])] == [b"AB", b"AB"]
    assert len(logged.pieces) - 2 + len(logged.damaged) <= data.count(b"\n") + 1
    assert log.is_log(b'{"courier":"line-log/1","address":"p"}')


@given(st.binary(max_size=40))
def test_words_as_they_are_typed(data: bytes) -> None:
    assert spelled("".join(f"\\x{b:02X}" for b in data)) == data
    assert numbers(data.hex(" ")) == data


@pytest.mark.parametrize(("text", "data"), [(r"a\r\n", b"a\r\n"), (r"\e[0m\\", b"\x1b[0m\\"), ("é", b"\xe9")])
def test_escapes(text: str, data: bytes) -> None:
    assert spelled(text) == data


@pytest.mark.parametrize("text", ["\\q", "end\\", "\\x1", "€"])
def test_what_is_no_escape(text: str) -> None:
    with pytest.raises(BadInput):
        spelled(text)
    with pytest.raises(BadInput):
        numbers("0g")


@pytest.mark.parametrize("spoken", [s for s in all_specs() if s != "text"])
def test_a_meaning_for_each_protocol(spoken: str) -> None:
    said = meanings.meaning(STREAMS[spoken][0], spec_named(spoken), CATALOG)
    assert said and len(said) <= meanings.LONGEST
    assert meanings.spec_of_sheet(spoken) is spec_named(spoken) and meanings.spec_of_sheet("gpib") is None


def test_meanings_in_words() -> None:
    assert meanings.meaning(sentence("WIMWV,214.8,R,0.1,M,A"), spec_named("nmea-0183"), CATALOG).startswith(
        "WIMWV: wind angle 214.8"
    )
    assert spec_named("mstp").told(Event(0, 1, "frame", False, {}, "a collision")) == "a collision"


def test_a_bus_and_its_listeners_are_summed_up(tmp_path: Path) -> None:
    traffic = b"".join(frame(0, b, a) for a, b in ((1, 4), (4, 9), (9, 1)) * 3) + frame(1, 20, 9)
    notes = decode(traffic, spec_named("mstp"), CATALOG).notes
    assert notes[0] == "the token goes: 1 to 4 to 9 to 1" and "asked for and silent: 20" in notes[1]
    both = decode(STREAMS["nmea-0183"][0], None, CATALOG)
    assert both.protocol == "nmea-0183" and "position: GGA" in both.notes
    vehicle = decode(STREAMS["j1939"][0], spec_named("j1939"), CATALOG)
    assert vehicle.notes == ("awake: engine 1 (0), 2 frames",)
    assert alternates("position", CATALOG) == ["GGA", "GLL", "GNS", "RMC"]
    with pytest.raises(BadInput, match="no sentence carries"):
        alternates("tea", CATALOG)
    empty = tmp_path / "none.raw"
    empty.touch()
    with pytest.raises(BadInput, match="empty"):
        decode_file(empty, "auto", CATALOG)
    with pytest.raises(BadInput, match="unknown protocol"):
        decode_file(Path(__file__), "morse", CATALOG)


def test_frames_that_nobody_knows_are_read_out_of_a_log(tmp_path: Path) -> None:
    log = LineLog(tmp_path / "x.jsonl")
    log.begin("/dev/ttyUSB0", "9600,8N1")
    for i in range(12):
        text = bytes((0xA5, i, 200 - i, 0xF0, 3 * i & 0xFF))
        log.heard(100 + i * 0.2, Chunk(text + bytes((sum(text) & 0xFF,)), {}))
    log.close()
    found = decode_file(log.path, "auto", CATALOG)
    assert found.protocol is None and len(found.events) == 12
    assert "check: sum" in found.notes[1] and "begin with A5" in found.notes[2]
    with pytest.raises(BadInput, match="log with times"):
        decode_file(Path(__file__), "unknown", CATALOG)


def test_j1708_in_a_log_is_cut_by_silence(tmp_path: Path) -> None:
    log = LineLog(tmp_path / "x.jsonl")
    log.begin("/dev/ttyUSB0", "9600,8N1")
    for i in range(6):
        log.heard(100 + i * 0.1, Chunk(message(128, bytes((190, i, 0x20, 84, 30))), {}))
    log.heard(101.0, Chunk(b"\x80\xbe\x01", {}))
    log.close()
    found = decode_file(log.path, "j1708", CATALOG)
    assert [event.ok for event in found.events] == [True] * 6 + [False] and "collision" in found.events[-1].why


def test_a_device_that_answered_here_is_evidence(link: OpenLink) -> None:
    assert link.answered_here() == []
    link.listen()
    until(lambda: heard(link, "READY"))
    link.arm()
    link.say("ID")
    until(lambda: (link.poll(), link.evidence.proven)[1])
    link.keep_proof()
    assert "level logger at 1200,7E1" in link.answered_here()[0]


def test_an_adapter_is_found_again_under_another_number(link: OpenLink, monkeypatch: pytest.MonkeyPatch) -> None:
    first = HostPort("/dev/ttyUSB0", PortKind.USB, "ch341", UsbDevice("1-2", "1a86", "7523", "A1"))
    link.profiles.chosen(first, "1200,7E1", at=0.0)
    monkeypatch.setattr(profiles, "list_ports", lambda: [])
    assert link.profiles.again("/dev/ttyUSB0") is None
    monkeypatch.setattr(profiles, "list_ports", lambda: [replace(first, address="/dev/ttyUSB3")])
    assert link.profiles.again("/dev/ttyUSB0") == "/dev/ttyUSB3"
    assert link.profiles.again("socket://192.0.2.7:4001") == "socket://192.0.2.7:4001"


# The talker


@pytest.mark.parametrize("formatter", [one for one in FORMATTERS if one not in STEERING])
@given(latitude=st.floats(-89, 89), longitude=st.floats(-179, 179), course=st.floats(0, 359))
def test_what_is_played_is_read_by_pynmea2(formatter: str, latitude: float, longitude: float, course: float) -> None:
    fix = Fix(latitude, longitude, 6.0, course, 1_700_000_000.25)
    parsed = pynmea2.parse(sentence(body(formatter, fix)).decode(), check=True)
    if hasattr(parsed, "latitude"):
        assert (parsed.latitude, parsed.longitude) == pytest.approx((latitude, longitude), abs=2e-6)
    if formatter == "RMC":
        assert parsed.datetime.timestamp() == pytest.approx(1_700_000_000.25, abs=0.01)


def test_a_track_goes_its_way_and_the_load_is_counted() -> None:
    straight = Track(0.0, 0.0, 60.0, 0.0, 0.0).at(3600.0, 0.0)
    assert straight.latitude == pytest.approx(1.0) and straight.longitude == pytest.approx(0.0)  # 60 minutes of latitude
    talker = Talker(Track(), ["RMC"], 1.0)
    assert talker.due(100.0) and talker.due(100.5) == b"" and talker.due(101.0) and talker.due(150.0)
    size = len(sentence(body("RMC", Track().at(0, 0))))
    assert talker.load(Settings(4800)) == pytest.approx(size * 10 / 4800)
    with pytest.raises(BadInput, match="no sentence"):
        body("XXX", straight)


# Unknown traffic, and other buses


def test_unknown_frames_are_cut_by_pauses_and_their_check_is_named() -> None:
    from crccheck.crc import CrcModbus

    times: list[float] = []
    data, t = b"", 0.0
    for i in range(12):
        text = bytes((0x7E, 5 + i % 3, i)) + bytes(range(i, i + 2 + i % 3))
        made = text + int(CrcModbus.calc(text)).to_bytes(2, "little")
        times += [t + k * 0.00104 for k in range(len(made))]
        data, t = data + made, t + 0.0104 * len(made) / 10 + 0.05
    found = shape(data, times, 0.00104)
    assert found is not None and len(found.frames) == 12 and found.begins == b"\x7e"
    assert found.check == "Crc16Modbus, low byte first" and found.length_at == 1
    assert shape(data[:40], [i * 0.001 for i in range(40)], 0.001) is None
    assert check_of([bytes((i, i + 1, (2 * i + 1) & 0xFF)) for i in range(9)]) == "sum"


def test_libraries_for_instruments(tmp_path: Path) -> None:
    (tmp_path / "usr/lib").mkdir(parents=True)
    (tmp_path / "usr/lib/libvisa.so").write_bytes(b"no library")
    assert [p.name for p in found_files(tmp_path)] == ["libvisa.so"]
    found = libraries(tmp_path, look=False)
    assert [one.answers for one in found] == [False, True] and found[0].why_not and found[-1].name == PY
    vendors = [Library(f"{n}@ivi", n, True) for n in ("a", "b")]
    assert "2 libraries stand side by side" in bare_choice(vendors) and "PyVISA-py" in bare_choice(found)


@pytest.mark.parametrize(
    ("resource", "query", "error"),
    [
        ("ASRL/dev/ttyNONE::INSTR", "*IDN?", MachineRefused),
        ("nonsense", "*IDN?", (BadInput, MachineRefused)),
        ("x", "*RST", BadInput),
    ],
)
def test_asking_instruments_that_are_not_there(resource: str, query: str, error: type[Exception]) -> None:
    with pytest.raises(error):
        ask(Permit("a test"), resource, query)


def test_a_search_as_a_picture() -> None:
    from humble_courier.app.talk.device_search import finders
    from humble_courier.app.talk.device_search import search as plan

    wanted = plan(["p"], CATALOG, CATALOG.device("gauge-logger"), armed=True)
    machine = finders(wanted)
    begin = cells(wanted.spaces, None)
    assert sum(c.left for c in begin) == pytest.approx(sum(c.prior for c in begin))
    assert told(machine, running=True)[0] == "Searching: 0% excluded"
    machine.parts[0].next()
    assert {c.row for c in cells(wanted.spaces, machine)} == {c.row for c in begin}


def test_an_instrument_is_not_asked_once_the_permit_is_taken_back() -> None:
    permit = Permit("a question")
    permit.withdraw()
    with pytest.raises(NotArmed, match="no longer allowed"):
        ask(permit, "ASRL/dev/ttyNONE::INSTR")
