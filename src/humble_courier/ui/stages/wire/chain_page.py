"""Choose from the kit: the best chains, the verdict on the one that is marked, and what to do where none serves."""

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QListWidget, QVBoxLayout, QWidget

from humble_courier.app.wire.wire_map import WireMap
from humble_courier.ui.theme import Theme
from humble_courier.ui.widgets.basics import button, label
from humble_courier.ui.widgets.wire_view import WireView


class ChainPage(QWidget):
    """A list of chains with the map of the marked one below it. Signals give the place in the list."""

    marked = pyqtSignal(int)
    taken = pyqtSignal(int)
    build_wanted = pyqtSignal()

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self._lines: list[str] = []
        self.list = QListWidget()
        self.list.setAccessibleName("Chains out of the kit, best first")
        self.list.setWordWrap(True)
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.list.currentRowChanged.connect(lambda row: self.marked.emit(row) if row >= 0 else None)
        self.list.itemActivated.connect(lambda item: self.taken.emit(self.list.row(item)))
        self.view = WireView(theme)
        self.take = button("Take this chain", "main", lambda: self.taken.emit(self.list.currentRow()), "Ctrl+T")
        self.build = button("Build a cable", "", self.build_wanted.emit, "Ctrl+B")
        self.advice = label("", "", wrap=True)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(8)
        column.addWidget(self.list)
        column.addWidget(self.advice)
        column.addWidget(self.view, 1)
        row = QHBoxLayout()
        row.addWidget(self.take)
        row.addWidget(self.build)
        row.addStretch(1)
        column.addLayout(row)

    def show_chains(self, lines: list[str], advice: str) -> None:
        """Show one line for each chain, and advice where there is none."""
        if lines != self._lines:
            self._lines = lines
            self.list.clear()
            self.list.addItems(lines)
            self.list.setCurrentRow(0 if lines else -1)
        self.list.setVisible(bool(lines))
        self.list.setFixedHeight(sum(self.list.sizeHintForRow(i) for i in range(len(lines))) + 8)
        self.advice.setText(advice)
        self.advice.setVisible(bool(advice))
        self.take.setEnabled(bool(lines))

    def show_map(self, wiring: WireMap | None, theme: Theme) -> None:
        """Show the map of the marked chain."""
        self.view.setVisible(wiring is not None)
        if wiring is not None:
            self.view.show_map(wiring, theme)
