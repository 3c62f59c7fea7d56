"""The bag: the kit that the records keep, one for the window and for the link that is open."""

from typing import TYPE_CHECKING

from humble_courier.app.kit.contents import credited, load_kit, save_kit
from humble_courier.documents.kit import KitModel
from humble_courier.documents.link import LinkPart

if TYPE_CHECKING:
    from humble_courier.records.store import Store


class Bag:
    """Read once; every change is saved before the method returns."""

    def __init__(self, store: "Store") -> None:
        self._store = store
        self.kit: KitModel = load_kit(store)

    def change(self, kit: KitModel) -> None:
        """Take another version of the kit."""
        self.kit = kit
        save_kit(self._store, kit)

    def credit(self, parts: list[LinkPart], served: bool) -> None:
        """Note on each of these parts, where the kit has it, that it served once more, or failed."""
        self.change(credited(self.kit, parts, served))
