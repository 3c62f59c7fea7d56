"""Small shared makings of widgets: labels and buttons with their role in the style sheet."""

from collections.abc import Callable
from html import escape

from PyQt6.QtCore import QEvent, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QHelpEvent, QHideEvent, QPainter, QPaintEvent, QResizeEvent, QShowEvent
from PyQt6.QtWidgets import QComboBox, QGridLayout, QLabel, QLayout, QPushButton, QSizePolicy, QToolTip, QVBoxLayout, QWidget

from humble_courier.domain.text import signs
from humble_courier.ui.manual_text import words_in


def plain_tip(text: str | None) -> str:
    """A tip that is shown as it is written: Qt would read one with tags as rich text, and load what they name."""
    return f"<qt>{escape(signs(text))}</qt>".replace("\n", "<br>") if text else ""


class PlainLabel(QLabel):
    """A label whose text is shown as it is, controls as signs."""

    def __init__(self, text: str = "") -> None:
        super().__init__()
        self.setTextFormat(Qt.TextFormat.PlainText)
        self.setText(text)

    def setText(self, text: str | None) -> None:
        """Another text."""
        super().setText(signs(text or ""))

    def event(self, event: QEvent | None) -> bool:
        """Where there is no tip of its own, words of the trade that stand in the text are told."""
        if isinstance(event, QHelpEvent) and event.type() == QEvent.Type.ToolTip and not self.toolTip():
            told = words_in(self.text())
            if told:
                QToolTip.showText(event.globalPos(), plain_tip("\n".join(f"{word}: {what}" for word, what in told)), self)
                return True
        return super().event(event)


class PlainButton(QPushButton):
    """A button whose text is shown as it is: Qt would take `&` as the mark of a key, and underline what follows."""

    def __init__(self, text: str) -> None:
        super().__init__()
        self.setText(text)

    def setText(self, text: str | None) -> None:
        """Another text."""
        super().setText(signs(text or "").replace("&", "&&"))

    def setToolTip(self, text: str | None) -> None:
        """Another tip."""
        super().setToolTip(plain_tip(text))


class WrapLabel(PlainLabel):
    """A label that claims the height its wrapped text takes at the width it is given."""

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """Claim the height."""
        super().resizeEvent(event)
        self.claim()

    def setText(self, text: str | None) -> None:
        """Another text, another height."""
        super().setText(text)
        self.claim()

    def minimumSizeHint(self) -> QSize:
        """As narrow as need be; as high as claimed."""
        return QSize(0, self.minimumHeight())

    def showEvent(self, event: QShowEvent | None) -> None:
        """Claim the height when it comes to be seen."""
        super().showEvent(event)
        self.claim()

    def hideEvent(self, event: QHideEvent | None) -> None:
        """What is not seen claims nothing: its width is not the one it will have."""
        super().hideEvent(event)
        self.setMinimumHeight(0)

    def claim(self) -> None:
        """Claim the height of the text at this width and size of type."""
        if self.isVisible() and self.width() > 0:
            self.setMinimumHeight(0)  # Qt takes the last claim into account otherwise
            self.setMinimumHeight(self.heightForWidth(self.width()) if self.text() else 0)


class ShortLabel(PlainLabel):
    """A line that gives way where there is no room for it: it ends with … then, and its tip holds all of it."""

    FEWEST = 8  # characters that are always seen

    def minimumSizeHint(self) -> QSize:
        """Room for a few characters."""
        fewest = min(len(self.text()), self.FEWEST)
        return QSize(self.fontMetrics().averageCharWidth() * fewest, super().minimumSizeHint().height())

    def sizeHint(self) -> QSize:
        """Room for all of it."""
        return QSize(self.fontMetrics().horizontalAdvance(self.text()) + 2, super().sizeHint().height())

    def paintEvent(self, event: QPaintEvent | None) -> None:
        """As much of it as there is room for."""
        shown = self.fontMetrics().elidedText(self.text(), Qt.TextElideMode.ElideRight, self.width())
        self.setToolTip(plain_tip(self.text()) if shown != self.text() else "")
        with QPainter(self) as painter:
            style = self.style()
            if style is not None:
                style.drawItemText(
                    painter, self.rect(), int(Qt.AlignmentFlag.AlignVCenter), self.palette(), self.isEnabled(), shown,
                    self.foregroundRole(),
                )  # fmt: skip


class Pages(QWidget):
    """Widgets of which one is shown; only that one claims room.

    Not Qt's own stack: its layout asks the height for a width of pages that are not seen, and a scroll area believes it.
    """

    currentChanged = pyqtSignal(int)

    def __init__(self) -> None:
        super().__init__()
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self._pages: list[QWidget] = []
        self._current = 0

    def addWidget(self, page: QWidget) -> None:
        """Take in a page; the first one is shown."""
        page.setParent(self)
        page.setGeometry(self.rect())  # the first one is shown as it is: nothing else would give it its room
        page.setVisible(not self._pages)
        self._pages.append(page)

    def currentWidget(self) -> QWidget | None:
        """The page that is shown."""
        return self._pages[self._current] if self._pages else None

    def setCurrentWidget(self, page: QWidget) -> None:
        """Show another page."""
        index = self._pages.index(page)
        if index != self._current:
            self._pages[self._current].hide()
            self._current = index
            page.setGeometry(self.rect())
            page.show()
            self.updateGeometry()
            self.currentChanged.emit(index)

    def sizeHint(self) -> QSize:
        """That of the page that is shown."""
        page = self.currentWidget()
        return page.sizeHint() if page is not None else QSize()

    def minimumSizeHint(self) -> QSize:
        """That of the page that is shown."""
        page = self.currentWidget()
        return page.minimumSizeHint() if page is not None else QSize()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """The page takes all the room."""
        page = self.currentWidget()
        if page is not None:
            page.setGeometry(self.rect())

    def event(self, event: QEvent | None) -> bool:
        """The page needs more room or less: so do we."""
        if event is not None and event.type() is QEvent.Type.LayoutRequest:
            self.updateGeometry()
        return super().event(event)


