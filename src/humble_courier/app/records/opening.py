"""Opening the records for the window: a person's own, or the demo's with its simulated machine."""

from dataclasses import dataclass
from pathlib import Path

from humble_courier.app.demo.machine import DemoMachine
from humble_courier.app.demo.records import demo_store
from humble_courier.app.records.records import Records
from humble_courier.catalog.load import Catalog
from humble_courier.domain.clock import Clock, SystemClock
from humble_courier.records.store import Store


@dataclass(frozen=True)
class Opened:
    """The records, and the demo's machine where it is the demo."""

    records: Records
    machine: DemoMachine | None


def open_records(
    folder: Path, catalog: Catalog, demo: bool, fresh: bool = False, clock: Clock = SystemClock()
) -> Opened:  # fmt: skip
    """Open what is in `folder`, with the device sheets of one's own there. Raises MachineRefused and BadInput."""
    catalog.own, catalog.demo = folder / "devices", demo
    if not demo:
        return Opened(Records(Store(folder)), None)
    return Opened(Records(demo_store(folder, catalog, fresh)), DemoMachine(folder / "machine", clock))
