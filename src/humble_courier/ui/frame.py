"""What stands around the stage: header, rail, what we know, and the foot with the transmit state."""

from collections.abc import Sequence

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QResizeEvent
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QPushButton, QScrollArea, QVBoxLayout, QWidget

from humble_courier.app.link.stages import Stage
from humble_courier.app.link.step import Action, NextStep
from humble_courier.app.port.sending import SendingNow
from humble_courier.domain.facts import Fact
from humble_courier.domain.lines import Lines
from humble_courier.ui.theme import Theme
from humble_courier.ui.widgets.basics import button, label, set_role, short_label
from humble_courier.ui.widgets.facts_list import FactsList


class Header(QWidget):
    """Name of the link and how far it is; the keys that always work."""

    undo = pyqtSignal()
    help = pyqtSignal()
    palette_wanted = pyqtSignal()
    diagnosis_wanted = pyqtSignal()
    switch_wanted = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("header")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.name, self.status = short_label("headline"), short_label("quiet")
        self._undo = button("Undo", "", self.undo.emit, "Ctrl+Z")
        row = QHBoxLayout(self)
        row.setContentsMargins(16, 4, 16, 4)
        row.setSpacing(12)
        row.addWidget(self.name)
        row.addWidget(self.status, 1)
        self.other = button("Back", "", self.switch_wanted.emit, "Ctrl+Tab")
        self.other.hide()
        row.addWidget(self.other)
        self.wrong = button("It does not work", "", self.diagnosis_wanted.emit)
        self.wrong.setToolTip("F11 finds the check that is worth most now")
        row.addWidget(self.wrong)
        row.addWidget(self._undo)
        self._keyed = {
            button("Light or dark", "", self.palette_wanted.emit, "F2"): ("Light or dark", "F2"),
            button("Help", "", self.help.emit, "F1"): ("Help", "F1"),
        }
        for made in self._keyed:
            row.addWidget(made)

    def show_keys(self, keys: bool) -> None:
        """With their keys on the buttons, or narrower without."""
        for made, (name, key) in self._keyed.items():
            made.setText(f"{name}  {key}" if keys else name)
            made.setShortcut(key)

    def show_other(self, name: str) -> None:
        """The link that was on the line before; empty where there is none."""
        self.other.setVisible(bool(name))
        self.other.setToolTip(f"Back to {name}; its port is opened again when you listen")
        self.other.setAccessibleName(f"Back to {name}")

    def show_link(self, name: str, status: str, can_undo: bool, fails: bool = False) -> None:
        """Show the name of the link and its status; `fails`: whether there is something that may not work."""
        self.name.setText(name)
        self.status.setText(status)
        self.wrong.setVisible(fails)
        self._undo.setVisible(can_undo)


class Rail(QScrollArea):
    """The link, and the few places that are not one. `chosen` gives the stage, or None for the link."""

    chosen = pyqtSignal(object)

    def __init__(self, places: Sequence[tuple[Stage, str, str]]) -> None:
        """`places`: stage, name and key of each."""
        super().__init__()
        self.setObjectName("rail")
        self.setWidgetResizable(True)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        inner = QWidget()
        inner.setObjectName("places")
        inner.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        column = QVBoxLayout(inner)
        column.setContentsMargins(0, 16, 0, 8)
        column.setSpacing(4)
        self._buttons: dict[Stage | None, QPushButton] = {}
        self._names: dict[Stage | None, tuple[str, str]] = {}
        for stage, text, key in ((None, "This link", "F6"), *places):
            made = button(text, "rail", None, key)
            made.setCheckable(True)
            made.clicked.connect(lambda _=False, stage=stage: self.chosen.emit(stage))
            self._buttons[stage], self._names[stage] = made, (text, key)
            column.addWidget(made)
        column.addStretch(1)
        self.setWidget(inner)

    def show_current(self, current: Stage | None, has_link: bool) -> None:
        """Mark the open place."""
        for stage, made in self._buttons.items():
            made.setChecked(stage is current)
        self._buttons[None].setEnabled(has_link)
        self.ensureWidgetVisible(self._buttons[current])

    def show_keys(self, keys: bool, theme: Theme) -> None:
        """With their keys on the buttons, or narrower without."""
        for stage, made in self._buttons.items():
            name, key = self._names[stage]
            made.setText(f"{name}  {key}" if keys else name)
            made.setToolTip("" if keys else key)
            made.setShortcut(key)
        self.setFixedWidth(theme.px(136 if keys else 92))


