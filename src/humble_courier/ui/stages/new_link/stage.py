"""A link of one's own: pick the port, the parts and the device."""

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QComboBox, QGridLayout, QHBoxLayout, QLineEdit, QVBoxLayout

from humble_courier.app.wire.wire_map import WireMap
from humble_courier.host.kinds import HostPort
from humble_courier.ui.stage import StageWidget
from humble_courier.ui.stages.port.stage import describe
from humble_courier.ui.theme import Theme
from humble_courier.ui.widgets.basics import button, label
from humble_courier.ui.widgets.wire_view import WireView


class FirstLinkStage(StageWidget):
    """The way into an empty program, with the wiring of what is picked judged at once.

    `made` gives name, port address, adapter, cable and device ids; `changed` adapter, cable and device.
    """

    made = pyqtSignal(str, str, str, str, str)
    changed = pyqtSignal(str, str, str)

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
            (self.tr("1  Port of this computer"), self.port, self.tr("/dev/ttyUSB0, or an address")),
            (self.tr("2  Adapter"), self.adapter, self.tr("what is plugged into the computer")),
            (self.tr("3  Cable"), self.cable, self.tr("what goes to the device; more parts later on the Wire stage")),
            (self.tr("4  Device"), self.device, self.tr("its sheet, or the kind of socket it has")),
            (self.tr("5  Name of the link"), self.name, self.tr("place and device, as in Weir, level logger")),
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
        self.create_button = button(self.tr("Put this link on the line"), "main", self._create, "Ctrl+L")
        grid.addWidget(self.create_button, 2 * len(rows), 1)
        self.problem = label("", "wrong", wrap=True)
        left.insertWidget(1, self.problem)

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
        self.preview_title.setText(self.tr("These parts: {verdict}").format(verdict=wiring.headline))
        self.preview_reason.setText(wiring.reason)
        self.map.show_map(wiring, theme)

    def _tell_change(self) -> None:
        if self._filling:
            return
        self.changed.emit(self.adapter.currentData() or "", self.cable.currentData() or "", self.device.currentData() or "")

    def _create(self) -> None:
        address = (
            self.port.currentData() if self.port.currentText() == self.port.itemText(self.port.currentIndex()) else None
        )
        self.made.emit(
            self.name.text().strip(),
            address or self.port.currentText().strip(),
            self.adapter.currentData() or "",
            self.cable.currentData() or "",
            self.device.currentData() or "",
        )

    def show_choices(
        self,
        ports: list[HostPort],
        adapters: list[tuple[str, str]],
        cables: list[tuple[str, str]],
        devices: list[tuple[str, str]],
        empty: bool,
    ) -> None:
        """Offer what there is; `empty` where no link exists yet."""
        if empty:
            self.say(
                self.tr("No link yet: begin with what lies on the bench"), self.tr("Five lines; each can be changed later.")
            )
        else:
            self.say(self.tr("Another link"), self.tr("Five lines; each can be changed later."))
        self.problem.setText("")
        self._filling = True
        for box, items in ((self.adapter, adapters), (self.cable, cables), (self.device, devices)):
            box.clear()
            for id_, text in items:
                box.addItem(text, id_)
        self._filling = False
        self._tell_change()
        self.port.clear()
        for port in ports:
            self.port.addItem(describe(port), port.address)
        if not ports:
            self.port.setCurrentText("")
            edit = self.port.lineEdit()
            if edit is not None:
                edit.setPlaceholderText(self.tr("no port found: plug the adapter in, or type an address"))

    def show_problem(self, text: str) -> None:
        """Say what stands in the way, at its place."""
        self.problem.setText(text)