class ButtonGrid(QWidget):
    """Buttons in a row; where the window is narrow they take as many rows as they need, evenly filled."""

    def __init__(self, buttons: list[QPushButton]) -> None:
        super().__init__()
        self._buttons = buttons
        self._out: list[QPushButton] = []
        self._grid = QGridLayout(self)
        self._grid.setContentsMargins(0, 0, 0, 0)
        self._grid.setSpacing(6)
        for made in buttons:
            made.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
        self._laid: object = None
        self.fit()

    def leave_out(self, out: list[QPushButton]) -> None:
        """Show all buttons but these."""
        self._out = out
        self.fit()

    def fit(self) -> None:
        """Lay out the buttons that are to be seen."""
        shown = [made for made in self._buttons if made not in self._out]
        if not shown:
            return
        rows = self.rows_at(self.width())
        columns = -(-len(shown) // rows)
        if (columns, shown) != self._laid:
            self._laid = (columns, shown)
            for made in self._out:
                self._grid.removeWidget(made)
                made.hide()
            for i, made in enumerate(shown):
                self._grid.addWidget(made, i // columns, i % columns)
                made.show()

    def rows_at(self, width: int) -> int:
        """How many rows they take at a width."""
        shown = [made for made in self._buttons if made not in self._out]
        if not shown:
            return 0
        widest = max(made.sizeHint().width() for made in shown) + self._grid.spacing()
        return -(-len(shown) // max(1, min(len(shown), width // widest)))

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """Another width, other columns."""
        super().resizeEvent(event)
        self.fit()


def label(text: str = "", role: str = "", wrap: bool = False) -> QLabel:
    """A label; `role` is one of the style sheet's: headline, title, quiet, small, wrong, caution, mono."""
    made = WrapLabel(text) if wrap else PlainLabel(text)
    if role:
        made.setProperty("role", role)
    made.setWordWrap(wrap)
    return made


def short_label(role: str = "") -> QLabel:
    """A line that gives way where there is no room."""
    made = ShortLabel()
    made.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Preferred)
    if role:
        made.setProperty("role", role)
    return made


def captioned(name: str, field: QWidget) -> QWidget:
    """A field with its name above it."""
    field.setAccessibleName(name)
    made = QWidget()
    column = QVBoxLayout(made)
    column.setContentsMargins(0, 0, 0, 0)
    column.setSpacing(1)
    column.addWidget(label(name, "small"))
    column.addWidget(field)
    return made


def button(text: str, role: str = "", press: Callable[[], object] | None = None, shortcut: str = "") -> QPushButton:
    """A button with its key on it, by the name that stands on a keyboard.

    The large Enter key is Qt's `Return`, which is what a shortcut has to say; its `Enter` is the small one of the numbers.
    """
    assert "Enter" not in shortcut, "a key that nobody presses"
    made = PlainButton(f"{text}  {shortcut.replace('Return', 'Enter')}" if shortcut else text)
    if role:
        made.setProperty("role", role)
    elif "\n" in text:
        made.setProperty("rows", "two")  # the style sheet's least height is for one row, and goes before what the text needs
    if shortcut:
        made.setShortcut(shortcut)
    made.setAccessibleName(text)
    if press is not None:
        made.clicked.connect(lambda: press())
    return made


def page_button(text: str, shortcut: str, press: Callable[[], object] | None = None) -> QPushButton:
    """One of several buttons beside each other: its key stands below its name."""
    made = button(f"{text}\n{shortcut}", "act", press)
    made.setShortcut(shortcut)
    made.setAccessibleName(text)
    return made


def rename(made: QPushButton, text: str, shortcut: str) -> None:
    """Another name for such a button; Qt drops the key with the old one."""
    made.setText(f"{text}\n{shortcut}")
    made.setShortcut(shortcut)
    made.setAccessibleName(text)


def fill(combo: QComboBox, items: list[tuple[str, str]], chosen: str) -> None:
    """Offer (id, name) once, and mark the chosen one."""
    if combo.count() == 0:
        combo.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        combo.setMinimumContentsLength(7)
        for id_, name in items:
            combo.addItem(name, id_)
    combo.setCurrentIndex(combo.findData(chosen))


def set_role(widget: QWidget, name: str, value: str) -> None:
    """Change a property that the style sheet looks at."""
    widget.setProperty(name, value)
    style = widget.style()
    if style is not None:
        style.unpolish(widget)
        style.polish(widget)


def clear(layout: QLayout) -> None:
    """Take everything out of a layout."""
    while (item := layout.takeAt(0)) is not None:
        if (widget := item.widget()) is not None:
            widget.hide()  # a layout shows what is new a moment later: by then without a parent, as a window of its own
            widget.setParent(None)
            widget.deleteLater()
        elif (inner := item.layout()) is not None:
            clear(inner)
