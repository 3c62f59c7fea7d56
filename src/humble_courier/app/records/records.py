"""The records as the window needs them: which links there are, the one that was left open, the bag, what goes out."""

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

from humble_courier.app.kit.bag import Bag
from humble_courier.app.link.open_link import OpenLink
from humble_courier.app.records.export import write_records
from humble_courier.catalog.load import Catalog
from humble_courier.documents.link import LinkModel

if TYPE_CHECKING:
    from humble_courier.records.store import Store

CURRENT, PLACE = "current-link", "place"  # under which the records keep what was left open
NAMELESS = "Link without a name"


class Records:
    """Open records. Every method raises MachineRefused where the disk or the database refuses."""

    def __init__(self, store: "Store") -> None:
        self._store = store
        self.bag = Bag(store)

    def links(self) -> list[tuple[str, str]]:
        """Id and name of all links, the newest first."""
        return self._store.links()

    def left_open(self) -> str | None:
        """The link that was on the line when the program ended; None where there is none."""
        link_id = self._store.setting(CURRENT)
        return link_id if link_id is not None and self._store.link(link_id) is not None else None

    @property
    def place(self) -> str | None:
        """The place on the line that was open."""
        return self._store.setting(PLACE)

    def remember_place(self, place: str) -> None:
        """Keep which place on the line is open."""
        self._store.remember(PLACE, place)

    def open(self, link_id: str, catalog: Catalog, changed: Callable[[], None] = lambda: None) -> OpenLink:
        """Open a link; raises BadInput where there is no such one, or its document names what is not there."""
        return OpenLink(catalog, self._store, link_id, self.bag, changed)

    def add(self, model: LinkModel, name: str) -> str:
        """Keep a new link; returns its id."""
        return self._store.save_link(model, name or NAMELESS)

    def write(self, path: Path) -> int:
        """All records as one file; returns how many links."""
        return write_records(self._store, path)

    def close(self) -> None:
        """Let go of the file."""
        self._store.close()
