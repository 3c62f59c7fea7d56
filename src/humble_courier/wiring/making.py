"""What a maker of a cable has to know beside its conductors: its screen, a resistor, the bought cable to cut down."""

from collections.abc import Iterable
from dataclasses import dataclass

from humble_courier.domain.hardware import EndContact, Gender, Part
from humble_courier.wiring.build import BuildSheet

SHELLLESS = {"header", "terminal", "lead"}  # families without a shell that a screen could be tied to
USB_C, STACKING = "USB-C", "GPIB"
# Resistor by which a USB-C socket sees that something is plugged in (USB Type-C specification, Rd; from memory).
RD = "5.1 kilohm from CC (A5) and another from CC (B5) to ground"
MOST_CUT_DOWN = 2


@dataclass(frozen=True)
class CutDown:
    """A cable that is bought and made into this one by taking contacts out of one end."""

    part: Part
    end: str
    contacts: tuple[str, ...]

    @property
    def told(self) -> str:
        """A sentence."""
        if not self.contacts:
            return f"{self.part.name} is wired just so: buy it in place of making one"
        many = "contact" if len(self.contacts) == 1 else "contacts"
        return (
            f"In place of making one: take {self.part.name}, and out of its end {self.end} {many} {', '.join(self.contacts)}"
        )


def screen_of(sheet: BuildSheet) -> str:
    """Where the screen is tied: to a shell at one end only; where there is none, to ground at the computer's end."""
    a, b = (end.family not in SHELLLESS for end in (sheet.a, sheet.b))
    if a:
        return sheet.screen
    if b:
        return "screen to the shell of end B only, cut back and insulated at end A, which has no shell"
    return "neither end has a shell: screen to ground at end A only, cut back and insulated at end B"


def hints(sheet: BuildSheet) -> list[str]:
    """What belongs to the kinds of its connectors."""
    found = []
    for name, end in (("A", sheet.a), ("B", sheet.b)):
        if end.family == "header":
            found.append(f"End {name} has neither shell nor key: mark contact 1 on its housing, as it is on the board")
        if end.family == USB_C:
            found.append(f"End {name} is USB-C: a socket stays dead until it sees {RD}, fitted in this plug")
        if end.family == STACKING:
            found.append(f"End {name} is plug and socket back to back: further cables stack on it (IEEE 488.1, from memory)")
    return found


def cut_down(sheet: BuildSheet, parts: Iterable[Part]) -> list[CutDown]:
    """Bought cables with the same ends that hold all its conductors, the one with the fewest contacts to take out first."""
    wanted = {(wire.a, wire.b) for wire in sheet.wires}
    found = []
    for bought in parts:
        for part in (bought, bought.turned()) if len(bought.ends) == 2 and not bought.active else ():
            made = _cut(part, sheet, wanted)
            if made is not None:
                found.append(made)
                break
    found.sort(key=lambda one: len(one.contacts))
    return found[:MOST_CUT_DOWN]


def _cut(part: Part, sheet: BuildSheet, wanted: set[tuple[str, str]]) -> CutDown | None:
    if [end.connector.shape for end in part.ends] != [sheet.a.shape, sheet.b.shape]:
        return None
    halves = zip(part.ends, (sheet.a, sheet.b), strict=True)
    if any(end.connector.gender not in (half.gender, Gender.EITHER) for end, half in halves):
        return None
    wires = {(w.a.contact, w.b.contact) for w in part.conductors if (w.a.end, w.b.end) == (0, 1)}
    loops = [w for w in part.conductors if w.a.end == w.b.end]
    if not wanted <= wires:
        return None
    for letter, at in (("A", 0), ("B", 1)):
        kept, surplus = {one[at] for one in wanted}, wires - wanted
        out = {one[at] for one in surplus} | {_other(w.a, w.b) for w in loops if w.a.end == at}
        if not out & kept and all(w.a.end == at for w in loops):
            return CutDown(part, letter, tuple(sorted(out, key=_order)))
    return None


def _other(a: EndContact, b: EndContact) -> str:
    """Either contact of a loop opens it."""
    return max((a.contact, b.contact), key=_order)


def _order(contact: str) -> tuple[int, str]:
    return (int(contact) if contact.isdecimal() else 0, contact)
