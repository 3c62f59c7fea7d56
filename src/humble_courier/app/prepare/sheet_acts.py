"""The short list of acts for a device and this visit, out of its sheet: what to do, how to see that it is done."""

from collections.abc import Iterator
from dataclasses import dataclass

from humble_courier.catalog.entries import CautionEntry
from humble_courier.documents.device import DeviceEntry, Precondition

LONG_WAIT_S = 5.0  # shorter than this nobody notices
NOTE_DOWN = "note-down"  # the act of noting what the sheet asks for


@dataclass(frozen=True)
class SheetAct:
    """One act: what, the evidence that it is done, the caution beside it (empty where there is none).

    `id`: by which its tick is kept, whatever stands before it. `after`: it belongs to the end of the visit.
    """

    id: str
    act: str
    proof: str
    caution: str = ""
    after: bool = False


def standing(name: str, todo: list[SheetAct], done: set[str], proven: bool) -> str:
    """How far one is with the acts of a device, in a sentence. Once it has answered, those after the job count."""
    before = sum(act.id not in done for act in todo if not act.after)
    after = sum(act.id not in done for act in todo if act.after)
    if proven and after:
        return f"{name} has answered: {after} acts left after the job" if after > 1 else f"{name} has answered: 1 act left"
    if proven:
        return f"{name} has answered" + (f"; {before} acts before it were not ticked" if before > 1 else "")
    if before > 1:
        return f"Before the first word: {before} acts left at the {name.lower()}"
    return f"Before the first word: 1 act left at the {name.lower()}" if before else f"{name}: ready for the first word"


def acts(sheet: DeviceEntry, cautions: dict[str, CautionEntry], region: str = "") -> list[SheetAct]:
    """In the order of the work: who is told, the port reached, the sheet's own acts, what follows from it, the time to wait.

    What has to be done after the job comes last. `region`: where one is, whose bands count; empty for all.
    """
    own = own_acts(sheet, cautions)
    after = [_own(act, cautions, after=True) for act in sheet.afterwards]
    return [*_before_touching(sheet, own), *own, *_before_words(sheet, cautions, region), *after]


def own_acts(sheet: DeviceEntry, cautions: dict[str, CautionEntry]) -> list[SheetAct]:
    """The acts that the sheet itself wants before the first words."""
    return [_own(act, cautions, after=False) for act in sheet.preconditions]


LAMP = "lamp: "


def lamp_acts(sheet: DeviceEntry) -> list[SheetAct]:
    """Lamps and sounds of the sheet, to be ticked where they are seen; what is left unticked says nothing."""
    return [SheetAct(f"{LAMP}{one.what}", f"Seen: {one.what}", one.means) for one in sheet.lamps]


def _own(act: Precondition, cautions: dict[str, CautionEntry], after: bool) -> SheetAct:
    caution = cautions[act.caution].text if act.caution in cautions else act.caution or ""
    return SheetAct(act.id or act.act, act.act, act.proof, caution, after)


def _before_touching(sheet: DeviceEntry, own: list[SheetAct]) -> Iterator[SheetAct]:
    port = sheet.port
    for one in sheet.forbidden:
        instead = f"; {one.instead} in its place" if one.instead else ""
        yield SheetAct(f"forbidden: {one.what}", f"Do not use {one.what}{instead}", "seen and left alone", one.why)
    for alarm in sheet.alarms:
        yield SheetAct(f"tell: {alarm}", f"Tell those who mind: {alarm}", "told")
    if port.hidden:
        yield SheetAct("reach-port", f"Reach the port: it is {port.hidden}", "port seen")
    named = any(port.mark.split(",")[0] in act.act for act in own)  # the sheet may have an act of its own for that
    if port.beside and not named:
        yield SheetAct("take-socket", f"Take the socket marked {port.mark}; not {port.beside}", "mark read")


def _before_words(sheet: DeviceEntry, cautions: dict[str, CautionEntry], region: str) -> Iterator[SheetAct]:
    if sheet.variants:
        tells = "; ".join(f"{v.id}: {v.tell}" for v in sheet.variants)
        yield SheetAct("revision", f"Tell its revision. {tells}", "revision chosen under Settings, Switches")
    if sheet.bands:
        yield SheetAct("band", _band_words(sheet, region), "band noted", _first(sheet, cautions, "keyed"))
    if sheet.program.highest_port:
        limit = f"Its usual program accepts ports up to {sheet.program.highest_port} only"
        yield SheetAct("low-port", f"{limit}: give the adapter a low number (Port, Port numbers)", "number given")
    if sheet.note_down:
        yield SheetAct(NOTE_DOWN, f"Note down: {', '.join(sheet.note_down)}", "noted")
    if sheet.ready_after_s >= LONG_WAIT_S:
        words = f"Wait {sheet.ready_after_s:g} s after power-up before it is spoken to"
        yield SheetAct("wait", words, "time has passed")


def _band_words(sheet: DeviceEntry, region: str) -> str:
    here = [band for band in sheet.bands if band.region.casefold() == region.casefold()]
    told = "; ".join(f"{b.region} {b.from_mhz:g} to {b.to_mhz:g} MHz" for b in here or sheet.bands)
    if region and not here:
        return f"Do not key it: the sheet has no band for {region}, only {told}"
    return f"See that its band is the one of the region: {told}" if here else f"Compare its band with the region: {told}"


def _first(sheet: DeviceEntry, cautions: dict[str, CautionEntry], begin: str) -> str:
    return next((cautions[id_].text for id_ in sheet.cautions if id_.startswith(begin)), "")


def about(sheet: DeviceEntry) -> list[tuple[str, str]]:
    """What else the sheet says, as (what, value): ports, settings and where they live, lamps, words, network."""
    rows = []
    for port in (sheet.port, *sheet.other_ports):
        told = f"{port.mark}. {port.meant}".strip(". ") if port.meant else port.mark
        rows.append((port.name, f"{told}. Set to {port.settings.replace(',', ' ')}, by {port.set_by}"))
        rows += [(f"{port.name}, {what}", _place(p.kind, p.how, p.effect)) for what, p in port.set_in.items()]
    rows.append(("Lines end with", f"{sheet.end.upper()}; echo {'on' if sheet.echo else 'off'}"))
    if sheet.power_up is not None:
        rows.append(("Says by itself", f"{sheet.power_up.means}, {sheet.power_up.after_s:g} s after power-up"))
    rows += [(f"{lamp.what}, where it stays away", lamp.absent) for lamp in sheet.lamps]
    if sheet.addresses is not None:
        rows.append(("Addresses", f"{sheet.addresses.lowest} to {sheet.addresses.highest} on {sheet.addresses.bus}"))
    if sheet.network is not None:
        rows.append(("Network", f"factory address {sheet.network.factory or 'not told'}"))
        if sheet.network.read is not None:
            rows.append(("Its address is unknown", f"ask over this port: {sheet.network.read.say}"))
        if sheet.network.set:
            rows.append(("Setting its address", f"{'; '.join(sheet.network.set)} (writes: note the old one first)"))
    if sheet.program.exclusive:
        rows.append(("Its usual program", "nobody else may have the port open"))
    return rows


def _place(kind: str, how: str, effect: str) -> str:
    return f"{kind}: {how}" + (f" ({effect})" if effect else "")
