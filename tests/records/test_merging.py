"""Copies of the records that meet: nothing is lost, and the outcome is the same in whatever order they meet.

The model is a plain set: what any copy ever held.
"""

import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field
from itertools import permutations
from pathlib import Path

import msgspec
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from humble_courier.documents.records import Export, KeptLink, Proof, Version
from humble_courier.domain.clock import ManualClock
from humble_courier.domain.facts import Fact, Provenance
from humble_courier.records.merging import differing, history, key_of
from humble_courier.records.store import Store
from tests.records.test_store import LINK, PROOF

EDITS = st.lists(
    st.tuples(st.integers(0, 2), st.sampled_from(["rename", "change", "fact", "proof", "meet"]), st.integers(0, 1)),
    max_size=14,
)  # fmt: skip


@dataclass
class Copies:
    """Three copies of the same records, edited apart, and all that was ever written into any."""

    stores: list[Store]
    ids: list[str]
    time: ManualClock
    written: set[str] = field(default_factory=set)
    clock: float = 100.0

    def edit(self, copy: int, what: str, link: int) -> None:
        self.clock += 1
        self.time.wait(self.clock)
        store, id_ = self.stores[copy], self.ids[link]
        if what == "meet":
            other = self.stores[(copy + 1) % len(self.stores)]
            store.take(other.export().links)
            return
        if what == "rename":
            store.rename(id_, f"name {self.clock}")
        elif what == "change":
            document = msgspec.structs.replace(LINK, name=f"document {self.clock}")
            store.save_link(document, f"name {self.clock}", id_)
        elif what == "fact":
            store.add_facts(id_, [Fact("s", f"fact {self.clock}", Provenance.OBSERVED, "us", self.clock)])
        else:
            store.add_proof(id_, msgspec.structs.replace(PROOF, at=self.clock))
        self.written.add(f"{what} {id_} {self.clock}")


@contextmanager
def copies() -> Iterator[Copies]:
    with tempfile.TemporaryDirectory() as folder:
        time = ManualClock(1.0)
        stores = [Store(Path(folder) / str(n), clock=time) for n in range(3)]
        made = Copies(stores, [stores[0].save_link(LINK, "weir"), stores[0].save_link(LINK, "hut")], time)
        for other in stores[1:]:
            other.take(stores[0].export().links)
        yield made
        for store in stores:
            store.close()


def content(export: Export) -> dict[str, object]:
    """All of an export, in an order that is its own: numbers of rows do not count."""
    return {
        kept.id: (
            kept.name, kept.document, sorted(msgspec.json.encode(f) for f in kept.facts),
            sorted(msgspec.json.encode(p) for p in kept.proofs), [key_of(v) for v in history(kept)],
        )
        for kept in export.links
    }  # fmt: skip


@settings(max_examples=10, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(EDITS)
def test_three_copies_end_alike_in_any_order_and_lose_nothing(edits: list[tuple[int, str, int]]) -> None:
    with copies() as made:
        for edit in edits:
            made.edit(*edit)
        exports = [store.export() for store in made.stores]
        ends = []
        for order in permutations(range(3)):
            with tempfile.TemporaryDirectory() as folder:
                fresh = Store(Path(folder))
                for copy in order:
                    fresh.take(exports[copy].links)
                again = fresh.take(exports[order[0]].links)
                assert again.taken == 0 and again.same == again.links, "what was taken in once is recognised"
                ends.append(content(fresh.export()))
                fresh.close()
        assert all(end == ends[0] for end in ends)
        texts = msgspec.json.encode(list(map(str, ends[0].values()))).decode()
        for one in made.written:
            what, id_, clock = one.split(" ")
            kept = ends[0][id_]
            found = {
                "rename": f"name {clock}", "change": f"document {clock}", "fact": f"fact {clock}", "proof": f'"at":{clock}',
            }[what]  # fmt: skip
            assert found in texts.replace("\\", "") and kept is not None


def test_what_was_changed_on_both_sides_is_told_and_decided(tmp_path: Path) -> None:
    ours, theirs = Store(tmp_path / "a"), Store(tmp_path / "b")
    id_ = ours.save_link(LINK, "weir")
    theirs.take(ours.export().links)
    ours.save_link(msgspec.structs.replace(LINK, end="cr"), "weir", id_)
    theirs.save_link(msgspec.structs.replace(LINK, end="lf"), "weir two", id_)
    merged = ours.take(theirs.export().links)
    (conflict,) = merged.conflicts
    assert sorted(differing(conflict)) == [("end", "cr", "lf"), ("name", "weir", "weir two")]
    assert ours.links() == [(id_, "weir two")] and len(ours.versions(id_)) == 3, "the newest holds, and none is lost"
    assert not theirs.take(ours.export().links).conflicts, "who knows the other's version has no conflict with it"
    ours.save_link(msgspec.structs.replace(LINK, end="crlf"), "weir", id_)
    assert not theirs.take(ours.export().links).conflicts
    assert theirs.link(id_) == msgspec.structs.replace(LINK, end="crlf")
    ours.close()
    theirs.close()


def test_an_older_export_without_versions_is_taken_in(tmp_path: Path) -> None:
    store = Store(tmp_path)
    old = KeptLink("id-1", "weir", 5.0, LINK, [], [PROOF])
    assert store.take([old, old]).taken == 2 and store.take([old]).same == 1
    assert store.versions("id-1") == [Version(5.0, "weir", LINK)] and store.proofs("id-1") == [PROOF]
    assert isinstance(store.proofs("id-1")[0], Proof)
    store.close()
