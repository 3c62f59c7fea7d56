"""The catalog that a command or the window works with: the facts of the trade, and a person's own device sheets."""

from pathlib import Path

from humble_courier.catalog.load import Catalog as Catalog


def open_catalog(own: Path | None = None, demo: bool = False) -> Catalog:
    """The shipped catalog, with the device sheets of the folder `own` before its own ones. Files are read when asked for."""
    return Catalog(own=own, demo=demo)
