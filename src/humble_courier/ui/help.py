"""The keys, and what the window is about; F1."""

from PyQt6.QtWidgets import QDialog, QGridLayout, QVBoxLayout, QWidget

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
    ("Ctrl+U", "open the computer's end as the device is set"),
    ("Ctrl+K", "keep the proof"),
    ("Ctrl+S, Ctrl+G, Ctrl+E", "link sheet as PDF, wiring as SVG, records as JSON"),
    ("Ctrl+Z, Ctrl+Shift+Z", "take a change back, make it again"),
    ("Ctrl+Tab", "the link that was on the line before, and back"),
    ("Ctrl+J", "on the port: the link of the marked adapter"),
    ("Alt+C", "choices: text, colours, records, what is usual at the site"),
    ("F2", "light, dark, outdoor"),
    ("Ctrl+Plus, Ctrl+Minus, Ctrl+0", "larger, smaller, plain text"),
]


def show_help(parent: QWidget, theme: Theme) -> QDialog:
    """Open the list of keys; it does not hold the window up."""
    dialog = QDialog(parent)
    dialog.setWindowTitle("Keys")
    column = QVBoxLayout(dialog)
    column.setContentsMargins(24, 16, 24, 16)
    column.addWidget(
        label("The line on top is the way around: touch a place, its stage opens below.", "headline", wrap=True)
    )
    grid = QGridLayout()
    grid.setHorizontalSpacing(24)
    grid.setColumnStretch(1, 1)
    for row, (keys, what) in enumerate(KEYS):
        grid.addWidget(label(keys, "title"), row, 0)
        grid.addWidget(label(what, wrap=True), row, 1)
    column.addLayout(grid)
    column.addWidget(button("Close", "main", dialog.close, "Esc"))
    dialog.setMinimumWidth(min(theme.px(860), parent.width() - 40))
    dialog.show()
    return dialog
