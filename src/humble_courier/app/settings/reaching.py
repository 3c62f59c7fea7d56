"""Is a device at the other end of the network cable? Its subnet is judged first, then a connection is tried."""

from collections.abc import Sequence

from humble_courier.address.network import interface, plan_network
from humble_courier.app.settings.timings import Figure
from humble_courier.documents.device import DeviceEntry
from humble_courier.domain.patterns import pattern
from humble_courier.domain.utterance import Utterance, Who
from humble_courier.errors import BadInput
from humble_courier.host.reach import Knock, Reach, knock

# Where devices with a network port listen most often: web page, Telnet, Modbus/TCP, raw SCPI (IANA registry, from memory).
USUAL_PORTS = (80, 23, 502, 5025)


def ports_of(sheet: DeviceEntry | None) -> tuple[int, ...]:
    """TCP ports that are tried: those of the sheet, else the usual ones."""
    named = sheet.network.ports if sheet is not None and sheet.network is not None else []
    return tuple(named) or USUAL_PORTS


def says(device: str, ports: Sequence[int]) -> str:
    """What trying sends, in a sentence."""
    where = device.partition("/")[0] or "the device"
    return f"Tries TCP connections to {where} at {', '.join(map(str, ports))}, and closes them; nothing is said."


def tried(device: str, computer: str, ports: Sequence[int]) -> tuple[list[Figure], int | None]:
    """Try to reach it; what came of it, and the port that is open. Raises BadInput where the two share no network."""
    there, here = interface(device), interface(computer)
    if not plan_network(there, here).ok:
        raise BadInput(f"{here} does not reach {there}: give the computer an address of that network first")
    knocks = knock(str(there.ip), ports)
    opened = next((one.port for one in knocks if one.reach is Reach.OPEN), None)
    return [_told(one, str(there.ip)) for one in knocks], opened


def _told(one: Knock, address: str) -> Figure:
    words = {
        Reach.OPEN: f"somebody listens; connected in {one.ms:.0f} ms",
        Reach.REFUSED: f"{address} is there, and nobody listens at this port",
        Reach.SILENT: "nothing came: another address, no power, or a firewall",
        Reach.NO_WAY: "this computer knows no way there: plug and address of its own socket?",
    }
    return Figure(f"Port {one.port}", words[one.reach], one.reach in (Reach.OPEN, Reach.REFUSED))


def heard(said: Sequence[Utterance], sheet: DeviceEntry | None) -> str:
    """The address that the device has told over its serial port, the newest; empty where it has told none."""
    read = sheet.network.read if sheet is not None and sheet.network is not None else None
    if read is None:
        return ""
    told = (pattern(read.expect).search(one.text) for one in reversed(said) if one.who is Who.THEY)
    return next((match.fields.get("address", "") for match in told if match is not None), "")


def lines_to_set(sheet: DeviceEntry | None, wanted: str) -> list[str]:
    """What is said to give the device another address, line by line. Raises BadInput for what is no address."""
    if sheet is None or sheet.network is None or not wanted:
        return []
    there = interface(wanted)
    return [line.replace("{address}", str(there)) for line in sheet.network.set]
