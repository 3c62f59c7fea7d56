"""The document of the link that is open: every version of it, what its ids stand for, the verdict on its wiring."""

from typing import TYPE_CHECKING

import msgspec

from humble_courier.app.wire.tracing import trace_link
from humble_courier.app.wire.wire_map import WireMap, wire_map
from humble_courier.catalog.links import Link, resolve_link
from humble_courier.catalog.load import Catalog
from humble_courier.documents.link import LinkModel
from humble_courier.domain.clock import Clock, SystemClock
from humble_courier.errors import BadInput, ChangedElsewhere
from humble_courier.wiring.trace import Trace

if TYPE_CHECKING:
    from humble_courier.records.store import Store


class LinkDocument:
    """Every change is saved before the method returns. `taken_at`: when this version was taken (seconds since the epoch)."""

    def __init__(self, catalog: Catalog, store: "Store", link_id: str, clock: Clock = SystemClock()) -> None:
        self._clock = clock
        kept = store.kept(link_id)
        if kept is None:
            why = store.left_out.get(f"link {link_id}")
            raise BadInput(f"the link in the records cannot be read: {why}" if why else f"there is no link {link_id}")
        self.catalog, self.id = catalog, link_id
        self.name = dict(store.links()).get(link_id, "")
        self._store = store
        self._undo: list[LinkModel] = []
        self._redo: list[LinkModel] = []
        self.model: LinkModel
        self.link: Link
        self.trace: Trace
        model, self._written = kept
        self._take(model)

    def _take(self, model: LinkModel) -> None:
        self.model, self.link = model, resolve_link(model, self.catalog)
        self.trace = trace_link(self.link, self.catalog)
        self.taken_at = self._clock.wall()

    def _become(self, model: LinkModel) -> None:
        try:
            self._written = self._store.replace_link(self.id, model, self.name, self._written)
        except ChangedElsewhere:
            kept = self._store.kept(self.id)
            if kept is not None:
                model, self._written = kept
                self._undo.clear()
                self._redo.clear()
                self._take(model)
            raise
        self._take(model)

    def change(self, model: LinkModel) -> bool:
        """Take another version, with the old one kept for `undo`; False where it is the same.

        Raises BadInput for a version that names what is not there; then nothing changed.
        """
        if model == self.model:
            return False
        resolve_link(model, self.catalog)
        before = self.model
        self._become(model)
        self._undo.append(before)
        self._redo.clear()
        return True

    def undo(self) -> bool:
        """Take the last change back; False where there is none."""
        return self._step(self._undo, self._redo)

    def redo(self) -> bool:
        """Make the change again that was taken back; False where there is none."""
        return self._step(self._redo, self._undo)

    def _step(self, there: list[LinkModel], back: list[LinkModel]) -> bool:
        if not there:
            return False
        before = self.model
        self._become(there[-1])
        there.pop()
        back.append(before)
        return True

    @property
    def can_undo(self) -> bool:
        """Whether there is a change to take back."""
        return bool(self._undo)

    def found_out(self, end: str) -> None:
        """How its lines end was found out: nothing that a person would want to take back."""
        self._become(msgspec.structs.replace(self.model, end=end))

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
