"""From what a search found to a proof, for devices that are in no sheet; and a station that is asked for its name."""

from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

import msgspec
import pytest

from humble_courier.app.link.changes import new_link
from humble_courier.app.link.open_link import OpenLink
from humble_courier.app.link.step import Action
from humble_courier.app.talk.device_search import find, search
from humble_courier.app.talk.reading import StationStatus, reading_of
from humble_courier.catalog.load import Catalog
from humble_courier.protocols import df1
from humble_courier.protocols.modbus_rtu import sound, with_crc
from humble_courier.records.store import Store
from tests.app.link.test_road import walk
from tests.app.link.test_shown import without_sheet
from tests.trials.ptys import far_end
from tests.trials.test_pulls import at

WHO = b"SKERROW WORKSHOP,FLOW METER,12,2.0\r\n"


def unit_seven(data: bytes) -> bytes:
    """Answers read requests, and refuses what it does not know."""
    for begin in range(len(data) - 7):
        frame = data[begin : begin + 8]
        if sound(frame) and frame[0] == 7:
            return with_crc(bytes((7, 3, 2, 1, 44)) if frame[1] == 3 else bytes((7, frame[1] | 0x80, 1)))
    return b""


def flow_meter(data: bytes) -> bytes:
    """Knows one word."""
    return WHO if b"*IDN?\r" in data else b""


DEVICES: dict[str, tuple[Callable[[bytes], bytes], str, str]] = {
    "a unit": (unit_seven, "read", "300"),
    "lines of text": (flow_meter, "answered", "FLOW METER"),
}


@pytest.mark.parametrize("kind", DEVICES)
def test_what_a_search_finds_is_gone_on_with_until_it_is_proven(tmp_path: Path, catalog: Catalog, kind: str) -> None:
    answer, proven, told = DEVICES[kind]
    store = Store(tmp_path)
    link = OpenLink(catalog, store, new_one(store, catalog))
    with far_end(answer) as there:
        at(link, there.address)
        link.change(without_sheet(link))
        probe = "modbus-rtu" if kind == "a unit" else None
        found = find(search([there.address], catalog, armed=True, probe=probe, units=(1, 10), rates=[9600]))[1]
        assert found is not None
        link.found(found)
        assert link.next_step().action is Action.ADOPT and found.identity in link.next_step().text
        acts = walk(link, link.clock)
        proof = link.proofs()[0]
        assert proof.kind == proven and told in " ".join(proof.identity.values()) and acts <= 12
        link.stop()
    store.close()


def new_one(store: Store, catalog: Catalog) -> str:
    return store.save_link(new_link("gauge-logger", ["usb-rs232"], "sim://bench/gauge-logger", catalog), "a new one")


def test_a_station_is_asked_for_its_status_and_names_itself(link: OpenLink, catalog: Catalog) -> None:
    """DF1 manual, diagnostic status: the answer carries the transaction back, and the name among its bytes."""
    sheet = catalog.device("snow-pillow")
    port = msgspec.structs.replace(sheet.port, protocol="df1")
    here = replace(link.document.link, sheet=msgspec.structs.replace(sheet, port=port, registers=[], first_words=[]))
    reading = reading_of(here)
    assert isinstance(reading, StationStatus) and "changes nothing" in reading.says
    asked = df1.SPEC.decoder(catalog).feed(reading.words)[0]
    assert (asked.kind, asked.fields["to"], asked.fields["command"]) == ("command", reading.unit, 6)
    transaction = int(asked.fields["transaction"]).to_bytes(2, "little")
    status = bytes((0, reading.unit, 0x46, 0)) + transaction + b"\x21\xee\x31\x5b\x0cWEIR 7     \x00\x01"
    told = reading.read(b"\x10\x06" + df1.frame(status), catalog)
    assert told is not None and told.values["name"] == "WEIR 7" and not told.refused
    refused = bytes((0, reading.unit, 0x46, 0x10)) + transaction
    answer = reading.read(df1.frame(refused), catalog)
    assert answer is not None and "refuses with status 10" in answer.refused
    other = bytes((0, reading.unit, 0x46, 0)) + b"\x01\x00" + b"\x21\xee\x31\x5b\x0cWEIR 7 "
    assert reading.read(df1.frame(other), catalog) is None, "that was the answer to somebody else's question"
