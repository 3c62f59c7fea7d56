"""Every entry of the data files is walked: it loads, it has a source, and what it names exists."""

import pynmea2
import pytest

from humble_courier.catalog.load import Catalog
from humble_courier.catalog.sheets import as_it_is
from humble_courier.domain.hardware import Gender
from humble_courier.domain.settings import Settings
from humble_courier.domain.signals import Direction, Level
from humble_courier.simulator.address import SimAddress
from humble_courier.simulator.devices.behaviour import DATA, behaviour, faults

CATALOG = Catalog(demo=True)

# Ids of the published contract; more may be added, none may go.
PORTS = {
    "dte-de9", "dce-de9", "dte-db25", "dce-db25", "console-8p8c", "tia561-8p8c", "ttl-5v-header", "ttl-3v3-header",
    "rs485-2w", "rs422-4w", "j1939-9", "j1708-6", "obd-16", "loop-20ma-active", "loop-20ma-passive",
}  # fmt: skip
PARTS = {
    "straight-de9", "crossed-de9-3wire", "crossed-de9-looped", "crossed-de9-full", "crossover-adapter-de9",
    "gender-changer-de9-plugs", "gender-changer-de9-sockets", "straight-db25", "adapter-de9-db25", "rolled-8p8c",
    "patch-8p8c", "crossed-patch-8p8c", "adapter-de9-8p8c-console", "usb-rs232", "usb-ttl-5v", "usb-ttl-3v3",
    "usb-rs485", "usb-rs422", "usb-can-ascii",
}  # fmt: skip


@pytest.mark.parametrize("id_", sorted({*PORTS, *CATALOG.port_entries}))
def test_port(id_: str) -> None:
    port, entry = CATALOG.port(id_), CATALOG.port_entries[id_]
    assert entry.source
    assert port.signals or port.loops
    assert port.connector.gender is not Gender.EITHER
    assert (port.connector.family, port.connector.contacts) in CATALOG.shapes


@pytest.mark.parametrize("id_", sorted({*PARTS, *CATALOG.part_entries}))
def test_part(id_: str) -> None:
    part, entry = CATALOG.part(id_), CATALOG.part_entries[id_]
    assert entry.source
    assert part.conductors or any(end.signals for end in part.ends)
    assert all((e.connector.family, e.connector.contacts) in CATALOG.shapes for e in part.ends)
    assert part.turned().turned() == part
    touched = {contact.end for wire in part.conductors for contact in (wire.a, wire.b)}
    assert touched in (set(), set(range(len(part.ends))))


@pytest.mark.parametrize("key", sorted(CATALOG.shapes))
def test_shape_shows_each_contact_once(key: tuple[str, int]) -> None:
    shape = CATALOG.shapes[key]
    names = [name for row in shape.rows for name in row]
    assert len(names) == len(set(names)) == shape.contacts
    assert shape.source


@pytest.mark.parametrize("level", list(Level))
def test_level(level: Level) -> None:
    entry = CATALOG.levels[level]
    assert entry.source
    assert entry.survives.low < entry.survives.high
    for sends, takes in ((entry.sends_mark, entry.takes_mark), (entry.sends_space, entry.takes_space)):
        if sends and takes:
            assert takes.low <= sends.low <= sends.high <= takes.high, "a family must hear itself"


@pytest.mark.parametrize("id_", CATALOG.device_ids())
def test_device_sheet(id_: str) -> None:
    sheet = CATALOG.device(id_)
    assert sheet.source
    Settings.parse(sheet.port.settings)
    assert CATALOG.device_port(sheet).signals
    assert all(act.caution is None or act.caution in CATALOG.cautions for act in sheet.preconditions)
    assert all("changes nothing" in words.means for words in sheet.first_words)


