"""Saying is composing the next card in our lane: the words, their visible tail, their bytes, and what is expected."""

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtGui import QResizeEvent
from PyQt6.QtWidgets import (
    QButtonGroup,
    QComboBox,
    QFrame,
    QGridLayout,
    QHBoxLayout,
    QLineEdit,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from humble_courier.app.talk.typed_words import CHECK_NAMES, Typed, Written
from humble_courier.domain.text import Terminator
from humble_courier.errors import BadInput
from humble_courier.ui.stages.talk.key_field import KeyField
from humble_courier.ui.widgets.basics import button, short_label
from humble_courier.ui.widgets.flow import FlowRow

TAILS = (Terminator.CR, Terminator.LF, Terminator.CRLF, Terminator.NONE)
EVERY = ("", "0.5", "1", "2", "5", "10", "60")  # seconds between repeats
WIDE = 90  # characters of room from which on both cards stand side by side
SHOWN = 24  # bytes that are spelled below the words
UNKNOWN = "not in any sheet: only you know what it does"


class Tail(QWidget):
    """How the words end, as a tail that can be touched; `changed` after a touch."""

    changed = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(4)
        self._group = QButtonGroup(self)
        self.buttons: dict[Terminator, QPushButton] = {}
        for end in TAILS:
            made = button(end.spoken if end is not Terminator.NONE else "none", "act", self.changed.emit)
            made.setCheckable(True)
            made.setAccessibleName(f"ends with {end.spoken}")
            self._group.addButton(made)
            self.buttons[end] = made
            row.addWidget(made)
        self.choose(Terminator.CR)

    @property
    def value(self) -> Terminator:
        """The end that is chosen."""
        return next(end for end, made in self.buttons.items() if made.isChecked())

    def choose(self, end: Terminator) -> None:
        """Choose an end."""
        self.buttons.get(end, self.buttons[Terminator.NONE]).setChecked(True)


class ComposeCard(QWidget):
    """`typed` gives words as `Typed`; `waited` a text to wait for; `when` both: said once, as soon as the text has come."""

    typed = pyqtSignal(object)
    waited = pyqtSignal(str)
    when = pyqtSignal(str, object)
    stop_repeat = pyqtSignal()
    send_break = pyqtSignal()
    pressed = pyqtSignal(bytes)

    def __init__(self) -> None:
        super().__init__()
        grid = QGridLayout(self)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setHorizontalSpacing(16)
        grid.setVerticalSpacing(4)
        self._expected = self._theirs()
        self._grid = grid
        grid.addWidget(self._ours(), 0, 0, 1, 2)
        grid.addWidget(self._expected, 1, 0, 1, 2)
        self.ways = self._ways()
        self.keys = KeyField()
        self.keys.typed.connect(self.pressed.emit)
        for row, widget in enumerate((self.ways, self.keys), start=2):
            grid.addWidget(widget, row, 0, 1, 2)
            widget.hide()
        self._known: dict[str, str] = {}
        self._preview()

    def _ours(self) -> QFrame:
        card = self._ours_card = QFrame()
        card.setProperty("role", "card")
        column = QVBoxLayout(card)
        column.setContentsMargins(10, 6, 10, 6)
        column.setSpacing(4)
        head = QHBoxLayout()
        self.words = QLineEdit()
        self.words.setPlaceholderText("Words to say; Enter says them once armed")
        self.words.setAccessibleName("Words to say")
        self.words.returnPressed.connect(self._say)
        self.words.textChanged.connect(self._preview)
        self.tail = Tail()
        self.tail.changed.connect(self._preview)
        head.addWidget(self.words, 1)
        head.addWidget(self.tail)
        column.addLayout(head)
        below = QHBoxLayout()
        self.bytes = short_label("small")
        self.more = button("More ways", "", self._toggle)
        self.more.setCheckable(True)
        self.more.setToolTip("Escapes, bytes, a check, again and again, a break, keys as they are pressed")
        below.addWidget(self.bytes, 1)
        below.addWidget(self.more)
        column.addLayout(below)
        return card

    def _theirs(self) -> QFrame:
        card = QFrame()
        card.setProperty("role", "expected")
        column = QVBoxLayout(card)
        column.setContentsMargins(10, 6, 10, 6)
        column.setSpacing(4)
        self.pattern = QLineEdit()
        self.pattern.setPlaceholderText("what should come, as in OK|ERR \\d+")
        self.pattern.setAccessibleName("Answer to wait for")
        self.wait = button("Wait for it", "", lambda: self.waited.emit(self.pattern.text()))
        self.then = button("Say it when that comes", "", lambda: self.when.emit(self.pattern.text(), self.composed()))
        column.addWidget(self.pattern)
        column.addWidget(FlowRow([self.wait, self.then]))
        return card

    def _ways(self) -> FlowRow:
        self.written = QComboBox()
        self.written.setAccessibleName("How the words are written")
        for id_, name in ((Written.PLAIN, "as text"), (Written.ESCAPES, "with \\r \\x1B"), (Written.HEX, "in hex")):
            self.written.addItem(name, id_.value)
        self.written.currentIndexChanged.connect(self._preview)
        self.every = QComboBox()
        self.every.setAccessibleName("Repeat every")
        for seconds in EVERY:
            self.every.addItem("once" if not seconds else f"every {seconds} s", seconds)
        self.check = QComboBox()
        self.check.setAccessibleName("Check behind the words")
        self.check.addItem("no check", "")
        for name in CHECK_NAMES:
            self.check.addItem(name, name)
        self.check.currentIndexChanged.connect(self._preview)
        self.halt = button("Stop repeating", "", self.stop_repeat.emit)
        self.break_button = button("Send a break", "", self.send_break.emit, "Ctrl+B")
        self.halt.hide()
        return FlowRow([self.written, self.check, self.every, self.halt, self.break_button])

    def _toggle(self) -> None:
        for widget in (self.ways, self.keys):
            widget.setVisible(self.more.isChecked())
        self._lay_out()

    def _lay_out(self) -> None:
        """What is expected hangs beside the words where there is room, else below them, once it is asked for."""
        beside = self.width() >= WIDE * self.fontMetrics().averageCharWidth()
        if beside:
            self._grid.addWidget(self._expected, 0, 1)
            self._grid.addWidget(self._ours_card, 0, 0)
        else:
            self._grid.addWidget(self._ours_card, 0, 0, 1, 2)
            self._grid.addWidget(self._expected, 1, 0, 1, 2)
        self._grid.setColumnStretch(0, 3)
        self._grid.setColumnStretch(1, 2)
        self._expected.setVisible(beside or self.more.isChecked())

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """Beside or below."""
        super().resizeEvent(event)
        self._lay_out()

    def open_ways(self) -> None:
        """Show all ways of saying."""
        self.more.setChecked(True)
        self._toggle()

    def composed(self, once: bool = True) -> Typed:
        """The card as it stands; `once`: without repeats and without an answer that is waited for."""
        every, expect = ("", "") if once else (self.every.currentData(), self.pattern.text())
        written = Written(self.written.currentData())
        return Typed(self.words.text(), written, self.tail.value, every, expect, self.check.currentData())

    def _say(self) -> None:
        if self.words.text():
            self.typed.emit(self.composed(once=False))

    def _preview(self) -> None:
        """The bytes below the words, and what the sheet says of them."""
        text = self.words.text()
        try:
            data = self.composed().octets if text else b""
        except BadInput as error:
            self.bytes.setText(error.text)
            return
        spelled = data[:SHOWN].hex(" ").upper() + (" …" if len(data) > SHOWN else "")
        self.bytes.setText(
            f"{spelled} · {self._known.get(text, UNKNOWN)}" if text else "its bytes and its end are shown here"
        )

    def show_known(self, known: dict[str, str], end: Terminator) -> None:
        """What the sheet says of its words, and how its lines end."""
        self._known = known
        self.tail.choose(end)
        self._preview()

    def show_state(self, listening: bool, armed: bool, repeating: bool) -> None:
        """Which acts are open."""
        sending = (self.words, self.tail, self.written, self.break_button, self.every, self.check, self.then, self.keys)
        for widget in sending:
            widget.setEnabled(armed)
        for widget in (self.pattern, self.wait):
            widget.setEnabled(listening)
        if repeating and not self.ways.isVisible():
            self.open_ways()
        self.halt.setVisible(repeating)
