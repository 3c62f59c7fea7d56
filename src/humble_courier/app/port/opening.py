"""Opening the port of a link, real or simulated, listening only."""

from humble_courier import simulator
from humble_courier.catalog.links import Link
from humble_courier.catalog.load import Catalog
from humble_courier.documents.device import DeviceEntry
from humble_courier.domain.settings import Settings
from humble_courier.errors import BadInput
from humble_courier.port.authority import Authority
from humble_courier.port.driver import Driver, Log
from humble_courier.port.port import OpenLines, open_port
from humble_courier.port.session import Session
from humble_courier.simulator.address import SimAddress
from humble_courier.simulator.devices.behaviour import has_behaviour


def is_simulated(address: str) -> bool:
    """Whether an address is one of the simulator's."""
    return address.startswith("sim:")


def address_of(link: Link) -> str:
    """The address to open for a link. On the simulator the link's chain and device settings are the bench."""
    if not link.address:
        raise BadInput("no port is chosen for this link yet")
    if not is_simulated(link.address):
        return link.address
    sim = SimAddress.parse(link.address)
    options = dict(sim.options)
    import msgspec

    from humble_courier.documents.link import LinkModel, LinkPort

    device = link.model.device
    if link.sheet is not None and not has_behaviour(link.sheet.id):  # of one's own: the simulator knows no such id
        sim = SimAddress.of_sheet(sim, link.sheet)
        options = {**sim.options, **options}
        device = LinkPort(connector=link.sheet.port.connector, signals=link.sheet.port.signals)
    bare = LinkModel("link/1", link.model.computer, device, link.model.chain)
    options.setdefault("link", msgspec.json.encode(bare).decode())
    if link.device_settings:
        options.setdefault("settings", str(link.device_settings))
    return str(SimAddress(sim.device, options))


def of_own(address: str, catalog: Catalog) -> str:
    """The address of a command: where it names a device of one's own, it carries its sheet. Raises BadInput."""
    if not is_simulated(address):
        return address
    sim = SimAddress.parse(address)
    if has_behaviour(sim.device) or not catalog.has_sheet(sim.device):
        return address
    return str(SimAddress.of_sheet(sim, catalog.device(sim.device)))


def open_lines(sheet: DeviceEntry | None) -> OpenLines:
    """DTR and RTS at opening: raised only where the sheet of the device allows it.

    Of a device that is not known they stay low: they might key a transmitter or reset a board. (RTS of a line with RTS/CTS
    handshake, and DTR of one with DTR/DSR, is moved by the handshake itself.)
    """
    if sheet is None:
        return OpenLines()
    wanted = sheet.lines_at_open
    return OpenLines(dtr=wanted.dtr == "any", rts=wanted.rts == "any")


def start(
    address: str, settings: Settings, lines: OpenLines = OpenLines(), log: Log | None = None,
    session: Session | None = None, line_end: bytes = b"\n", authority: Authority | None = None,
) -> Driver:  # fmt: skip
    """Open a port, listening only; a `session` that was interrupted goes on. Raises BadInput or MachineRefused."""
    if is_simulated(address):
        simulator.install()
    authority = authority or Authority()
    port = open_port(address, settings, lines, authority.clock)
    if log is not None:
        log.begin(address.partition("?")[0], str(settings))
    return Driver(port, session or Session(settings, line_end, authority), log, authority.clock)
