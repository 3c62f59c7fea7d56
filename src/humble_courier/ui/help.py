"""The manual in the window; F1 opens it at the chapter of the page that is open. The keys are a chapter of their own."""

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QTextCursor
from PyQt6.QtWidgets import QDialog, QHBoxLayout, QLineEdit, QListWidget, QTextBrowser, QVBoxLayout, QWidget

from humble_courier.app.link.stages import Stage
from humble_courier.ui.manual_text import Chapter, chapter_of, chapters
from humble_courier.ui.theme import Theme
from humble_courier.ui.widgets.basics import button, label

KEYS = [
    ("Left, Right", "along the line; the stage below follows"),
    ("Up, Down", "on the wiring: follow one conductor after the other"),
    ("Ctrl+Enter", "do the recommended next thing"),
    ("F4, Shift+F4", "listen (sends nothing), close the port"),
    ("F12", "arm or disarm; nothing is sent while disarmed; stops a search that sends"),
    ("Esc", "stop all that sends, and disarm; else back to the line"),
    ("Alt+1 … Alt+9", "say the first words of the device sheet"),
    ("F3", "go the whole road by itself, or stop it"),
    ("F11", "it does not work: the check or mend that is worth most now"),
    ("Ctrl+R, Ctrl+Right, Ctrl+Down", "there: let the program do the check, another check, this is not at hand"),
    ("Alt+1 … Alt+5", "there: what you see; Ctrl+O opens the place of the check, Ctrl+P writes the sheet for the support"),
    ("F5, Shift+F5", "the main act of the open page: look again, search, prove, talk; stop it"),
    ("Alt+T", "today: what to take, and what to do before one leaves"),
    ("F6, F7, F8, F9, F10", "this link, new link, kit, records, devices"),
    ("Ctrl+1 … Ctrl+6", "on the wiring: follow, name a cable, name a port, pick from the kit, length, build"),
    ("B, S, W, Backspace", "meter at a cable: it beeps, it is silent, it beeps with more than 5 ohm, take the reading back"),
    ("Ctrl+L, Ctrl+N, Ctrl+D", "on the port: read a kernel log, a name that stays, driver plan"),
    ("Ctrl+X, Ctrl+R", "on the demo's port: pull the plug and put it back, simulated or real machine"),
    ("Ctrl+1 … Ctrl+6", "on the settings and the speech bubble: the acts in their order, as they stand on the buttons"),
    ("Ctrl+L, Ctrl+Shift+L, Ctrl+T", "on the speech bubble: time round trips, long transfer, open with what was found"),
    ("Ctrl+B, Alt+A", "on the speech bubble: send a break, ask an instrument"),
    ("Ctrl+Y", "on the speech bubble of a K-line: ask all control units"),
    ("Ctrl+J", "on the cable to build: lay it into the chain"),
    ("V, T", "the faces: from the other side, turned about"),
    ("Ctrl+M", "use the port that is marked for this link"),
    ("Ctrl+U", "open the computer's end as the device is set"),
    ("Ctrl+K", "keep the proof"),
    ("Ctrl+S, Ctrl+G, Ctrl+E", "link sheet as PDF, wiring as SVG, records as JSON"),
    ("Ctrl+Z, Ctrl+Shift+Z", "take a change back, make it again"),
    ("Ctrl+W", "open what we know where it is folded, or fold it"),
    ("Ctrl+Tab", "the link that was on the line before, and back"),
    ("Ctrl+J", "on the port: the link of the marked adapter"),
    ("Alt+C", "choices: text, colours, records, what is usual at the site"),
    ("F2", "light, dark, outdoor"),
    ("Ctrl+Plus, Ctrl+Minus, Ctrl+0", "larger, smaller, plain text"),
]
KEYS_NAME = "keys"
SIZE = (900, 640)  # pixels at the usual size of type


def keys_chapter() -> Chapter:
    """The keys as a chapter."""
    rows = "\n".join(f"| {keys} | {what} |" for keys, what in KEYS)
    return Chapter(KEYS_NAME, f"# Keys\n\n| keys | what they do |\n|---|---|\n{rows}\n")


class Manual(QDialog):
    """Chapters at the left, the open one at the right; words that are searched leave the chapters in which they stand."""

    def __init__(self, parent: QWidget, theme: Theme) -> None:
        super().__init__(parent)
        self.setWindowTitle("Manual")
        self.search, self.list, self.page = QLineEdit(), QListWidget(), QTextBrowser()
        self.search.setPlaceholderText("a word, as in terminator")
        self.search.setAccessibleName("Search the manual")
        self.search.setClearButtonEnabled(True)
        self.search.textChanged.connect(lambda _: self._find())
        self.list.setAccessibleName("Chapters")
        self.list.currentRowChanged.connect(self._open)
        self.page.setAccessibleName("The open chapter")
        left = QVBoxLayout()
        left.addWidget(self.search)
        left.addWidget(self.list, 1)
        left.addWidget(label("Rest the pointer on a word of the trade: it is told", "small", wrap=True))
        left.addWidget(button("Close", "main", self.close, "Esc"))
        row = QHBoxLayout(self)
        row.addLayout(left, 2)
        row.addWidget(self.page, 5)
        self._all = [*chapters(), keys_chapter()]
        self._shown: list[Chapter] = []
        self._find()
        self.resize(min(theme.px(SIZE[0]), parent.width()), min(theme.px(SIZE[1]), parent.height()))

    def open_at(self, name: str) -> None:
        """Open a chapter."""
        self.search.clear()
        at = next((i for i, chapter in enumerate(self._shown) if chapter.name == name), 0)
        self.list.setCurrentRow(at)

    def _find(self) -> None:
        words = self.search.text().strip()
        self._shown = [chapter for chapter in self._all if chapter.holds(words)]
        self.list.blockSignals(True)
        self.list.clear()
        self.list.addItems([chapter.title for chapter in self._shown])
        self.list.blockSignals(False)
        if self._shown:
            self.list.setCurrentRow(0)
        else:
            self.page.setMarkdown(f"“{words}” stands nowhere in the manual.")

    def _open(self, row: int) -> None:
        if not 0 <= row < len(self._shown):
            return
        self.page.setMarkdown(self._shown[row].text)
        first = self.search.text().split()
        if first and self.page.find(first[0]):
            self.page.ensureCursorVisible()
        else:
            self.page.moveCursor(QTextCursor.MoveOperation.Start)


def show_help(parent: QWidget, theme: Theme, stage: Stage | None = None) -> Manual:
    """Open the manual at the chapter of a page; it does not hold the window up."""
    manual = Manual(parent, theme)
    manual.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
    manual.open_at(chapter_of(stage))
    manual.show()
    return manual
