"""The conductor map as data: for each joint the contacts in rows, between joints the conductors, for each net its story."""

from dataclasses import dataclass

from humble_courier.domain.signals import Direction, Role, Signal
from humble_courier.wiring.findings import Severity
from humble_courier.wiring.nets import Chain, Net, Spot
from humble_courier.wiring.trace import Trace

_ROLE_ORDER = {Role.DATA: 0, Role.GROUND: 1, Role.HANDSHAKE: 2, Role.POWER: 3, Role.SHIELD: 4}
_HANDSHAKE_ORDER = ["RTS", "CTS", "DTR", "DSR", "DCD", "RI"]
_WORDS = {
    "output-meets-output": "two senders meet",
    "input-undriven": "nobody sends",
    "level-damage": "too much voltage",
    "level-mismatch": "levels do not fit",
    "power-into-signal": "supply reaches a signal",
    "power-feedback": "two supplies meet",
    "must-stay-open": "has to stay open",
    "measure-first": "measure first",
    "pair-swapped": "pair swapped",
    "handshake-open": "handshake open",
    "handshake-looped": "looped to its own end",
}


@dataclass(frozen=True)
class MapContact:
    """A contact of a port at the left or right edge of the map."""

    row: int
    contact: str
    signal: str
    does: str  # sends, listens, or nothing for grounds
    net: int


@dataclass(frozen=True)
class MapWire:
    """A conductor of a part: rows at the joint before it and after it. A loop has both rows at one joint."""

    part: int  # index of the part, from 0
    row_a: int
    row_b: int
    loop_at: int | None  # 0: looped at the near joint, 1: at the far joint, None: through
    net: int


@dataclass(frozen=True)
class MapNet:
    """How a net is drawn and what is said of it. `state`: `good`, `bad`, or `idle` where it is not needed."""

    state: str
    code: str | None
    label: str
    story: str


@dataclass(frozen=True)
class WireMap:
    """The last segment of a chain, from the port that faces the cable to the device."""

    near_title: str
    near_subtitle: str
    far_title: str
    far_subtitle: str
    parts: tuple[str, ...]
    mated: tuple[bool, ...]  # for each joint from the near port to the device
    rows: int
    near: tuple[MapContact, ...]
    far: tuple[MapContact, ...]
    wires: tuple[MapWire, ...]
    nets: tuple[MapNet, ...]
    headline: str
    reason: str


def wire_map(trace: Trace) -> WireMap:
    """The map of the stretch between the computer's serial side and the device."""
    chain, segment = trace.chain, trace.paths.segments[-1]
    first, last = segment.near[0], segment.far[0]
    number = {spot: i for i, net in enumerate(trace.nets) for spot in net.spots}
    rows = _rows(trace, first, last)
    parts = range(first + 1, last)
    wires = []
    for k, node in enumerate(parts):
        for wire in chain.parts[node - 1].conductors:
            a, b = sorted((wire.a, wire.b))
            table_a, table_b = rows[k + (a.end > 0)], rows[k + (b.end > 0)]
            if a.contact in table_a and b.contact in table_b:
                loop = a.end if a.end == b.end else None
                net = number[Spot(node, a.end, a.contact)]
                wires.append(MapWire(k, table_a[a.contact], table_b[b.contact], loop, net))
    headline, reason = sentence(trace)
    near_port, far_port = chain.ends(first)[segment.near[1]], chain.ends(last)[0]
    return WireMap(
        near_title="Computer side",
        near_subtitle=f"{chain.name(first)}, {near_port.connector}",
        far_title="Device side",
        far_subtitle=f"{chain.device.name}, {far_port.connector}",
        parts=tuple(chain.name(node) for node in parts),
        mated=tuple(j.reason is None for j in chain.joints if first < j.index <= last),
        rows=max((len(table) for table in rows), default=0),
        near=_contacts(rows[0], Spot(*segment.near, ""), near_port.signals, number),
        far=_contacts(rows[-1], Spot(*segment.far, ""), far_port.signals, number),
        wires=tuple(wires),
        nets=tuple(_net(trace, i) for i in range(len(trace.nets))),
        headline=headline,
        reason=reason,
    )


def _rows(trace: Trace, first: int, last: int) -> list[dict[str, int]]:
    """For each joint the row of each contact. Like connectors keep one order, so that straight looks straight."""
    chain = trace.chain
    tables: list[dict[str, int]] = []
    orders: dict[str, list[str]] = {}
    height: dict[Net, int] = {}
    for joint in range(first, last):
        near_end = min(1, len(chain.ends(joint)) - 1)
        sides = ((joint, near_end), (joint + 1, 0))
        nets = {s.contact: net for net in trace.nets if _worth_a_row(net) for s in net.spots if (s.node, s.end) in sides}
        shape = chain.ends(joint)[near_end].connector.shape
        known = orders.get(shape, [])
        signals = {c: s for node, end in sides for c, s in chain.ends(node)[end].signals.items()}
        fresh = sorted((c for c in nets if c not in known), key=lambda c: _order(c, signals.get(c), height.get(nets[c])))
        orders[shape] = [*known, *fresh]
        table = {c: i for i, c in enumerate(c for c in orders[shape] if c in nets)}
        for contact, row in table.items():
            height.setdefault(nets[contact], row)
        tables.append(table)
    return tables


