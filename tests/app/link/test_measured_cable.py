"""What follows from a cable that was named by meter: it is laid in, or held against the piece of the kit."""

from humble_courier.app.link.measured_cable import adopt
from humble_courier.app.link.open_link import OpenLink
from humble_courier.app.wire.meter import MeterBench
from humble_courier.catalog.load import Catalog
from humble_courier.catalog.named import ends_named


def measured(catalog: Catalog, name: str, faulty: bool = False) -> MeterBench:
    """A cable touched until the meter has named it (and its fault)."""
    meter = MeterBench(catalog, ends_named("D9,D9", catalog))
    suspects = meter.line_up.suspects
    row = next(i for i, s in enumerate(suspects) if meter.line_up.names[s.name] == name and bool(s.fault) is faulty)
    while (touch := meter.named().next_touch) is not None:
        meter.say(touch, bool(meter.line_up.joined[row, meter.line_up.column[touch]]))
    return meter


def test_nothing_follows_before_it_has_a_name(link: OpenLink, catalog: Catalog) -> None:
    before = link.document.model
    assert not adopt(link, MeterBench(catalog, ends_named("D9,D9", catalog)))
    assert link.document.model == before


def test_a_whole_cable_takes_the_place_of_the_one_that_was_assumed(link: OpenLink, catalog: Catalog) -> None:
    assert adopt(link, measured(catalog, "straight-de9"))
    assert [part.id for part in link.document.link.parts] == ["usb-rs232", "straight-de9"]
    fact = next(f for f in link.facts() if f.subject == "measured straight-de9")
    assert fact.holds and "whole" in fact.text
    assert ("meter-cable", "as-drawn") in [(one.check, one.outcome) for one in link.diagnosis.look().case.facts]
    assert link.undo() and link.document.link.parts[1].id == "crossed-de9-3wire"


def test_a_faulty_one_is_held_against_the_piece_of_the_kit(link: OpenLink, catalog: Catalog) -> None:
    def failures() -> int:
        return next(item.failures for item in link.bag.kit.items if item.part == "crossed-de9-3wire")

    before, model = failures(), link.document.model
    assert adopt(link, measured(catalog, "crossed-de9-3wire", faulty=True))
    facts = {one.check: one.outcome for one in link.diagnosis.look().case.facts}
    assert facts["meter-cable"] in ("broken", "other")
    assert failures() == before + 1 and link.document.model == model
    assert not next(f for f in link.facts() if f.subject == "measured crossed-de9-3wire").holds
