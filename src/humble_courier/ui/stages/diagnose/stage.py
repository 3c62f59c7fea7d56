"""Diagnose: it does not work, so what is looked at next? One act with its outcomes as keys; beside it what was done."""

from functools import partial

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QLineEdit, QPushButton, QScrollArea, QVBoxLayout

from humble_courier.app.diagnose.advice import ActTold, Advice, CauseTold
from humble_courier.app.diagnose.diagnosis import Done
from humble_courier.app.diagnose.symptoms import Symptom
from humble_courier.domain.clock import minutes_in_words
from humble_courier.ui.stage_widget import StageWidget
from humble_courier.ui.stages.diagnose.outcome_rows import OutcomeRows
from humble_courier.ui.theme import Theme
from humble_courier.ui.widgets.basics import button, clear, label
from humble_courier.ui.widgets.symptom_pictures import SymptomPictures
from humble_courier.ui.widgets.two_columns import TwoColumns

NARROW = 760  # pixels of plain type below which what was done stands under the act
SPEAKS = 0.1  # nats from which a fact is named
HARM = "the wiring as drawn may damage something. Nothing is sent until that is put right: touch the marked place."
REASONS, NAMED = 4, 6


class DiagnoseStage(StageWidget):
    """`seen` gives an outcome of the shown check; `took_back` the code of something done; `named` the true cause."""

    seen = pyqtSignal(str)
    mended = pyqtSignal(bool)
    passed = pyqtSignal()
    not_at_hand = pyqtSignal()
    took_back = pyqtSignal(str)
    ran = pyqtSignal()
    opened = pyqtSignal()
    named = pyqtSignal(str)
    report_wanted = pyqtSignal()
    told = pyqtSignal(str)
    meant = pyqtSignal(str, str)

    def __init__(self) -> None:
        super().__init__()
        self.rows = OutcomeRows()
        self.rows.chosen.connect(self.seen.emit)
        self.rows.mended.connect(self.mended.emit)
        self.caution = label("", "caution", wrap=True)
        self.run = button("", "main", self.ran.emit, "Ctrl+R")
        self.place = button("", "", self.opened.emit, "Ctrl+O")
        self.other = button("Another check", "", self.passed.emit, "Ctrl+Right")
        self.lacking = button("", "", self.not_at_hand.emit, "Ctrl+Down")
        self.report = button("Sheet for the support", "", self.report_wanted.emit, "Ctrl+P")
        self.body = TwoColumns(NARROW, (11, 5), 16)
        self._why, self._done, self._causes = QVBoxLayout(), QVBoxLayout(), QVBoxLayout()
        self.words = QLineEdit()
        self.words.setPlaceholderText("Or say what you see, or touch its picture: a lamp, a noise, words on a display")
        self.words.setAccessibleName("What you see, in words of your own")
        self.words.textChanged.connect(self.told.emit)
        self.pictures = SymptomPictures()
        self.pictures.meant.connect(self.meant.emit)
        self._meant = QVBoxLayout()
        self.meanings: list[QPushButton] = []
        self.back: list[QPushButton] = []
        self.names: list[QPushButton] = []
        self._lay_out()
        self._shown: object = None

    def _lay_out(self) -> None:
        keys = QHBoxLayout()
        for made in (self.run, self.place, self.other, self.lacking):
            keys.addWidget(made)
        keys.addStretch(1)
        left, right = self.body.left, self.body.right
        left.addWidget(self.caution)
        left.addLayout(keys)
        left.addWidget(self.rows)
        left.addWidget(self.words)
        left.addLayout(self._meant)
        left.addWidget(self.pictures)
        left.addLayout(self._why)
        left.addStretch(1)
        right.addLayout(self._done)
        right.addLayout(self._causes)
        right.addWidget(self.report)
        right.addStretch(1)
        scroll = QScrollArea()
        scroll.setWidgetResizable(True)
        scroll.setAccessibleName("The next act, and what was done")
        self.body.setObjectName("lanes")
        scroll.setWidget(self.body)
        self.column.addWidget(scroll, 1)

    def show_advice(
        self,
        advice: Advice,
        act: ActTold,
        done: list[Done],
        runs: bool,
        where: str,
        theme: Theme,
        outlook: float | None,
        harm: bool,
    ) -> None:
        """The act in hand with its outcomes; `runs`: the program can do it; `where`: the place it has in the program."""
        self.body.show_scale(theme.scale)
        self.say(_headline(advice, act), _reason(advice, act, outlook))
        caution = HARM if harm else act.caution
        self.caution.setVisible(bool(caution))
        self.caution.setText(f"▲ Caution: {caution}" if caution else "")
        self._name(self.run, "Do it now" if act.sends else "Look now", "Ctrl+R", runs)
        self._name(self.place, where, "Ctrl+O", bool(where) and not runs)
        self.other.setVisible(len(advice.acts) > 1)
        need = act.needs[0] if act.needs else ""
        self._name(self.lacking, f"No: {need} is not at hand" if need else "", "Ctrl+Down", bool(need))
        self.rows.show_act(act, theme)
        for made in (self.words, self.pictures):
            made.setVisible(True)
        if self._shown == (advice, done, theme):
            return
        self._shown = (advice, done, theme)
        self._show_why(advice)
        self._show_done(done)
        self._show_causes(advice.causes[:NAMED], advice.bring)

    def show_running(self, ask: str, says: str) -> None:
        """A check of the program is under way."""
        self.say(f"Under way: {ask}", f"It sends {says}; Esc stops it." if says else "It listens; nothing is sent.")
        for made in (self.caution, self.run, self.place, self.other, self.lacking, self.words, self.pictures):
            made.setVisible(False)
        self.rows.show_none()

    def show_works(self, advice: Advice, done: list[Done], theme: Theme, how: str) -> None:
        """The device answers: what was it? `how`: with what it was answered, where that is new."""
        self.body.show_scale(theme.scale)
        again = "Name the cause once: it counts for the next link of yours that does not work."
        self.say("It works. What was it?", f"{how}{again}")
        for made in (self.caution, self.run, self.place, self.other, self.lacking, self.words, self.pictures):
            made.setVisible(False)
        self.rows.show_none()
        if self._shown == ("works", advice, done, theme):
            return
        self._shown = ("works", advice, done, theme)
        clear(self._causes)
        self._show_done(done)
        self._show_names(advice.causes[:NAMED])

    def show_meanings(self, found: list[Symptom]) -> None:
        """What may be meant by the words that were typed."""
        clear(self._meant)
        self.meanings = []
        for one in found:
            made = button(one.says, "act", partial(self.meant.emit, one.check, one.outcome))
            self.meanings.append(made)
            self._meant.addWidget(made)

    @staticmethod
    def _name(made: QPushButton, text: str, key: str, visible: bool) -> None:
        made.setVisible(visible)
        made.setText(f"{text}  {key}" if visible else "")
        made.setShortcut(key if visible else "")
        made.setAccessibleName(text)

    def _show_why(self, advice: Advice) -> None:
        clear(self._why)
        first = advice.causes[0]
        facts = [(text, speaks) for text, speaks in first.because if abs(speaks) >= SPEAKS][:REASONS]
        if not facts:
            return
        self._why.addWidget(label(f"Why it leads: {first.says}", "title", wrap=True))
        for text, speaks in facts:
            told = f"{'+ speaks for it' if speaks > 0 else '- speaks against it'}: {text}"
            self._why.addWidget(label(told, "", wrap=True))

    def _show_done(self, done: list[Done]) -> None:
        clear(self._done)
        self.back = []
        self._done.addWidget(label("Done so far" if done else "Nothing was looked at yet", "title"))
        for one in done:
            frame = QFrame()
            row = QHBoxLayout(frame)
            row.setContentsMargins(0, 0, 0, 0)
            words = QVBoxLayout()
            words.setSpacing(0)
            words.addWidget(label(one.ask, "", wrap=True))
            words.addWidget(label(f"{'by itself' if one.by_itself else 'you'}: {one.says}", "small", wrap=True))
            row.addLayout(words, 1)
            if not one.by_itself:
                made = button("Take back", "", partial(self.took_back.emit, one.code))
                made.setAccessibleName(f"Take back: {one.ask}")
                self.back.append(made)
                row.addWidget(made)
            self._done.addWidget(frame)

    def _show_causes(self, causes: tuple[CauseTold, ...], bring: tuple[tuple[str, float], ...]) -> None:
        clear(self._causes)
        self._causes.addWidget(label("What it may be", "title"))
        for one in causes:
            self._causes.addWidget(label(f"{one.probability:.0%}  {one.says}", "", wrap=True))
        if bring:
            self._causes.addWidget(label("Not at hand, and it would help", "title"))
        for what, minutes in bring:
            self._causes.addWidget(label(f"{what}: saves {minutes_in_words(minutes)}", "", wrap=True))

    def _show_names(self, causes: tuple[CauseTold, ...]) -> None:
        """Causes as keys: which was it?"""
        clear(self._why)
        self.names = []
        for code, says in [*((one.code, one.says) for one in causes), ("", "something else")]:
            made = button(f"It was: {says}", "", partial(self.named.emit, code))
            self.names.append(made)
            self._why.addWidget(made)


def _headline(advice: Advice, act: ActTold) -> str:
    return advice.headline if advice.fits_none else act.headline


def _reason(advice: Advice, act: ActTold, outlook: float | None) -> str:
    sends = f"It sends {act.sends}. " if act.sends else ""
    needs = f"Needs {' and '.join(act.needs)}. " if act.needs else ""
    left = f"{advice.thinkable} causes are thinkable, {advice.ruled_out} are as good as ruled out."
    ahead = f" Expect {minutes_in_words(outlook)} to an answer." if outlook is not None else ""
    return f"{sends}{needs}{left}{ahead}"
