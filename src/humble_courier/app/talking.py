"""Opening the port of a link, listening, and saying a line: for one call from the command line, or to keep open."""

import time
from dataclasses import dataclass

from humble_courier import simulator
from humble_courier.app.looks import looks_like
from humble_courier.catalog.links import Link
from humble_courier.errors import BadInput, MachineRefused, PortGone
from humble_courier.protocols.lines import End, Expect, printable
from humble_courier.simulator.address import SimAddress
from humble_courier.talk.driver import Driver, Log
from humble_courier.talk.port import OpenLines, open_port
from humble_courier.talk.session import Session
from humble_courier.units.settings import Settings


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

    from humble_courier.catalog.models import LinkModel

    bare = LinkModel("link/1", link.model.computer, link.model.device, link.model.chain)
    options.setdefault("link", msgspec.json.encode(bare).decode())
    if link.device_settings:
        options.setdefault("settings", str(link.device_settings))
    return str(SimAddress(sim.device, options))


def open_lines(link: Link | None) -> OpenLines:
    """DTR and RTS at opening: low where the device sheet says that they key or reset."""
    if link is None or link.sheet is None:
        return OpenLines()
    wanted = link.sheet.lines_at_open
    return OpenLines(dtr=wanted.dtr == "any", rts=wanted.rts == "any")


def start(
    address: str, settings: Settings, lines: OpenLines = OpenLines(), log: Log | None = None,  # noqa: B008 (frozen value)
    session: Session | None = None, line_end: bytes = b"\n",
) -> Driver:  # fmt: skip
    """Open a port, listening only; a `session` that was interrupted goes on. Raises BadInput or MachineRefused."""
    if is_simulated(address):
        simulator.install()
    return Driver(open_port(address, settings, lines), session or Session(settings, line_end), log)


QUIET_S = 0.25  # something came and then nothing for so long: the answer is over (common practice)


@dataclass(frozen=True)
class Listened:
    """What one listen brought."""

    data: bytes
    errors: int
    looks_like: str
    gone: PortGone | None = None

    @property
    def text(self) -> str:
        """The bytes as text."""
        return self.data.decode("latin-1")


def listen(address: str, settings: Settings, seconds: float) -> Listened:
    """Listen for a while; sends nothing. Raises BadInput or MachineRefused where the port does not open.

    When the port vanishes in between, what was heard so far is returned, with the reason in `gone`.
    """
    driver = start(address, settings)
    until = time.monotonic() + seconds
    gone, chunks = None, []
    try:
        while time.monotonic() < until:
            chunks.append(driver.step())
    except PortGone as error:
        gone = error
    finally:
        driver.port.close()
    data, errors = b"".join(chunk.data for chunk in chunks), driver.session.errors + driver.session.breaks
    return Listened(data, errors, looks_like(data, errors), gone)


@dataclass(frozen=True)
class Said:
    """A line that was sent and what came back within the time-out."""

    sent: bytes
    received: bytes
    matched: bool | None
    fields: dict[str, str]
    ms: float

    @property
    def text(self) -> str:
        """The answer for people."""
        return printable(self.received)


def say(
    address: str, settings: Settings, text: str, end: End, expect: str | None, armed: bool, timeout: float = 2.0
) -> Said:
    """Send one line and wait for what is expected, or for any answer, or until the time-out.

    Raises MachineRefused where `armed` is not set: nothing is ever sent without it.
    """
    if not armed:
        raise MachineRefused(f"listening only: would send “{text}” and {end.spoken}", "Say --arm to send it")
    wanted = Expect(expect) if expect else None
    driver = start(address, settings)
    try:
        driver.session.arm(f"may send “{text}”")
        begun = time.monotonic()
        sent = driver.say(text, end)
        received, quiet_since = bytearray(), begun
        while (now := time.monotonic()) - begun < timeout:
            heard = driver.step().data
            if heard:
                received += heard
                quiet_since = time.monotonic()
                if wanted:
                    wanted.feed(heard)
            if wanted and wanted.answer and now - quiet_since > driver.session.pause_s:
                break  # the answer, and the rest of its line end
            if received and now - quiet_since > QUIET_S and (wanted is None or wanted.settle()):
                break
        ms = (quiet_since - begun) * 1000
    finally:
        driver.port.close()
    answer = wanted.settle() if wanted else None
    return Said(sent, bytes(received), None if wanted is None else answer is not None, answer.fields if answer else {}, ms)
