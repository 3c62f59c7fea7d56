"""Acts and seconds from an empty record to a proof: each device of the valley, and five devices that are in no sheet."""

import time
from collections.abc import Callable
from pathlib import Path

import msgspec
import pytest
from tests.app.link.test_road import KINDS, begun, walk
from tests.app.link.test_shown import without_sheet
from tests.trials.ptys import far_end

from humble_courier.app.demo.records import demo_store
from humble_courier.app.link.open_link import OpenLink
from humble_courier.catalog.load import Catalog
from humble_courier.documents.kit import KitItem, KitModel
from humble_courier.domain.text import Terminator
from humble_courier.records.store import Store

CATALOG = Catalog()
UNKNOWN: dict[str, tuple[str, Terminator, Callable[[bytes], bytes]]] = {
    "answers to CR": ("VER?", Terminator.CR, lambda data: b"FLOWMETER 12 v2.0\r\n" if data.endswith(b"VER?\r") else b""),
    "answers to LF": ("ID", Terminator.LF, lambda data: b"PUMP 3\n" if data.endswith(b"ID\n") else b""),
    "answers to CR LF": ("*IDN?", Terminator.CRLF, lambda data: b"A,B,1,2\r\n" if data.endswith(b"*IDN?\r\n") else b""),
    "echoes what it gets": ("show", Terminator.CR, lambda data: data + (b"\r\nv1 ok\r\n" if b"show\r" in data else b"")),
    "answers with its address": ("01 VER", Terminator.CR, lambda data: b"01 V2\r" if b"01 VER\r" in data else b""),
}


@pytest.mark.parametrize("device", KINDS)
def test_devices_with_a_sheet(tmp_path: Path, device: str) -> None:
    store = Store(tmp_path)
    link = OpenLink(CATALOG, store, store.save_link(begun(device, CATALOG), device))
    link.bag.kit = KitModel("kit/1", [KitItem(part=part) for part in CATALOG.part_entries])
    begin = time.monotonic()
    acts = walk(link)
    print(f"\n{device}: {acts} acts, {time.monotonic() - begin:.1f} s at the pace of its bench, {link.proofs()[0].grade}")
    link.stop()
    store.close()


@pytest.mark.parametrize("device", UNKNOWN)
def test_devices_without_a_sheet(tmp_path: Path, device: str) -> None:
    words, _, answer = UNKNOWN[device]
    store = demo_store(tmp_path, CATALOG, fresh=False)
    link = OpenLink(CATALOG, store, store.links()[0][0])
    with far_end(answer) as there:
        link.change(msgspec.structs.replace(without_sheet(link), address=there.address))
        begin = time.monotonic()
        acts = walk(link, words)
        print(f"\n{device}: {acts} acts, {time.monotonic() - begin:.1f} s, {link.proofs()[0].grade}")
        link.stop()
    store.close()
