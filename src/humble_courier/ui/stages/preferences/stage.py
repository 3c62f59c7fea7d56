"""Preferences: how it looks, where records live, what holds at the site, and which way is tried first."""

from collections.abc import Mapping
from functools import partial

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import (
    QButtonGroup,
    QFrame,
    QHBoxLayout,
    QLineEdit,
    QPlainTextEdit,
    QRadioButton,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from humble_courier.app.preferences import LARGEST, SMALLEST, Preferences
from humble_courier.ui.stage_widget import StageWidget
from humble_courier.ui.widgets.basics import button, label
from humble_courier.ui.widgets.flow import FlowRow
from humble_courier.ui.widgets.two_columns import TwoColumns

CAUTIONS = 92  # pixels: four lines
TEAM = "Work goes on in the records of this computer; each takes in what is new at the other when there is a network."
NARROW = 700  # pixels of plain type below which the two columns stand one above the other
COLOURS = {
    "as the system": "as the system has it",
    "light": "light, as paper",
    "dark": "dark, for the cab",
    "outdoor": "outdoor, in the sun",
}
# Matters on which practitioners disagree: question, key, and each school with its reason (common practice).
SCHOOLS: tuple[tuple[str, str, Mapping[str, str]], ...] = (
    (
        "Where nothing is known of a device, which end of a line is tried first?", "line_end",
        {"cr": "CR: old devices count it", "crlf": "CR LF: instruments count it", "lf": "LF: modules count it"},
    ),
    (
        "What does a name that stays follow, where an adapter has both?", "naming",
        {"serial": "its serial number: it may move to any socket", "socket": "the socket: what is in there has the name"},
    ),
    (
        "For which laptop is the driver plan made at first?", "laptop",
        {"other": "another system: driver before the first plug-in", "linux": "Linux: the system binds it by itself"},
    ),
)  # fmt: skip


class PreferencesStage(StageWidget):
    """`preferred` gives the key and the value; `folder` asks for a folder; a text size comes in percent."""

    preferred = pyqtSignal(str, object)
    folder = pyqtSignal()
    step_wanted = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.columns = TwoColumns(NARROW, (5, 5), 28)
        inner = QWidget()
        whole = QVBoxLayout(inner)
        whole.setContentsMargins(0, 0, 8, 0)
        whole.addWidget(self.columns)
        whole.addStretch(1)
        scroll = QScrollArea()
        scroll.setWidgetResizable(True)
        scroll.setWidget(inner)
        scroll.setAccessibleName("Preferences")
        inner.setObjectName("lanes")
        self.column.addWidget(scroll, 1)
        self.choices: dict[str, dict[str, QRadioButton]] = {}
        self._text = Preferences().text  # percent
        self._look()
        self._place()
        self._schools()

    def _look(self) -> None:
        left = self.columns.left
        left.addWidget(label("Size of the text", "title"))
        self.percent = label("", "title")
        self.smaller = button("Smaller", "", partial(self._step, -10), "Ctrl+-")
        self.larger = button("Larger", "", partial(self._step, 10), "Ctrl++")
        for made in (self.smaller, self.larger):
            made.setShortcut("")  # the window has these keys on every page
        left.addWidget(FlowRow([self.smaller, self.percent, self.larger]))
        left.addWidget(label("Read this line at arm's length: RTS 7 to CTS 8, 4800 7E1, B8 6S 5Z 0O 1l", "words", wrap=True))
        left.addWidget(label("Colours", "title"))
        left.addWidget(self._choice("colours", COLOURS))

    def _place(self) -> None:
        left = self.columns.left
        left.addWidget(label("Where records live", "title"))
        self.data = label("", "words", wrap=True)
        self.data_told = label("", "small", wrap=True)
        left.addWidget(self.data)
        left.addWidget(self.data_told)
        self.choose = button("Choose a folder", "", self.folder.emit, "Ctrl+O")
        self.usual = button("The usual folder", "", lambda: self.preferred.emit("data", ""))
        left.addWidget(FlowRow([self.choose, self.usual]))
        left.addWidget(label("Records of the team", "title"))
        self.records = QLineEdit()
        self.records.setAccessibleName("Records of the team")
        self.records.setPlaceholderText("postgresql://NAME@SERVER/DATABASE")
        self.records.editingFinished.connect(lambda: self.preferred.emit("records", self.records.text().strip()))
        left.addWidget(self.records)
        self.team_told = label("", "small", wrap=True)
        left.addWidget(self.team_told)
        self.step = button("In step with the team now", "", self.step_wanted.emit)
        left.addWidget(FlowRow([self.step]))
        left.addStretch(1)

    def _schools(self) -> None:
        right = self.columns.right
        right.addWidget(label("Region whose radio bands count", "title"))
        self.region = QLineEdit()
        self.region.setAccessibleName("Region")
        self.region.setPlaceholderText("as the device sheets write it; empty shows all")
        self.region.editingFinished.connect(lambda: self.preferred.emit("region", self.region.text().strip()))
        right.addWidget(self.region)
        right.addWidget(label("What holds at this site, before the first word to any device", "title", wrap=True))
        self.cautions = QPlainTextEdit()
        self.cautions.setAccessibleName("Cautions of the site, one a line")
        self.cautions.setPlaceholderText("one sentence a line, as: Tell the gate before a lid is opened")
        self.cautions.setTabChangesFocus(True)
        self.cautions.setMaximumHeight(CAUTIONS)
        right.addWidget(self.cautions)
        row = QHBoxLayout()
        row.addWidget(button("Keep these sentences", "", self._keep_cautions, "Ctrl+S"))
        row.addStretch(1)
        right.addLayout(row)
        for question, key, schools in SCHOOLS:
            right.addWidget(label(question, "title", wrap=True))
            right.addWidget(self._choice(key, schools))
        right.addStretch(1)

    def _choice(self, key: str, options: Mapping[str, str]) -> QFrame:
        frame = QFrame()
        column = QVBoxLayout(frame)
        column.setContentsMargins(0, 0, 0, 6)
        group = QButtonGroup(frame)
        self.choices[key] = {}
        for value, text in options.items():
            made = QRadioButton(text)
            made.clicked.connect(partial(self._chosen, key, value))
            group.addButton(made)
            column.addWidget(made)
            self.choices[key][value] = made
        return frame

    def _chosen(self, key: str, value: str, _on: bool = True) -> None:
        self.preferred.emit(key, value)

    def _step(self, by: int) -> None:
        self.preferred.emit("text", min(LARGEST, max(SMALLEST, self._text + by)))

    def _keep_cautions(self) -> None:
        lines = (line.strip() for line in self.cautions.toPlainText().splitlines())
        self.preferred.emit("cautions", [line for line in lines if line])

    def show_team(self, url: str, told: str) -> None:
        """The team's records, and what came of the last step with them."""
        if not self.records.hasFocus():
            self.records.setText(url)
        self.step.setVisible(bool(url))
        self.team_told.setText(told or TEAM)

    def show_preferences(self, now: Preferences, folder: str, told: str, scale: float) -> None:
        """Show them. `folder`: where the open records live, with what is to be said of it."""
        self.columns.show_scale(scale)
        self._text = now.text
        self.percent.setText(f"{now.text} %")
        self.smaller.setEnabled(now.text > SMALLEST)
        self.larger.setEnabled(now.text < LARGEST)
        for key, options in self.choices.items():
            options[getattr(now, key)].setChecked(True)
        self.data.setText(folder)
        self.data_told.setText(told)
        self.usual.setVisible(bool(now.data))
        if not self.region.hasFocus():
            self.region.setText(now.region)
        if not self.cautions.hasFocus():
            self.cautions.setPlainText("\n".join(now.cautions))
        self.say(
            f"Kept for every start: text {now.text} %, colours {now.colours}",
            "Each choice holds at once. The default beside each question is the one that most work asks for.",
        )
