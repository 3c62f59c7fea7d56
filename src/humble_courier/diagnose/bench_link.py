"""The simulated bench of one link: its device with or without a fault, and what it is asked for first."""

from collections.abc import Callable

from humble_courier.catalog.links import Link
from humble_courier.catalog.load import Catalog
from humble_courier.diagnose.asking import TEXT_SHARE, Asking, Question, may_raise
from humble_courier.documents.device import DeviceEntry, FirstWords
from humble_courier.domain.settings import Settings
from humble_courier.domain.signals import Direction, Signal
from humble_courier.domain.text import Terminator, share_of_text
from humble_courier.protocols.lines import Expect
from humble_courier.protocols.registry import all_specs
from humble_courier.protocols.spec import Check
from humble_courier.simulator.bench import Bench, Wires
from humble_courier.simulator.devices.behaviour import Behaviour, behaviour, has_behaviour, revised
from humble_courier.simulator.devices.from_sheet import behaviour_of
from humble_courier.simulator.devices.make import made_of
from humble_courier.simulator.faults import STARTS_S, faulty_settings

LOOKS_S = 0.05  # how often a sender that a handshake has stopped looks again: only whether it may is asked here
BENCH = "the bench"
ON_FOR_S = 60.0  # how long the device has been on, where nobody says otherwise


def question_of(link: Link) -> Question | None:
    """What its sheet has said first, to the device itself; None where nothing is asked: it only talks, or nobody knows."""
    sheet = link.sheet
    if sheet is None:
        return None
    wanted = next((words for words in sheet.first_words if words.by == "device"), None)
    if wanted is not None:
        lines = tuple(_before(sheet, wanted))
        end = Terminator(sheet.end)
        return Question(tuple(line.encode("latin-1") + end.octets for line in lines), _fits(wanted), lines, end)
    spec = all_specs().get(sheet.port.protocol)
    asks = spec.probe.addressed if spec is not None and spec.probe is not None else None
    if asks is None:
        return None
    unit = link.model.unit or (sheet.addresses.lowest if sheet.addresses is not None else 1)
    return Question((asks.request(unit),), lambda data: asks.answered(data) == unit)


def _before(sheet: DeviceEntry, wanted: FirstWords) -> list[str]:
    before = next((words for words in sheet.first_words if wanted.after and words.say == wanted.after), None)
    return [*([before.say] if before is not None else []), wanted.say]


def _fits(words: FirstWords) -> Callable[[bytes], bool]:
    def answered(data: bytes) -> bool:
        expect = Expect(words.expect)
        return (expect.feed(data) or expect.settle()) is not None

    return answered


class BenchLink:
    """Benches of one link. `simulated`: whether there is anything to stand on them."""

    def __init__(self, link: Link, catalog: Catalog) -> None:
        self.link, self._catalog = link, catalog
        self._how = _behaviour(link)
        self._signals: dict[str, Signal] = dict(link.device.signals)
        outputs = [s.name.upper() for s in self._signals.values() if s.direction is Direction.OUT]
        self._wires = Wires.ideal(outputs)

    @property
    def simulated(self) -> bool:
        """Whether the device of this link can stand on a bench; an adapter before a vehicle's bus shows too little of it."""
        return self._how is not None and self._how.protocol != "can-ascii" and self.link.device_settings is not None

    @property
    def settings(self) -> Settings:
        """As the device is set by its sheet, which is how the port is opened. Only where `simulated`."""
        assert self.link.device_settings is not None
        return self.link.device_settings

    @property
    def asking(self) -> Asking:
        """How its device is asked. Only where `simulated`."""
        power_up_s = self._how.power_up_s if self._how is not None else 0.0
        address, sheet = self.link.address or BENCH, self.link.sheet
        return Asking(address, self.settings, question_of(self.link), self.reads, power_up_s, may_raise(sheet))

    def reads(self, data: bytes) -> bool:
        """Whether what came by itself makes sense: messages with a right check, where its protocol has one; else text."""
        spec = all_specs().get(self.link.sheet.port.protocol) if self.link.sheet is not None else None
        if spec is None or spec.check is Check.NONE:
            return share_of_text(data) >= TEXT_SHARE
        decoder = spec.decoder(self._catalog)
        events = [*decoder.feed(data), *decoder.end()]
        return sum(event.ok for event in events) > len(events) / 2

    def bench(self, at: float, fault: str = "", seed: int = 1, power_in_s: float = -ON_FOR_S) -> Bench:
        """A fresh bench at `at` seconds of a clock; the device is switched on `power_in_s` later. Only where `simulated`."""
        assert self._how is not None
        faults = (fault,) if fault else ()
        settings = faulty_settings(self.settings, faults)
        power_s = float("inf") if fault == "no-power" else at + (STARTS_S if fault == "too-early" else power_in_s)
        device = made_of(self._how, settings, faults, self._unit)
        if power_s < at:
            device.skip(at - power_s)
        bench = Bench(device, settings, self._wires, self._signals, power_s, faults, seed)
        bench.look_s = LOOKS_S
        return bench

    @property
    def _unit(self) -> int | None:
        return self.link.model.unit


def _behaviour(link: Link) -> Behaviour | None:
    sheet = link.sheet
    if sheet is None:
        return None
    if not has_behaviour(sheet.id):
        return behaviour_of(sheet)
    socket = f"{sheet.id}.{link.model.device.socket}"
    return revised(behaviour(socket if has_behaviour(socket) else sheet.id), link.model.device.variant)