def offer(made: QPushButton, step: NextStep) -> None:
    """The recommended act on a button; a button that is hidden hears no key."""
    made.setText(f"{step.button}  Ctrl+Enter")
    made.setShortcut("Ctrl+Return")
    made.setAccessibleName(step.button)


MOST_LINES = 3.2  # of the text beside the keys of the folded bar


class NextBar(QWidget):
    """What we know, folded to a bar: the act that is worth most now, and the way to open it."""

    act = pyqtSignal()
    alone = pyqtSignal()
    unfolded = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("foot")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self._column = QVBoxLayout(self)
        self._column.setContentsMargins(16, 4, 16, 4)
        self._row = QHBoxLayout()
        self._row.setSpacing(12)
        self._column.addLayout(self._row)
        self._text = label("", "", wrap=True)
        self.button = button("", "main", self.act.emit)
        self.by_itself = button("By itself", "", self.alone.emit, "F3")
        self.open = button("What we know", "", self.unfolded.emit, "Ctrl+W")
        for widget, stretch in ((self.button, 0), (self._text, 1), (self.by_itself, 0), (self.open, 0)):
            self._row.addWidget(widget, stretch)
        self._known, self._opened, self._alone = 0, False, ""
        self._step: NextStep | None = None

    def show_next(self, step: NextStep | None, known: int) -> None:
        """The recommended act; `known`: how many facts are folded away."""
        self._step, self._known = step, known
        self.show_open(self._opened)

    def show_alone(self, told: str, going: bool) -> None:
        """What is done by itself, in place of the recommendation as long as it goes on."""
        self._alone = f"By itself: {told}" if going else ""
        self.show_open(self._opened)

    def show_open(self, opened: bool) -> None:
        """Whether what we know is open beside the stage: then the acts and their keys are there, and not here."""
        step, self._opened = self._step, opened
        self.open.setText(f"{'Fold' if opened else 'What we know'} · {self._known}  Ctrl+W")
        self.open.setShortcut("Ctrl+W")
        self._text.setText("" if opened or step is None else self._alone or f"Do next · {step.cost}: {step.text}")
        self.button.setVisible(not opened and step is not None and step.action is not Action.WAIT)
        self.by_itself.setVisible(not opened and step is not None and step.action not in (Action.KEEP_PROOF, Action.PAPER))
        self.by_itself.setText(f"{'Stop' if self._alone else 'By itself'}  F3")
        self.by_itself.setShortcut("F3")
        if step is not None:
            offer(self.button, step)
        self._arrange()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """Another width."""
        super().resizeEvent(event)
        self._arrange()

    def _arrange(self) -> None:
        """The text beside the keys where it needs two lines at most, else above them."""
        keys = [one for one in (self.button, self.by_itself, self.open) if not one.isHidden()]
        room = self.width() - 32 - sum(one.sizeHint().width() + self._row.spacing() for one in keys)
        lines = self._text.heightForWidth(max(1, room)) / max(1, self._text.fontMetrics().lineSpacing())
        above = bool(self._text.text()) and lines > MOST_LINES
        if above == (self._row.indexOf(self._text) < 0):
            return
        if above:
            self._row.removeWidget(self._text)
            self._column.insertWidget(0, self._text)
        else:
            self._column.removeWidget(self._text)
            self._row.insertWidget(1, self._text, 1)


