"""A name that stays: by serial number or by socket, what each survives, and the commands; shown and copied, never run."""

from collections.abc import Callable

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QDialog, QLineEdit, QPushButton, QRadioButton, QVBoxLayout, QWidget

from humble_courier.app.port.naming import Rule
from humble_courier.errors import CourierError
from humble_courier.ui.theme import Theme
from humble_courier.ui.widgets.basics import button, clear, label


class NameDialog(QDialog):
    """The rule follows the name and the school that are chosen."""

    def __init__(
        self, parent: QWidget, rule: Callable[[str, str], Rule], by_serial: bool, copy: Callable[[str], None], theme: Theme
    ) -> None:
        """`rule` gives the rule for a name and `serial` or `socket`; `by_serial`: which of the two is chosen at first."""
        super().__init__(parent)
        self._rule, self._copy = rule, copy
        self.setWindowTitle("A name that stays")
        self.setMinimumWidth(theme.px(640))
        column = QVBoxLayout(self)
        self.name = QLineEdit("adapter")
        self.name.setAccessibleName("Name, in small letters")
        self.name.textChanged.connect(lambda _: self._show())
        self.serial = QRadioButton("by its serial number: it may move to any socket")
        self.socket = QRadioButton("by its socket: any adapter in there gets the name")
        (self.serial if by_serial else self.socket).setChecked(True)
        self.serial.toggled.connect(lambda _: self._show())
        for widget in (self.name, self.serial, self.socket):
            column.addWidget(widget)
        self.headline, self.survives = label("", "headline", wrap=True), label("", "quiet", wrap=True)
        self.commands = QVBoxLayout()
        column.addWidget(self.headline)
        column.addWidget(self.survives)
        column.addLayout(self.commands)
        column.addStretch(1)
        self.copy: QPushButton = button("Copy the commands", "main", self._copy_all, "Ctrl+C")
        column.addWidget(self.copy)
        self._lines: tuple[str, ...] = ()
        self._show()

    def _show(self) -> None:
        clear(self.commands)
        by = "serial" if self.serial.isChecked() else "socket"
        try:
            rule = self._rule(self.name.text().strip(), by)
        except CourierError as error:
            self.headline.setText(str(error))
            self.survives.setText("")
            self._lines = ()
        else:
            self.headline.setText(f"{rule.link} would lead to this port")
            self.survives.setText(rule.survives + " " + "Shown, not run.")
            self._lines = rule.commands
        for line in self._lines:
            command = label(line, "words", wrap=True)
            command.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
            self.commands.addWidget(command)
        self.copy.setEnabled(bool(self._lines))

    def _copy_all(self) -> None:
        self._copy("\n".join(self._lines))
