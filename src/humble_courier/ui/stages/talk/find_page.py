"""Find a silent device: what will be sent, the space of what there is to try, and what was heard."""

from collections.abc import Sequence

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QCheckBox, QLineEdit, QVBoxLayout, QWidget

from humble_courier.app.talk.device_search import Tried
from humble_courier.app.talk.search_space import SpaceCell
from humble_courier.ui.stages.talk.space_view import SpaceView
from humble_courier.ui.theme import Theme
from humble_courier.ui.widgets.basics import button, label
from humble_courier.ui.widgets.flow import FlowRow

SHOWN = 4  # the newest trials; all stand in the answer of `find`

LISTENS = (
    "Listening alone finds a device that speaks by itself. With “Allow sending” all that can be asked is drawn here, rate "
    "by rate, the likelier the larger; what would be sent then stands above it, before anything is."
)


class FindPage(QWidget):
    """`changed`: which ports and whether it may send. `started` and `cancelled` by button."""

    changed = pyqtSignal()
    started = pyqtSignal()
    cancelled = pyqtSignal()
    adopted = pyqtSignal()
    all_wanted = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(6)
        self.ports = QLineEdit()
        self.ports.setAccessibleName("Ports to search")
        self.ports.setPlaceholderText("Port addresses, with spaces between")
        self.ports.editingFinished.connect(self.changed.emit)
        self.sheet = QCheckBox("It is the device of this link")
        self.sheet.setChecked(True)
        self.sheet.toggled.connect(self.changed.emit)
        self.armed = QCheckBox("Allow sending for this search")
        self.armed.toggled.connect(self.changed.emit)
        self.words = QLineEdit()
        self.words.setAccessibleName("Words of your own to ask with")
        self.words.setPlaceholderText("Own words, as in {unit:02} VER")
        self.words.editingFinished.connect(self.changed.emit)
        self.everywhere = button("All ports", "", self.all_wanted.emit)
        self.everywhere.setToolTip("Search at every port that can be opened, all at once")
        named = label("Search", "small")
        top = FlowRow(
            [named, self.ports, self.everywhere, self.words, self.sheet, self.armed], wide=(self.ports, self.words)
        )
        self.says = label("", "caution", wrap=True)
        self.view, self.trials = SpaceView(), label("", "mono", wrap=True)
        self.trials.setAccessibleName("What was tried, the newest first")
        self.start = button("Search", "main", self.started.emit, "F5")
        self.cancel = button("Stop", "", self.cancelled.emit, "Shift+F5")
        self.adopt = button("Open with it", "main", self.adopted.emit, "Ctrl+T")
        told = "● belief left   ✕ excluded   ○ asked now   ✓ found; the larger, the likelier"
        self.legend = label(told, "small", wrap=True)
        row = FlowRow([self.start, self.cancel, self.adopt, self.legend], wide=(self.legend,))
        column.addWidget(top)
        column.addWidget(self.says)
        self.empty = label(LISTENS, "quiet", wrap=True)
        self.empty.hide()
        column.addWidget(self.view)
        column.addWidget(self.empty)
        column.addWidget(self.trials)
        column.addStretch(1)
        column.addWidget(row)

    def show_search(self, says: str, cells: tuple[SpaceCell, ...], tried: Sequence[Tried], theme: Theme) -> None:
        """Show what will be sent, the space, and the newest trials."""
        self.says.setText(says)
        left = sum(cell.left for cell in cells) / (sum(cell.prior for cell in cells) or 1)
        self.view.show_cells(cells, "{p} of the belief is left".format(p=f"{left:.0%}"), theme)
        self.view.setVisible(bool(cells))
        self.empty.setVisible(not cells and not tried and bool(says))
        rows = []
        for one in reversed(tried[-SHOWN:]):
            heard = f"{one.heard} bytes" if one.heard else "nothing"
            rows.append(f"{one.settings.spoken:12} {one.seconds:5.1f} s  {one.action}: {heard}")
        self.trials.setText("\n".join(rows))

    def show_running(self, running: bool, may_go_on: bool, found: bool) -> None:
        """Which acts are open."""
        for widget in (self.ports, self.everywhere, self.words, self.sheet, self.armed):
            widget.setEnabled(not running)
        self.start.setVisible(not running)
        self.start.setText("Go on  F5" if may_go_on else "Search  F5")
        self.start.setShortcut("F5")
        self.cancel.setVisible(running)
        self.adopt.setVisible(found and not running)
