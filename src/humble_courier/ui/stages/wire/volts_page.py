"""Name a port by voltmeter: type what the meter shows on each contact, and read what the port is."""

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QComboBox, QGridLayout, QHBoxLayout, QLineEdit, QVBoxLayout, QWidget

from humble_courier.ui.stages.wire.suspects_view import SuspectsView
from humble_courier.ui.theme import Theme
from humble_courier.ui.widgets.basics import clear, fill, label
from humble_courier.ui.widgets.faces import Face, FaceView

COLUMNS = 5  # as a row of a DE-9 has contacts


class VoltsPage(QWidget):
    """A field for each contact; nothing has to be filled in any order. `changed` fires at each keystroke."""

    changed = pyqtSignal()
    connector_changed = pyqtSignal(str)

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self.guesses = SuspectsView(theme)
        self.connector = QComboBox()
        self.connector.setAccessibleName("Connector")
        self.connector.activated.connect(lambda i: self.connector_changed.emit(self.connector.itemData(i)))
        self.face = FaceView(300, 176)
        self.fields: dict[str, QLineEdit] = {}
        self._grid = QGridLayout()
        self._grid.setHorizontalSpacing(12)
        self.remarks = label("", "wrong", wrap=True)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(8)
        row = QHBoxLayout()
        row.addWidget(label("Connector of the port", "small"))
        row.addWidget(self.connector, 1)
        column.addLayout(row)
        middle = QHBoxLayout()
        middle.addStretch(1)
        middle.addWidget(self.face, 3)
        middle.addStretch(1)
        column.addLayout(middle)
        hint = "Port at rest, black lead on signal ground; volts on each contact, as many as you measured:"
        column.addWidget(label(hint, "quiet", wrap=True))
        column.addLayout(self._grid)
        self.carries = label("", "small", wrap=True)
        column.addWidget(self.guesses)
        column.addWidget(self.carries)
        column.addWidget(self.remarks)
        column.addStretch(1)

    def show_connectors(self, shapes: list[tuple[str, str]], chosen: str) -> None:
        """Offer connectors as (id, name)."""
        fill(self.connector, shapes, chosen)

    def show_face(self, face: Face | None, contacts: list[str], theme: Theme) -> None:
        """Show the face, and fields for its contacts."""
        self.face.show_face(face, "as it meets you", theme)
        if list(self.fields) == contacts:
            return
        clear(self._grid)
        self.fields = {}
        for i, contact in enumerate(contacts):
            field = QLineEdit()
            field.setPlaceholderText("V")
            field.setAccessibleName(f"Volts on contact {contact}")
            field.textChanged.connect(self.changed.emit)
            cell = QHBoxLayout()
            cell.setSpacing(6)
            cell.addWidget(label(contact, "title"))
            cell.addWidget(field, 1)
            self._grid.addLayout(cell, i // COLUMNS, i % COLUMNS)
            self.fields[contact] = field

    def typed(self) -> dict[str, str]:
        """What stands in the fields, by contact; empty ones are left out."""
        return {contact: field.text().strip() for contact, field in self.fields.items() if field.text().strip()}
