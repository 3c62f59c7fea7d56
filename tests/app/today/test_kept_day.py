"""A day out of sentences, kept in the records."""

from pathlib import Path

import pytest

from humble_courier.app.kit.bag import Bag
from humble_courier.app.kit.contents import save_kit
from humble_courier.app.link.changes import new_link
from humble_courier.app.today.kept import KeptVisit, Owed, Where
from humble_courier.app.today.kept_day import MOST, TodayPlan
from humble_courier.app.today.sentence import visit_of
from humble_courier.catalog.load import Catalog
from humble_courier.documents.kit import KitItem, KitModel
from humble_courier.errors import BadInput, ChangedElsewhere
from humble_courier.records.store import Store

LINKS = [
    ("1", "Gauge house, level logger"), ("2", "Ridge mast, wind sensor"), ("3", "Ridge, packet radio"),
    ("4", "Upper station, snow pillow"), ("5", "Relay hut, data concentrator"),
]  # fmt: skip
SENTENCES = {
    "six pillows at the upper station, address changes": KeptVisit("upper station", ["4"]),
    "level logger at the weir gauge house 8:20": KeptVisit("weir gauge house", ["1"], "08:20"),
    "wind sensor and packet radio at the ridge": KeptVisit("ridge", ["2", "3"]),
    "Ridge": KeptVisit("Ridge", ["2", "3"]),
    "concentrator": KeptVisit("concentrator", ["5"]),
    "something unknown at the moon 23:59": KeptVisit("moon", [], "23:59"),
}


@pytest.mark.parametrize("sentence", SENTENCES)
def test_a_visit_from_a_sentence(sentence: str) -> None:
    assert visit_of(sentence, LINKS) == SENTENCES[sentence]


def test_nothing_said_is_no_visit() -> None:
    with pytest.raises(BadInput, match="say what is done, and where"):
        visit_of("  ", LINKS)


def test_a_day_is_kept_and_a_deleted_link_is_named(tmp_path: Path, catalog: Catalog) -> None:
    store = Store(tmp_path)
    for name, device in (("Gauge house, level logger", "gauge-logger"), ("Ridge, wind sensor", "wind-sensor")):
        last = store.save_link(new_link(device, ["usb-rs232"], None, catalog), name)
    plan = TodayPlan(store, Bag(store))
    plan.add("level logger at the weir 8:20")
    plan.add("wind sensor at the ridge")
    assert plan.move(1, -1) == 0 and plan.move(0, -1) == 0
    plan.tick("buy: a thing", True)
    plan.want(spare=True)
    again = TodayPlan(store, Bag(store))
    assert [visit.place for visit in again.kept.visits] == ["ridge", "weir"]
    assert again.kept.done == ["buy: a thing"] and again.kept.spare
    store.remove(last)
    planned = again.planned(catalog)
    assert planned.lost == ("ridge",) and [len(visit.links) for visit in planned.day.visits] == [0, 1]
    again.with_link(0, again.kept.visits[1].links[0], there=True)
    assert len(again.planned(catalog).day.visits[0].links) == 1
    again.take_out(0)
    again.tick("buy: a thing", False)
    assert len(again.kept.visits) == 1 and not again.kept.done
    again.kept = again.kept.__class__([KeptVisit("x")] * MOST)
    with pytest.raises(BadInput, match="at most"):
        again.add("one more at the weir")
    store.close()


def test_what_comes_back_goes_into_the_kit_and_can_be_taken_back(tmp_path: Path) -> None:
    store = Store(tmp_path)
    save_kit(store, KitModel("kit/1", [KitItem(part=p, count=2) for p in ("usb-rs232", "straight-de9", "rolled-8p8c")]))
    bag = Bag(store)
    plan = TodayPlan(store, bag)
    plan.add("something at the hut")
    for part, where in zip(
        ("usb-rs232", "straight-de9", "rolled-8p8c"), (Where.FAILED, Where.STAYED, Where.PACKED), strict=True
    ):
        plan.put(part, where)
    before = bag.kit
    plan.come_back({"rolled-8p8c": ["hut"]})
    counts = {item.part: (item.count, item.failures) for item in bag.kit.items}
    assert counts == {"usb-rs232": (1, 1), "straight-de9": (1, 0), "rolled-8p8c": (2, 0)}
    again = TodayPlan(store, Bag(store))
    assert not again.kept.visits and again.kept.owed == [Owed("rolled-8p8c", ["hut"])]
    plan.undo()
    assert bag.kit == before and plan.kept.visits and plan.kept.pieces["usb-rs232"] is Where.FAILED
    with pytest.raises(ChangedElsewhere):
        again.want(spare=True)
    again.want(spare=True)
    assert again.kept.visits and again.kept.spare, "what the other window did is taken in"
    again.has_back(Owed("rolled-8p8c", ["hut"]))
    for _ in range(2):
        again.undo()
    with pytest.raises(BadInput, match="nothing of this day"):
        again.undo()
    store.close()
