"""Finding a device: what is known beforehand, what will be sent, the search itself, what it says."""

from collections.abc import Callable, Mapping, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, replace
from functools import cached_property, partial

from humble_courier import simulator
from humble_courier.app.port.opening import address_of, is_simulated, open_lines
from humble_courier.app.talk.traffic import MOSTLY_TEXT
from humble_courier.catalog.links import Link
from humble_courier.catalog.load import Catalog
from humble_courier.catalog.sheets import as_it_is
from humble_courier.documents.device import DeviceEntry
from humble_courier.documents.records import Proof
from humble_courier.domain.hardware import Port
from humble_courier.domain.settings import Frame, Settings
from humble_courier.domain.signals import Direction, Role
from humble_courier.domain.text import Terminator, octets, share_of_text
from humble_courier.errors import BadInput
from humble_courier.line.belief.tables import RATES
from humble_courier.port.authority import Authority
from humble_courier.port.log import LineLog
from humble_courier.port.permit import Permit
from humble_courier.port.port import open_port
from humble_courier.procedures.device_search.found import Found
from humble_courier.procedures.device_search.found import Tried as Tried
from humble_courier.procedures.device_search.plan import Known, Space, Words, exhaustive, space
from humble_courier.procedures.device_search.port_search import FIRST_S
from humble_courier.procedures.device_search.search import DeviceSearch
from humble_courier.procedures.device_search.several import Searches
from humble_courier.procedures.runner import Opens, Runner
from humble_courier.procedures.steps import Outcome, Step
from humble_courier.protocols.modbus_rtu import SPEC as MODBUS_RTU
from humble_courier.protocols.registry import all_specs, looks_spoken
from humble_courier.protocols.spec import Check, ProtocolSpec
from humble_courier.protocols.text import SPEC as TEXT
from humble_courier.simulator.address import SimAddress

OWN_UNITS = 32  # addresses that words of one's own are said to, where no range is named: each is a trial of its own
TOLD = 4  # words that are told in full before a search
SENDING = "the first words of this search"
SHORTEST_WAIT_S, PATIENCE = 0.3, 1.25  # of the time that a sheet gives for an answer, and a little more (common practice)


@dataclass(frozen=True)
class Search:
    """A search that was asked for, before it begins."""

    known: Known
    sheet: DeviceEntry | None
    catalog: Catalog
    own: bool = False  # words of the person, of which nobody here knows what they do

    @property
    def says(self) -> str:
        """What will be sent, in a sentence, before anything is."""
        if not self.known.armed:
            return "Listens only; nothing is sent."
        low, high = self.known.units
        whom = f"unit {low}" if low == high else f"units {low} to {high}"
        parts = [
            f"“{w.text.decode('latin-1')}” ended with {Terminator.of(w.end).spoken if w.end else 'CR, CR LF and LF'}"
            for w in self.known.words if w.asks is None
        ]  # fmt: skip
        parts += [f"{w.asks.says} to {whom}" for w in self.known.words if w.asks is not None]
        known = "Whether your words change something only you know" if self.own else "These words change nothing"
        few = [*parts[:TOLD], f"and {len(parts) - TOLD} more"] if len(parts) > TOLD else parts
        return (
            f"Sends {'; '.join(few)}, at several rates and frames. {known}; at wrong settings a device reads them as other "
            "characters."
        )

    def permit(self, authority: Authority) -> Permit | None:
        """A permit for its words, where it was armed; ask once for each run."""
        return authority.permit(SENDING) if self.known.armed else None

    @cached_property
    def spaces(self) -> list[Space]:
        """What there is to try, by port; laid out once, as that takes a quarter of a second."""
        return [space(self.known, address) for address in self.known.addresses] if self.known.armed else []

    def lay_out(self) -> "Search":
        """Lay out what there is to try, and reckon the times; may run beside the window. Returns itself."""
        _ = self.spaces, self.in_order_s
        return self

    @property
    def laid_out(self) -> bool:
        """Whether that is done."""
        return "in_order_s" in self.__dict__

    @property
    def longest_s(self) -> float:
        """How long it takes at most, when nothing answers."""
        return max((one.seconds for one in self.spaces), default=0.0) + FIRST_S

    @property
    def most_s(self) -> float:
        """Within which nine in ten devices are met, all ports being searched at once."""
        return max((one.most_s for one in self.spaces), default=0.0)

    @cached_property
    def in_order_s(self) -> float:
        """How long going through everything in order would take."""
        last = Settings(max(self.known.rates), Frame.parse("8O1"))
        return sum(exhaustive(self.known, last, words, self.known.units[1])[1] for words in self.known.words)


def ways_apart(port: Port) -> bool:
    """Whether each way has a conductor of its own, so that both ends may speak at once; on one pair they may not."""
    data = {signal.direction for signal in port.signals.values() if signal.role is Role.DATA}
    return {Direction.IN, Direction.OUT} <= data and Direction.BOTH not in data


