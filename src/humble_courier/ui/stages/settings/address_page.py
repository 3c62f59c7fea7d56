"""Addresses: a bus of many devices, ranges of I/O points, or two ends of a network cable."""

from enum import StrEnum

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QComboBox,
    QGridLayout,
    QHBoxLayout,
    QHeaderView,
    QLineEdit,
    QSizePolicy,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from humble_courier.app.settings.address_rows import Grid, Row
from humble_courier.app.settings.timings import Figure
from humble_courier.domain.facts import State
from humble_courier.ui.stages.settings.address_grid import AddressGrid
from humble_courier.ui.theme import Theme
from humble_courier.ui.widgets.basics import Pages, button, clear, fill, label
from humble_courier.ui.widgets.flow import FlowRow
from humble_courier.ui.widgets.steps_view import Mark


class PlanKind(StrEnum):
    """What kind of addresses."""

    BUS = "bus"
    POINTS = "points"
    NETWORK = "network"


class PlanPane(QWidget):
    """A table to type in, the picture of what follows, and what speaks against it. `changed` after each edit."""

    changed = pyqtSignal()
    one_more = pyqtSignal()
    settle = pyqtSignal()
    opened = pyqtSignal()
    saved = pyqtSignal()

    def __init__(self, first: str, second: str, columns: list[str], more: str, settle: str) -> None:
        super().__init__()
        self.kind, self.extra = QComboBox(), QLineEdit()
        self.kind.setAccessibleName(first)
        self.extra.setAccessibleName(second)
        self.kind.activated.connect(self.changed.emit)
        self.extra.editingFinished.connect(self.changed.emit)
        top = QHBoxLayout()
        for name, field in ((first, self.kind), (second, self.extra)):
            top.addWidget(label(name, "small"))
            top.addWidget(field, 1)
        self.table = QTableWidget(0, len(columns))
        self.table.setHorizontalHeaderLabels(columns)
        self.table.setAccessibleName(first)
        self.table.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        header, side = self.table.horizontalHeader(), self.table.verticalHeader()
        if header is not None and side is not None:
            header.setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
            header.setSectionResizeMode(0, QHeaderView.ResizeMode.Stretch)
            side.hide()
        self.table.setTextElideMode(Qt.TextElideMode.ElideMiddle)
        self.table.itemChanged.connect(lambda _: self.changed.emit())
        self.grid, self.says = AddressGrid(), QVBoxLayout()
        buttons = QGridLayout()
        made = (
            button(more, "", self.one_more.emit),
            button("Take the row out", "", self._take_out),
            button("Open…", "", self.opened.emit),
            button("Save…", "", self.saved.emit),
        )
        for i, one in enumerate(made):
            buttons.addWidget(one, i // 2, i % 2)
        self.settle_button = button(settle, "main", self.settle.emit)
        left, right = QVBoxLayout(), QVBoxLayout()
        left.addWidget(self.table, 1)
        left.addLayout(buttons)
        right.addWidget(self.grid)
        right.addLayout(self.says)
        right.addWidget(self.settle_button)
        right.addStretch(1)
        row = QHBoxLayout()
        row.setSpacing(20)
        row.addLayout(left, 4)
        row.addLayout(right, 5)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addLayout(top)
        column.addLayout(row, 1)

    def rows(self) -> list[Row]:
        """What is typed; rows without a name are left out."""
        made = []
        for i in range(self.table.rowCount()):
            cells = [self.table.item(i, j) for j in range(self.table.columnCount())]
            made.append(tuple(cell.text().strip() if cell is not None else "" for cell in cells))
        return [row for row in made if row[0]]

    def show_rows(self, rows: list[Row]) -> None:
        """Show rows without telling of a change."""
        if rows == self.rows():
            return
        self.table.blockSignals(True)
        self.table.setRowCount(len(rows))
        for i, row in enumerate(rows):
            for j, text in enumerate(row):
                self.table.setItem(i, j, QTableWidgetItem(text))
        self.table.blockSignals(False)

    def _take_out(self) -> None:
        at = self.table.currentRow()
        if at >= 0:
            self.table.removeRow(at)
            self.changed.emit()

    def show_plan(self, grid: Grid, told: list[Figure], may_settle: bool, theme: Theme) -> None:
        """Show what follows from the rows."""
        self.grid.show_grid(grid, theme)
        self.grid.setVisible(bool(grid.cells))
        self.settle_button.setVisible(may_settle)
        show_told(self.says, told, theme)


class NetworkPane(QWidget):
    """Addresses typed, the verdict beside them; it is tried by one press, asked and set over the serial port by others."""

    changed = pyqtSignal()
    tried = pyqtSignal()
    taken = pyqtSignal()
    asked = pyqtSignal()
    said = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        rows = (
            ("device", "Device, as in 192.0.2.10/24", ""),
            ("computer", "Computer, at the cable to the device", ""),
            ("others", "Its further addresses", ""),
            ("site", "In use at the site", ""),
            ("wanted", "Address that the device shall have", ""),
        )
        self.fields: dict[str, QLineEdit] = {}
        left = QVBoxLayout()
        left.setSpacing(4)
        self.sockets = QComboBox()
        self.sockets.setAccessibleName("Network socket of this computer")
        self.sockets.activated.connect(self._take_socket)
        for key, text, value in rows:
            field = QLineEdit(value)
            field.setAccessibleName(text)
            field.editingFinished.connect(self.changed.emit)
            self.fields[key] = field
            name = label(text, "small")
            name.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Fixed)
            left.addWidget(name)
            left.addWidget(field)
            if key == "computer":
                left.addWidget(self.sockets)
        self.reach = button("Is it there?", "", self.tried.emit, "Alt+I")
        self.take = button("Use it as this link's port", "", self.taken.emit)
        self.ask = button("Ask its address", "", self.asked.emit, "Alt+A")
        self.set = button("", "", self.said.emit)
        self.will_send = label("", "caution", wrap=True)
        left.addStretch(1)
        self.says = QVBoxLayout()
        right = QVBoxLayout()
        right.addLayout(self.says)
        right.addStretch(1)
        row = QHBoxLayout()
        row.setSpacing(24)
        row.addLayout(left, 2)
        row.addLayout(right, 5)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(FlowRow([self.reach, self.take, self.ask, self.set]))
        column.addWidget(self.will_send)
        column.addLayout(row)

    def _take_socket(self) -> None:
        self.fields["computer"].setText(self.sockets.currentText().partition(" ")[2])
        self.changed.emit()

    def begin(self, device: str, sockets: list[tuple[str, str]]) -> None:
        """Fill in what is known of device and computer."""
        self.sockets.clear()
        fill(self.sockets, [(name, f"{name} {address}") for name, address in sockets], sockets[0][0] if sockets else "")
        self.fields["device"].setText(device)
        self.fields["computer"].setText(sockets[0][1] if sockets else "")
        self.fields["others"].setText(" ".join(address for _, address in sockets[1:]))

    def show_acts(self, says: str, found: bool, may_ask: bool, next_line: str) -> None:
        """What trying sends; whether a port was found open, the address can be asked for, and which line sets it next."""
        self.will_send.setText(says)
        self.take.setVisible(found)
        self.ask.setVisible(may_ask)
        self.set.setVisible(bool(next_line))
        self.set.setText(f"Say “{next_line}”")

    def show_told(self, blocks: list[tuple[str, list[Figure]]], theme: Theme) -> None:
        """Show blocks of figures, each with its title."""
        clear(self.says)
        for title, told in blocks:
            self.says.addWidget(label(title, "title"))
            inner = QVBoxLayout()
            self.says.addLayout(inner)
            show_told(inner, told, theme)


