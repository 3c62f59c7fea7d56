"""The desk of the Kit: hands the page what is in the bag, and turns its intents into calls."""

from collections.abc import Callable
from pathlib import Path

from PyQt6.QtWidgets import QFileDialog

from humble_courier.app.files import write_whole
from humble_courier.app.kit.bag import Bag
from humble_courier.app.kit.contents import (
    KitRow,
    found_in,
    individual,
    listed,
    own_lead,
    read_kit_text,
    with_count,
    with_item,
)
from humble_courier.app.kit.own_connectors import learnt
from humble_courier.app.link import choices
from humble_courier.documents.kit import KitItem, KitModel
from humble_courier.documents.link_changes import yaml_text
from humble_courier.documents.reader import read_text
from humble_courier.errors import BadInput
from humble_courier.ui.desk import StageDesk
from humble_courier.ui.stages.kit.stage import KitStage
from humble_courier.ui.workplace import Workplace

ROW = 46  # height in pixels at the usual size of type


class KitDesk(StageDesk):
    """The kit belongs to the records; a link that is open works with the same one."""

    def __init__(self, work: Workplace) -> None:
        self.stage = KitStage()
        super().__init__(self.stage, work)
        self._words = ""
        self._listed: tuple[KitModel, list[KitRow]] | None = None  # so that a large bag is not looked up again and again
        stage = self.stage
        stage.counted.connect(lambda i, n: self._change(lambda kit: with_count(kit, i, n)))
        stage.added.connect(lambda id_: self._change(lambda kit: with_item(kit, KitItem(part=id_), work.catalog)))
        stage.made.connect(self._make)
        stage.told_apart.connect(lambda i, module, serial: self._tell_apart(i, module, serial))
        stage.table.chosen.connect(self._chosen)
        stage.plugged_wanted.connect(lambda: work.do(self._plugged))
        stage.searched.connect(self._search)
        stage.opened.connect(self._open)
        stage.saved.connect(self._save)

    def _bag(self) -> Bag:
        return self.work.opened_records().bag

    def _change(self, changed: Callable[[KitModel], KitModel]) -> None:
        bag = self._bag()
        self.work.do(lambda: bag.change(changed(bag.kit)))

    def show(self) -> None:
        """Hand the current kit to the page."""
        catalog = self.work.catalog
        parts = [*choices.adapters(catalog)[:-1], *choices.between(catalog)]
        if problem := self._bag().problem:
            self.stage.problem(problem)
        if self._listed is None or self._listed[0] is not self._bag().kit:
            self._listed = self._bag().kit, listed(self._bag().kit, catalog)
        rows, theme = self._listed[1], self.work.theme
        pieces = sum(row.count for row in rows)
        self.stage.show_kit(found_in(rows, self._words), pieces, parts, theme.px(ROW), theme)

    def _search(self, words: str) -> None:
        self._words = words
        self.show()

    def _chosen(self, row: int) -> None:
        items = self._bag().kit.items
        if row < len(items):
            self.stage.show_piece(items[row].module, items[row].serial)

    def _tell_apart(self, row: int, module: str, serial: str) -> None:
        if row >= 0:
            self._change(lambda kit: individual(kit, row, module, serial))

    def _plugged(self) -> None:
        """Module and serial number of the adapter of the link on the line. Raises BadInput where none is known."""
        used = self.work.link.profiles.profile if self.work.link is not None else None
        if used is None or not used.driver:
            raise BadInput("no adapter is known to be plugged in: choose the port of a link first")
        self.stage.show_piece(used.driver, used.serial or "")

    def _make(self, name: str, first: str, second: str, conductors: str) -> None:
        catalog, bag = self.work.catalog, self._bag()

        def make() -> None:
            lead = own_lead(name, learnt(first, catalog), learnt(second, catalog), conductors, catalog)
            bag.change(with_item(bag.kit, lead, catalog))

        self.work.do(make)

    def _open(self) -> None:
        chosen, _ = QFileDialog.getOpenFileName(self.stage, "Open a kit file", "", "YAML (*.yaml *.yml)")
        if chosen:
            self._change(lambda _: read_kit_text(read_text(Path(chosen)), chosen, self.work.catalog))

    def _save(self) -> None:
        chosen, _ = QFileDialog.getSaveFileName(self.stage, "Save", "kit.yaml", "YAML (*.yaml)")
        if chosen:
            text = yaml_text(self._bag().kit)
            self.work.do(lambda: write_whole(Path(chosen), text.encode()))
