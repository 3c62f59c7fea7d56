"""A second visit: the questions of an earlier day with the answers of then, and beside each what came today."""

from collections.abc import Sequence

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QFrame, QGridLayout, QHBoxLayout, QVBoxLayout, QWidget

from humble_courier.app.link.second_visit import Again, Earlier
from humble_courier.domain.facts import State
from humble_courier.ui.theme import Theme
from humble_courier.ui.widgets.basics import button, clear, label, set_role
from humble_courier.ui.widgets.flow import FlowRow
from humble_courier.ui.widgets.steps_view import Mark

LONGEST = 120  # characters of an answer that are shown; all of it stands in the proof


class AgainView(QWidget):
    """`again`: ask them once more; `different`: something is not as it was; `typed`: put words into the field."""

    again = pyqtSignal()
    different = pyqtSignal()
    typed = pyqtSignal(str)

    def __init__(self) -> None:
        super().__init__()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(8)
        cards = QHBoxLayout()
        cards.setSpacing(14)
        self._then, self._today = _Card(), _Card()
        cards.addWidget(self._then.frame, 1)
        cards.addWidget(self._today.frame, 1)
        column.addLayout(cards)
        self.before = label("", "caution", wrap=True)
        column.addWidget(self.before)
        self.ask = button("Ask again", "main", self.again.emit)
        self.put = button("Put it into the field", "", self._put)
        self.other = button("Something is different now", "", self.different.emit)
        self.other.setToolTip("Where it does not answer: what has changed since, and what to check first")
        column.addWidget(FlowRow([self.ask, self.put, self.other]))
        column.addStretch(1)
        self._first = ""
        self._shown: object = None

    def _put(self) -> None:
        self.typed.emit(self._first)

    def show_again(self, earlier: Earlier, rows: Sequence[Again], undone: Sequence[str], theme: Theme) -> None:
        """Show both days, question by question; `undone`: what has to be done before, and is ticked by asking."""
        state = (earlier, tuple(rows), tuple(undone), theme.palette.name, theme.scale)
        if self._shown == state:
            return
        self._shown = state
        who = f", kept by {earlier.who}" if earlier.who else ""
        answered = sum(row.today is not None for row in rows)
        asked = any(row.asked for row in rows)
        told = f"{answered} of {len(rows)} answered" if asked else "nothing asked yet"
        self._then.begin(earlier.day[0].upper() + earlier.day[1:], f"{earlier.shown.grade.value} proof{who}")
        self._today.begin("Now", told)
        for row in rows:
            question = row.question
            self._then.add(question.words, _short(question.answer), question.meaning, None, theme)
            self._today.add(question.words, *_today(row), theme)
        words = ", ".join(one.words for one in earlier.asked_again())
        self._first = next((one.words for one in earlier.questions), "")
        acts = "; ".join(undone)
        self.before.setText(
            f"Before the first question, and ticked for today by asking: {acts}." if undone and words else ""
        )
        self.before.setVisible(bool(undone and words))
        for card in (self._then, self._today):
            card.end()
        self.ask.setVisible(bool(words))
        self.ask.setText(f"Ask again: says {words}")
        self.put.setVisible(not words and bool(self._first))
        self.put.setText(f"Put “{self._first}” into the field")


def _short(text: str) -> str:
    return text if len(text) <= LONGEST else f"{text[:LONGEST]} …"


def _today(row: Again) -> tuple[str, str, State | None]:
    """The answer of today, what it is beside that of then, and its mark."""
    if row.today is None and row.asked:
        return "no answer yet", "then it answered", State.UNKNOWN
    if row.today is None:
        return "waits for the answer", "compared with then", None
    return _short(row.today), "the same as then" if row.same else "it answers, otherwise than then", State.PROVEN


class _Card:
    """One day: its title, and the questions below each other."""

    def __init__(self) -> None:
        self.frame = QFrame()
        set_role(self.frame, "role", "card")
        self._grid = QGridLayout(self.frame)
        self._grid.setContentsMargins(12, 8, 12, 8)
        self._grid.setVerticalSpacing(4)
        self._grid.setColumnStretch(2, 1)
        self._row = 0

    def begin(self, title: str, told: str) -> None:
        """Empty, with its title."""
        clear(self._grid)
        self._grid.setRowStretch(self._row, 0)
        self._grid.addWidget(label(title, "title"), 0, 0, 1, 3)
        self._grid.addWidget(label(told, "quiet", wrap=True), 1, 0, 1, 3)
        self._row = 2

    def add(self, words: str, answer: str, meaning: str, state: State | None, theme: Theme) -> None:
        """One question with its answer beside it."""
        top = Qt.AlignmentFlag.AlignTop
        self._grid.addWidget(label(words, "mono"), self._row, 0, top)
        if state is not None:
            self._grid.addWidget(Mark(state, theme), self._row, 1, top)
        self._grid.addWidget(label(answer, "words", wrap=True), self._row, 2, top)
        if meaning:
            self._grid.addWidget(label(meaning, "small", wrap=True), self._row + 1, 2, top)
        self._row += 2

    def end(self) -> None:
        """No more will come: what room is left stands below."""
        self._grid.setRowStretch(self._row, 1)
