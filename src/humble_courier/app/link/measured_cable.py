"""What follows for the link when a cable was named by meter: a fact, a part laid in or credited, a part debited."""

from humble_courier.app.kit.contents import link_part
from humble_courier.app.link.open_link import OpenLink
from humble_courier.app.wire.meter import MeterBench
from humble_courier.documents.link import LinkPart
from humble_courier.documents.link_changes import with_link_part
from humble_courier.wiring.identify.suspects import UNKNOWN


def adopt(open_link: OpenLink, meter: MeterBench) -> bool:
    """Note what the meter found. A whole cable is laid into the link in place of its first passive part.

    A faulty one counts against the piece of the kit. False while the cable has no name yet.
    """
    named, document = meter.named(), open_link.document
    if named.name is None or named.name == UNKNOWN:
        return False
    faults = ", ".join(f"{f.code} at {f.where}" for f, _ in named.faults)
    state = f", faulty: {faults}" if faults else ", whole" if named.proven else ""
    text = f"Measured: {meter.part_name(named.name)}{state} ({len(meter.readings)} touches)"
    kept = next((item for item in open_link.bag.kit.items if item.id == named.name), None)
    lying = link_part(kept, turned=False) if kept is not None else LinkPart(part=named.name)
    open_link.ledger.measured(f"measured {named.name}", text, holds=not faults)
    if faults:
        open_link.bag.credit([lying], served=False)
        broken = any(fault.code == "open" for fault, _ in named.faults)
        open_link.diagnosis.seen_elsewhere("meter-cable", "broken" if broken else "other")
        return True
    index = next((i for i, part in enumerate(document.link.parts) if not part.active), None)
    if index is not None and document.link.parts[index].id != named.name:
        open_link.change(with_link_part(document.model, index, lying))
    open_link.diagnosis.seen_elsewhere("meter-cable", "as-drawn")  # what was measured is what is drawn from now on
    return True
