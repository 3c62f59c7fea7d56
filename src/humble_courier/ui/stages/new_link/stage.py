"""A link of one's own, begun with what is seen at the device: its connector, what it is, which plug, which way there."""

from collections.abc import Sequence
from functools import partial

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QButtonGroup, QComboBox, QHBoxLayout, QLineEdit, QPushButton

from humble_courier.app.wire.wire_map import WireMap
from humble_courier.ui.stage_widget import StageWidget
from humble_courier.ui.theme import Theme
from humble_courier.ui.widgets.basics import button, label
from humble_courier.ui.widgets.face_tiles import FaceTiles
from humble_courier.ui.widgets.flow import FlowRow
from humble_courier.ui.widgets.state_list import StateList
from humble_courier.ui.widgets.two_columns import TwoColumns
from humble_courier.ui.widgets.wire_view import WireView

NARROW = 760  # pixels of plain type below which the two columns stand one above the other
HALVES = (("socket", "holes: a socket"), ("plug", "pins: a plug"))


class NewLinkStage(StageWidget):
    """Everything that is picked stays until it is put on the line.

    `face_chosen`, `half_chosen`, `searched`, `device_chosen`, `way_chosen` tell one choice each; `made` whether to listen.
    """

    face_chosen = pyqtSignal(int)
    half_chosen = pyqtSignal(str)
    searched = pyqtSignal(str)
    device_chosen = pyqtSignal(int)
    way_chosen = pyqtSignal(int)
    port_chosen = pyqtSignal(str)
    made = pyqtSignal(bool)

    def __init__(self) -> None:
        super().__init__()
        self.columns = TwoColumns(NARROW, (5, 6), 24)
        self._left, self._right = self.columns.left, self.columns.right
        self.column.addWidget(self.columns, 1)
        self._seen()
        self._ways()

    def _seen(self) -> None:
        self.faces = FaceTiles()
        self.faces.chosen.connect(self.face_chosen.emit)
        self._left.addWidget(label("1  What do you see at the device?", "title"))
        self._left.addWidget(self.faces)
        group = QButtonGroup(self)
        self.halves: dict[str, QPushButton] = {}
        for half, text in HALVES:
            made = button(text, "act", partial(self.half_chosen.emit, half))
            made.setCheckable(True)
            group.addButton(made)
            self.halves[half] = made
        self._left.addWidget(FlowRow(list(self.halves.values())))
        self._left.addWidget(label("2  What is it?", "title"))
        self.search = QLineEdit()
        self.search.setPlaceholderText("a word of its name or its use, as in recorder or vehicle")
        self.search.setAccessibleName("Search the devices and kinds")
        self.search.textChanged.connect(self.searched.emit)
        self.devices = StateList("Devices and kinds with this connector")
        self.devices.taken.connect(self.device_chosen.emit)
        self._left.addWidget(self.search)
        self._left.addWidget(self.devices, 1)
        self._left.addWidget(label("3  Which plug is the adapter's?", "title"))
        self.port = QComboBox()
        self.port.setEditable(True)
        self.port.setAccessibleName("Port of this computer")
        self.port.currentTextChanged.connect(self.port_chosen.emit)
        self.port_hint = label("", "small", wrap=True)
        self._left.addWidget(self.port)
        self._left.addWidget(self.port_hint)

    def _ways(self) -> None:
        self._right.addWidget(label("4  How it gets there", "title"))
        self.ways = StateList("Ways from this computer to the device")
        self.ways.taken.connect(self.way_chosen.emit)
        self._right.addWidget(self.ways, 4)
        self.preview_title, self.preview_reason = label("", "title", wrap=True), label("", "quiet", wrap=True)
        self.map = WireView(Theme())
        self._right.addWidget(self.preview_title)
        self._right.addWidget(self.preview_reason)
        self._right.addWidget(self.map, 3)
        row = QHBoxLayout()
        self.name = QLineEdit()
        self.name.setPlaceholderText("place and device, as in Weir, level logger")
        self.name.setAccessibleName("Name of the link")
        row.addWidget(label("5  Name", "title"))
        row.addWidget(self.name, 1)
        self._right.addLayout(row)
        self.listen_button = button("Put it on the line and listen", "main", lambda: self.made.emit(True), "Ctrl+Return")
        self.create_button = button("Only put it on the line", "", lambda: self.made.emit(False), "Ctrl+L")
        self._right.addWidget(FlowRow([self.listen_button, self.create_button]))

    def show_ports(self, ports: Sequence[tuple[str, str]], current: str, hint: str) -> None:
        """The ports to choose from; what was typed or chosen stays."""
        self.port.blockSignals(True)
        listed = [(self.port.itemData(i), self.port.itemText(i)) for i in range(self.port.count())]
        if listed != list(ports):
            self.port.clear()
            for address, told in ports:
                self.port.addItem(told, address)
        at = next((i for i, (address, _) in enumerate(ports) if address == current), -1)
        self.port.setCurrentIndex(at)
        if at < 0:
            self.port.setCurrentText(current)
        edit = self.port.lineEdit()
        if edit is not None and not ports:
            edit.setPlaceholderText("no port found: plug the adapter in, or type an address")
        self.port.blockSignals(False)
        self.port_hint.setText(hint)

    def address(self) -> str:
        """The port that is chosen or typed."""
        at = self.port.currentIndex()
        listed = at >= 0 and self.port.currentText() == self.port.itemText(at)
        return str(self.port.itemData(at)) if listed else self.port.currentText().strip()

    def show_half(self, halves: Sequence[str], chosen: str) -> None:
        """Which halves such a connector is met as, and the one that is chosen."""
        for half, made in self.halves.items():
            made.setVisible(half in halves or "either" in halves)
            made.setChecked(half == chosen)

    def show_wiring(self, wiring: WireMap | None, theme: Theme) -> None:
        """The wiring of the chosen way."""
        self.columns.show_scale(theme.scale)
        self.ways.setMinimumHeight(theme.px(3 * 46 + 8))
        self.devices.setMinimumHeight(theme.px(3 * 46 + 8))
        self.map.setVisible(wiring is not None)
        self.preview_title.setText(f"This way: {wiring.headline}" if wiring is not None else "")
        self.preview_reason.setText(wiring.reason if wiring is not None else "")
        if wiring is not None:
            self.map.show_map(wiring, theme)
        for made in (self.listen_button, self.create_button):
            made.setEnabled(wiring is not None)
