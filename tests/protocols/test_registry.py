"""The registry: every module with a SPEC is a protocol, and a new one needs no line anywhere else."""

from pathlib import Path

import pytest

from humble_courier import protocols
from humble_courier.app.talk.decoding import decode_file
from humble_courier.app.talk.device_search import search
from humble_courier.app.talk.meanings import meaning, spec_of_sheet
from humble_courier.catalog.load import Catalog
from humble_courier.domain.settings import Settings
from humble_courier.errors import BadInput
from humble_courier.protocols.registry import all_specs, looks_spoken, spec_named
from humble_courier.protocols.spec import Check
from humble_courier.simulator.devices import make
from humble_courier.simulator.devices.behaviour import Behaviour, Talk
from tests.protocols.test_spec import STREAMS

CATALOG = Catalog()
OF_CLI = ["text", "scpi", "nmea-0183", "modbus-rtu", "modbus-ascii", "mstp", "df1", "kiss", "j1708", "j1939", "can-ascii"]
OF_CLI += ["iso14230"]
NEW = '''"""Weights that end with their sum."""

from humble_courier.protocols.framer import Made, find
from humble_courier.protocols.spec import Check, Line, Probe, ProtocolSpec, of_cut


def cut(buffer, at, over):
    if buffer[at] != 0x02:
        return find(buffer, at, b"\\x02") - at, None
    end = buffer.find(b"\\x03", at)
    if end < 0:
        return (1, None) if over else (0, None)
    body = buffer[at + 1 : end - 2]
    sound = buffer[end - 2 : end] == b"%02X" % (sum(body) & 0xFF)
    return end + 1 - at, Made("weight", sound, {"grams": body.decode("latin-1")}, "" if sound else "the sum is wrong")


SPEC = ProtocolSpec(
    id="scale-sum", name="scale", check=Check.SURE, decoder=of_cut(cut), proves="a weight came", guess=15,
    sentence=lambda event: f"it weighs {event.fields['grams']} g",
    framed=lambda data: b"\\x02" + data + b"%02X\\x03" % (sum(data) & 0xFF),
    probe=Probe(lines=lambda low, high: (Line(b"W", b"\\r"),)),
)
'''


@pytest.fixture
def scale(tmp_path: Path, monkeypatch: pytest.MonkeyPatch):
    """A protocol that is nothing but a module."""
    (tmp_path / "scale_sum.py").write_text(NEW)
    monkeypatch.setattr(protocols, "__path__", [*protocols.__path__, str(tmp_path)])
    all_specs.cache_clear()
    yield spec_named("scale-sum")
    all_specs.cache_clear()


def test_the_ids_are_those_of_the_commands() -> None:
    assert set(all_specs()) == set(OF_CLI) == set(STREAMS)


@pytest.mark.parametrize("id_", OF_CLI)
def test_what_each_declares(id_: str) -> None:
    spec = spec_named(id_)
    assert spec.id == id_ and spec.name and spec.proves.count(":") == 1
    events = spec.decoder(CATALOG).feed(STREAMS[id_][0])
    assert all(spec.told(event) for event in events if event.ok)
    assert (spec.guess is None) == (spec.check is Check.NONE)
    probe = spec.probe
    if probe is not None and probe.addressed is not None:
        assert len({probe.addressed.request(unit) for unit in range(1, 248)}) == 247
        assert probe.addressed.answered(b"\x00\x9f") is None and sum(probe.addressed.frames.values()) == pytest.approx(1)
    if probe is not None and probe.lines is not None:
        assert all(line.text for line in probe.lines(1, 3))


def test_places_in_the_order_of_guessing_are_distinct() -> None:
    places = [spec.guess for spec in all_specs().values() if spec.guess is not None]
    assert len(set(places)) == len(places)


def test_an_unknown_protocol_is_told_with_the_nearest() -> None:
    with pytest.raises(BadInput, match="did you mean modbus-rtu"):
        spec_named("modbus-rtx")
    with pytest.raises(BadInput, match="known are"):
        spec_named("???")


def test_a_protocol_is_added_with_a_module(scale, tmp_path: Path) -> None:
    """Decoding, guessing, meaning, searching and simulating know it without a line elsewhere."""
    said = scale.framed(b"1042") * 3
    file = tmp_path / "heard.raw"
    file.write_bytes(said)
    assert [event.fields["grams"] for event in decode_file(file, "scale-sum", CATALOG).events] == ["1042"] * 3
    assert looks_spoken(said, CATALOG) is scale
    assert meaning(said, spec_of_sheet("scale-sum"), CATALOG).startswith("it weighs 1042 g")
    assert "“W” ended with CR" in search(["p"], CATALOG, armed=True, probe="scale-sum").says
    how = Behaviour(protocol="scale-sum", source="invented", talks=[Talk(every_s=1, body="1042")])
    device = make._sound(how, Settings.parse("9600,8N1"), None, False)
    assert device.say(device.due()) == scale.framed(b"1042")


def test_the_table_in_the_documentation_is_that_of_the_registry() -> None:
    text = (Path(__file__).parents[2] / "docs" / "protocols.md").read_text()
    rows = [f"| `{spec.id}` | {spec.name} | {spec.check} |" for spec in all_specs().values()]
    assert all(row in text for row in rows)
    assert sum(line.startswith("| `") for line in text.splitlines()) == len(rows)
