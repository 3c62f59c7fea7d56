"""The records as the window needs them: which links there are, the one that was left open, the bag, what goes out."""

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

from humble_courier.app.kit.bag import Bag
from humble_courier.app.link.open_link import OpenLink
from humble_courier.app.port.opening import is_simulated
from humble_courier.app.records.export import write_records
from humble_courier.catalog.load import Catalog
from humble_courier.documents.link import LinkModel, LinkPort
from humble_courier.documents.records import Export
from humble_courier.records.in_use import InUse

if TYPE_CHECKING:
    from humble_courier.records.store import Store

CURRENT, PLACE = "current-link", "place"  # under which the records keep what was left open
NAMELESS = "Link without a name"


class Records:
    """Open records. Every method raises MachineRefused where the disk or the database refuses."""

    def __init__(self, store: "Store") -> None:
        self._store = store
        self.bag = Bag(store)
        self._in_use = InUse(store.path.parent)

    def links(self) -> list[tuple[str, str]]:
        """Id and name of all links, the newest first."""
        return self._store.links()

    def simulated(self) -> list[str]:
        """Addresses of the simulated ports that its links use."""
        models = (self._store.link(link_id) for link_id, _ in self._store.links())
        return list(dict.fromkeys(m.address for m in models if m is not None and m.address and is_simulated(m.address)))

    def settings_of_last_like(self, device: LinkPort) -> str | None:
        """How the computer's end was set for the newest link to the same device or kind; None where there is none."""
        models = (self._store.link(link_id) for link_id, _ in self._store.links())
        alike = (m for m in models if m is not None and (m.device.device or m.device.port) == (device.device or device.port))
        last = next(alike, None)
        return last.settings.computer if last is not None else None

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
        if not self._store.read_only:
            self._store.remember(PLACE, place)

    def open(self, link_id: str, catalog: Catalog, changed: Callable[[], None] = lambda: None) -> OpenLink:
        """Open a link; raises BadInput where there is no such one, or its document names what is not there."""
        return OpenLink(catalog, self._store, link_id, self.bag, changed)

    def add(self, model: LinkModel, name: str) -> str:
        """Keep a new link; returns its id."""
        return self._store.save_link(model, name or NAMELESS)

    def write(self, path: Path) -> Export:
        """All records as one file; returns what was written."""
        return write_records(self._store, path)

    @property
    def marks(self) -> list[str]:
        """What stands in the way of keeping things, in a few words each."""
        looked_at = ["records may only be looked at"] if self._store.read_only else []
        return looked_at + (["open in another window too"] if self._in_use.elsewhere else [])

    @property
    def left_out(self) -> dict[str, str]:
        """Rows that could not be read so far, with the reason."""
        return self._store.left_out

    def close(self) -> None:
        """Let go of the file."""
        self._in_use.close()
        self._store.close()
