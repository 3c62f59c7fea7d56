"""Pin tables of the published standards, written down a second time and held against the catalog (all from memory)."""

import pytest

from humble_courier.catalog.load import Catalog
from humble_courier.domain.hardware import Part

CATALOG = Catalog()

TABLES = {
    # TIA-574: nine contacts of the DTE.
    "dte-de9": "1 DCD 2 RXD 3 TXD 4 DTR 5 GND 6 DSR 7 RTS 8 CTS 9 RI",
    "dce-de9": "1 DCD 2 RXD 3 TXD 4 DTR 5 GND 6 DSR 7 RTS 8 CTS 9 RI",
    # ISO 2110: twenty-five contacts.
    "dte-db25": "1 SHIELD 2 TXD 3 RXD 4 RTS 5 CTS 6 DSR 7 GND 8 DCD 20 DTR 22 RI",
    "dce-db25": "1 SHIELD 2 TXD 3 RXD 4 RTS 5 CTS 6 DSR 7 GND 8 DCD 20 DTR 22 RI",
    # TIA-561: eight contacts.
    "tia561-8p8c": "1 DSR 2 DCD 3 DTR 4 GND 5 RXD 6 TXD 7 CTS 8 RTS",
    # SAE J1939-13, type I.
    "j1939-9": "A GND B BATT C CANH D CANL E SHIELD F J1708P G J1708N",
    # ISO 15031-3 / SAE J1962.
    "obd-16": "2 J1850+ 4 CHASSIS 5 GND 6 CANH 7 K 10 J1850- 14 CANL 15 L 16 BATT",
    # IEEE 488.1.
    "gpib-24": "1 DIO1 2 DIO2 3 DIO3 4 DIO4 5 EOI 6 DAV 7 NRFD 8 NDAC 9 IFC 10 SRQ 11 ATN 12 SHIELD 13 DIO5 14 DIO6 15 DIO7 "
    "16 DIO8 17 REN 18 GND 19 GND 20 GND 21 GND 22 GND 23 GND 24 GND",
}


@pytest.mark.parametrize("port", TABLES)
def test_pin_table(port: str) -> None:
    words = TABLES[port].split()
    table = dict(zip(words[::2], words[1::2], strict=True))
    assert {c: s.name for c, s in CATALOG.port(port).signals.items()} == table


@pytest.mark.parametrize(("one", "other"), [("dte-de9", "dce-de9"), ("dte-db25", "dce-db25")])
def test_a_modem_side_is_the_mirror_of_a_computer_side(one: str, other: str) -> None:
    """TIA-232-F: the interchange circuits keep their contacts, the directions turn about."""
    there, back = CATALOG.port(one).signals, CATALOG.port(other).signals
    turned = {"in": "out", "out": "in", "passive": "passive"}
    assert {c: turned[s.direction] for c, s in there.items()} == {c: str(s.direction) for c, s in back.items()}


def pairs(part: Part) -> set[frozenset[str]]:
    return {frozenset((a.contact, b.contact)) for a, b in part.pairs}


def test_twisted_pairs_of_a_patch_cable() -> None:
    """TIA-568: contacts 1-2, 3-6, 4-5, 7-8 share a pair; the crossed one exchanges the pairs of contacts 1-2 and 3-6."""
    patch, crossed = CATALOG.part("patch-8p8c"), CATALOG.part("crossed-patch-8p8c")
    assert pairs(patch) == {frozenset(p) for p in (("1", "2"), ("3", "6"), ("4", "5"), ("7", "8"))}
    across = {w.a.contact: w.b.contact for w in crossed.conductors}
    assert across == {"1": "3", "2": "6", "3": "1", "6": "2", "4": "4", "5": "5", "7": "7", "8": "8"}


def test_nine_against_twenty_five_contacts() -> None:
    """TIA-574, annex: the same circuit at either end, seen from the DTE."""
    nine = {c: s.name for c, s in CATALOG.port("dte-de9").signals.items()}
    many = {c: s.name for c, s in CATALOG.port("dte-db25").signals.items()}
    for wire in CATALOG.part("adapter-de9-db25").conductors:
        assert nine[wire.a.contact] == many[wire.b.contact]


@pytest.mark.parametrize("shape", CATALOG.shapes.values(), ids=lambda s: s.id)
def test_what_a_connector_carries_is_a_port_of_its_kind(shape: object) -> None:
    from humble_courier.catalog.entries import ShapeEntry

    assert isinstance(shape, ShapeEntry)
    for carries in shape.carries:
        if carries.port is not None:
            connector = CATALOG.port(carries.port).connector
            assert (connector.family, connector.contacts) == (shape.family, shape.contacts)


def test_the_six_contact_round_one_carries_j1708_only() -> None:
    assert [c.bus for c in CATALOG.shapes["round-6", 6].carries] == ["J1708"]
    assert {c.bus: c.how for c in CATALOG.shapes["round-9", 9].carries} == {"J1939": "always", "J1708": "perhaps"}
    assert len(CATALOG.shapes["8P8C", 8].carries) >= 3
