"""Files of ours are taken in by what they say they are; what is written out comes back the same."""

from collections.abc import Iterator
from pathlib import Path

import pytest

from humble_courier.app.demo.records import demo_store
from humble_courier.app.devices.own_sheets import BLANK
from humble_courier.app.records.records import Records
from humble_courier.app.records.taking_in import link_text, take_in
from humble_courier.catalog.load import Catalog
from humble_courier.errors import BadInput


@pytest.fixture
def catalog(tmp_path: Path) -> Catalog:
    return Catalog(own=tmp_path / "devices")


@pytest.fixture
def records(tmp_path: Path, catalog: Catalog) -> Iterator[Records]:
    made = Records(demo_store(tmp_path / "demo", catalog, fresh=True))
    yield made
    made.close()


def test_each_link_of_the_valley_goes_out_and_comes_back(records: Records, catalog: Catalog, tmp_path: Path) -> None:
    for one in records.listed():
        path = tmp_path / f"{one.device}.link.yaml"
        path.write_text(link_text(records, one.id))
        taken = take_in(path, records, catalog)
        assert taken.link_id is not None and records.document(taken.link_id) == records.document(one.id)


def test_kits_and_sheets_are_taken_in_and_anything_else_is_told(records: Records, catalog: Catalog, tmp_path: Path) -> None:
    kit, sheet, other = tmp_path / "bag.yaml", tmp_path / "mine.yaml", tmp_path / "other.yaml"
    kit.write_text("courier: kit/1\nitems: [{part: usb-rs422, count: 2}]\n")
    before = len(records.bag.kit.items)
    assert "1 kinds of parts" in take_in(kit, records, catalog).told and len(records.bag.kit.items) == before + 1
    sheet.write_text(BLANK)
    assert "My device" in take_in(sheet, records, catalog).told and catalog.has_sheet("my-device")
    for text in ("courier: visits/9\n", "[]", "just words", "courier: link/1\ncomputer: {port: nothing}\n"):
        other.write_text(text)
        with pytest.raises(BadInput, match=r"other\.yaml"):
            take_in(other, records, catalog)
    with pytest.raises(BadInput):
        take_in(tmp_path / "none.yaml", records, catalog)
