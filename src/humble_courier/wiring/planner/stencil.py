"""Parts and ports boiled down to bit masks, so that thousands of chains can be laid end to end in a moment.

Theory of operation. A contact name is one bit, whatever connector it stands on. What has been laid so far is a set of
*nets*, each a pair of masks: which contacts of the port behind it joins, and at which contacts of the open end it
comes out. A part has such pairs too (near end, far end): its *stencil*. Laying it means: for each net, OR together
the far masks of all pairs that its open contacts touch (`after`). Where a pair touches two nets, these become one
(`_joined`, the slow way). A net that neither leads anywhere nor joins several contacts is dropped, and contacts that
do not matter to the verdict are never followed, so that parts which differ only in such contacts give equal states.

A `Speaker` is a port with the masks by which a state is kept or dropped: inputs that must not be lost, senders that
must not meet, grounds that a net must not carry together with data.
"""

from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property

from humble_courier.domain.hardware import LEAD, Conductor, Connector, End, EndContact, Part, Port
from humble_courier.domain.signals import Direction, Level, Role, Signal

Mask = int
Nets = frozenset[tuple[Mask, Mask]]  # (contacts of the port behind, contacts of the open end)


class Bits:
    """Contact names as single bits."""

    def __init__(self) -> None:
        self._of: dict[str, Mask] = {}
        self._names: list[str] = []

    def bit(self, contact: str) -> Mask:
        """The bit of a contact."""
        if contact not in self._of:
            self._of[contact] = 1 << len(self._names)
            self._names.append(contact)
        return self._of[contact]

    def mask(self, contacts: list[str]) -> Mask:
        """The bits of some contacts."""
        return sum({self.bit(contact) for contact in contacts})

    def names(self, mask: Mask) -> list[str]:
        """The contacts of a mask."""
        return [name for i, name in enumerate(self._names) if mask >> i & 1]


@dataclass(frozen=True)
class Speaker:
    """A port that speaks, with what the search must not lose: what it hears, what it sends, its grounds."""

    port: Port
    hears: Mask
    sends: Mask
    grounds: Mask
    needs_ground: bool
    kept: Mask  # contacts that matter to the verdict
    asked: Mask  # handshake inputs that the settings want
    by_level: dict[Level, Mask]  # data inputs by family: a socket may carry several buses

    @classmethod
    def of(cls, port: Port, bits: Bits, asked: frozenset[str], needs_ground: bool, harmful: frozenset[Level]) -> "Speaker":
        """Look at a port. Screens do not matter, nor do handshake lines that nobody asks for, unless they can do harm."""

        def matters(signal: Signal) -> bool:
            harms = signal.direction is not Direction.IN and signal.level in harmful
            idle = signal.role is Role.HANDSHAKE and not harms and signal.name.upper() not in asked
            return not idle and signal.role is not Role.SHIELD

        def those(test: str) -> Mask:
            picked = [
                contact
                for contact, s in port.signals.items()
                if (test == "hears" and s.hears and s.role is Role.DATA)
                or (test == "sends" and s.drives and s.role is Role.DATA)
                or (test == "ground" and s.role is Role.GROUND)
                or (test == "kept" and matters(s))
                or (test == "asked" and s.name.upper() in asked and s.direction is Direction.IN)
            ]
            return bits.mask(picked)

        by_level: dict[Level, Mask] = {}
        for contact, s in port.signals.items():
            if s.role is Role.DATA and s.hears:
                by_level[s.level] = by_level.get(s.level, 0) | bits.bit(contact)
        hears, sends, grounds = those("hears"), those("sends"), those("ground")
        return cls(port, hears, sends, grounds, needs_ground, those("kept"), those("asked"), by_level)

    def heard_from(self, other: "Speaker") -> Mask:
        """The inputs that count opposite `other`: of several buses those that it speaks."""
        spoken = {s.level for s in other.port.signals.values()}
        common = sum(mask for level, mask in self.by_level.items() if level in spoken)
        return common if len(self.by_level) > 1 and common else self.hears

    def start(self, bits: Bits) -> Nets:
        """Nothing laid yet: each contact is its own open end."""
        singles = (bits.bit(contact) for contact in self.port.signals)
        return frozenset((bit, bit) for bit in singles if bit & self.kept)

    def alive(self, nets: Nets, strict: bool = False) -> bool:
        """Whether what was laid can still work: nothing that is heard is lost, no two senders meet, no ground in between.

        With `strict` the handshake inputs that are asked for must not be lost either.
        """
        heard = sent = ground = 0
        inputs = self.hears | self.asked if strict else self.hears
        for behind, ahead in nets:
            sends = behind & self.sends
            if sends & (sends - 1) or (behind & (self.hears | self.sends) and behind & self.grounds):
                return False
            if ahead:
                heard, sent, ground = heard | behind & inputs, sent | sends, ground | behind & self.grounds
        return heard == inputs and sent != 0 and (ground != 0 or not self.needs_ground)


