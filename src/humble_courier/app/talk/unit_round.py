"""All control units of a K-line, for the window and for commands: who wakes, who it is, what troubles it keeps."""

from collections.abc import Callable, Iterable, Sequence
from functools import partial
from pathlib import Path

import msgspec

from humble_courier import simulator
from humble_courier.app.port.opening import address_of, is_simulated
from humble_courier.catalog.links import Link
from humble_courier.catalog.load import Catalog
from humble_courier.documents.reader import read_text
from humble_courier.domain.facts import State
from humble_courier.domain.proven import Grade, ProofKind, Shown
from humble_courier.domain.settings import Settings
from humble_courier.errors import BadInput, CourierError, NotArmed
from humble_courier.port.authority import Authority
from humble_courier.port.log import LineLog
from humble_courier.port.port import open_port
from humble_courier.procedures.runner import Opens
from humble_courier.procedures.wake import wake
from humble_courier.protocols.iso14230 import RATE
from humble_courier.protocols.kline_units import ADDRESSES, ControlUnit, UnitRound, changed

SENDING = "the wake-up and two questions to each control unit"
SAYS = (
    "Wakes the control units one after the other, asks each who it is and which troubles it keeps, and lets it sleep again; "
    "clears nothing. Key on, engine off, brake on."
)
NOBODY = "No control unit answers", "Key off, another wake-up (five baud), or no K-line at this contact."


class UnitsRun:
    """`run` blocks: call it beside the window; `told` is called from there at each step. `cancel` ends it soon."""

    def __init__(
        self, address: str, names: dict[int, str], log: LineLog | None = None, addresses: Sequence[int] = ADDRESSES,
        hold_s: float = 0.0, authority: Authority | None = None, opens: Opens | None = None,
    ) -> None:  # fmt: skip
        self.round, self._names, self._log = UnitRound(addresses, hold_s), names, log
        self._address, self._authority = address, authority or Authority()
        self._opens = opens or partial(open_port, clock=self._authority.clock)
        self._permit = self._authority.permit(SENDING)
        self.running = True  # from now on: it waits for its turn only
        self.refused: CourierError | None = None
        self._cancelled = False

    @classmethod
    def of(
        cls, link: Link, catalog: Catalog, log: LineLog | None, authority: Authority | None = None,
        opens: Opens | None = None,
    ) -> "UnitsRun":  # fmt: skip
        """For a link. Raises BadInput where no port is chosen."""
        bus = link.sheet.addresses if link.sheet is not None else None
        addresses = range(bus.lowest, bus.highest + 1) if bus is not None else ADDRESSES
        return cls(address_of(link), names(catalog), log, addresses, 0.0, authority, opens)

    def run(self, told: Callable[[], None] = lambda: None) -> None:
        """Until it is over, or cancelled; a refusal of the machine is kept in `refused`."""
        try:
            with self._authority.working(SENDING, self._address, self.cancel):
                self._run(told)
        except CourierError as error:
            if not self._cancelled:
                self.refused = error
        finally:
            self.running = False
            self._permit.withdraw()

    def _run(self, told: Callable[[], None]) -> None:
        if is_simulated(self._address):
            simulator.install()
        port = self._opens(self._address, Settings(RATE))
        if self._log is not None:
            self._log.begin(self._address.partition("?")[0], str(Settings(RATE)))
        try:
            wake(port, self.round, self._authority.clock, self._permit, self._log, told)
        finally:
            port.close()
            if self._log is not None:
                self._log.close()

    def cancel(self) -> None:
        """Stop soon; what was learned stays."""
        self._cancelled = True
        self._permit.withdraw()

    @property
    def share(self) -> float:
        """How far it is, from 0 to 1."""
        return self.round.asked / max(1, len(self.round.addresses))

    @property
    def units(self) -> list[ControlUnit]:
        """Who has answered so far."""
        return list(self.round.units)

    @property
    def good(self) -> bool:
        """Whether one has answered."""
        return bool(self.round.units)

    def name(self, unit: ControlUnit) -> str:
        """What stands at that address, as far as it is agreed on."""
        return named(unit.address, self._names)

    def headline(self) -> tuple[str, str]:
        """What it says, and why."""
        if self.refused is not None:
            return "The round was broken off", str(self.refused)
        count = len(self.round.units)
        if not count:
            return NOBODY
        kept = sum(len(unit.troubles or ()) for unit in self.round.units)
        answers = "1 control unit answers" if count == 1 else f"{count} control units answer"
        return f"{answers}, {kept} troubles stored" if kept else f"{answers}, no trouble stored", SAYS

    def rows(self) -> list[tuple[State, str, str]]:
        """Each unit with what it said."""
        return [(State.PROVEN, self.name(unit), told(unit)) for unit in self.round.units]

    @property
    def shown(self) -> Shown | None:
        """What that proves; None where nobody answered."""
        units = self.round.units
        if not units:
            return None
        reason = "control units woke and answered with the right checksum: the K-line and its rate are right"
        identity = {self.name(unit): told(unit) for unit in units}
        quiet = all(unit.troubles is None and not unit.identity for unit in units)
        if quiet:
            return Shown(ProofKind.READ, Grade.FAIR, reason, identity, "read the number on its case, and compare")
        return Shown(ProofKind.READ, Grade.STRONG, reason, identity)


