"""Listen and say: the lines, the lanes, first words as buttons, and what a person types."""

from collections.abc import Sequence
from functools import partial

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QLineEdit, QPushButton, QScrollArea, QSpinBox, QVBoxLayout, QWidget

from humble_courier.app.link.second_visit import Again, Earlier
from humble_courier.documents.device import FirstWords
from humble_courier.domain.text import Terminator
from humble_courier.domain.utterance import Utterance
from humble_courier.ui.stages.talk.again_view import AgainView
from humble_courier.ui.stages.talk.compose_card import ComposeCard
from humble_courier.ui.stages.talk.lamps import ActivityView, Lamps
from humble_courier.ui.stages.talk.lanes import Lanes
from humble_courier.ui.theme import Theme
from humble_courier.ui.widgets.basics import button, clear, label
from humble_courier.ui.widgets.flow import FlowRow

AGAIN = (Terminator.CR, Terminator.LF, Terminator.CRLF, Terminator.NONE)


class ListenPage(QWidget):
    """Intents: listen, stop, words to say as they are typed with the way they are written, break, a search in the log."""

    listen = pyqtSignal()
    stop = pyqtSignal()
    say_words = pyqtSignal(str, str)  # text, terminator
    searched = pyqtSignal(str)
    save_text = pyqtSignal()
    read_unit = pyqtSignal()
    unit_chosen = pyqtSignal(int)
    right = pyqtSignal()
    again = pyqtSignal(str)
    search_wanted = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        self.lamps, self.activity, self.lanes = Lamps(), ActivityView(), Lanes()
        self.search = QLineEdit()
        self.search.setPlaceholderText("Search what was said, as text or as 0D 0A")
        self.search.setAccessibleName("Search the log")
        self.search.setClearButtonEnabled(True)
        self.search.textChanged.connect(self.searched.emit)
        self.listen_button = button("Listen", "main", self.listen.emit, "F4")
        self.stop_button = button("Close the port", "", self.stop.emit, "Shift+F4")
        self.save = button("Log as text…", "", self.save_text.emit)
        head = [self.listen_button, self.stop_button, self.search, self.save, self.lamps, self.activity]
        top = FlowRow(head, wide=(self.search,))
        self.card, self.again_view = ComposeCard(), AgainView()
        self._scroll = QScrollArea()
        self._scroll.setWidgetResizable(True)
        self._scroll.setWidget(self.lanes)
        self._scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.note = label("", "wrong", wrap=True)
        self.note.hide()
        self._offered = QWidget()
        self._words = QHBoxLayout(self._offered)
        self._words.setContentsMargins(0, 0, 0, 0)
        column.addWidget(top)
        column.addWidget(self._scroll, 1)
        column.addWidget(self.again_view, 1)
        self.again_view.hide()
        column.addWidget(self.note)
        column.addWidget(self._offered)
        column.addWidget(self._unit_row())
        column.addWidget(self._silence_row())
        column.addWidget(self.card)
        self.word_buttons: list[QPushButton] = []
        self._shown_words: object = None
        self._count = 0

    def _unit_row(self) -> FlowRow:
        """Of a bus one unit at a time is asked; and what only a person can judge is judged here."""
        self.unit = QSpinBox()
        self.unit.setAccessibleName("Unit on the bus")
        self.unit.setKeyboardTracking(False)
        self.unit.valueChanged.connect(self.unit_chosen.emit)
        self.unit_label = label("Unit", "quiet")
        self.read = button("Read its registers", "", self.read_unit.emit, "Alt+R")
        self.right_button = button("That answer is right", "main", self.right.emit, "Ctrl+R")
        self._units = FlowRow([self.unit_label, self.unit, self.read, self.right_button])
        self._units.hide()
        return self._units

    def _silence_row(self) -> FlowRow:
        """After words that brought nothing: the same with another end, or the search."""
        self.ends_tried: dict[Terminator, QPushButton] = {
            end: button(end.spoken, "", partial(self.again.emit, end.value)) for end in AGAIN
        }
        self.search_button = button("Search for its settings", "", self.search_wanted.emit)
        self.search_button.setToolTip("Listens, then says first words that change nothing, at several rates and frames")
        self.find_row = FlowRow([label("Say it again, ended with", "quiet"), *self.ends_tried.values(), self.search_button])
        self.find_row.hide()
        return self.find_row

    def show_silence(self, ended: Terminator | None, words: str) -> None:
        """Which end brought nothing (None: no words are without an answer)."""
        for end, made in self.ends_tried.items():
            made.setVisible(end is not ended)
            made.setAccessibleName(f"Say {words} again, ended with {end.spoken}")
        self.find_row.setVisible(ended is not None)
        self.find_row.fit()

    def show_unit(self, unit: int | None, limits: tuple[int, int], tip: str, armed: bool, reply: str) -> None:
        """Which unit is asked (None: no bus), and the answer that waits for a judgement (empty: none)."""
        for widget in (self.unit_label, self.unit, self.read):
            widget.setVisible(unit is not None)
        if unit is not None:
            self.unit.blockSignals(True)
            self.unit.setRange(*limits)
            self.unit.setValue(unit)
            self.unit.blockSignals(False)
        self.read.setEnabled(armed)
        self.read.setToolTip(tip)
        self.right_button.setVisible(bool(reply))
        self.right_button.setToolTip(reply)
        self._units.setVisible(unit is not None or bool(reply))
        self._units.fit()

    def show_state(self, listening: bool, armed: bool, repeating: bool, note: str) -> None:
        """Show which acts are open; `note`: what is wrong with the log, or what is waited for."""
        self.listen_button.setVisible(not listening)
        self.stop_button.setVisible(listening)
        for made in self.word_buttons:
            made.setEnabled(armed)
        self.card.show_state(listening, armed, repeating)
        if note != self.note.text():
            self.note.setText(note)
            self.note.setVisible(bool(note))

    def show_words(self, words: list[FirstWords], end: str, armed: bool) -> None:
        """Offer the first words of the sheet, each with its meaning; they end with `end`, whatever the field says."""
        if self._shown_words == (words, end):
            return
        self._shown_words = (words, end)
        self.card.show_known({one.say: one.means for one in words}, Terminator(end))
        clear(self._words)
        made_buttons: list[QPushButton] = []
        for i, one in enumerate(words):
            key = f"Alt+{i + 1}"
            made = button(f"{one.say} · {one.means.partition(';')[0]}  {key}", "", None)
            made.setShortcut(key)
            made.setToolTip(one.means)
            made.clicked.connect(lambda _=False, say=one.say: self.say_words.emit(say, end))
            made.setEnabled(armed)
            made_buttons.append(made)
        self.word_buttons = made_buttons
        if made_buttons:
            self._words.addWidget(FlowRow(list(made_buttons)))

    def show_again(self, earlier: Earlier | None, rows: Sequence[Again], undone: Sequence[str], theme: Theme) -> None:
        """On a second visit both days stand beside each other in place of the lanes; None: the lanes."""
        self.again_view.setVisible(earlier is not None)
        self._scroll.setVisible(earlier is None)
        self._offered.setVisible(earlier is None)  # the same words stand there with their answers
        if earlier is not None:
            self.again_view.show_again(earlier, rows, undone, theme)

    def show_said(self, said: list[Utterance], count: int, device: str, theme: Theme) -> None:
        """Show what was said (the newest of `count` in all); follows the newest."""
        self.lanes.show_said(said, device, theme)
        if count != self._count:
            self._count = count
            bar = self._scroll.verticalScrollBar()
            if bar is not None:
                self.lanes.adjustSize()
                bar.setValue(bar.maximum())
