"""The bag: the kit that the records keep, one for the window and for the link that is open."""

from typing import TYPE_CHECKING

from humble_courier.app.kit.contents import EMPTY, credited, load_kit, save_kit
from humble_courier.documents.kit import KitModel
from humble_courier.documents.link import LinkPart
from humble_courier.errors import BadInput, ChangedElsewhere

if TYPE_CHECKING:
    from humble_courier.records.store import Store


class Bag:
    """Read once; every change is saved before the method returns."""

    def __init__(self, store: "Store") -> None:
        self._store, self.problem = store, ""
        try:
            self.kit: KitModel = load_kit(store)
        except BadInput as error:  # what cannot be read stays as it is: nothing is put in its place
            self.kit, self.problem = EMPTY, error.text

    def change(self, kit: KitModel) -> None:
        """Take another version of the kit. Raises ChangedElsewhere, with what the records hold taken."""
        try:
            save_kit(self._store, kit, self.kit)
        except ChangedElsewhere:
            self.kit = load_kit(self._store)
            raise
        self.kit = kit

    def credit(self, parts: list[LinkPart], served: bool, serial: str = "") -> None:
        """Note on each of these parts, where the kit has it, that it served or failed once more. `serial`: the adapter's."""
        try:
            self.change(credited(self.kit, parts, served, serial))
        except ChangedElsewhere:
            self.change(credited(self.kit, parts, served, serial))  # to what the other window has made of it
