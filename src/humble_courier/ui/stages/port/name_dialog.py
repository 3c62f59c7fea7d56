"""A name that stays: by serial number or by socket, what each survives, and the commands; shown and copied, never run."""

from collections.abc import Callable, Sequence

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QDialog, QLineEdit, QPushButton, QRadioButton, QVBoxLayout, QWidget

from humble_courier.errors import CourierError
from humble_courier.host.kinds import HostPort
from humble_courier.host.names import By, make_rule
from humble_courier.ui.theme import Theme
from humble_courier.ui.widgets.basics import button, clear, label


class NameDialog(QDialog):
    """The rule follows the name and the school that are chosen."""

    def __init__(
        self, parent: QWidget, port: HostPort, others: Sequence[HostPort], copy: Callable[[str], None], theme: Theme
    ) -> None:
        super().__init__(parent)
        self._port, self._others, self._copy = port, others, copy
        self.setWindowTitle(self.tr("A name that stays"))
        self.setMinimumWidth(theme.px(640))
        column = QVBoxLayout(self)
        self.name = QLineEdit("adapter")
        self.name.setAccessibleName(self.tr("Name, in small letters"))
        self.name.textChanged.connect(lambda _: self._show())
        self.serial = QRadioButton(self.tr("by its serial number: it may move to any socket"))
        self.socket = QRadioButton(self.tr("by its socket: any adapter in there gets the name"))
        (self.serial if port.usb and port.usb.serial else self.socket).setChecked(True)
        self.serial.toggled.connect(lambda _: self._show())
        for widget in (self.name, self.serial, self.socket):
            column.addWidget(widget)
        self.headline, self.survives = label("", "headline", wrap=True), label("", "quiet", wrap=True)
        self.commands = QVBoxLayout()
        column.addWidget(self.headline)
        column.addWidget(self.survives)
        column.addLayout(self.commands)
        column.addStretch(1)
        self.copy: QPushButton = button(self.tr("Copy the commands"), "main", self._copy_all, "Ctrl+C")
        column.addWidget(self.copy)
        self._lines: tuple[str, ...] = ()
        self._show()

    def _show(self) -> None:
        clear(self.commands)
        by = By.SERIAL if self.serial.isChecked() else By.SOCKET
        try:
            rule = make_rule(self._port, self.name.text().strip(), by, self._others)
        except CourierError as error:
            self.headline.setText(str(error))
            self.survives.setText("")
            self._lines = ()
        else:
            self.headline.setText(self.tr("{link} would lead to this port").format(link=rule.link))
            self.survives.setText(rule.survives + " " + self.tr("Shown, not run."))
            self._lines = rule.commands
        for line in self._lines:
            command = label(line, "mono", wrap=True)
            command.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
            self.commands.addWidget(command)
        self.copy.setEnabled(bool(self._lines))

    def _copy_all(self) -> None:
        self._copy("\n".join(self._lines))
