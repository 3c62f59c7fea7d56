"""The demo: the Skerrow Valley Snow and Water Watch, an invented place. Its records live in a folder of their own."""

from pathlib import Path

from humble_courier.app.kit.bag import Bag
from humble_courier.app.kit.contents import save_kit
from humble_courier.app.link.changes import new_link
from humble_courier.app.today.kept_day import TodayPlan
from humble_courier.catalog.load import Catalog
from humble_courier.documents.base import EndModel
from humble_courier.documents.kit import KitItem, KitModel
from humble_courier.records.store import FILE, Store

GAUGE_HOUSE = "Gauge house, level logger"


def demo_kit() -> KitModel:
    """What the valley's technician has in the bag, with what each part went through."""
    grey = [EndModel("D", 9, "socket"), EndModel("D", 9, "plug")]
    return KitModel(
        courier="kit/1",
        items=[
            KitItem(part="usb-rs232", count=2, successes=14, failures=1, cost=18, module="ftdi_sio"),
            KitItem(part="usb-rs485", successes=6, cost=24),
            KitItem(part="straight-de9", count=2, successes=9, cost=6),
            KitItem(part="crossed-de9-3wire", successes=11, cost=7),
            KitItem(part="crossover-adapter-de9", successes=3, failures=1, cost=4),
            KitItem(part="gender-changer-de9-sockets", count=2, cost=3),
            KitItem(part="adapter-de9-db25", successes=2, cost=5),
            KitItem(part="adapter-de9-8p8c-console", successes=5, cost=6),
            KitItem(part="rolled-8p8c", count=2, successes=5, cost=4),
            KitItem(id="grey lead of the weir", ends=grey, conductors=["A2-B2", "A3-B3", "A5-B5"], length_m=5, failures=1),
        ],
    )


A_DAY = (
    "level logger at the weir gauge house 8:20",
    "snow pillows at the upper field 9:30, addresses",
    "concentrator and mesh module at the relay hut 11:30",
    "wind sensor at the ridge 14:00",
)


def demo_store(folder: Path, catalog: Catalog, fresh: bool) -> Store:
    """The demo's records; made on first use, made anew where `fresh`."""
    if fresh:
        for name in (FILE, FILE + "-wal", FILE + "-shm"):
            (folder / name).unlink(missing_ok=True)
    store = Store(folder, who="")  # the valley was told by nobody who is logged in
    if not store.links():
        from humble_courier.app.demo.year import tell

        tell(store, catalog)
        model = new_link("gauge-logger", ["usb-rs232", "crossed-de9-3wire"], "sim://bench/gauge-logger", catalog)
        link_id = store.save_link(model, GAUGE_HOUSE)
        store.remember("current-link", link_id)
        save_kit(store, demo_kit())
        today = TodayPlan(store, Bag(store))
        for sentence in A_DAY:
            today.add(sentence)
    return store
