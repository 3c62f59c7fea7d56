"""Listen and say: the lines, the lanes, first words as buttons, and what a person types."""

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QComboBox, QHBoxLayout, QLineEdit, QPushButton, QScrollArea, QVBoxLayout, QWidget

from humble_courier.documents.device import FirstWords
from humble_courier.domain.text import Terminator
from humble_courier.domain.utterance import Utterance
from humble_courier.ui.stages.talk.lamps import ActivityView, Lamps
from humble_courier.ui.stages.talk.lanes import Lanes
from humble_courier.ui.theme import Theme
from humble_courier.ui.widgets.basics import ButtonGrid, button, clear, label
from humble_courier.ui.widgets.flow import FlowRow

EVERY = ("", "0.5", "1", "2", "5", "10", "60")  # seconds between repeats


class ListenPage(QWidget):
    """Intents: listen, stop, words to say as they are typed with the way they are written, break, a search in the log."""

    listen = pyqtSignal()
    stop = pyqtSignal()
    say_words = pyqtSignal(str, str)  # text, terminator
    typed = pyqtSignal(str, str, str, str, str)  # words, how they are written, terminator, repeat every, pattern to wait for
    stop_repeat = pyqtSignal()
    send_break = pyqtSignal()
    searched = pyqtSignal(str)
    save_text = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        self.lamps, self.activity, self.lanes = Lamps(), ActivityView(), Lanes()
        self.search = QLineEdit()
        self.search.setPlaceholderText(self.tr("Search what was said, as text or as 0D 0A"))
        self.search.setAccessibleName(self.tr("Search the log"))
        self.search.setClearButtonEnabled(True)
        self.search.textChanged.connect(self.searched.emit)
        top = FlowRow([self.lamps, self.activity, self.search], wide=(self.search,))
        self._scroll = QScrollArea()
        self._scroll.setWidgetResizable(True)
        self._scroll.setWidget(self.lanes)
        self._scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.note = label("", "wrong", wrap=True)
        self.note.hide()
        self._words = QHBoxLayout()
        self._words.setSpacing(8)
        column.addWidget(top)
        column.addWidget(self._scroll, 1)
        column.addWidget(self.note)
        column.addLayout(self._words)
        column.addWidget(self._typing())
        column.addWidget(self._more())
        self.word_buttons: list[QPushButton] = []
        self._shown_words: object = None
        self._count = 0

    def _typing(self) -> FlowRow:
        self.listen_button = button(self.tr("Listen"), "main", self.listen.emit, "F4")
        self.stop_button = button(self.tr("Close the port"), "", self.stop.emit, "Shift+F4")
        self.words = QLineEdit()
        self.words.setPlaceholderText(self.tr("Words to say; Enter sends them once armed"))
        self.words.setAccessibleName(self.tr("Words to say"))
        self.words.returnPressed.connect(self._typed)
        self.written = QComboBox()
        self.written.setAccessibleName(self.tr("How the words are written"))
        for id_, name in (("text", self.tr("as text")), ("escapes", self.tr("with \\r \\x1B")), ("hex", self.tr("in hex"))):
            self.written.addItem(name, id_)
        self.end = QComboBox()
        self.end.setAccessibleName(self.tr("How the line ends"))
        for end in Terminator:
            self.end.addItem(end.spoken, end.value)
        ends = label(self.tr("ends with"), "quiet")
        row = [self.listen_button, self.stop_button, self.words, self.written, ends, self.end]
        return FlowRow(row, wide=(self.words,))

    def _more(self) -> FlowRow:
        self.pattern = QLineEdit()
        self.pattern.setPlaceholderText(self.tr("Answer to wait for, as in OK|ERR \\d+"))
        self.pattern.setAccessibleName(self.tr("Answer to wait for"))
        self.every = QComboBox()
        self.every.setAccessibleName(self.tr("Repeat every"))
        for seconds in EVERY:
            self.every.addItem(self.tr("once") if not seconds else self.tr("every {s} s").format(s=seconds), seconds)
        self.halt = button(self.tr("Stop repeating"), "", self.stop_repeat.emit)
        self.break_button = button(self.tr("Send a break"), "", self.send_break.emit, "Ctrl+B")
        self.save = button(self.tr("Log as text…"), "", self.save_text.emit)
        self.halt.hide()
        return FlowRow([self.pattern, self.every, self.halt, self.break_button, self.save], wide=(self.pattern,))

    def _typed(self) -> None:
        if self.words.text():
            self.typed.emit(
                self.words.text(), self.written.currentData(), self.end.currentData(), self.every.currentData(),
                self.pattern.text(),
            )  # fmt: skip

    def show_state(self, listening: bool, armed: bool, repeating: bool, note: str) -> None:
        """Show which acts are open; `note`: what is wrong with the log, or what is waited for."""
        self.listen_button.setVisible(not listening)
        self.stop_button.setVisible(listening)
        for widget in (self.words, self.written, self.break_button, self.pattern, self.every, *self.word_buttons):
            widget.setEnabled(armed)
        self.halt.setVisible(repeating)
        if note != self.note.text():
            self.note.setText(note)
            self.note.setVisible(bool(note))

    def show_words(self, words: list[FirstWords], end: str, armed: bool) -> None:
        """Offer the first words of the sheet, each with its meaning."""
        if self._shown_words == (words, end):
            return
        self._shown_words = (words, end)
        self.end.setCurrentIndex(self.end.findData(end))
        clear(self._words)
        made_buttons: list[QPushButton] = []
        for i, one in enumerate(words):
            key = f"Alt+{i + 1}"
            made = button(f"{one.say}  {key}\n{one.means.partition(';')[0]}", "", None)
            made.setShortcut(key)
            made.setToolTip(one.means)
            made.clicked.connect(lambda _=False, say=one.say: self.say_words.emit(say, self.end.currentData()))
            made.setEnabled(armed)
            made_buttons.append(made)
        self.word_buttons = made_buttons
        if made_buttons:
            self._words.addWidget(ButtonGrid(made_buttons))

    def show_said(self, said: list[Utterance], count: int, device: str, theme: Theme) -> None:
        """Show what was said (the newest of `count` in all); follows the newest."""
        self.lanes.show_said(said, device, theme)
        if count != self._count:
            self._count = count
            bar = self._scroll.verticalScrollBar()
            if bar is not None:
                self.lanes.adjustSize()
                bar.setValue(bar.maximum())
