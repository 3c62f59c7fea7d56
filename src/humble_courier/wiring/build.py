"""The build sheet: a cable designed from two ports, with colours, pairs, what stays open and why, and how to accept it."""

from dataclasses import dataclass, field
from itertools import combinations

from humble_courier.catalog.entries import ColourEntry
from humble_courier.domain.hardware import Conductor, Connector, End, EndContact, Gender, Part, Port
from humble_courier.domain.settings import Handshake
from humble_courier.domain.signals import DTR_DSR, RTS_CTS, Direction, Role, Signal
from humble_courier.wiring.levels import LevelFit, Levels, fit, leg

Named = tuple[str, Signal]  # contact and its signal
LINES = ((Handshake.RTS_CTS, RTS_CTS), (Handshake.DTR_DSR, DTR_DSR - {"DCD"}))
CONTACT_PAIRS = (("1", "2"), ("3", "6"), ("4", "5"), ("7", "8"))  # TIA-568: contacts of a modular plug that share a pair


@dataclass(frozen=True)
class Wire:
    """One conductor to make: contacts at the ends A (computer) and B (device), signals there, colour, number of its pair."""

    a: str
    b: str
    at_a: str
    at_b: str
    colour: str = ""
    pair: int | None = None


@dataclass(frozen=True)
class Open:
    """A contact that stays unconnected, and why."""

    end: str
    contact: str
    signal: str
    why: str


@dataclass(frozen=True)
class BuildSheet:
    """A cable to make: connectors of its two ends, conductors, open contacts, screen, pairs that must beep or be silent."""

    a: Connector
    b: Connector
    wires: tuple[Wire, ...]
    open: tuple[Open, ...]
    screen: str
    scheme: str
    beep: tuple[tuple[str, str], ...]
    silent: tuple[tuple[str, str], ...]
    missing: tuple[str, ...] = field(default=())

    def part(self) -> Part:
        """The finished cable as a part."""
        joined = dict.fromkeys((wire.a, wire.b) for wire in self.wires)  # two conductors may share both contacts
        wires = tuple(Conductor(EndContact(0, a), EndContact(1, b)) for a, b in joined)
        return Part("built", "cable from the build sheet", (End(self.a), End(self.b)), wires)


def design(near: Port, far: Port, levels: Levels, asked: frozenset[Handshake], scheme: ColourEntry) -> BuildSheet:
    """Design the cable with the fewest conductors that serve: data, ground, and the handshake that is asked for.

    `missing` names inputs that no sender of the other port can feed: then no cable will do, a converter may.
    """
    chosen: list[tuple[Named, Named]] = []
    missing: list[str] = []
    for listener, speaker, turned in ((far, near, False), (near, far, True)):
        for wanted in _inputs(listener, speaker, asked):
            sender = _sender(wanted, speaker, levels)
            if sender is not None:
                pair = (wanted, sender) if turned else (sender, wanted)
                chosen += [pair] if pair not in chosen else []
            elif wanted[1].role is Role.DATA and any(s.drives and s.role is Role.DATA for s in speaker.signals.values()):
                missing.append(f"{listener.name} {wanted[1].name} (contact {wanted[0]})")
    grounds = _grounds(near), _grounds(far)
    if all(grounds):
        chosen.append((grounds[0][0], grounds[1][0]))
    wires = _coloured(chosen, near, far, levels, scheme)
    a, b = _half(near.connector), _half(far.connector)
    beep, silent = acceptance(wires)
    screen = "screen to the shell of end A only, cut back and insulated at end B: one end, or it carries earth currents"
    opened = (*_open("A", near, {w.a for w in wires}, asked), *_open("B", far, {w.b for w in wires}, asked))
    return BuildSheet(a, b, wires, opened, screen, scheme.name, beep, silent, tuple(missing))


def _half(connector: Connector) -> Connector:
    opposite = {Gender.PLUG: Gender.SOCKET, Gender.SOCKET: Gender.PLUG}
    return Connector(connector.family, connector.contacts, opposite.get(connector.gender, Gender.EITHER))


def _grounds(port: Port) -> list[Named]:
    return [(c, s) for c, s in port.signals.items() if s.role is Role.GROUND]


def _inputs(listener: Port, speaker: Port, asked: frozenset[Handshake]) -> list[Named]:
    """What has to be fed: data inputs of the buses that the other side speaks, and handshake inputs that are asked for."""
    spoken = {s.level for s in speaker.signals.values()}
    inputs = [(c, s) for c, s in listener.signals.items() if s.hears and s.role is Role.DATA]
    common = [(c, s) for c, s in inputs if s.level in spoken]
    lines = {line for handshake, group in LINES if handshake in asked for line in group}
    handshakes = [(c, s) for c, s in listener.signals.items() if s.direction is Direction.IN and s.name.upper() in lines]
    return (common or inputs) + handshakes


