"""Links changed on both sides are decided piece by piece, a merge is taken back, and the list follows what is written."""

from pathlib import Path

import msgspec
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from humble_courier.app.records.deciding import decided, pieces
from humble_courier.app.records.export import write_records
from humble_courier.app.records.link_list import LinkList, Sorted
from humble_courier.app.records.merge_file import Whose
from humble_courier.app.records.records import Records
from humble_courier.app.records.report import handover, report, with_words
from humble_courier.catalog.load import Catalog
from humble_courier.documents.link import LinkModel, LinkPart, LinkSettings
from humble_courier.documents.records import Version
from humble_courier.errors import BadInput
from humble_courier.records.merging import BothChanged
from humble_courier.records.store import Store
from tests.records.test_merging import content
from tests.records.test_store import LINK, PROOF

MODELS = st.builds(
    lambda address, computer, device, chain: msgspec.structs.replace(
        LINK, address=address, settings=LinkSettings(computer=computer, device=device),
        chain=[LinkPart(part=p) for p in chain],
    ),
    st.sampled_from([None, "/dev/ttyUSB0", "sim://bench/gauge-logger"]), st.sampled_from([None, "1200,7E1", "9600,8N1"]),
    st.sampled_from([None, "1200,7E1"]), st.lists(st.sampled_from(["usb-rs232", "crossed-de9-3wire"]), max_size=2),
)  # fmt: skip


@given(MODELS, MODELS, st.data())
def test_any_choice_of_pieces_makes_a_link_that_has_just_those(
    ours: LinkModel, theirs: LinkModel, data: st.DataObject
) -> None:
    conflict = BothChanged("id", Version(1.0, "weir", ours), Version(2.0, "weir, new", theirs))
    found = pieces(conflict)
    assert decided(conflict, {p.place: Whose.OURS for p in found}) == (ours, "weir")
    assert decided(conflict, {p.place: Whose.THEIRS for p in found}) == (theirs, "weir, new")
    chosen = {p.place: data.draw(st.sampled_from([Whose.OURS, Whose.THEIRS])) for p in found}
    made, name = decided(conflict, chosen)
    left = pieces(BothChanged("id", conflict.ours, Version(3.0, name, made)))
    assert {p.place for p in left} == {place for place, side in chosen.items() if side is Whose.THEIRS}


def export_of(folder: Path, *stores: Store) -> Path:
    path = folder / "theirs.json"
    write_records(stores[0], path)
    return path


def test_a_merge_is_decided_and_taken_back(tmp_path: Path) -> None:
    ours, theirs = Store(tmp_path / "o"), Store(tmp_path / "t")
    id_ = ours.save_link(LINK, "weir")
    theirs.take(ours.export().links)
    ours.save_link(msgspec.structs.replace(LINK, address="/dev/ttyUSB0"), "weir", id_)
    theirs.save_link(msgspec.structs.replace(LINK, settings=LinkSettings(computer="9600,8N1")), "weir, new", id_)
    theirs.add_proof(theirs.save_link(LINK, "hut"), PROOF)
    before, records = content(ours.export()), Records(ours)
    with pytest.raises(BadInput, match="no records were taken in"):
        records.take_merge_back()
    told = records.merge(export_of(tmp_path, theirs))
    (conflict,) = told.conflicts
    assert {p.place for p in pieces(conflict)} == {"name", "address", "settings.computer"}
    records.decide(conflict, {"name": Whose.OURS, "address": Whose.OURS, "settings.computer": Whose.THEIRS})
    now = ours.link(id_)
    assert now is not None and (now.address, now.settings.computer) == ("/dev/ttyUSB0", "9600,8N1")
    kept = ours.save_link(LINK, "written since")
    assert records.take_merge_back() > 0
    assert {name for _, name in ours.links()} == {"weir", "written since"}, "what came since the merge stays"
    ours.remove(kept)
    after = content(ours.export())
    assert after.keys() == before.keys() and len(ours.versions(id_)) == 3, "the decision was made here, and stays"
    records.close()
    theirs.close()


STEPS = st.lists(st.tuples(st.sampled_from(["add", "rename", "proof", "remove", "change"]), st.integers(0, 4)), max_size=20)


@settings(max_examples=12)
@given(STEPS)
def test_the_list_is_always_what_is_in_the_records(
    tmp_path_factory: pytest.TempPathFactory, steps: list[tuple[str, int]]
) -> None:
    store = Store(tmp_path_factory.mktemp("list"))
    followed, ids = LinkList(store), list[str]()
    for at, (what, which) in enumerate(steps):
        if what == "add" or not ids:
            ids.append(store.save_link(LINK, f"link {at}"))
        elif what == "rename":
            store.rename(ids[which % len(ids)], f"name {at}")
        elif what == "proof":
            store.add_proof(ids[which % len(ids)], msgspec.structs.replace(PROOF, at=float(at)))
        elif what == "change":
            store.save_link(msgspec.structs.replace(LINK, address=f"/dev/ttyUSB{at}"), f"link {at}", ids[which % len(ids)])
        else:
            store.remove(ids.pop(which % len(ids)))
        for by in Sorted:
            assert followed.listed("", by, set()) == LinkList(store).listed("", by, set())
    store.close()


def test_paper_for_others(tmp_path: Path, store: Store, catalog: Catalog) -> None:
    ids = with_words(store, "ridge")
    title, sections = report(store, ids, catalog)
    assert title.startswith(f"{len(ids)} links") and {heading for heading, _ in sections} == {
        name for _, name in store.links() if "ridge" in name.lower()
    }
    assert len(with_words(store, "")) == 13
    gauge = next(id_ for id_, name in store.links() if name.startswith("Gauge"))
    title, sections = handover(store, gauge, catalog)
    assert title == "Handover: Gauge house, level logger"
    assert {"The link", "Cautions", "Before the first word", "First words"} <= {heading for heading, _ in sections}
    with pytest.raises(BadInput):
        report(store, [], catalog)
    with pytest.raises(BadInput):
        handover(store, "gone", catalog)
