"""Build a cable: the sheet as it will be on paper, and the files."""

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QComboBox, QHBoxLayout, QTextBrowser, QVBoxLayout, QWidget

from humble_courier.ui.paper.build_drawing import BuildView, Shapes
from humble_courier.ui.theme import Theme
from humble_courier.ui.widgets.basics import button, fill, label
from humble_courier.ui.widgets.flow import FlowRow
from humble_courier.wiring.build import BuildSheet


class BuildPage(QWidget):
    """Drawing, wire list and acceptance table of the cable that would serve. `saved` gives `pdf`, `svg` or `csv`."""

    scheme_changed = pyqtSignal()
    saved = pyqtSignal(str)
    laid = pyqtSignal()  # the cable is laid into the chain

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self.scheme = QComboBox()
        self.scheme.setAccessibleName("Order of colours")
        self.scheme.activated.connect(lambda _: self.scheme_changed.emit())
        self.view = BuildView(theme)
        self.text = QTextBrowser()
        self.text.setAccessibleName("Conductors, open contacts, acceptance")
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(8)
        self.buttons = [
            button("Lay it into the chain", "main", self.laid.emit, "Ctrl+J"),
            button("Sheet as PDF", "", lambda: self.saved.emit("pdf"), "Ctrl+P"),
            button("Drawing as SVG", "", lambda: self.saved.emit("svg"), "Ctrl+D"),
            button("List as CSV", "", lambda: self.saved.emit("csv"), "Ctrl+L"),
        ]
        column.addWidget(FlowRow([label("Colours", "small"), self.scheme, *self.buttons]))
        body = QHBoxLayout()
        body.setSpacing(16)
        left = QVBoxLayout()
        left.addWidget(self.view)
        left.addStretch(1)
        body.addLayout(left, 3)
        body.addWidget(self.text, 2)
        column.addLayout(body, 1)

    def show_schemes(self, schemes: list[tuple[str, str]]) -> None:
        """Offer orders of colours as (id, name)."""
        fill(self.scheme, schemes, self.scheme.currentData() or schemes[0][0])

    def show_sheet(self, sheet: BuildSheet | None, html: str, shapes: Shapes, theme: Theme) -> None:
        """Show the cable; None where none can be built."""
        self.view.setVisible(sheet is not None)
        self.text.setVisible(sheet is not None)
        for made in self.buttons:
            made.setEnabled(sheet is not None)
        if sheet is not None:
            self.view.show_sheet(sheet, shapes, theme)
            if self.text.toHtml() != html:
                self.text.setHtml(html)
