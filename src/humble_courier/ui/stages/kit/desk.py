"""The desk of the Kit: hands the page what is in the bag, and turns its intents into calls."""

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtWidgets import QFileDialog

from humble_courier.app.files import write_whole
from humble_courier.app.kit.contents import load_kit, own_lead, parts_of, read_kit_text, save_kit, with_count, with_item
from humble_courier.app.link import choices
from humble_courier.app.link.workbench import Workbench
from humble_courier.catalog.load import Catalog
from humble_courier.documents.kit import KitItem, KitModel
from humble_courier.documents.link_changes import yaml_text
from humble_courier.documents.reader import read_text
from humble_courier.ui.stages.kit.stage import KitStage

if TYPE_CHECKING:
    from humble_courier.records.store import Store

Do = Callable[[Callable[[], object]], None]  # carries an act out, tells a mistake, refreshes the window


class KitDesk:
    """The kit belongs to the records; a link that is open works with the same one."""

    def __init__(self, stage: KitStage, catalog: Catalog, do: Do) -> None:
        self.stage, self.catalog, self._do = stage, catalog, do
        self.store: Store | None = None
        self.bench: Workbench | None = None
        stage.counted.connect(lambda i, n: do(lambda: self._keep(with_count(self.kit, i, n))))
        stage.added.connect(lambda id_: do(lambda: self._keep(with_item(self.kit, KitItem(part=id_)))))
        stage.made.connect(self._make)
        stage.opened.connect(self._open)
        stage.saved.connect(self._save)

    @property
    def kit(self) -> KitModel:
        """The kit as the records have it."""
        assert self.store is not None, "only called where the records are open"
        return load_kit(self.store)

    def _keep(self, kit: KitModel) -> None:
        assert self.store is not None
        if self.bench is not None:
            self.bench.change_kit(kit)
        else:
            save_kit(self.store, kit)

    def show(self, store: "Store", bench: Workbench | None) -> None:
        """Hand the current kit to the page."""
        self.store, self.bench = store, bench
        rows = []
        for found in parts_of(self.kit, self.catalog):
            item, ends = found.item, " to ".join(str(end.connector) for end in found.part.ends)
            length = item.length_m if item.length_m is not None else found.part.length_m
            history = f"served {item.successes}, failed {item.failures}" if item.successes or item.failures else ""
            rows.append((found.part.name, ends + (f", {length:g} m" if length else ""), item.count, history))
        self.stage.show_kit(rows, [*choices.adapters(self.catalog)[:-1], *choices.between(self.catalog)])

    def _make(self, name: str, first: str, second: str, conductors: str) -> None:
        self._do(lambda: self._keep(with_item(self.kit, own_lead(name, first, second, conductors, self.catalog))))

    def _open(self) -> None:
        chosen, _ = QFileDialog.getOpenFileName(self.stage, self.stage.tr("Open a kit file"), "", "YAML (*.yaml *.yml)")
        if chosen:
            self._do(lambda: self._keep(read_kit_text(read_text(Path(chosen)), chosen, self.catalog)))

    def _save(self) -> None:
        chosen, _ = QFileDialog.getSaveFileName(self.stage, self.stage.tr("Save"), "kit.yaml", "YAML (*.yaml)")
        if chosen:
            self._do(lambda: write_whole(Path(chosen), yaml_text(self.kit).encode()))
