"""Keep this device: what was heard and said, made into a sheet by touching; nothing is typed twice."""

from collections.abc import Sequence
from functools import partial

from PyQt6.QtCore import QPoint, Qt, pyqtSignal
from PyQt6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QFrame,
    QGridLayout,
    QHBoxLayout,
    QInputDialog,
    QLineEdit,
    QMenu,
    QPlainTextEdit,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from humble_courier.app.devices.answer_pattern import NAMES, AnswerPart
from humble_courier.app.devices.draft import Said
from humble_courier.domain.facts import State
from humble_courier.ui.stages.talk.keep_more import KeepMore
from humble_courier.ui.theme import Theme
from humble_courier.ui.widgets.basics import PlainButton, button, clear, label
from humble_courier.ui.widgets.contact_face import ContactFace
from humble_courier.ui.widgets.faces import Face
from humble_courier.ui.widgets.flow import FlowRow
from humble_courier.ui.widgets.steps_view import Mark
from humble_courier.ui.widgets.two_columns import TwoColumns

NARROW = 640  # pixels of plain type below which the two columns stand one above the other
OWN_NAME, NOTHING = "another name…", "nothing"
Row = tuple[State, str, str]
Card = tuple[Said, tuple[AnswerPart, ...], str, bool]  # words with their answer, its parts, how the pattern fits, only asks


