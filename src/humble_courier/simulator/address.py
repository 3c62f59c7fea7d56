"""The address of a simulated port: `sim://bench/DEVICE?chain=PART,PART&…`; the device `loop-back` is a plug.

| key | meaning | default |
|---|---|---|
| `chain` | catalog parts from the computer's port to the device; `~` before a part turns it about | joined as it should be |
| `computer` | catalog port of the computer | `usb-a` where the chain begins with a USB adapter, else `dte-de9` |
| `link` | a whole link as JSON, in place of `chain` and `computer` | |
| `settings` | what the device is set to | its sheet |
| `power` | seconds from opening to switching the device on, or `on` if it is on already | 0.5 |
| `variant` | which revision of the device, by its id in the sheet | the newest |
| `switches` | positions of a bank, as `S2:010`, as seen with switch 1 first | its settings |
| `socket` | which port of the device, by its id | the first |
| `fault` | ids of `faults.yaml`, with commas | none |
| `latency` | milliseconds for which the adapter gathers before it hands over | 0 |
| `vanish` | seconds after opening at which the adapter is pulled | never |
| `pace` | simulated seconds in a real one | 1 |
| `sheet` | a device sheet of one's own as JSON: the device behaves as it says | |
"""

from dataclasses import dataclass, replace
from urllib.parse import parse_qsl, quote, unquote, urlsplit

import msgspec

from humble_courier.address.switches import coded, parse_positions
from humble_courier.catalog.links import link_from_text
from humble_courier.catalog.load import Catalog
from humble_courier.catalog.sheets import as_it_is
from humble_courier.documents.device import DeviceEntry
from humble_courier.domain.clock import Clock, PacedClock
from humble_courier.domain.settings import Settings
from humble_courier.domain.signals import Direction
from humble_courier.errors import BadInput
from humble_courier.simulator.bench import Bench, Wires
from humble_courier.simulator.devices.behaviour import faults, has_behaviour
from humble_courier.simulator.devices.device import silent
from humble_courier.simulator.devices.from_sheet import behaviour_of
from humble_courier.simulator.devices.make import device as make_device
from humble_courier.simulator.devices.make import made_of
from humble_courier.simulator.faults import STARTS_S, faulty_settings

KEYS = (
    "chain",
    "computer",
    "link",
    "settings",
    "power",
    "vanish",
    "pace",
    "socket",
    "fault",
    "latency",
    "variant",
    "switches",
    "sheet",
)
LOOP_BACK = "loop-back"
CABLES = {"straight-cable": "usb-rs232,straight-de9", "open-cable": "usb-rs232,patch-8p8c"}
SLOW_ADAPTER_MS = 100.0  # more than most protocols bear: what the fault is for
VANISHES_S = 10.0  # after the person has heard the device