def _sender(wanted: Named, speaker: Port, levels: Levels) -> Named | None:
    """The signal of the other port that belongs to an input: same role, level that fits, wire of the pair, handshake."""
    signal = wanted[1]
    group = next((g for _, g in LINES if signal.name.upper() in g), frozenset())
    fitting = [
        (c, s)
        for c, s in speaker.signals.items()
        if s.drives
        and s.role is signal.role
        and fit(levels, s.level, signal.level) is LevelFit.GOOD
        and leg(levels, s) == leg(levels, signal)
        and (not group or s.name.upper() in group)
    ]
    same = [one for one in fitting if one[1].name.upper() == signal.name.upper() and one[1].direction is Direction.BOTH]
    return next(iter(same or fitting), None)


def _open(end: str, port: Port, used: set[str], asked: frozenset[Handshake]) -> list[Open]:
    found = []
    for contact, signal in port.signals.items():
        if contact in used:
            continue
        if signal.role is Role.POWER:
            why = "supply: leave unconnected, unless the sheet says otherwise"
        elif signal.role is Role.GROUND:
            why = "one ground is enough; joined inside the device"
        elif signal.role is Role.SHIELD:
            why = "the screen is tied at the shell"
        elif signal.role is Role.HANDSHAKE:
            why = "no handshake asked for" if not asked else "not part of the handshake that is asked for"
        else:
            why = "no signal at the other end belongs to it"
        found.append(Open(end, contact, signal.name, why))
    return found


def _coloured(
    chosen: list[tuple[Named, Named]], near: Port, far: Port, levels: Levels, scheme: ColourEntry
) -> tuple[Wire, ...]:
    """Colours for the conductors; with twisted pairs each fast line gets its return in the same pair."""
    wires = [Wire(a, b, at_a.name, at_b.name) for (a, at_a), (b, at_b) in chosen]
    modular = next((end for end, port in (("a", near), ("b", far)) if port.connector.family == "8P8C"), None)
    if scheme.contacts and modular:
        return tuple(_by_contact(wire, modular, scheme) for wire in wires)
    if not scheme.pairs:
        names = scheme.colours
        rings = ["", *(f" with {n} ring" for n in ("one", "two", "three", "four"))]
        colours = [names[i % len(names)] + rings[i // len(names)] for i in range(len(wires))]
        return tuple(Wire(w.a, w.b, w.at_a, w.at_b, colour) for w, colour in zip(wires, colours, strict=True))
    return _in_pairs(chosen, levels, scheme)


def _by_contact(wire: Wire, modular: str, scheme: ColourEntry) -> Wire:
    contact = wire.a if modular == "a" else wire.b
    pair = next(i for i, both in enumerate(CONTACT_PAIRS, start=1) if contact in both)
    return Wire(wire.a, wire.b, wire.at_a, wire.at_b, scheme.contacts[contact], pair)


def _in_pairs(chosen: list[tuple[Named, Named]], levels: Levels, scheme: ColourEntry) -> tuple[Wire, ...]:
    """Both wires of a differential signal share a pair, a single-ended data line goes with ground, lines two by two."""
    ground = next((one for one in chosen if one[0][1].role is Role.GROUND), None)
    balanced = [one for one in chosen if leg(levels, one[0][1])]
    single = [one for one in chosen if one[0][1].role is Role.DATA and one not in balanced]
    lines = [one for one in chosen if one[0][1].role is Role.HANDSHAKE]
    groups = [balanced[i : i + 2] for i in range(0, len(balanced), 2)]
    groups += [[one, ground] if ground else [one] for one in single]
    groups += [lines[i : i + 2] for i in range(0, len(lines), 2)]
    if ground and not single:
        groups.append([ground])
    wires = []
    for number, group in enumerate(groups):
        for i, ((a, at_a), (b, at_b)) in enumerate(group):
            colour = scheme.colours[(2 * number + 1 - i) % len(scheme.colours)]
            wires.append(Wire(a, b, at_a.name, at_b.name, colour, number + 1))
    return tuple(wires)


def acceptance(wires: tuple[Wire, ...]) -> tuple[tuple[tuple[str, str], ...], tuple[tuple[str, str], ...]]:
    """Pairs that must beep, and pairs that must be silent: each net against each other one, once."""
    nets: list[tuple[set[str], set[str]]] = []
    for wire in wires:
        net = next((n for n in nets if wire.a in n[0] or wire.b in n[1]), None)
        if net is None:
            nets.append(({wire.a}, {wire.b}))
        else:
            net[0].add(wire.a)
            net[1].add(wire.b)
    beep = [(_at("A", min(a)), _at("B", contact)) for a, b in nets for contact in sorted(b)]
    beep += [(_at("A", contact), _at("B", min(b))) for a, b in nets for contact in sorted(a) if contact != min(a)]
    silent = [(_at("A", min(x[0])), _at("B", min(y[1]))) for x, y in combinations(nets, 2)]
    return tuple(beep), tuple(silent)


def _at(end: str, contact: str) -> str:
    return str(EndContact("AB".index(end), contact))
