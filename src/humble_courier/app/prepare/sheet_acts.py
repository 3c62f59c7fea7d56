"""The short list of acts for a device and this visit, out of its sheet: what to do, how to see that it is done."""

from dataclasses import dataclass

from humble_courier.catalog.entries import CautionEntry
from humble_courier.documents.device import DeviceEntry

LONG_WAIT_S = 5.0  # shorter than this nobody notices


@dataclass(frozen=True)
class SheetAct:
    """One act: what, the evidence that it is done, the caution beside it (empty where there is none)."""

    act: str
    proof: str
    caution: str = ""


def acts(sheet: DeviceEntry, cautions: dict[str, CautionEntry]) -> list[SheetAct]:
    """The sheet's own acts in their order, then what follows from the rest of it."""
    made = [SheetAct(a.act, a.proof, cautions[a.caution].text if a.caution else "") for a in sheet.preconditions]
    port = sheet.port
    if port.hidden:
        made.append(SheetAct(f"Reach the port: it is {port.hidden}", "port seen"))
    named = any(port.mark.split(",")[0] in act.act for act in made)  # the sheet may have an act of its own for that
    if port.beside and not named:
        made.append(SheetAct(f"Take the socket marked {port.mark}; not {port.beside}", "mark read"))
    if sheet.variants:
        tells = "; ".join(f"{v.id}: {v.tell}" for v in sheet.variants)
        made.append(SheetAct(f"Tell its revision. {tells}", "revision chosen under Settings, Switches"))
    if sheet.ready_after_s >= LONG_WAIT_S:
        made.append(SheetAct(f"Wait {sheet.ready_after_s:g} s after power-up before it is spoken to", "time has passed"))
    if sheet.bands:
        bands = "; ".join(f"{b.region} {b.from_mhz:g} to {b.to_mhz:g} MHz" for b in sheet.bands)
        made.append(SheetAct(f"Compare its band with the region: {bands}", "band noted", _first(sheet, cautions, "keyed")))
    if sheet.program.highest_port:
        limit = f"Its usual program accepts ports up to {sheet.program.highest_port} only"
        made.append(SheetAct(f"{limit}: give the adapter a low number (Port, Port numbers)", "number given"))
    made += [SheetAct(f"Tell those who mind: {alarm}", "told") for alarm in sheet.alarms]
    if sheet.note_down:
        made.append(SheetAct(f"Note down: {', '.join(sheet.note_down)}", "noted"))
    return made


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
    rows += [(lamp.what, f"{lamp.means}. Absent: {lamp.absent}") for lamp in sheet.lamps]
    if sheet.addresses is not None:
        rows.append(("Addresses", f"{sheet.addresses.lowest} to {sheet.addresses.highest} on {sheet.addresses.bus}"))
    if sheet.network is not None:
        rows.append(("Network", f"factory address {sheet.network.factory or 'not told'}"))
        if sheet.network.read is not None:
            rows.append(("Its address is unknown", f"ask over this port: {sheet.network.read.say}"))
        if sheet.network.set:
            rows.append(("Setting its address", f"{'; '.join(sheet.network.set)} (writes: note the old one first)"))
    program = sheet.program
    if program.systems or program.exclusive:
        told = ", ".join([*program.systems, *(["nobody else may have the port open"] if program.exclusive else [])])
        rows.append(("Its usual program", told))
    return rows


def _place(kind: str, how: str, effect: str) -> str:
    return f"{kind}: {how}" + (f" ({effect})" if effect else "")
