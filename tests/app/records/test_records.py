"""Links as things: found, sorted, renamed, doubled, taken out and put back with all that is known of them."""

from collections.abc import Iterator
from pathlib import Path

import pytest

from humble_courier.app.demo.records import demo_store
from humble_courier.app.records.records import Records, Sorted
from humble_courier.catalog.load import Catalog
from humble_courier.errors import BadInput


@pytest.fixture
def records(tmp_path: Path) -> Iterator[Records]:
    made = Records(demo_store(tmp_path, Catalog(demo=True), fresh=True))
    yield made
    made.close()


def test_links_are_found_by_all_words_and_sorted(records: Records) -> None:
    assert len(records.listed()) == 13 and len(records.listed("mast")) == 2
    assert [one.name for one in records.listed("RIDGE packet")] == ["Ridge mast, packet radio"]
    names = [one.name for one in records.listed(by=Sorted.NAME)]
    assert names == sorted(names, key=str.lower)
    proven = [one.proven or 0.0 for one in records.listed(by=Sorted.PROVEN)]
    assert proven == sorted(proven, reverse=True) and proven[-1] == 0.0


def test_a_link_is_taken_out_and_put_back_whole(records: Records) -> None:
    (one,) = records.listed("footbridge")
    before = next(link for link in records._store.export().links if link.id == one.id)
    assert records.remove(one.id) == one.name and records.listed("footbridge") == []
    assert records.taken_out == [one.name] and records.put_back() == one.id
    after = next(link for link in records._store.export().links if link.id == one.id)
    assert (after.document, after.facts, after.proofs) == (before.document, before.facts, before.proofs)
    with pytest.raises(BadInput):
        records.put_back()
    with pytest.raises(BadInput):
        records.remove("no such link")


def test_another_name_and_a_double(records: Records) -> None:
    (one,) = records.listed("weir")
    records.rename(one.id, " Weir, north side ")
    double = records.duplicate(one.id)
    assert {found.name for found in records.listed("weir")} == {"Weir, north side", "Weir, north side (copy)"}
    assert records.proofs(one.id) and not records.proofs(double)
    with pytest.raises(BadInput):
        records.rename(one.id, "  ")


def test_what_became_of_a_link_is_told_in_its_order(records: Records) -> None:
    (one,) = records.listed("relay")
    story = records.story(one.id)
    assert [proven for _, proven, _ in story] == [False, True, True]
    assert "network socket" in story[0][2] and "firmware 2.4" in story[-1][2]
