"""Notes and files of a link of the records, asked for and made by its name."""

from pathlib import Path
from typing import TYPE_CHECKING, Any

from humble_courier.app.contents import Contents
from humble_courier.app.link.ledger import FactLedger
from humble_courier.catalog.load import Catalog
from humble_courier.errors import BadInput

if TYPE_CHECKING:
    from humble_courier.records.store import Store


class NotedLink:
    """One link of the records. Raises BadInput where there is none of that name, or several."""

    def __init__(self, store: "Store", name: str) -> None:
        named = [(id_, known) for id_, known in store.links() if name in (id_, known)]
        near = named or [(id_, known) for id_, known in store.links() if name.lower() in known.lower()]
        if len(near) != 1:
            known = ", ".join(one for _, one in near) or "none"
            raise BadInput(f"“{name}” names {known}: give the whole name of one link, as Records shows it")
        self._store, (self.id, self.name) = store, near[0]
        self.ledger = FactLedger(store, self.id)

    def document(self, catalog: Catalog) -> dict[str, Any]:
        """The document of `notes`: values with their history, files with where their copy lies."""
        model = self._store.link(self.id)
        device = model.device.device if model is not None else None
        sheet = catalog.device(device) if device is not None and catalog.has_sheet(device) else None
        contents = Contents(self._store.path.parent)
        return {
            "link": self.name,
            "notes": [
                {
                    "name": note.name, "value": note.now or None,
                    "history": [{"value": one.value, "at": one.at, "source": one.source} for one in note.values],
                }
                for note in self.ledger.notes(sheet, {})
            ],
            "files": [
                {"name": one.name, "at": one.at, "size": one.size, "note": one.note, "path": str(contents.path(one.content))}
                for one in self.ledger.files()
            ],
        }  # fmt: skip

    def keep(self, path: Path) -> None:
        """Keep a picture or a file. Raises BadInput and MachineRefused."""
        self.ledger.keep_file(path.name, Contents(self._store.path.parent).keep(path), "")
