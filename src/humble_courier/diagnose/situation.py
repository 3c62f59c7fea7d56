"""What kind of link it is, as the tags under which causes and checks stand in their data files."""

from humble_courier.catalog.links import Link
from humble_courier.domain.settings import Handshake
from humble_courier.domain.signals import Level, Role

LONG_M = 15.0  # from which length counts (TIA-232-F names no length; older editions had 15 m)
USUAL = {50, 75, 110, 134, 150, 200, 300, 600, 1200, 1800, 2400, 4800, 9600, 19200, 38400, 57600, 115200, 230400, 460800}
DIFFERENTIAL = {Level.RS422, Level.RS485, Level.CAN, Level.J1708}
BUS = {"modbus-rtu", "modbus-ascii", "mstp", "df1"}
VEHICLE = {"iso14230", "j1939", "j1708", "j1587", "can-ascii"}
LINES_OF_TEXT = {"text", "scpi", "gpib", "nmea-0183"}
TAGS = {
    "usb", "serial", "network", "rs232", "differential", "bus", "vehicle", "text", "instrument", "handshake", "hurried",
    "odd-rate", "long", "between-buildings", "supply-contact", "sheet", "boot", "precondition", "menu", "stored", "switches",
    "revisions", "alike", "hidden", "adapter-behind", "proven-before", "lines-free",
}  # fmt: skip


def tags_of(link: Link | None, proven_before: bool = False) -> frozenset[str]:
    """The tags of a link; of one that nobody has drawn: an RS-232 device of text at a USB adapter, as most are."""
    if link is None:
        return frozenset({"usb", "serial", "rs232", "text"})
    found = _of_the_line(link) | _of_the_sheet(link)
    return frozenset(found | ({"proven-before"} if proven_before else set()))


def _of_the_line(link: Link) -> set[str]:
    levels = {signal.level for signal in link.device.signals.values()}
    roles = {signal.role for signal in link.device.signals.values()}
    settings = link.computer_settings or link.device_settings
    length = sum(part.length_m or 0.0 for part in link.parts)
    address = link.address or ""
    network = address.startswith(("socket://", "rfc2217://"))
    usb = any(end.connector.family.startswith("USB") for part in link.parts[:1] for end in part.ends)
    tags = {
        "usb": (usb or "ttyUSB" in address or "ttyACM" in address or not link.parts) and not network,
        "network": network,
        "serial": not network,
        "rs232": Level.RS232 in levels,
        "differential": bool(levels & DIFFERENTIAL),
        "handshake": settings is not None and settings.handshake is not Handshake.NONE,
        "odd-rate": settings is not None and settings.rate not in USUAL,
        "long": length > LONG_M,
        "between-buildings": link.site.between_buildings,
        "supply-contact": Role.POWER in roles,
    }
    return {tag for tag, holds in tags.items() if holds}


def _of_the_sheet(link: Link) -> set[str]:
    sheet = link.sheet
    if sheet is None:
        return {"text"}
    port = sheet.port
    kinds = {place.kind for place in port.set_in.values()}
    tags = {
        "sheet": True,
        "lines-free": "low" not in (sheet.lines_at_open.dtr, sheet.lines_at_open.rts),
        "bus": port.protocol in BUS or sheet.addresses is not None,
        "vehicle": port.protocol in VEHICLE,
        "text": port.protocol in LINES_OF_TEXT,
        "instrument": port.protocol in ("scpi", "gpib"),
        "hurried": port.protocol == "mstp",
        "boot": bool(sheet.ready_after_s) or sheet.power_up is not None,
        "precondition": bool(sheet.preconditions),
        "menu": "menu" in kinds,
        "stored": bool(kinds & {"stored", "menu"}),
        "switches": bool(sheet.banks),
        "revisions": bool(sheet.variants),
        "alike": bool(port.beside),
        "hidden": bool(port.hidden),
        "adapter-behind": any(words.by == "adapter" for words in sheet.first_words),
    }
    return {tag for tag, holds in tags.items() if holds}
