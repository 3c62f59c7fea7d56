"""Acts of a sheet: their order, and ticks that stay with the act."""

import msgspec
import pytest

from humble_courier.app.link.open_link import OpenLink
from humble_courier.app.prepare.sheet_acts import SheetAct, acts, standing
from humble_courier.catalog.load import Catalog
from humble_courier.catalog.sheets import sheet_from_text
from humble_courier.documents.device import Precondition
from humble_courier.errors import BadInput
from tests.conftest import untick


def test_a_tick_stays_with_its_act_whatever_is_put_before_it(catalog: Catalog, link: OpenLink) -> None:
    """A tick that moves to "isolate the mains" because an act was put before it is worse than none."""
    sheet = catalog.device("gauge-logger")
    untick(link)
    link.tick(sheet.preconditions[0].act, done=True)
    isolate = Precondition(act="Isolate the mains supply", proof="dead on three tests", caution="open-cabinet")
    longer = msgspec.structs.replace(sheet, preconditions=[isolate, *sheet.preconditions])
    done = [act.act for act in acts(longer, catalog.cautions) if act.id in link.ledger.ticked()]
    assert done == [sheet.preconditions[0].act]
    reworded = Precondition(act="Power the logger from its own battery", proof="lamp lit")
    other = msgspec.structs.replace(sheet, preconditions=[reworded])
    assert [act for act in acts(other, catalog.cautions) if act.id in link.ledger.ticked()] == []


@pytest.mark.parametrize("device", Catalog(demo=True).device_ids())
def test_the_order_is_that_of_the_work(catalog: Catalog, device: str) -> None:
    made = acts(catalog.device(device), catalog.cautions)
    place = {act.id: i for i, act in enumerate(made)}
    assert len(place) == len(made), "each act has an id of its own"
    own = [place[p.id or p.act] for p in catalog.device(device).preconditions]
    if not own:
        return
    assert all(place.get(id_, -1) < min(own) for id_ in ("reach-port", "take-socket"))
    assert all(place.get(id_, len(made)) > max(own) for id_ in ("revision", "note-down", "wait"))
    assert [act.after for act in made] == sorted(act.after for act in made)


def test_acts_after_the_job_and_cautions_of_ones_own(catalog: Catalog) -> None:
    text = """courier: device/1
id: pump
name: Pump
kind: controller
edition: own notes
source: own notes
port: {name: Port, mark: P1, connector: {family: D, contacts: 9, gender: socket},
  signals: {2: TXD out rs232, 3: RXD in rs232, 5: GND},
  settings: "9600,8N1", set_by: nothing}
preconditions: [{act: Open the lid, proof: open, caution: The spring behind the lid is strong}]
afterwards: [{act: Close the lid, proof: shut}]
"""
    made = acts(sheet_from_text(text, "pump.yaml", catalog.cautions), catalog.cautions)
    assert [(act.act, act.caution, act.after) for act in made] == [
        ("Open the lid", "The spring behind the lid is strong", False), ("Close the lid", "", True)
    ]  # fmt: skip
    with pytest.raises(BadInput, match="a sentence of your own"):
        sheet_from_text(text.replace("The spring behind the lid is strong", "no-such-id"), "pump.yaml", catalog.cautions)
    with pytest.raises(BadInput, match="two acts with one id"):
        same = text.replace("proof: open", "proof: open, id: lid").replace("proof: shut", "proof: shut, id: lid")
        sheet_from_text(same, "pump.yaml", catalog.cautions)


@pytest.mark.parametrize(
    ("done", "proven", "told"),
    [
        (set(), False, "Before the first word: 2 acts left at the float gauge"),
        ({"a"}, False, "Before the first word: 1 act left at the float gauge"),
        ({"a", "b"}, False, "Float gauge: ready for the first word"),
        ({"a"}, True, "Float gauge has answered: 1 act left"),
        ({"z"}, True, "Float gauge has answered; 2 acts before it were not ticked"),
        ({"a", "z"}, True, "Float gauge has answered"),
    ],
)
def test_how_far_one_is_with_the_acts(done: set[str], proven: bool, told: str) -> None:
    todo = [SheetAct("a", "power", "lamp"), SheetAct("b", "mode", "lamp"), SheetAct("z", "lid", "closed", after=True)]
    assert standing("Float gauge", todo, done, proven) == told
