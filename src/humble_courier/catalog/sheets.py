"""Device sheets: read and checked beyond their shape, and turned into what holds for one revision and one of the ports."""

import re
from typing import Any

from msgspec import structs

from humble_courier.catalog import resolve
from humble_courier.catalog.entries import CautionEntry
from humble_courier.documents.device import DeviceEntry, SwitchBank, Variant
from humble_courier.documents.reader import Document, convert, parse_kind
from humble_courier.domain.patterns import pattern as made_of
from humble_courier.errors import BadInput

Version = tuple[int, ...]
SAME = ("settings", "set_by")  # of a variant, these belong to the port


def sheet_from_text(text: str, name: str, cautions: dict[str, CautionEntry]) -> DeviceEntry:
    """Read a device sheet from YAML text; raises BadInput with the line of what is wrong or contradicts itself."""
    document = parse_kind(text, name, "device/1")
    sheet = convert(document, DeviceEntry)
    _check_ports(document, sheet)
    _check_banks(document, sheet.banks, ("banks",))
    _check_variants(document, sheet)
    _check_acts(document, sheet, cautions)
    for i, caution in enumerate(sheet.cautions):
        if caution not in cautions:
            raise document.error(f"unknown caution “{caution}”", ("cautions", i))
    for i, words in enumerate(sheet.first_words):
        _check_pattern(document, words.expect, ("first_words", i, "expect"))
        if words.after and words.after not in {other.say for other in sheet.first_words} - {words.say}:
            raise document.error(f"“{words.after}” is none of the other words", ("first_words", i, "after"))
    if sheet.power_up is not None:
        _check_pattern(document, sheet.power_up.expect, ("power_up", "expect"))
    if sheet.program.settings:
        resolve.check_settings(document, ("program", "settings"), sheet.program.settings)
    return sheet


def consented(sheet: DeviceEntry) -> DeviceEntry:
    """A sheet of one's own, or one that came from elsewhere: words that nobody has ticked as asking only are set aside."""
    ticked = [words for words in sheet.first_words if words.asks]
    known = {words.say for words in ticked}
    ticked = [words for words in ticked if not words.after or words.after in known]
    others = [words for words in sheet.first_words if words not in ticked]
    return structs.replace(sheet, first_words=ticked, not_again=[*others, *sheet.not_again])


def _check_acts(document: Document, sheet: DeviceEntry, cautions: dict[str, CautionEntry]) -> None:
    for key, acts in (("preconditions", sheet.preconditions), ("afterwards", sheet.afterwards)):
        for i, act in enumerate(acts):
            if act.caution is not None and act.caution not in cautions and " " not in act.caution:
                text = f"unknown caution “{act.caution}”: an id of the catalog, or a sentence of your own"
                raise document.error(text, (key, i, "caution"))
    named = [act.id for act in (*sheet.preconditions, *sheet.afterwards) if act.id]
    if len(set(named)) < len(named):
        raise document.error("two acts with one id", ("preconditions",))


def _check_pattern(document: Document, pattern: str, where: tuple[Any, ...]) -> None:
    try:
        made_of(pattern).checked()
    except BadInput as error:
        raise document.error(error.text, where) from None


def _check_ports(document: Document, sheet: DeviceEntry) -> None:
    banks = {bank.id for bank in sheet.banks}
    known: set[str] = set()
    for i, port in enumerate([sheet.port, *sheet.other_ports]):
        where: tuple[Any, ...] = ("port",) if i == 0 else ("other_ports", i - 1)
        resolve.check_settings(document, (*where, "settings"), port.settings)
        if port.id in known:
            raise document.error(f"two ports are called “{port.id}”", where)
        known.add(port.id)
        for what, place in port.set_in.items():
            if place.bank is not None and place.bank not in banks:
                raise document.error(
                    f"{what} is set by a bank “{place.bank}” that the sheet does not have", (*where, "set_in", what)
                )