@dataclass(frozen=True)
class Stencil:
    """A part laid one way about: connectors, and for each of its nets the contacts of either end."""

    near: Connector
    far: Connector
    nets: tuple[tuple[Mask, Mask], ...]
    speakers: tuple[int, int] | None = None  # of an active part: the numbers of its two ports

    @classmethod
    def of(cls, part: Part, bits: Bits, number: Callable[[Port], int]) -> "Stencil | None":
        """The stencil of a part; None for one with loose leads, which no search lays by itself. `number` knows ports."""
        first, second = part.ends[0], part.ends[1]
        if LEAD in (first.connector.family, second.connector.family):
            return None
        speakers = (number(_port(first)), number(_port(second))) if part.active else None
        return cls(first.connector, second.connector, _components(part.conductors, bits), speakers)

    def turned(self) -> "Stencil":
        """The same part laid the other way about (passive parts only)."""
        return Stencil(self.far, self.near, tuple((out, into) for into, out in self.nets))

    def leading_to(self, far: Mask) -> Mask:
        """The contacts of the near end that lead to any of these of the far end."""
        found = 0
        for into, out in self.nets:
            if out & far:
                found |= into
        return found

    @cached_property
    def _lone(self) -> tuple[tuple[Mask, Mask], ...]:
        """Nets that join contacts of the far end whether or not anything leads into them."""
        return tuple((into, out) for into, out in self.nets if _several(out))

    @cached_property
    def _leads(self) -> dict[Mask, tuple[Mask, Mask]]:
        return {}

    def _lead(self, ahead: Mask) -> tuple[Mask, Mask]:
        """From contacts at the near end: all near contacts that are joined with them, and the far contacts they lead to."""
        known = self._leads.get(ahead)
        if known is None:
            touched = [(into, out) for into, out in self.nets if into & ahead]
            known = ahead, 0
            for into, out in touched:
                known = known[0] | into, known[1] | out
            self._leads[ahead] = known
        return known

    def after(self, nets: Nets, kept: Mask) -> Nets:
        """What is laid once this part is added; `kept` are the contacts behind that matter."""
        laid, seen = [], 0
        for behind, ahead in nets:
            into, out = self._lead(ahead)
            if seen & into:
                return self._joined(nets, kept)
            seen |= into
            laid.append((behind, out))
        laid += [(0, out) for into, out in self._lone if not into & seen]
        return _tidy(laid, kept)

    def _joined(self, nets: Nets, kept: Mask) -> Nets:
        """The same where the part joins nets that were apart."""
        groups = [(behind, ahead, 0) for behind, ahead in nets]
        for into, out in self.nets:
            merged = (0, into, out)
            rest = []
            for group in groups:
                if group[1] & into:
                    merged = (merged[0] | group[0], merged[1] | group[1], merged[2] | group[2])
                else:
                    rest.append(group)
            groups = [*rest, merged]
        return _tidy([(behind, out) for behind, _, out in groups], kept)


def _tidy(laid: list[tuple[Mask, Mask]], kept: Mask) -> Nets:
    """Without what leads nowhere and joins nothing."""
    return frozenset((b & kept, out) for b, out in laid if (b & kept and out) or _several(b & kept) or _several(out))


def _several(mask: Mask) -> bool:
    return bool(mask & (mask - 1))


def _port(end: End) -> Port:
    return Port("", "", end.connector, end.signals, end.supplies_loop)


def _components(conductors: tuple[Conductor, ...], bits: Bits) -> tuple[tuple[Mask, Mask], ...]:
    """The nets of a part: contacts of the first end, contacts of the second. Further ends only join."""
    groups: list[tuple[Mask, Mask, set[EndContact]]] = []
    for wire in conductors:
        both = {wire.a, wire.b}
        into = sum({bits.bit(c.contact) for c in both if c.end == 0})
        out = sum({bits.bit(c.contact) for c in both if c.end == 1})
        rest = []
        for group in groups:
            if group[2] & both:
                into, out, both = into | group[0], out | group[1], both | group[2]
            else:
                rest.append(group)
        groups = [*rest, (into, out, both)]
    return tuple((into, out) for into, out, _ in groups)


def as_part(near: Connector, far: Connector, nets: Nets, bits: Bits) -> Part:
    """What is laid, as one part that joins the same contacts: for the tracer, which judges chains."""
    wires = []
    for behind, ahead in nets:
        contacts = [EndContact(0, c) for c in bits.names(behind)] + [EndContact(1, c) for c in bits.names(ahead)]
        wires += [Conductor(contacts[0], other) for other in contacts[1:]]
    return Part("laid", "laid", (End(near), End(far)), tuple(wires))