def show_told(into: QVBoxLayout, told: list[Figure], theme: Theme) -> None:
    """Figures with their marks, a row each."""
    clear(into)
    grid = QGridLayout()
    grid.setVerticalSpacing(5)
    grid.setHorizontalSpacing(12)
    grid.setColumnStretch(1, 2)
    grid.setColumnStretch(2, 5)
    for i, figure in enumerate(told):
        grid.addWidget(Mark(State.PROVEN if figure.good else State.CONTRADICTED, theme), i, 0)
        grid.addWidget(label(figure.what, "quiet", wrap=True), i, 1)
        grid.addWidget(label(figure.value, "" if figure.good else "wrong", wrap=True), i, 2)
    into.addLayout(grid)


class AddressPage(QWidget):
    """Three panes, one shown."""

    kind_chosen = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.chooser = QComboBox()
        self.chooser.setAccessibleName("What is addressed")
        kinds = [
            (PlanKind.BUS.value, "Many devices on one bus"),
            (PlanKind.POINTS.value, "Points of I/O modules"),
            (PlanKind.NETWORK.value, "Two ends of a network cable"),
        ]
        fill(self.chooser, kinds, PlanKind.BUS.value)
        self.bus = PlanPane(
            "Protocol", "Settings of the bus",
            ["Device", "Address", "Switches", "Own settings"],
            "One more alike", "Give free addresses to those in conflict",
        )  # fmt: skip
        self.points = PlanPane(
            "Numbered in", "Last point there is",
            ["Module", "Points", "Start"],
            "One more module", "Place those in conflict after the others",
        )  # fmt: skip
        self.network = NetworkPane()
        self.panes = {PlanKind.BUS: self.bus, PlanKind.POINTS: self.points, PlanKind.NETWORK: self.network}
        self._pages = Pages()
        for pane in self.panes.values():
            self._pages.addWidget(pane)
        self.chooser.activated.connect(self._choose)
        self.problem = label("", "wrong", wrap=True)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 4, 0, 0)
        column.addWidget(self.chooser)
        column.addWidget(self.problem)
        column.addWidget(self._pages, 1)

    @property
    def kind(self) -> PlanKind:
        """Which pane is shown."""
        return PlanKind(self.chooser.currentData())

    def choose(self, kind: PlanKind) -> None:
        """Show a pane."""
        self.chooser.setCurrentIndex(self.chooser.findData(kind.value))
        self._choose()

    def _choose(self) -> None:
        self._pages.setCurrentWidget(self.panes[self.kind])
        self.kind_chosen.emit()