def search(
    addresses: Sequence[str], catalog: Catalog, sheet: DeviceEntry | None = None, armed: bool = False,
    probe: str | None = None, units: tuple[int, int] | None = None, worked: Sequence[Settings] = (),
    rates: Sequence[int] | None = None, say: str = "", full_duplex: bool | None = None,
) -> Search:  # fmt: skip
    """Put together what is known: the sheet with its revisions, what worked before, the protocol. Raises BadInput.

    `full_duplex`: whether both ends may speak at once; None: as the sheet's port says, and without a sheet as if not.
    `say`: words of one's own in place of all others; `{unit}` in them stands for each address, `{unit:02}` with two digits.
    """
    if not addresses:
        raise BadInput("name one port address at least, as in /dev/ttyUSB0")
    spoken = _probed(probe, sheet)
    low, high = units or _units(sheet)
    if not 1 <= low <= high <= 247:
        raise BadInput(f"addresses {low}-{high}: expected A-B within 1 to 247")
    likely = [*_of_sheet(sheet), *((settings, 0.5) for settings in worked)]
    words = (
        own_words(say, low, high if units else min(high, low + OWN_UNITS - 1)) if say else _words(spoken, sheet, low, high)
    )
    if sheet is not None and not say and probe is None and catalog.is_kind(sheet.id):
        usual = _words(None, None, low, high)  # a kind is a guess: what most devices answer is asked as well
        words = (*words, *(one for one in usual if one not in words))
    extra = {settings.rate for settings, _ in likely}
    wanted = tuple(rates) if rates else tuple(sorted({*RATES, *extra}))
    if full_duplex is None:
        full_duplex = sheet is not None and ways_apart(catalog.device_port(sheet))
    known = Known(tuple(addresses), tuple(likely), words, (low, high), wanted, armed, full_duplex)
    return Search(known, sheet, catalog, bool(say))


def own_words(say: str, low: int, high: int) -> tuple[Words, ...]:
    """Words of one's own, for each address where they name one. Raises BadInput."""
    try:
        lines = dict.fromkeys(say.format(unit=unit) for unit in range(low, high + 1))
    except (ValueError, KeyError, IndexError):
        raise BadInput(f"“{say}”: {{unit}} stands for an address, {{unit:02}} for one of two digits; nothing else") from None
    return tuple(Words(octets(line), None) for line in lines)


def _units(sheet: DeviceEntry | None) -> tuple[int, int]:
    if sheet is not None and sheet.addresses is not None and sheet.addresses.bus.startswith("modbus"):
        return sheet.addresses.lowest, sheet.addresses.highest
    return 1, 247


def _probed(probe: str | None, sheet: DeviceEntry | None) -> ProtocolSpec | None:
    """The protocol in which alone is asked: the one that was named, or that of the sheet where it has words of its own."""
    asked = {id_: spec for id_, spec in all_specs().items() if spec.probe is not None}
    if probe is not None:
        if probe not in asked:
            raise BadInput(f"no safe first words for “{probe}”: known are {', '.join(asked)}")
        return asked[probe]
    spec = asked.get(sheet.port.protocol) if sheet is not None else None
    return spec if spec is not None and spec.check is not Check.NONE else None


def _of_sheet(sheet: DeviceEntry | None) -> list[tuple[Settings, float]]:
    """Settings that a sheet names: of each revision, and each rate that its switches can choose."""
    if sheet is None:
        return []
    told = [(Settings.parse(sheet.port.settings), 1.0)]
    for revision in (None, *(variant.id for variant in sheet.variants)):
        as_it = as_it_is(sheet, revision)
        base = Settings.parse(as_it.port.settings)
        told.append((base, 0.5))
        for bank in as_it.banks:
            told += [(Settings(int(rate), base.frame), 0.3) for rate in bank.table.values() if bank.codes == "rate"]
    return told


def _words(spec: ProtocolSpec | None, sheet: DeviceEntry | None, low: int, high: int) -> tuple[Words, ...]:
    """What is said: in the protocol that was named; else the sheet's own words; else what most devices answer."""
    if spec is not None:
        return of_protocol(spec, low, high)
    if sheet is not None and sheet.first_words:
        wait = max(SHORTEST_WAIT_S, PATIENCE * sheet.answer_ms / 1000)
        say, end = sheet.first_words[0].say.encode("ascii"), Terminator(sheet.end).octets or None
        doubted = () if end is None else (Words(say, None, wait),)  # a sheet may be wrong about the end of a line
        return (Words(say, end, wait), *doubted)
    return (*of_protocol(TEXT, low, high), *of_protocol(MODBUS_RTU, low, high))


def of_protocol(spec: ProtocolSpec, low: int, high: int) -> tuple[Words, ...]:
    """The safe first words of a protocol, for addresses from `low` to `high`."""
    probe = spec.probe
    assert probe is not None, "only protocols that have a probe are asked for it"
    lines = [Words(line.text, line.end) for line in probe.lines(low, high)] if probe.lines is not None else []
    if probe.addressed is not None:
        lines.append(Words(answers_within_s=probe.addressed.wait_s, asks=probe.addressed, protocol=spec.id))
    return tuple(lines)


def finder(wanted: Search) -> DeviceSearch:
    """The device search itself, which goes through its ports by turns."""
    return DeviceSearch(wanted.known, lambda data: _name(data, wanted.catalog))


