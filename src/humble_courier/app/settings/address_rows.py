"""Address plans as rows that are typed: to documents and back, and what a picture of them shows."""

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

from humble_courier.address.network import factory_clash, interface, plan_network
from humble_courier.address.points import PointPlan, shown
from humble_courier.address.switches import parse_positions
from humble_courier.app.settings.address_plans import JudgedBus
from humble_courier.app.settings.timings import Figure
from humble_courier.catalog.load import Catalog
from humble_courier.documents.bus import BankModel, BusMember, BusModel
from humble_courier.documents.device import DeviceEntry
from humble_courier.documents.io import IoModel, PointModule
from humble_courier.documents.link_changes import yaml_text
from humble_courier.errors import BadInput

Row = tuple[str, ...]  # of a bus: name, address, switches, settings; of points: name, letter, points, start
MOST_CELLS = 512  # drawn at once; more cannot be told apart on a screen
COLUMNS = 16  # a row of hexadecimal addresses


class Use(StrEnum):
    """What an address or a point is."""

    FREE = "free"
    TAKEN = "taken"
    TWICE = "more than once"
    KEPT = "kept by the bus"
    BEYOND = "not legal"


@dataclass(frozen=True)
class Cell:
    """One address or point, as it is written, with who has it."""

    number: str
    use: Use
    names: tuple[str, ...] = ()


@dataclass(frozen=True)
class Grid:
    """Cells in rows of `columns`; `left_out` says what is not drawn."""

    columns: int
    cells: tuple[Cell, ...]
    left_out: str = ""


@dataclass(frozen=True)
class Hanging:
    """A device on a bus; without an address where none is given yet."""

    name: str
    address: str
    use: Use


@dataclass(frozen=True)
class BusLine:
    """One bus as it lies. `terminators`: how many are fitted, None where it has none or nobody has said."""

    name: str
    members: tuple[Hanging, ...]
    terminators: int | None = None


def bus_line(judged: JudgedBus, catalog: Catalog, terminators: int | None = None) -> BusLine:
    """The bus of a plan, its devices in the order of the rows."""
    uses = {name: cell.use for cell in bus_grid(judged, catalog).cells for name in cell.names}
    given = judged.plan.addresses
    members = []
    for m in judged.model.members:
        has = m.name in given and (m.address is not None or m.switches is not None)  # a proposed one is none yet
        members.append(Hanging(m.name, str(given[m.name]) if has else "", uses[m.name] if has else Use.FREE))
    return BusLine("computer", tuple(members), terminators)


def bus_text(protocol: str, settings: str, rows: Sequence[Row], bank: BankModel | None) -> str:
    """Rows as a bus/1 document. Raises BadInput that names the row."""
    members = []
    for name, address, switches, own in rows:
        try:
            number = int(address) if address else None
        except ValueError:
            raise BadInput(f"{name}: address “{address}” is no number") from None
        positions = list(parse_positions(switches)) if switches else None
        members.append(BusMember(name, number, positions, None, own or None))  # type: ignore[arg-type]
    if not members:
        raise BadInput("a bus needs one device at least: add one")
    return yaml_text(BusModel("bus/1", protocol, members, settings or None, bank))


def bus_rows(model: BusModel) -> list[Row]:
    """A document as rows."""
    return [
        (m.name, "" if m.address is None else str(m.address), "".join(map(str, m.switches or ())), m.settings or "")
        for m in model.members
    ]


def settled(judged: JudgedBus) -> list[Row]:
    """The rows with every address given, free ones instead of those in conflict, and switches where the bank is known."""
    made: list[Row] = []
    for m in judged.model.members:
        address = judged.plan.suggest.get(m.name, judged.plan.addresses.get(m.name))
        switches = judged.switches.get(m.name) or (tuple(m.switches) if m.switches and address == m.address else ())
        own = "" if judged.model.settings else m.settings or ""
        made.append((m.name, "" if address is None else str(address), "".join(map(str, switches)), own))
    return made