class KeepPage(QWidget):
    """`named`: words, place of a part, its name. `asks`: words, whether they only ask. `add`: what, and the text."""

    named = pyqtSignal(str, int, str)
    asks = pyqtSignal(str, bool)
    add = pyqtSignal(str, str)
    carries = pyqtSignal(str, str)
    level = pyqtSignal(str)
    renamed = pyqtSignal(str)
    undo = pyqtSignal()
    kept = pyqtSignal()
    tried = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self._shown: tuple[Card, ...] = ()
        self.rest = KeepMore()
        self.columns = TwoColumns(NARROW, (5, 5), 20)
        self._left, self._right = self.columns.left, self.columns.right
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        inner = QWidget()
        inner.setObjectName("lanes")
        whole = QVBoxLayout(inner)
        whole.setContentsMargins(0, 0, 8, 0)
        whole.addWidget(self.columns)
        whole.addWidget(self.rest)
        self.rest.hide()
        scroll = QScrollArea()
        scroll.setWidgetResizable(True)
        scroll.setWidget(inner)
        scroll.setAccessibleName("The device in the making")
        scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        column.addWidget(scroll)
        self._words()
        self._port()

    def _words(self) -> None:
        self._left.addWidget(label("Its first words: in an answer, touch what matters and name it", "title", wrap=True))
        self.cards = QVBoxLayout()
        self._left.addLayout(self.cards)
        self.rows = QGridLayout()
        self.rows.setColumnStretch(2, 1)
        self.rows.setHorizontalSpacing(10)
        self._left.addWidget(label("What is known of it", "title"))
        self._left.addLayout(self.rows)
        self._left.addStretch(1)
        self._left.addWidget(label("Before the first word, and after the job", "title"))
        row = QHBoxLayout()
        self.what, self.more = QComboBox(), QLineEdit()
        self.what.setAccessibleName("What is added")
        self.more.setPlaceholderText("in a few words, as in Open the valve before the cover")
        self.more.returnPressed.connect(self._added)
        row.addWidget(self.what)
        row.addWidget(self.more, 1)
        self._left.addLayout(row)

    def _port(self) -> None:
        self._right.addWidget(label("Its port, as it meets you: touch a contact, say what it carries", "title", wrap=True))
        self.face = ContactFace()
        self.face.carries.connect(self.carries.emit)
        self._right.addWidget(self.face)
        self.signals = label("", "small", wrap=True)
        self._right.addWidget(self.signals)
        row = QHBoxLayout()
        self.levels = QComboBox()
        self.levels.setAccessibleName("Level of its signals")
        self.levels.activated.connect(lambda _: self.level.emit(self.levels.currentText()))
        row.addWidget(label("its signals are", "quiet"))
        row.addWidget(self.levels, 1)
        self._right.addLayout(row)
        name = QHBoxLayout()
        self.name = QLineEdit()
        self.name.setAccessibleName("Name of the device")
        self.name.editingFinished.connect(lambda: self.renamed.emit(self.name.text()))
        name.addWidget(label("Keep as", "title"))
        name.addWidget(self.name, 1)
        self._right.addLayout(name)
        self.keep = button("Keep this device", "main", self.kept.emit, "Ctrl+K")
        self.bench = button("Try it on the simulated bench", "", self.tried.emit, "Ctrl+T")
        self.back = button("Take back", "", self.undo.emit, "Ctrl+Backspace")
        self.as_text = button("As text", "", self._toggle, "Ctrl+E")
        self.open_more = button("Switches, revisions, ports, program", "", self._show_more, "Ctrl+D")
        self._right.addWidget(FlowRow([self.keep, self.bench, self.open_more, self.as_text, self.back]))
        self.result = label("", "small", wrap=True)
        self._right.addWidget(self.result)
        self.text = QPlainTextEdit()
        self.text.setReadOnly(True)
        self.text.setAccessibleName("The sheet as text")
        self.text.hide()
        self._right.addWidget(self.text, 1)
        self._right.addStretch(1)

    def show_cards(self, cards: Sequence[Card]) -> None:
        """Words, each with its answer in parts that can be touched; made anew only where something is other."""
        if tuple(cards) == self._shown:
            return
        self._shown = tuple(cards)
        clear(self.cards)
        if not cards:
            hint = "Nothing was asked and answered yet: say something on the first page. A talker is kept by what it says."
            self.cards.addWidget(label(hint, "quiet", wrap=True))
        for card in cards:
            self.cards.addWidget(self._card(*card))

    def _card(self, said: Said, parts: tuple[AnswerPart, ...], fits: str, only_asks: bool) -> QFrame:
        frame = QFrame()
        frame.setProperty("role", "card")
        column = QVBoxLayout(frame)
        column.setContentsMargins(10, 6, 10, 6)
        head = QHBoxLayout()
        head.addWidget(label(said.words, "words"), 1)
        asks = QCheckBox("it only asks")
        asks.setChecked(only_asks)
        asks.setToolTip("Words that change something in the device are not kept as first words")
        asks.toggled.connect(partial(self.asks.emit, said.words))
        head.addWidget(asks)
        column.addLayout(head)
        pieces: list[QWidget] = []
        at = 0
        for part in parts:
            if said.answer[at : part.start].strip():
                pieces.append(label(said.answer[at : part.start].strip(), "words"))
            pieces.append(self._part(said, part))
            at = part.end
        if said.answer[at:].strip():
            pieces.append(label(said.answer[at:].strip(), "words"))
        column.addWidget(FlowRow(pieces))
        column.addWidget(label(f"pattern made from it: {fits}", "small"))
        return frame

    def _part(self, said: Said, part: AnswerPart) -> PlainButton:
        text = said.answer[part.start : part.end]
        made = PlainButton(f"{text} · {part.name}" if part.name else text)
        made.setProperty("role", "act")
        made.setCheckable(True)
        made.setChecked(bool(part.name))
        made.setAccessibleName(f"{text}: {part.name or 'not named'}")
        made.clicked.connect(lambda: self._ask_name(made, said.words, part))
        return made

    def _ask_name(self, made: PlainButton, words: str, part: AnswerPart) -> None:
        made.setChecked(bool(part.name))
        menu = QMenu(self)
        for name in (*NAMES, OWN_NAME, NOTHING):
            action = menu.addAction(name)
            if action is not None:
                action.triggered.connect(partial(self._name, words, part.start, name))
        menu.popup(made.mapToGlobal(QPoint(0, made.height())))

    def _name(self, words: str, at: int, name: str) -> None:
        if name == OWN_NAME:
            name, given = QInputDialog.getText(self, "Name", "What is this part called?")
            if not given:
                return
        self.named.emit(words, at, "" if name == NOTHING else name.strip())

    def _added(self) -> None:
        self.add.emit(self.what.currentText(), self.more.text().strip())
        self.more.clear()

    def _show_more(self) -> None:
        self.rest.setVisible(self.rest.isHidden())
        if not self.rest.isHidden():
            self.rest.how.setFocus()

    def _toggle(self) -> None:
        self.text.setVisible(not self.text.isVisible())

    def show_known(self, rows: Sequence[Row], theme: Theme) -> None:
        """What is known, each with how sure it is."""
        self.columns.show_scale(theme.scale)
        clear(self.rows)
        for line, (state, what, value) in enumerate(rows):
            self.rows.addWidget(Mark(state, theme), line, 0)
            self.rows.addWidget(label(what, "quiet"), line, 1)
            self.rows.addWidget(label(value, "", wrap=True), line, 2)

    def show_port(self, face: Face | None, signals: dict[str, str], choices: Sequence[str], theme: Theme) -> None:
        """The connector with what its contacts carry."""
        self.face.show_face(face, signals, choices, theme)
        told = " · ".join(f"{contact}\u00a0{signal.replace(' ', chr(160))}" for contact, signal in signals.items())
        self.signals.setText(told or "No contact is known yet.")
