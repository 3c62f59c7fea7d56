"""A link of one's own: pick the port, the parts and the device."""

from dataclasses import dataclass

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QComboBox, QGridLayout, QHBoxLayout, QLineEdit, QVBoxLayout

from humble_courier.app.wire.wire_map import WireMap
from humble_courier.ui.stage_widget import StageWidget
from humble_courier.ui.theme import Theme
from humble_courier.ui.widgets.basics import button, label
from humble_courier.ui.widgets.wire_view import WireView


@dataclass(frozen=True)
class Picked:
    """What was picked: name of the link, address of the port, ids of adapter, cable and device; empty where nothing was."""

    name: str
    address: str
    adapter: str
    cable: str
    device: str

    @property
    def parts(self) -> list[str]:
        """The parts from the computer to the device."""
        return [part for part in (self.adapter, self.cable) if part]


class NewLinkStage(StageWidget):
    """The way into an empty program, with the wiring of what is picked judged at once.

    `made` and `changed` give what is picked.
    """

    made = pyqtSignal(object)
    changed = pyqtSignal(object)

    def __init__(self) -> None:
        super().__init__()
        self._filling = False
        grid = QGridLayout()
        grid.setVerticalSpacing(4)
        grid.setHorizontalSpacing(16)
        self.port, self.adapter, self.cable, self.device = QComboBox(), QComboBox(), QComboBox(), QComboBox()
        self.port.setEditable(True)
        self.name = QLineEdit()
        rows = [
            ("1  Port of this computer", self.port, "/dev/ttyUSB0, or an address"),
            ("2  Adapter", self.adapter, "what is plugged into the computer"),
            ("3  Cable", self.cable, "what goes to the device; more parts later on the Wire stage"),
            ("4  Device", self.device, "its sheet, or the kind of socket it has"),
            ("5  Name of the link", self.name, "place and device, as in Weir, level logger"),
        ]
        for i, (title, widget, hint) in enumerate(rows):
            grid.addWidget(label(title, "title"), 2 * i, 0)
            grid.addWidget(widget, 2 * i, 1)
            grid.addWidget(label(hint, "small"), 2 * i + 1, 1)
            widget.setAccessibleName(title[3:])
            widget.setMinimumWidth(240)
        for box in (self.adapter, self.cable, self.device):
            box.currentIndexChanged.connect(self._tell_change)
        body = QHBoxLayout()
        body.setSpacing(24)
        left = QVBoxLayout()
        left.addLayout(grid)
        left.addStretch(1)
        body.addLayout(left)
        body.addLayout(self._preview(), 1)
        self.column.addLayout(body, 1)
        self.create_button = button("Put this link on the line", "main", self._create, "Ctrl+L")
        grid.addWidget(self.create_button, 2 * len(rows), 1)

    def _preview(self) -> QVBoxLayout:
        """What the picked parts would make, before they are joined."""
        column = QVBoxLayout()
        self.preview_title, self.preview_reason = label("", "title", wrap=True), label("", "quiet", wrap=True)
        self.map = WireView(Theme())
        column.addWidget(self.preview_title)
        column.addWidget(self.preview_reason)
        column.addWidget(self.map, 5)
        column.addStretch(1)
        return column

    def show_preview(self, wiring: WireMap, theme: Theme) -> None:
        """Show the wiring of what is picked."""
        self.preview_title.setText(f"These parts: {wiring.headline}")
        self.preview_reason.setText(wiring.reason)
        self.map.show_map(wiring, theme)

    def _tell_change(self) -> None:
        if self._filling:
            return
        self.changed.emit(self._picked())

    def _create(self) -> None:
        self.made.emit(self._picked())

    def _picked(self) -> Picked:
        port = self.port
        listed = port.currentData() if port.currentText() == port.itemText(port.currentIndex()) else None
        return Picked(
            self.name.text().strip(),
            listed or port.currentText().strip(),
            self.adapter.currentData() or "",
            self.cable.currentData() or "",
            self.device.currentData() or "",
        )

    def show_choices(
        self,
        ports: list[tuple[str, str]],
        adapters: list[tuple[str, str]],
        cables: list[tuple[str, str]],
        devices: list[tuple[str, str]],
        empty: bool,
    ) -> None:
        """Offer what there is; `empty` where no link exists yet."""
        if empty:
            self.say("No link yet: begin with what lies on the bench", "Five lines; each can be changed later.")
        else:
            self.say("Another link", "Five lines; each can be changed later.")
        self._filling = True
        for box, items in ((self.adapter, adapters), (self.cable, cables), (self.device, devices)):
            box.clear()
            for id_, text in items:
                box.addItem(text, id_)
        self._filling = False
        self._tell_change()
        self.port.clear()
        for address, told in ports:
            self.port.addItem(told, address)
        if not ports:
            self.port.setCurrentText("")
            edit = self.port.lineEdit()
            if edit is not None:
                edit.setPlaceholderText("no port found: plug the adapter in, or type an address")