def names(catalog: Catalog) -> dict[int, str]:
    """What stands at the addresses of a K-line, by the first address of each range."""
    return dict(catalog.names("kline-units"))


def named(address: int, names: dict[int, str]) -> str:
    """An address with the kind of unit that stands there."""
    below = [first for first in names if first <= address]
    return f"{names[max(below)]} {address:02X}" if below else f"unit {address:02X}"


def told(unit: ControlUnit) -> str:
    """What a unit said, in a line."""
    listed = ", ".join(trouble.text for trouble in unit.troubles or ())
    parts = [unit.identity, *unit.refused]
    if unit.troubles is not None:
        parts.append(f"troubles: {listed}" if listed else "no trouble stored")
    return "; ".join(part for part in parts if part)


def round_of(
    address: str, armed: bool, catalog: Catalog, log: LineLog | None, addresses: Sequence[int], hold_s: float,
    told: Callable[[str], None], authority: Authority | None = None,
) -> UnitsRun:  # fmt: skip
    """The round for a command. Raises NotArmed unless armed, MachineRefused where the port cannot be used."""
    if not armed:
        raise NotArmed(f"listening only: would send {SENDING}", "Say --arm to do it; key on, engine off, brake on")
    told(SAYS)
    run = UnitsRun(address, names(catalog), log, addresses, hold_s, authority)
    run.run()
    if run.refused is not None:
        raise run.refused
    return run


def as_json(run: UnitsRun) -> list[dict[str, object]]:
    """The units as a document that `before` reads again."""
    return [
        {
            "address": unit.address, "name": run.name(unit), "keys": list(unit.keys), "identity": unit.identity,
            "troubles": None if unit.troubles is None else [{"code": t.code, "state": t.state} for t in unit.troubles],
            "refused": list(unit.refused), "kept_alive": unit.kept_alive,
        }
        for unit in run.units
    ]  # fmt: skip


class _Kept(msgspec.Struct):
    """A round as `as_json` wrote it; keys that are not needed are passed over."""

    units: list[ControlUnit]


def before(path: Path) -> list[ControlUnit]:
    """Units out of what `units --json` wrote earlier. Raises BadInput."""
    try:
        return msgspec.json.decode(read_text(path), type=_Kept).units
    except msgspec.MsgspecError as error:
        raise BadInput(f"{path}: expected what `units --json` wrote: {error}") from error


def differences(earlier: Iterable[ControlUnit], run: UnitsRun) -> tuple[list[str], list[str]]:
    """Troubles that came and that went since an earlier round."""
    return changed(earlier, run.units)
