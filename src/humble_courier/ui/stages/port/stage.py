"""Port: which one is mine, who claims it, may I open it?"""

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QFont
from PyQt6.QtWidgets import QHBoxLayout, QLineEdit, QListWidget, QListWidgetItem, QScrollArea

from humble_courier.app.port.machine import PortRow
from humble_courier.app.port.story import StoryStep
from humble_courier.ui.stage_widget import StageWidget
from humble_courier.ui.theme import Theme
from humble_courier.ui.widgets.basics import ButtonGrid, button, label, page_button, plain_tip, rename
from humble_courier.ui.widgets.steps_view import StepsView

LEAST = 150  # pixels of the list: three ports and a half


class PortStage(StageWidget):
    """The ports as they come and go, the way from the plug to the open port, and the address of this link's port."""

    chosen = pyqtSignal(str)
    again = pyqtSignal()
    marked = pyqtSignal(int)
    pulled = pyqtSignal()
    machine_changed = pyqtSignal()
    log_wanted = pyqtSignal()
    name_wanted = pyqtSignal()
    plan_wanted = pyqtSignal()
    numbers_wanted = pyqtSignal()
    label_wanted = pyqtSignal()
    folded = pyqtSignal()
    other_wanted = pyqtSignal()  # the link that belongs to the marked port

    def __init__(self) -> None:
        super().__init__()
        self.which = label("", "title", wrap=True)
        self.column.addWidget(self.which)
        self.ports = QListWidget()
        self.ports.setAccessibleName("Serial ports, as they come and go")
        self.ports.setWordWrap(True)
        self.ports.setMinimumHeight(LEAST)
        self.ports.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.ports.itemActivated.connect(lambda _: self._activated())
        self.ports.currentRowChanged.connect(self.marked.emit)
        self.hint = label("", "quiet", wrap=True)
        self.column.addWidget(self.hint)
        self.steps = StepsView()
        self.steps.setObjectName("lanes")
        self.steps.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        scroll = QScrollArea()
        scroll.setWidgetResizable(True)
        scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        scroll.setWidget(self.steps)
        body = QHBoxLayout()
        body.setSpacing(16)
        body.addWidget(self.ports, 5)
        body.addWidget(scroll, 6)
        self.column.addLayout(body, 1)
        self.acts = self._acts()
        self.column.addWidget(self.acts)
        self.other = button("", "", self.other_wanted.emit)
        self.column.addWidget(self.other, 0, Qt.AlignmentFlag.AlignLeft)
        self.other.hide()
        row = QHBoxLayout()
        self.address = QLineEdit()
        self.address.setAccessibleName("Address of this link's port")
        self.address.setPlaceholderText("/dev/ttyUSB0, socket://HOST:PORT, rfc2217://HOST:PORT, sim://bench/DEVICE")
        self.use = button("Use this port", "main", lambda: self.chosen.emit(self.address.text().strip()), "Ctrl+P")
        self.offer = button("", "", lambda: self.chosen.emit(self._offered))
        self.offer.setToolTip("The port that is marked in the list")
        self.offer.hide()
        self._offered = ""
        row.addWidget(label("This link's port", "small"))
        row.addWidget(self.address, 1)
        row.addWidget(self.use)
        row.addWidget(self.offer)
        self.column.addLayout(row)
        self.caution, self.opening = label("", "caution", wrap=True), label("", "quiet", wrap=True)
        for widget in (self.caution, self.opening):
            self.column.addWidget(widget)
        self._rows: list[PortRow] = []

    def _acts(self) -> ButtonGrid:
        self.pull = page_button("", "Ctrl+X", self.pulled.emit)
        self.switch = page_button("", "Ctrl+R", self.machine_changed.emit)
        self.name = page_button("A name that stays", "Ctrl+N", self.name_wanted.emit)
        return ButtonGrid([
            self.pull,
            page_button("Look again", "F5", self.again.emit),
            page_button("Kernel log", "Ctrl+L", self.log_wanted.emit),
            self.name,
            page_button("Driver plan", "Ctrl+D", self.plan_wanted.emit),
            page_button("Port numbers", "Ctrl+O", self.numbers_wanted.emit),
            page_button("Print a label", "Ctrl+B", self.label_wanted.emit),
            self.switch,
        ])  # fmt: skip

    def _activated(self) -> None:
        at = self.ports.currentRow()
        if 0 <= at < len(self._rows) and self._rows[at].folds:
            self.folded.emit()
        else:
            self.chosen.emit(self._offered or self.address.text().strip())

    def show_offered(self, address: str) -> None:
        """A port of the machine that is not this link's: offered beside the field, in which what is typed stays."""
        self._offered = address
        self.offer.setVisible(bool(address))
        self.offer.setText(f"Use {address.removeprefix('/dev/')}  Ctrl+M")
        self.offer.setShortcut("Ctrl+M")

    def forget_typed(self) -> None:
        """What stands in the field is the port of the link again."""
        self.address.setModified(False)

    def show_other(self, name: str) -> None:
        """The link that was last opened with the adapter of the marked port, where it is another one."""
        self.other.setVisible(bool(name))
        self.other.setText(f"Open its link: {name}  Ctrl+J")
        self.other.setShortcut("Ctrl+J")

    def show_machine(self, rows: list[PortRow], which: str, simulated: bool, may_switch: bool, plug_out: bool) -> None:
        """Show the list; it keeps its mark while ports come and go."""
        self.which.setText(which)
        rename(self.pull, "Put the plug back" if plug_out else "Pull this plug", "Ctrl+X")
        rename(self.switch, "Real machine" if simulated else "Simulated machine", "Ctrl+R")
        self.acts.leave_out([b for b, seen in ((self.pull, simulated), (self.switch, may_switch)) if not seen])
        if rows == self._rows:
            return
        current = self._rows[self.ports.currentRow()].title if 0 <= self.ports.currentRow() < len(self._rows) else ""
        self._rows = rows
        self.ports.blockSignals(True)
        self.ports.clear()
        for row in rows:
            self.ports.addItem(self._item(row))
        titles = [row.title for row in rows]
        self.ports.setCurrentRow(titles.index(current) if current in titles else (0 if rows else -1))
        self.ports.blockSignals(False)
        self.ports.setVisible(bool(rows))

    def _item(self, row: PortRow) -> QListWidgetItem:
        change = f"   ◆ {row.change}" if row.change else ""
        item = QListWidgetItem(f"{row.title}{change}\n{row.detail}")
        item.setToolTip(plain_tip(row.detail))
        if row.change:
            font = QFont(item.font())
            font.setBold(True)
            item.setFont(font)
        return item

    def show_steps(self, title: str, steps: list[StoryStep], nameable: bool, theme: Theme) -> None:
        """Show the way from the plug to the open port of the marked line."""
        self.hint.setText(title)
        self.steps.show_steps(steps, theme)
        self.name.setEnabled(nameable)

    def show_link(self, address: str, caution: str, opening: str) -> None:
        """Show this link's own port, what to beware of, and what opening it does to its lines."""
        if not self.address.isModified() and self.address.text() != address:
            self.address.setText(address)
        self.caution.setText(f"▲ Caution: {caution}" if caution else "")
        self.opening.setText(opening)