def finders(wanted: Search) -> Searches:
    """A search for each port, to be run at once."""
    one = [replace(wanted, known=replace(wanted.known, addresses=(address,))) for address in wanted.known.addresses]
    return Searches([finder(part) for part in one])


def _name(data: bytes, catalog: Catalog) -> str:
    """What it speaks, by its messages; text where it is text."""
    spec = looks_spoken(data, catalog)
    if spec is not None:
        return spec.id
    return "text" if share_of_text(data) >= MOSTLY_TEXT else "binary"


def runner(
    addresses: Sequence[str], sheet: DeviceEntry | None, permit: Permit | None, log: LineLog | None = None,
    authority: Authority | None = None, what: str = "a procedure", opens: Opens | None = None,
) -> Runner:  # fmt: skip
    """A driver for these addresses; without a permit it only listens. At a simulated port time goes as it does there.

    `opens`: how it comes to a port, where one that is open already is lent to it.
    """
    at = what, " ".join(address.partition("?")[0] for address in addresses)
    authority = authority or Authority()
    clock = paced = authority.clock
    for address in addresses:
        if is_simulated(address):
            simulator.install()
            paced = SimAddress.parse(address).paced(clock)
    opens = opens or partial(open_port, clock=clock)
    return Runner(lambda _: open_lines(sheet), paced, opens, permit, log, authority, at)


class SearchRun:
    """A search that runs beside the window, all its ports at once, can be stopped, and goes on where it was.

    `run` blocks: call it in a thread of its own; `told` is called after each step, from any thread. Everything else may be
    asked at any time, from any thread. `log`: of the first port; those of the others stand beside it.
    """

    def __init__(
        self, wanted: Search, log: LineLog | None = None, authority: Authority | None = None, opens: Opens | None = None
    ) -> None:  # fmt: skip
        self.wanted, self._log, self._authority = wanted, log, authority or Authority()
        self._opens = opens
        self.search = finders(wanted)
        self._runners: list[Runner] = []
        self._permit: Permit | None = None
        self.running = False

    def begun(self) -> None:
        """It is about to run: from now on it may be stopped."""
        permit = self._permit = self.wanted.permit(self._authority)
        # What is at the other ports nobody knows: there RTS and DTR stay low, whatever this sheet allows.
        sheet = self.wanted.sheet if len(self.wanted.known.addresses) == 1 else None
        self._runners = [
            runner([address], sheet, permit, self._log_of(i), self._authority, "device search", self._opens)
            for i, address in enumerate(self.wanted.known.addresses)
        ]
        self.running = True

    def _log_of(self, i: int) -> LineLog | None:
        if self._log is None or i == 0:
            return self._log
        return LineLog(self._log.path.with_stem(f"{self._log.path.stem}-{i + 1}"), self._authority.clock)

    def run(self, told: Callable[[], None]) -> None:
        """Until it is over, or stopped; `begun` comes before. Whoever finds something stops the others."""
        assert self._runners, "begun() comes before run()"

        def after(_step: Step, _outcome: Outcome) -> None:
            if self.search.found is not None:
                self.stop()
            told()

        try:
            with ThreadPoolExecutor(len(self._runners)) as together:
                pairs = zip(self._runners, self.search.parts, strict=True)
                runs = [together.submit(one.run, part, after) for one, part in pairs]
                try:
                    for done in runs:
                        done.result()
                except BaseException:  # one that was refused, or a person who interrupts: the others end as well
                    self.stop()
                    raise
        finally:
            self.running = False
            if self._permit is not None:
                self._permit.withdraw()  # what was allowed for this search ends with it

    def stop(self) -> None:
        """Stop soon; it goes on from here when it is begun again."""
        for one in self._runners:
            one.stop()

    @property
    def found(self) -> Found | None:
        """What was found."""
        return self.search.found

    @property
    def tried(self) -> Sequence[Tried]:
        """The trials so far, in order."""
        return self.search.tried

    @property
    def ended(self) -> bool:
        """Whether there is nothing left to go on with."""
        return self.search.over


def wanted_here(
    link: Link, ports: str, catalog: Catalog, use_sheet: bool, armed: bool, proofs: Sequence[Proof] = (), say: str = ""
) -> Search:
    """The search that the window asks for: `ports` as typed, the link's own one with its bench behind it; `say`: own words.

    What worked here before goes first. Raises BadInput where no port is named.
    """
    own: Mapping[str, str] = {link.address: address_of(link)} if link.address else {}
    addresses = [own.get(word, word) for word in ports.split()]
    worked = [Settings.parse(proof.computer_settings) for proof in proofs if proof.computer_settings]
    sheet = link.sheet if use_sheet else None
    return search(addresses, catalog, sheet, armed, worked=worked, say=say, full_duplex=ways_apart(link.device))


def find(
    wanted: Search, told: Callable[[], None] = lambda: None, log: LineLog | None = None, authority: Authority | None = None
) -> tuple[Searches, Found | None]:
    """Run a search to its end, all its ports at once."""
    run = SearchRun(wanted, log, authority)
    run.begun()
    run.run(told)
    return run.search, run.found