def bus_grid(judged: JudgedBus, catalog: Catalog) -> Grid:
    """All addresses of the bus, and those outside that somebody has."""
    protocol = catalog.bus_protocols[judged.model.protocol]
    by_address: dict[int, list[str]] = {}
    for name, address in judged.plan.addresses.items():
        by_address.setdefault(address, []).append(name)
    last = max([protocol.highest, *protocol.kept])
    cells = []
    for address in [*range(last + 1), *sorted(a for a in by_address if a > last)]:
        names = tuple(by_address.get(address, ()))
        legal = protocol.lowest <= address <= protocol.highest and address not in protocol.kept
        use = Use.TAKEN if names else Use.FREE
        if len(names) > 1:
            use = Use.TWICE
        elif not legal:
            use = Use.BEYOND if names or address not in protocol.kept else Use.KEPT
        cells.append(Cell(str(address), use, names))
    used = max((i for i, cell in enumerate(cells) if cell.names), default=0)
    drawn = min((used // COLUMNS + 2) * COLUMNS, len(cells), MOST_CELLS)
    rest = f"from {cells[drawn].number} to {protocol.highest} all are free" if drawn <= protocol.highest else ""
    return Grid(COLUMNS, tuple(cells[:drawn]), rest if used < drawn else _rest(len(cells)))


def points_text(radix: int, highest: str, rows: Sequence[Row]) -> str:
    """Rows as an io/1 document. Raises BadInput that names the row."""
    modules = []
    for name, letter, points, start in rows:
        if not points.isdecimal() or not 1 <= int(points) <= 65536:
            raise BadInput(f"{name}: “{points}” points; expected 1 to 65536, in decimal")
        modules.append(PointModule(name, int(points), start or None, letter))
    if not modules:
        raise BadInput("a plan needs one module at least: add one")
    return yaml_text(IoModel("io/1", radix, modules, highest or None))  # type: ignore[arg-type]


def points_rows(model: IoModel) -> list[Row]:
    """A document as rows."""
    return [(m.name, m.letter, str(m.points), "" if m.start is None else str(m.start)) for m in model.modules]


def points_grid(plan: PointPlan, radix: int) -> Grid:
    """All points up to the last that is used, letter after letter, a row for each digit before the last."""
    cells: list[Cell] = []
    for letter, following in plan.next_starts.items():
        for point in range(min(following, MOST_CELLS + 1)):
            there = plan.at_point(letter, point)
            names = tuple(f"{placed.name}, terminal {terminal}" for placed, terminal in there)
            cells.append(
                Cell(f"{letter}{shown(point, radix, 2)}", (Use.FREE, Use.TAKEN, Use.TWICE)[min(len(names), 2)], names)
            )
        cells += [Cell("", Use.FREE)] * (-len(cells) % radix)
    return Grid(radix, tuple(cells[:MOST_CELLS]), _rest(len(cells)))


def _rest(count: int) -> str:
    return f"{count - MOST_CELLS} more are judged and not drawn" if count > MOST_CELLS else ""


def network_figures(device: str, computer: str, others: str, site: str, socket: str) -> list[Figure]:
    """Do the two ends reach each other; which address to take; what the device's address collides with."""
    ends = interface(device), interface(computer)
    found = plan_network(*ends, tuple(interface(text) for text in others.split()))
    clashes = factory_clash(ends[0], tuple(interface(text) for text in site.split()))
    told = [Figure(c.where, c.text, c.costs_only) for c in (*found.conflicts, *clashes)]
    if found.ok:
        told.insert(0, Figure("Reach", f"{ends[1].ip} and {ends[0].ip} reach each other", True))
    elif found.suggest is not None:
        told.append(Figure("Take for the computer", f"{found.suggest}, highest that nobody named here has", True))
        add = f"sudo ip address add {found.suggest} dev {socket or 'SOCKET'}"
        told.append(Figure("On this computer", f"{add}; afterwards the same with del", True))
    else:
        told.append(Figure("No address", "the device's network has none left for the computer", False))
    return told


def serial_figures(sheet: DeviceEntry | None, address: str) -> list[Figure]:
    """How the device's address is read and set over its serial port, as its sheet says."""
    if sheet is None or sheet.network is None:
        return []
    network, told = sheet.network, []
    if network.read is not None:
        told.append(Figure("Unknown? Ask first", f"{network.read.say} ({network.read.means})", True))
    for number, say in enumerate(network.set, start=1):
        told.append(Figure(f"To set it, line {number}", say.replace("{address}", address), True))
    if network.set:
        told.append(Figure("Before that", "it writes into the device: note the old address first", True))
    return told


def moved(plan: PointPlan, model: IoModel) -> list[Row]:
    """The rows with the modules that are in conflict placed behind all others."""
    wrong = {c.where for c in plan.conflicts}
    following: dict[str, int] = {}
    for placed in plan.placed:
        if placed.name not in wrong:
            following[placed.letter] = max(following.get(placed.letter, 0), placed.end + 1)
    made: list[Row] = []
    for module, placed in zip(model.modules, plan.placed, strict=True):
        start = placed.start
        if module.name in wrong:
            start = following.get(module.letter, 0)
            following[module.letter] = start + module.points
        made.append((module.name, module.letter, str(module.points), shown(start, model.radix)))
    return made


def address_bank(sheet: DeviceEntry | None) -> BankModel | None:
    """The switches by which devices of this kind get their address in binary; None where there are none."""
    bank = next((b for b in sheet.banks if b.codes == "address"), None) if sheet is not None else None
    if bank is None or bank.table:
        return None
    return BankModel(bank.width, bank.msb_first, bank.on_is_zero, bank.offset)