class FactsPanel(QWidget):
    """What we know, newest first, and under it the one recommended next action."""

    act = pyqtSignal()
    alone = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("facts")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        column = QVBoxLayout(self)
        column.setContentsMargins(16, 12, 16, 12)
        column.setSpacing(8)
        column.addWidget(label("What we know", "title"))
        self._list = FactsList()
        self._scroll = QScrollArea()
        self._scroll.setWidgetResizable(True)
        self._scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self._scroll.setStyleSheet("QScrollArea { background: transparent; }")
        self._scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self._scroll.setWidget(self._list)
        self._list.setAutoFillBackground(False)
        column.addWidget(self._scroll, 1)
        self._card = QFrame()
        self._card.setProperty("role", "card")
        card = QVBoxLayout(self._card)
        card.setContentsMargins(12, 10, 12, 12)
        self._cost, self._text = label("", "title"), label("", "", wrap=True)
        self.button = button("", "main", self.act.emit)
        card.addWidget(self._cost)
        card.addWidget(self._text)
        card.addWidget(self.button, 0, Qt.AlignmentFlag.AlignLeft)
        self.by_itself = button("Go on by itself", "", self.alone.emit, "F3")
        self.by_itself.setToolTip(
            "Listens, then asks with the words of the sheet, then searches; stops where only you can go on"
        )
        self._told = label("", "small", wrap=True)
        card.addWidget(self.by_itself, 0, Qt.AlignmentFlag.AlignLeft)
        card.addWidget(self._told)
        column.addWidget(self._card)

    def show_facts(self, facts: list[Fact], theme: Theme) -> None:
        """Show facts with provenance and time."""
        self.setFixedWidth(min(theme.px(288), 400))
        self._list.show_facts(facts, theme)

    def show_alone(self, told: str, going: bool) -> None:
        """What is done by itself, or why it ended."""
        self._told.setFixedWidth(max(0, self.minimumWidth() - 58))
        self._told.setText(f"By itself: {told}" if going else told)
        self.by_itself.setText(f"{'Stop' if going else 'Go on by itself'}  F3")
        self.by_itself.setShortcut("F3")

    def show_next(self, step: NextStep | None) -> None:
        """Show the recommended action; None hides it."""
        self._card.setVisible(step is not None)
        if step is not None:
            self.by_itself.setVisible(step.action not in (Action.KEEP_PROOF, Action.PAPER))
            self._cost.setText(f"Do next · {step.cost}")
            self._text.setFixedWidth(max(0, self.minimumWidth() - 58))
            self._text.setText(step.text)
            self.button.setVisible(step.action is not Action.WAIT)  # nothing is to press then
            offer(self.button, step)


class Foot(QWidget):
    """Transmit state, handshake lines, and the port in use."""

    arm = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("foot")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        row = QHBoxLayout(self)
        row.setContentsMargins(16, 4, 16, 4)
        row.setSpacing(12)
        self.state, self._hint = short_label("title"), short_label("quiet")
        self.switch = button("Arm", "", self.arm.emit, "F12")
        self._lines, self._port = short_label("quiet"), short_label("")
        row.addWidget(self.state)
        row.addWidget(self.switch)
        row.addWidget(self._hint, 1)
        row.addWidget(self._lines)
        row.addWidget(self._port)
        self._known_lines = ""

    def show_state(self, now: SendingNow, listening: bool, port: str, lines: Lines) -> None:
        """Show what may be sent at this moment in this process, whatever page is open, and by which port."""
        armed_for, works = now.may_send, [f"{what} at {address}" if address else what for what, address in now.works]
        set_role(self, "armed", "true" if armed_for else "false")
        if armed_for:
            self.state.setText(f"▲ Armed: may send {armed_for}")
            self._hint.setText("")
        else:
            self.state.setText("Listening only" if listening or works else "Port closed")
            self._hint.setText(f"{', '.join(works)}: nothing is sent" if works else "nothing is sent until armed")
        self.switch.setText("Stop  F12" if works else "Disarm  F12" if armed_for else "Arm  F12")
        self.switch.setShortcut("F12")
        self.switch.setEnabled(listening or bool(armed_for or works))
        self._port.setText(port)
        names = ("RTS", "CTS", "DTR", "DSR", "DCD")
        states = (lines.rts, lines.cts, lines.dtr, lines.dsr, lines.dcd)
        known = [f"{n} {'on' if on else 'off'}" for n, on in zip(names, states, strict=True) if on is not None]
        self._known_lines = "   ".join(known)
        self._fit()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """Lines are shown where there is room for them."""
        self._fit()

    def _fit(self) -> None:
        wide = self.width() > 9 * self._lines.fontMetrics().averageCharWidth() * 14
        self._lines.setText(self._known_lines if wide else "")
