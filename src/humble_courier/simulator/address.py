"""The address of a simulated port: `sim://bench/DEVICE?chain=PART,PART&…`.

| key | meaning | default |
|---|---|---|
| `chain` | catalog parts from the computer's port to the device; `~` before a part turns it about | joined as it should be |
| `computer` | catalog port of the computer | `usb-a` where the chain begins with a USB adapter, else `dte-de9` |
| `link` | a whole link as JSON, in place of `chain` and `computer` | |
| `settings` | what the device is set to | its sheet |
| `power` | seconds from opening to switching the device on, or `on` if it is on already | 0.5 |
| `vanish` | seconds after opening at which the adapter is pulled | never |
| `pace` | simulated seconds in a real one | 1 |
"""

from dataclasses import dataclass
from urllib.parse import parse_qsl, quote, unquote, urlsplit

from humble_courier.catalog.links import link_from_text
from humble_courier.catalog.load import Catalog
from humble_courier.errors import BadInput
from humble_courier.simulator.bench import Bench, Wires
from humble_courier.simulator.machines import machine
from humble_courier.units.settings import Settings

KEYS = ("chain", "computer", "link", "settings", "power", "vanish", "pace")


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
        query = "&".join(f"{key}={quote(value, safe=',~:+')}" for key, value in self.options.items())
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

    def settings(self, catalog: Catalog) -> Settings:
        """What the device is set to."""
        return Settings.parse(self.options.get("settings") or catalog.device(self.device).port.settings)

    def wires(self, catalog: Catalog) -> Wires:
        """What the wiring carries."""
        if "link" in self.options:
            link = link_from_text(self.options["link"], "link in the address", catalog)
            return Wires.of(catalog, link.computer, link.parts, link.device)
        if "chain" not in self.options:
            return Wires.ideal()
        ids = [id_ for id_ in self.options["chain"].split(",") if id_]
        parts = tuple(catalog.part(i[1:]).turned() if i.startswith("~") else catalog.part(i) for i in ids)
        usb = bool(parts) and parts[0].ends[0].connector.family == "USB-A"
        computer = catalog.port(self.options.get("computer") or ("usb-a" if usb else "dte-de9"))
        return Wires.of(catalog, computer, parts, catalog.device_port(catalog.device(self.device)))

    def bench(self, catalog: Catalog, opened: float) -> Bench:
        """The bench as it stands when the port is opened at `opened` seconds."""
        settings = self.settings(catalog)
        already_on = self.options.get("power") == "on"
        power_s = opened - 3600.0 if already_on else opened + self.seconds("power", 0.5)
        signals = catalog.device_port(catalog.device(self.device)).signals
        bench = Bench(machine(self.device, settings), settings, self.wires(catalog), signals, power_s)
        if already_on:
            bench.advance(opened)  # whatever it said when it was switched on is gone
        return bench
