"""Addresses: a bus of many devices, ranges of I/O points, or two ends of a network cable."""

from collections.abc import Sequence
from enum import StrEnum

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import (
    QComboBox,
    QGridLayout,
    QHBoxLayout,
    QLineEdit,
    QScrollArea,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from humble_courier.app.settings.address_rows import BusLine, Grid, Row
from humble_courier.app.settings.timings import Figure
from humble_courier.domain.facts import State
from humble_courier.ui.stages.settings.address_grid import AddressGrid
from humble_courier.ui.stages.settings.bus_view import BusView
from humble_courier.ui.theme import Theme
from humble_courier.ui.widgets.basics import Pages, button, captioned, clear, fill, label
from humble_courier.ui.widgets.flow import FlowRow
from humble_courier.ui.widgets.steps_view import Mark
from humble_courier.ui.widgets.two_columns import TwoColumns
from humble_courier.ui.widgets.typed_rows import TypedTable

NARROW, LEAST_TABLE = 640, 230  # pixels of plain type: below which the picture stands under the rows; of the rows
MOST_TOLD = 12  # figures below each other; more cannot be read beside the rows


class PlanKind(StrEnum):
    """What kind of addresses."""

    BUS = "bus"
    POINTS = "points"
    NETWORK = "network"
    SITE = "site"


class PlanPane(QWidget):
    """A table to type in, the picture of what follows, and what speaks against it. `changed` after each edit."""

    changed = pyqtSignal()
    one_more = pyqtSignal()
    settle = pyqtSignal()
    opened = pyqtSignal()
    saved = pyqtSignal()

    def __init__(self, first: str, extras: list[str], columns: list[str], more: str, settle: str) -> None:
        super().__init__()
        self.kind = QComboBox()
        self.kind.setAccessibleName(first)
        self.kind.activated.connect(self.changed.emit)
        self.extras = [QLineEdit() for _ in extras]
        pairs = [captioned(n, f) for n, f in zip([first, *extras], [self.kind, *self.extras], strict=True)]
        for field in self.extras:
            field.editingFinished.connect(self.changed.emit)
        self.table = TypedTable(columns, f"{columns[0]}s, a row each; rows copied from a table elsewhere are put in")
        self.table.edited.connect(self.changed.emit)
        self.bus, self.grid, self.says = BusView(), AddressGrid(), QVBoxLayout()
        self.settle_button = button(settle, "main", self.settle.emit)
        acts = FlowRow([
            button(more, "", self.one_more.emit), button("Take the row out", "", self._take_out),
            button("Open…", "", self.opened.emit), button("Save…", "", self.saved.emit),
        ])  # fmt: skip
        self.body = TwoColumns(NARROW, (7, 5), 20)
        self.body.setObjectName("lanes")
        self.body.left.addWidget(acts)
        self.body.left.addWidget(self.table, 1)
        self.body.right.addWidget(FlowRow([self.settle_button]))
        self.body.right.addLayout(self.says)
        self.body.right.addWidget(self.grid)
        self.body.right.addStretch(1)
        scroll = QScrollArea()
        scroll.setWidgetResizable(True)
        scroll.setAccessibleName("Rows, and what follows from them")
        whole = QWidget()
        whole.setObjectName("lanes")
        inside = QVBoxLayout(whole)
        inside.setContentsMargins(0, 0, 14, 0)  # what is told does not touch the scroll bar
        inside.addWidget(FlowRow(pairs, wide=tuple(pairs)))
        inside.addWidget(self.bus)
        inside.addWidget(self.body, 1)
        scroll.setWidget(whole)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(scroll)

    @property
    def extra(self) -> QLineEdit:
        """The field beside the kind."""
        return self.extras[0]

    def rows(self) -> list[Row]:
        """What is typed; rows without a name are left out."""
        return [row for row in self.table.typed.rows if row[0]]

    def show_rows(self, rows: list[Row]) -> None:
        """Show rows without telling of a change."""
        if rows != self.rows():
            self.table.show_rows(rows)

    def _take_out(self) -> None:
        if self.table.take_out():
            self.changed.emit()

    def show_plan(
        self, grid: Grid, told: list[Figure], may_settle: bool, theme: Theme, buses: Sequence[BusLine] = ()
    ) -> None:
        """Show what follows from the rows, and the buses that they make."""
        self.bus.show_lines(buses, theme)
        self.body.show_scale(theme.scale)
        self.table.setMinimumHeight(theme.px(LEAST_TABLE))
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
        self.put_back = button("", "", self._put_back)
        self._before = ""
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
        column.addWidget(FlowRow([self.reach, self.take, self.ask, self.set, self.put_back]))
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

    def _put_back(self) -> None:
        """The address that was noted before becomes the wanted one; it is said as any other is."""
        self.fields["wanted"].setText(self._before)
        self.changed.emit()

    def show_before(self, before: str) -> None:
        """The address that the device had before it was changed; empty where none was noted."""
        self._before = before
        self.put_back.setVisible(bool(before))
        self.put_back.setText(f"Put back {before}, as noted before the change")

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
    for i, figure in enumerate(told[:MOST_TOLD]):
        grid.addWidget(Mark(State.PROVEN if figure.good else State.CONTRADICTED, theme), i, 0)
        grid.addWidget(label(figure.what, "quiet", wrap=True), i, 1)
        grid.addWidget(label(figure.value, "" if figure.good else "wrong", wrap=True), i, 2)
    if len(told) > MOST_TOLD:
        grid.addWidget(
            label(f"{len(told) - MOST_TOLD} more of this kind are judged and not shown", "small", wrap=True),
            MOST_TOLD,
            1,
            1,
            2,
        )
    into.addLayout(grid)


class AddressPage(QWidget):
    """One pane a kind of plan, one shown."""

    kind_chosen = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.chooser = QComboBox()
        self.chooser.setAccessibleName("What is addressed")
        kinds = [
            (PlanKind.BUS.value, "Many devices on one bus"),
            (PlanKind.SITE.value, "Devices of a whole site, over several buses"),
            (PlanKind.POINTS.value, "Points of I/O modules"),
            (PlanKind.NETWORK.value, "Two ends of a network cable"),
        ]
        fill(self.chooser, kinds, PlanKind.BUS.value)
        self.bus = PlanPane(
            "Protocol", ["Settings of the bus"],
            ["Device", "Address", "Switches", "Own settings"],
            "One more alike", "Give free addresses to those in conflict",
        )  # fmt: skip
        self.site = PlanPane(
            "Protocol", ["Settings", "Devices a segment", "Instances from-to", "Kept addresses"],
            ["Device", "Segment", "Address", "Switches", "Instance"],
            "One more alike", "Write addresses, switches and instances into the rows",
        )  # fmt: skip
        self.points = PlanPane(
            "Numbered in", ["Last point there is"],
            ["Module", "Letter", "Points", "Start"],
            "One more module", "Place those in conflict after the others",
        )  # fmt: skip
        self.network = NetworkPane()
        self.panes = {
            PlanKind.BUS: self.bus,
            PlanKind.SITE: self.site,
            PlanKind.POINTS: self.points,
            PlanKind.NETWORK: self.network,
        }
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
