"""The document of the link that is open: every version of it, what its ids stand for, the verdict on its wiring."""

import time
from typing import TYPE_CHECKING

import msgspec

from humble_courier.app.wire.tracing import trace_link
from humble_courier.app.wire.wire_map import WireMap, wire_map
from humble_courier.catalog.links import Link, resolve_link
from humble_courier.catalog.load import Catalog
from humble_courier.documents.link import LinkModel
from humble_courier.errors import BadInput
from humble_courier.wiring.trace import Trace

if TYPE_CHECKING:
    from humble_courier.records.store import Store


class LinkDocument:
    """Every change is saved before the method returns. `taken_at`: when this version was taken (seconds since the epoch)."""

    def __init__(self, catalog: Catalog, store: "Store", link_id: str) -> None:
        model = store.link(link_id)
        if model is None:
            raise BadInput(f"there is no link {link_id} in the records")
        self.catalog, self.id = catalog, link_id
        self.name = dict(store.links()).get(link_id, "")
        self._store = store
        self._undo: list[LinkModel] = []
        self._redo: list[LinkModel] = []
        self.model: LinkModel
        self.link: Link
        self.trace: Trace
        self._take(model)

    def _take(self, model: LinkModel) -> None:
        self.model, self.link = model, resolve_link(model, self.catalog)
        self.trace = trace_link(self.link, self.catalog)
        self.taken_at = time.time()

    def _become(self, model: LinkModel) -> None:
        self._store.save_link(model, self.name, self.id)
        self._take(model)

    def change(self, model: LinkModel) -> bool:
        """Take another version, with the old one kept for `undo`; False where it is the same.

        Raises BadInput for a version that names what is not there; then nothing changed.
        """
        if model == self.model:
            return False
        resolve_link(model, self.catalog)
        self._undo.append(self.model)
        self._redo.clear()
        self._become(model)
        return True

    def undo(self) -> bool:
        """Take the last change back; False where there is none."""
        if not self._undo:
            return False
        self._redo.append(self.model)
        self._become(self._undo.pop())
        return True

    def redo(self) -> bool:
        """Make the change again that was taken back; False where there is none."""
        if not self._redo:
            return False
        self._undo.append(self.model)
        self._become(self._redo.pop())
        return True

    @property
    def can_undo(self) -> bool:
        """Whether there is a change to take back."""
        return bool(self._undo)

    def moved(self, address: str) -> None:
        """The same adapter is at another address now: nothing that a person would want to take back."""
        self._become(msgspec.structs.replace(self.model, address=address))

    @property
    def simulated(self) -> bool:
        """Whether the port is one of the simulator's."""
        return bool(self.link.address and self.link.address.startswith("sim:"))

    @property
    def port(self) -> str:
        """The port as people read it, without the options of a simulated one; empty where none is chosen."""
        return (self.link.address or "").partition("?")[0]

    def wire_map(self) -> WireMap:
        """The conductor map."""
        return wire_map(self.trace)