@dataclass(frozen=True)
class SimAddress:
    """The parts of an address, texts as they stand in it."""

    device: str
    options: dict[str, str]

    @classmethod
    def parse(cls, url: str) -> "SimAddress":
        """Read an address; raises BadInput naming what is wrong with it."""
        parts = urlsplit(url)
        if parts.scheme != "sim" or parts.netloc != "bench" or not parts.path.strip("/"):
            raise BadInput(f"address “{url}”: expected sim://bench/DEVICE")
        options: dict[str, str] = {}
        for key, value in parse_qsl(parts.query, keep_blank_values=True):
            if key not in KEYS:
                raise BadInput(f"address “{url}”: unknown key “{key}”, known are {', '.join(KEYS)}")
            options[key] = value
        return cls(unquote(parts.path.strip("/")), options)

    def __str__(self) -> str:
        query = "&".join(f"{key}={quote(value, safe=',~:')}" for key, value in self.options.items())
        return f"sim://bench/{self.device}" + (f"?{query}" if query else "")

    def seconds(self, key: str, default: float) -> float:
        """A number of seconds (or a pace) from the options; raises BadInput."""
        try:
            value = float(self.options.get(key, default))
        except ValueError:
            value = -1.0
        if not 0 <= value < 1e9:
            raise BadInput(f"address of the simulator: {key}={self.options[key]} is not a number of 0 or more")
        return value

    def paced(self, clock: Clock) -> Clock:
        """How time goes at this port, by a clock; raises BadInput for a pace that is none."""
        pace = self.seconds("pace", 1.0) or 1.0
        return clock if pace == 1.0 else PacedClock(clock, pace)

    @property
    def faults(self) -> tuple[str, ...]:
        """The faults that the bench was given; raises BadInput for one that there is not."""
        given = tuple(one for one in self.options.get("fault", "").split(",") if one)
        known = faults() if given else {}
        for one in given:
            if one not in known:
                raise BadInput(f"unknown fault “{one}”: known are {', '.join(known)}")
        return given

    @property
    def latency_s(self) -> float:
        """For how long the adapter gathers."""
        slow = SLOW_ADAPTER_MS if "slow-adapter" in self.faults else 0.0
        return self.seconds("latency", slow) / 1000

    def vanishes(self, opened: float) -> float:
        """When the adapter is pulled."""
        if "vanish" in self.options or "vanish" in self.faults:
            return opened + self.seconds("vanish", VANISHES_S)
        return float("inf")

    def _sheet(self, catalog: Catalog) -> DeviceEntry:
        return as_it_is(self._own or catalog.device(self.device), self.options.get("variant"), self.options.get("socket"))

    @property
    def _own(self) -> DeviceEntry | None:
        """The sheet that the address carries. Raises BadInput where it is none."""
        text = self.options.get("sheet")
        try:
            return None if text is None else msgspec.json.decode(text, type=DeviceEntry)
        except msgspec.MsgspecError as error:
            raise BadInput(f"the sheet in the address is none: {error}") from None

    @classmethod
    def of_sheet(cls, address: "SimAddress", sheet: DeviceEntry) -> "SimAddress":
        """An address that carries a sheet of one's own, where no behaviour is shipped under its id."""
        if has_behaviour(sheet.id) or "sheet" in address.options:
            return address
        return cls(address.device, {**address.options, "sheet": msgspec.json.encode(sheet).decode()})

    def _switched(self, catalog: Catalog, codes: str) -> int | None:
        """What the switches say of the rate or the address; None where none are given. Raises BadInput."""
        name, _, positions = self.options.get("switches", "").partition(":")
        if not name:
            return None
        bank = next((one for one in self._sheet(catalog).banks if one.id == name), None)
        if bank is None:
            raise BadInput(f"switches={name}: the sheet of {self.device} has no such bank")
        return int(coded(bank).read(parse_positions(positions))) if bank.codes == codes else None

    def settings(self, catalog: Catalog) -> Settings:
        """What the device is set to."""
        if self.device == LOOP_BACK:
            return Settings(9600)
        told = Settings.parse(self.options.get("settings") or self._sheet(catalog).port.settings)
        told = replace(told, rate=self._switched(catalog, "rate") or told.rate)
        return faulty_settings(told, self.faults)

    def wires(self, catalog: Catalog) -> Wires:
        """What the wiring carries."""
        if self.device == LOOP_BACK:
            return Wires.loop()
        if "link" in self.options:
            link = link_from_text(self.options["link"], "link in the address", catalog)
            return Wires.of(catalog, link.computer, link.parts, link.device)
        chain = self.options.get("chain") or next((CABLES[f] for f in self.faults if f in CABLES), "")
        if not chain:
            signals = catalog.device_port(self._sheet(catalog)).signals.values()
            return Wires.ideal([s.name.upper() for s in signals if s.direction is Direction.OUT])
        ids = [id_ for id_ in chain.split(",") if id_]
        parts = tuple(catalog.part(i[1:]).turned() if i.startswith("~") else catalog.part(i) for i in ids)
        usb = bool(parts) and parts[0].ends[0].connector.family == "USB-A"
        computer = catalog.port(self.options.get("computer") or ("usb-a" if usb else "dte-de9"))
        return Wires.of(catalog, computer, parts, catalog.device_port(self._sheet(catalog)))

    def bench(self, catalog: Catalog, opened: float) -> Bench:
        """The bench as it stands when the port is opened at `opened` seconds."""
        settings = self.settings(catalog)
        already_on = self.options.get("power") == "on"
        power_s = opened - 3600.0 if already_on else opened + self.seconds("power", 0.5)
        device, signals = silent(), {}
        if self.device != LOOP_BACK:
            socket = self.options.get("socket", "")
            sheet = self._sheet(catalog)
            unit = self._switched(catalog, "address")
            if self._own is not None:
                device = made_of(behaviour_of(sheet), settings, self.faults, unit)
            else:
                other = sheet.port.id != catalog.device(self.device).port.id
                id_ = f"{self.device}.{socket}" if other else self.device
                device = make_device(id_, settings, self.faults, self.options.get("variant"), unit)
            signals = catalog.device_port(sheet).signals
        if "no-power" in self.faults:
            power_s = float("inf")
        if "too-early" in self.faults:
            power_s, already_on = opened + STARTS_S, False
        bench = Bench(device, settings, self.wires(catalog), signals, power_s, self.faults)
        if already_on:
            device.skip(opened - power_s)
        return bench
