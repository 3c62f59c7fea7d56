"""The demo: the Skerrow Valley Snow and Water Watch, an invented place. Its records live in a folder of their own."""

from pathlib import Path

from humble_courier.app.links import new_link
from humble_courier.catalog.load import Catalog
from humble_courier.records.store import FILE, Store

GAUGE_HOUSE = "Gauge house, level logger"


def demo_store(folder: Path, catalog: Catalog, fresh: bool) -> Store:
    """The demo's records; made on first use, made anew where `fresh`."""
    if fresh:
        for name in (FILE, FILE + "-wal", FILE + "-shm"):
            (folder / name).unlink(missing_ok=True)
    store = Store(folder)
    if not store.links():
        model = new_link("gauge-logger", ["usb-rs232", "crossed-de9-3wire"], "sim://bench/gauge-logger", catalog)
        link_id = store.save_link(model, GAUGE_HOUSE)
        store.remember("current-link", link_id)
    return store
