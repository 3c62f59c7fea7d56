"""Instruments behind other buses: libraries on this machine, what each sees, and one safe question."""

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QGridLayout, QHBoxLayout, QLineEdit, QVBoxLayout, QWidget

from humble_courier.app.talk.instruments import Library, bare_choice
from humble_courier.ui.stages.talk.libraries_view import LibrariesView
from humble_courier.ui.theme import Theme
from humble_courier.ui.widgets.basics import button, label
from humble_courier.ui.widgets.flow import FlowRow

CALLS_OUT = "Calls out by broadcast on every network of this computer, so that instruments there answer (VXI-11, HiSLIP)."


class VisaPage(QWidget):
    """`looked` asks for the libraries; `asked` gives a resource and a query."""

    looked = pyqtSignal()
    asked = pyqtSignal(str, str)

    def __init__(self) -> None:
        super().__init__()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(8)
        self.look = button("Look for libraries and resources", "main", self.looked.emit, "F5")
        row = QHBoxLayout()
        row.addWidget(self.look)
        row.addWidget(label(CALLS_OUT, "small", wrap=True), 1)
        self.view = LibrariesView()
        self.view.taken.connect(self._take)
        self.choice = label("", "quiet", wrap=True)
        self.resource, self.query = QLineEdit(), QLineEdit("*IDN?")
        self.resource.setPlaceholderText("ASRL/dev/ttyUSB0::INSTR   GPIB0::5::INSTR   TCPIP::192.0.2.5::INSTR")
        self.resource.setAccessibleName("Resource")
        self.query.setAccessibleName("Query")
        self.ask = button("Ask", "", self._ask, "Alt+A")
        names = label("Resource", "small"), label("Query that changes nothing", "small")
        ask = FlowRow([names[0], self.resource, names[1], self.query, self.ask], wide=(self.resource, self.query))
        self.answer = label("", "words", wrap=True)
        self.answer.hide()
        column.addLayout(row)
        column.addWidget(self.view)
        column.addWidget(self.choice)
        column.addWidget(ask)
        column.addWidget(self.answer)
        column.addWidget(label("Two libraries side by side", "title"))
        self._steps = QGridLayout()
        self._steps.setColumnStretch(1, 3)
        self._steps.setColumnStretch(2, 2)
        column.addLayout(self._steps)
        column.addStretch(1)

    def show_advice(self, advice: list[tuple[str, str]]) -> None:
        """What to do where two libraries stand side by side, with the reason for each; once."""
        for i, texts in enumerate(advice if self._steps.count() == 0 else ()):
            self._steps.addWidget(label(f"{i + 1}", "quiet"), i, 0, Qt.AlignmentFlag.AlignTop)
            for j, (text, role) in enumerate(zip(texts, ("", "quiet"), strict=True), start=1):
                told = label(text, role, wrap=True)
                told.setAlignment(Qt.AlignmentFlag.AlignTop)
                self._steps.addWidget(told, i, j)

    def _ask(self) -> None:
        if self.resource.text().strip():
            self.asked.emit(self.resource.text().strip(), self.query.text().strip())

    def show_libraries(self, found: list[Library] | None, theme: Theme) -> None:
        """Show what was found; None while it is looked for."""
        self.look.setEnabled(found is not None)
        self.choice.setVisible(found is None or bool(found))
        if found is None:
            self.choice.setText("Looking: each library is asked what it sees; some seconds.")
            return
        self.view.show_libraries(found, theme)
        self.choice.setText(bare_choice(found) if found else "")

    def show_answer(self, text: str) -> None:
        """What came back, or that it is waited for."""
        self.answer.setText(text)
        self.answer.setVisible(bool(text))

    def _take(self, resource: str) -> None:
        self.resource.setText(resource)
        self.ask.setFocus()