@pytest.mark.parametrize(("dte", "dce"), [("dte-de9", "dce-de9"), ("dte-db25", "dce-db25")])
def test_dce_mirrors_dte(dte: str, dce: str) -> None:
    """TIA-574 and ISO 2110: the same circuits on the same contacts, driven from the other side."""
    flip = {Direction.OUT: Direction.IN, Direction.IN: Direction.OUT, Direction.PASSIVE: Direction.PASSIVE}
    mine = {c: (s.name, flip[s.direction]) for c, s in CATALOG.port(dte).signals.items()}
    assert mine == {c: (s.name, s.direction) for c, s in CATALOG.port(dce).signals.items()}


def test_nine_against_twenty_five_contacts() -> None:
    """The adapter joins each TIA-574 circuit with the ISO 2110 contact of the same name."""
    nine, many = CATALOG.port("dte-de9").signals, CATALOG.port("dte-db25").signals
    for wire in CATALOG.part("adapter-de9-db25").conductors:
        assert nine[wire.a.contact].name == many[wire.b.contact].name
    assert len(CATALOG.part("adapter-de9-db25").conductors) == 9


def test_crossed_patch_is_t568a_against_t568b() -> None:
    """TIA-568: T568B exchanges the second and third pair of T568A (contacts 1, 2 with 3, 6)."""
    joined = {w.a.contact: w.b.contact for w in CATALOG.part("crossed-patch-8p8c").conductors}
    a = ["wg", "g", "wo", "bl", "wbl", "o", "wbr", "br"]
    b = ["wo", "o", "wg", "bl", "wbl", "g", "wbr", "br"]
    assert joined == {str(i + 1): str(b.index(color) + 1) for i, color in enumerate(a)}


@pytest.mark.parametrize("id_", sorted(CATALOG.numbered_names))
def test_names_of_numbers(id_: str) -> None:
    entry, names = CATALOG.numbered_names[id_], CATALOG.names(id_)
    assert entry.source and names and all(number >= 0 for number in names)
    assert len(set(names.values())) == len(names), "two numbers with one name cannot be told apart"


@pytest.mark.parametrize("id_", sorted(CATALOG.sentences))
def test_sentence(id_: str) -> None:
    entry = CATALOG.sentences[id_]
    assert entry.source and entry.carries and len(id_) == 3 and id_.isupper()
    assert hasattr(pynmea2, id_) or id_ in ("THS",), "pynmea2 knows the fields of all but the newest"


@pytest.mark.parametrize("id_", sorted(CATALOG.waits))
def test_wait(id_: str) -> None:
    entry = CATALOG.waits[id_]
    assert entry.source and entry.name and 1 <= entry.waits_ms <= 60_000


@pytest.mark.parametrize("id_", sorted(path.stem for path in DATA.glob("*.yaml")))
def test_behaviour_of_a_simulated_device(id_: str) -> None:
    """Each stands for a port of a sheet, wants the terminator that the sheet names, and knows its first words."""
    how, (device, _, socket) = behaviour(id_), id_.partition(".")
    sheet = as_it_is(CATALOG.device(device), socket=socket or None)
    assert "invented" in how.source and set(how.revisions) <= {variant.id for variant in sheet.variants}
    kind = CATALOG.is_kind(device)  # a kind says what is met most often: its echo and its time to start are any
    if how.protocol == "text" and sheet.first_words:
        assert how.end == sheet.end and (kind or how.echo is sheet.echo)
        assert {words.say for words in sheet.first_words} <= {command.say for command in how.commands}
    at_once = kind or how.protocol in ("can-ascii", "modbus-rtu", "mstp")
    assert at_once or how.power_up_s == pytest.approx(sheet.ready_after_s, abs=0.6)


@pytest.mark.parametrize("id_", sorted(faults()))
def test_fault(id_: str) -> None:
    assert faults()[id_].what and SimAddress("gauge-logger", {"fault": id_}).faults == (id_,)


@pytest.mark.parametrize("id_", sorted(CATALOG.visa_side_by_side))
def test_advice_for_two_libraries(id_: str) -> None:
    entry = CATALOG.visa_side_by_side[id_]
    assert entry.source and entry.do and entry.why