def _check_banks(document: Document, banks: list[SwitchBank], where: tuple[Any, ...]) -> None:
    for i, bank in enumerate(banks):
        for positions in bank.table:
            if len(positions) != bank.width or set(positions) - {"0", "1"}:
                told = f"table of {bank.id}: “{positions}” is not {bank.width} positions of 0 and 1"
                raise document.error(told, (*where, i, "table"))
        if bank.codes != "address" and not bank.table:
            raise document.error(f"bank {bank.id} codes {bank.codes}: a table is missing", (*where, i))


def _check_variants(document: Document, sheet: DeviceEntry) -> None:
    """Two revisions contradict each other where one device could be both."""
    for i, one in enumerate(sheet.variants):
        where = ("variants", i)
        if one.settings is not None:
            resolve.check_settings(document, (*where, "settings"), one.settings)
        _check_banks(document, one.banks or [], (*where, "banks"))
        for text in (one.firmware_from, one.firmware_below):
            if text is not None and version(text) is None:
                raise document.error(f"firmware “{text}”: expected numbers with points, as in 3.1", where)
        for other in sheet.variants[:i]:
            if other.id == one.id:
                raise document.error(f"variant “{one.id}” stands twice", where)
            if other.tell == one.tell:
                raise document.error(f"variants {other.id} and {one.id} are told by the same mark", where)
            if _overlap(one, other):
                raise document.error(
                    f"variants {other.id} and {one.id} contradict each other: their firmware overlaps", where
                )


def version(text: str) -> Version | None:
    """A firmware revision as numbers; None where it is none."""
    return tuple(int(n) for n in text.split(".")) if re.fullmatch(r"\d+(\.\d+)*", text) else None


def _overlap(a: Variant, b: Variant) -> bool:
    if not any((a.firmware_from, a.firmware_below)) or not any((b.firmware_from, b.firmware_below)):
        return False
    return _begins_before(a, b) and _begins_before(b, a)


def _begins_before(a: Variant, b: Variant) -> bool:
    begin = version(a.firmware_from or "0") or ()
    return b.firmware_below is None or begin < (version(b.firmware_below) or ())


def variant_for(sheet: DeviceEntry, firmware: str) -> Variant | None:
    """The revision that a firmware told by the device belongs to; None where the sheet names none."""
    told = version(firmware)
    if told is None:
        return None
    for one in sheet.variants:
        low, high = version(one.firmware_from or ""), version(one.firmware_below or "")
        if (low or high) and (low is None or told >= low) and (high is None or told < high):
            return one
    return None


def as_it_is(sheet: DeviceEntry, variant: str | None = None, socket: str | None = None) -> DeviceEntry:
    """The sheet as it holds for one revision and one of the ports. Raises BadInput where the sheet knows no such one."""
    if socket is not None and socket != sheet.port.id:
        port = next((p for p in sheet.other_ports if p.id == socket), None)
        if port is None:
            known = ", ".join(p.id for p in (sheet.port, *sheet.other_ports))
            raise BadInput(f"{sheet.name} has no port “{socket}”: there are {known}")
        others = [p for p in (sheet.port, *sheet.other_ports) if p.id != socket]
        sheet = structs.replace(sheet, port=port, other_ports=others)
    if variant is None:
        return sheet
    one = next((v for v in sheet.variants if v.id == variant), None)
    if one is None:
        known = ", ".join(v.id for v in sheet.variants) or "none"
        raise BadInput(f"{sheet.name} has no variant “{variant}”: there are {known}")
    return _changed(sheet, one)


def _changed(sheet: DeviceEntry, one: Variant) -> DeviceEntry:
    port = structs.replace(sheet.port, **{key: getattr(one, key) for key in SAME if getattr(one, key) is not None})
    plain = {key: getattr(one, key) for key in ("end", "echo", "power_up", "answer_ms") if getattr(one, key) is not None}
    banks = sheet.banks
    if one.banks is not None:
        replaced = {bank.id: bank for bank in one.banks}
        banks = [replaced.pop(bank.id, bank) for bank in sheet.banks] + list(replaced.values())
    return structs.replace(sheet, port=port, banks=banks, edition=one.edition, **plain)
