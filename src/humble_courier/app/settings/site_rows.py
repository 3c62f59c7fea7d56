"""A site plan as rows to type in and back, and its picture: a row of cells a segment."""

from collections.abc import Sequence

from humble_courier.address.switches import parse_positions
from humble_courier.app.settings.address_rows import MOST_CELLS, BusLine, Cell, Grid, Hanging, Row, Use
from humble_courier.app.settings.site_plans import JudgedSite
from humble_courier.documents.bus import BankModel
from humble_courier.documents.link_changes import yaml_text
from humble_courier.documents.site import Instances, SiteMember, SiteModel
from humble_courier.errors import BadInput

WIDEST = 16  # cells in a row of the picture


def _number(text: str, what: str) -> int | None:
    if not text:
        return None
    if not text.isdecimal():
        raise BadInput(f"{what}: “{text}” is no number")
    return int(text)


def site_text(protocol: str, fields: Sequence[str], rows: Sequence[Row], bank: BankModel | None) -> str:
    """Rows as a site/1 document. `fields`: settings, devices a segment, instances as 1000-1999, kept addresses.

    Raises BadInput that names the row or the field.
    """
    settings, per_segment, numbers, kept = fields
    members = []
    for name, segment, address, switches, instance in rows:
        positions = list(parse_positions(switches)) if switches else None
        at, number = _number(address, f"{name}, address"), _number(instance, f"{name}, instance")
        members.append(SiteMember(name, at, positions, segment=segment or None, instance=number))  # type: ignore[arg-type]
    if not members:
        raise BadInput("a site needs one device at least: add one")
    reserve = [n for word in kept.replace(",", " ").split() if (n := _number(word, "kept addresses")) is not None]
    most = _number(per_segment, "devices a segment")
    if most == 0:
        raise BadInput("devices a segment: expected 1 or more")
    return yaml_text(SiteModel("site/1", protocol, members, settings or None, bank, reserve, most, _instances(numbers)))


def _instances(text: str) -> Instances | None:
    if not text:
        return None
    first, _, last = (part.strip() for part in text.partition("-"))
    if not first.isdecimal() or not last.isdecimal():
        raise BadInput(f"instances “{text}”: expected the first and the last, as in 1000-1999")
    return Instances(int(first), int(last))


def site_fields(model: SiteModel) -> tuple[str, str, str, str]:
    """The fields above the rows."""
    numbers = f"{model.instances.first}-{model.instances.last}" if model.instances is not None else ""
    per_segment = str(model.per_segment) if model.per_segment is not None else ""
    return model.settings or "", per_segment, numbers, " ".join(map(str, model.reserve))


def site_rows(model: SiteModel) -> list[Row]:
    """A document as rows."""
    return [
        (
            m.name, m.segment or "", "" if m.address is None else str(m.address), "".join(map(str, m.switches or ())),
            "" if m.instance is None else str(m.instance),
        )
        for m in model.members
    ]  # fmt: skip


def settled_site(judged: JudgedSite) -> list[Row]:
    """The rows in the order of the cable, with all that the plan has chosen written into them."""
    made: list[Row] = []
    for segment in judged.plan.segments:
        for name in segment.members:
            address, instance = judged.address(segment, name), judged.plan.instances.get(name)
            switches = "".join(map(str, judged.switches.get(name, ())))
            shown = ["" if one is None else str(one) for one in (address, instance)]
            made.append((name, segment.name, shown[0], switches, shown[1]))
    return made


def site_lines(judged: JudgedSite) -> tuple[BusLine, ...]:
    """Each segment as a bus."""
    lines = []
    for segment in judged.plan.segments:
        clash = {name for name in segment.members if name in segment.plan.suggest}
        given = segment.plan.addresses
        members = [
            Hanging(name, str(given[name]) if name in given else "", Use.TWICE if name in clash else Use.TAKEN)
            for name in segment.members
        ]
        lines.append(BusLine(segment.name, tuple(members)))
    return tuple(lines)


def site_grid(judged: JudgedSite) -> Grid:
    """A row of cells a segment, each a device with its address; what is in conflict is crossed."""
    wrong = {conflict.where for conflict in judged.plan.conflicts if not conflict.costs_only}
    columns = min(WIDEST, max((len(segment.members) for segment in judged.plan.segments), default=1))
    cells: list[Cell] = []
    for segment in judged.plan.segments:
        for name in segment.members:
            address = segment.plan.addresses.get(name)
            use = Use.TWICE if name in wrong else Use.TAKEN
            cells.append(Cell("" if address is None else str(address), use, (f"{name}, {segment.name}",)))
        cells += [Cell("", Use.FREE)] * (-len(segment.members) % columns)
    left = len(cells) - MOST_CELLS
    return Grid(columns, tuple(cells[:MOST_CELLS]), f"{left} more are judged and not drawn" if left > 0 else "")