def _worth_a_row(net: Net) -> bool:
    """Carrier detect and ring that only one end has are left out: they matter to modems, and the map stays readable."""
    names = {signal.name.upper() for _, signal in net.signals}
    return bool(names) and not (names <= {"DCD", "RI"} and len(net.signals) == 1)


def _order(contact: str, signal: Signal | None, height: int | None) -> tuple[float, int, int, str]:
    if height is not None:
        return (height, 0, 0, contact)
    if signal is None:
        return (98, 0, 0, contact.zfill(3))
    name = signal.name.upper()
    fine = _HANDSHAKE_ORDER.index(name) if name in _HANDSHAKE_ORDER else int(signal.direction is not Direction.OUT)
    return (99 if height is None else height, _ROLE_ORDER[signal.role], fine, contact.zfill(3))


def _contacts(
    table: dict[str, int], at: Spot, signals: dict[str, Signal], number: dict[Spot, int]
) -> tuple[MapContact, ...]:
    does = {Direction.OUT: "sends", Direction.IN: "listens", Direction.BOTH: "both ways", Direction.PASSIVE: ""}
    found = []
    for contact, row in table.items():
        if contact in signals:
            signal = signals[contact]
            name = "ground" if signal.role is Role.GROUND else signal.name
            word = "supplies" if signal.role is Role.POWER and signal.direction is Direction.OUT else does[signal.direction]
            found.append(MapContact(row, contact, name, word, number[Spot(at.node, at.end, contact)]))
    return tuple(found)


def _net(trace: Trace, i: int) -> MapNet:
    net, code = trace.nets[i], trace.problems[i]
    told = next((f for f in trace.findings if f.net == i), None)
    handshake = any(s.role is Role.HANDSHAKE for _, s in net.signals) and not any(
        s.role is Role.DATA for _, s in net.signals
    )
    if told is not None and told.severity is not Severity.NOTE:
        state = "bad"
    elif handshake or len({(p.node, p.end) for p, _ in net.signals}) < 2:
        state = "idle"
    else:
        state = "good"
    label = _WORDS.get(told.code, told.code) if told is not None and code else ""
    return MapNet(state, code, label, story(trace.chain, net, told.text if told else ""))


def story(chain: Chain, net: Net, told: str) -> str:
    """The way of one conductor in words, from the computer's side to the device's."""
    named = dict(net.signals)
    steps = []
    for spot in net.spots:
        if spot in named:
            signal = named[spot]
            steps.append(f"{chain.name(spot.node)} contact {spot.contact} ({signal.name})")
        elif spot.end > 0:
            steps.append(f"{chain.name(spot.node)} to {spot.contact}")
    text = " → ".join(steps)
    return f"{text}. {told[0].upper()}{told[1:]}." if told else text


def sentence(trace: Trace) -> tuple[str, str]:
    """Headline and reason: the verdict as a sentence about the link."""
    codes = [f.code for f in trace.findings if f.severity is not Severity.NOTE]
    worst = trace.findings[0] if codes else None
    if worst is None:
        carried = [name for name, c in (("RTS/CTS", trace.rts_cts), ("DTR/DSR", trace.dtr_dsr)) if c == "through"]
        extra = f" {' and '.join(carried)} go through as well." if carried else " No handshake lines; none are asked for."
        return (
            "Each end hears the other: this wiring works",
            "Transmit, receive and ground arrive where they should." + extra,
        )
    if worst.severity is Severity.DAMAGE:
        return "May do damage: do not join these", _cap(worst.text)
    if worst.severity is Severity.HANDSHAKE:
        return "Data flows, the handshake does not", _cap(worst.text)
    if worst.code == "does-not-mate":
        return "Does not go together", _cap(worst.text)
    if "output-meets-output" in codes and "input-undriven" in codes:
        both = "Both ends send on the same conductor. A straight cable joins like with like; these two need a crossed one."
        return "Will not work: two senders meet, and nobody listens", both
    return f"Will not work: {_WORDS.get(worst.code, worst.code.replace('-', ' '))}", _cap(worst.text)


def _cap(text: str) -> str:
    return text[0].upper() + text[1:] + ("" if text.endswith(".") else ".")
