"""Port: which port is it, and can it be opened?"""

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QLineEdit, QListWidget, QListWidgetItem

from humble_courier.host.ports import HostPort
from humble_courier.ui.parts import button, label
from humble_courier.ui.stages.base import Stage


def describe(port: HostPort) -> str:
    """A port in one line: address, what claims it, what the device reports of itself."""
    native = port.address.startswith("/dev/ttyS")
    words = [port.address, "built in" if native else f"claimed by {port.driver}" if port.driver else "no driver named"]
    if port.product:
        words.append(f"reports “{port.product}”")
    if not port.may_open:
        words.append("no permission")
    return " · ".join(words)


class PortList(QListWidget):
    """The machine's ports."""

    def show_ports(self, ports: list[HostPort], current: str) -> None:
        """Show ports; the one in use is marked."""
        self.clear()
        for port in ports:
            item = QListWidgetItem(describe(port))
            item.setData(Qt.ItemDataRole.UserRole, port.address)
            self.addItem(item)
            if port.address == current:
                self.setCurrentItem(item)
        rows = min(8, max(1, self.count()))
        self.setFixedHeight(rows * max(36, self.sizeHintForRow(0)) + 4)


class PortStage(Stage):
    """The ports of this machine, and the address of this link's port."""

    chosen = pyqtSignal(str)
    again = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.column.addWidget(label(self.tr("Serial ports of this computer"), "title"))
        self.ports = PortList()
        self.ports.setAccessibleName(self.tr("Serial ports of this computer"))
        self.ports.itemActivated.connect(lambda item: self.chosen.emit(item.data(Qt.ItemDataRole.UserRole)))
        self.column.addWidget(self.ports)
        self.empty = label("", "quiet", wrap=True)
        self.column.addWidget(self.empty)
        self.column.addWidget(label(self.tr("Address of this link's port"), "title"))
        row = QHBoxLayout()
        self.address = QLineEdit()
        self.address.setAccessibleName(self.tr("Address of this link's port"))
        self.address.setPlaceholderText("/dev/ttyUSB0, socket://HOST:PORT, rfc2217://HOST:PORT, sim://bench/DEVICE")
        self.use = button(self.tr("Use this port"), "main", lambda: self.chosen.emit(self.address.text().strip()), "Ctrl+P")
        row.addWidget(self.address, 1)
        row.addWidget(self.use)
        row.addWidget(button(self.tr("Look again"), "", self.again.emit, "F5"))
        self.column.addLayout(row)
        self.column.addSpacing(8)
        self.column.addWidget(label(self.tr("What goes into the computer"), "title"))
        self.caution, self.adapter = label("", "caution", wrap=True), label("", "", wrap=True)
        self.opening = label("", "quiet", wrap=True)
        for widget in (self.caution, self.adapter, self.opening):
            self.column.addWidget(widget)
        self.column.addStretch(1)
        self.ports.currentItemChanged.connect(lambda item, _: self._picked(item))

    def _picked(self, item: QListWidgetItem | None) -> None:
        if item is not None:
            self.address.setText(item.data(Qt.ItemDataRole.UserRole))

    def show_adapter(self, caution: str, adapter: str, opening: str) -> None:
        """Say what is plugged in, what to beware of, and what opening the port does to its lines."""
        self.caution.setText(self.tr("▲ Caution: {text}").format(text=caution) if caution else "")
        self.adapter.setText(adapter)
        self.opening.setText(opening)

    def show_ports(self, ports: list[HostPort], current: str, headline: str, reason: str) -> None:
        """Show the ports of the machine and the link's own."""
        self.say(headline, reason)
        self.ports.show_ports(ports, current)
        self.address.setText(current)
        self.ports.setVisible(bool(ports))
        self.empty.setVisible(not ports)
        self.empty.setText(
            self.tr(
                "This computer shows no serial port. Plug the adapter in and look again; a charge-only cable or a worn "
                "socket shows nothing either."
            )
        )
