"""Both ends side by side: where each setting is made, what differs, what that looks like, which end to change."""

from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QGridLayout, QSizePolicy, QVBoxLayout, QWidget

from humble_courier.app.settings.both_ends import SECOND_PLACE, MatchRow
from humble_courier.domain.facts import State
from humble_courier.ui.theme import Theme
from humble_courier.ui.widgets.basics import clear, label, set_role
from humble_courier.ui.widgets.steps_view import Mark

OURS, BETWEEN, THEIRS, BY = 2, 3, 4, 5  # columns
BRIDGE = 80  # pixels at 100 %: the least between both ends


class SettingBridge(QWidget):
    """What lies between a setting of one end and that of the other: whole where they are alike, broken where not."""

    def __init__(self, whole: bool, theme: Theme) -> None:
        super().__init__()
        self._whole, self._theme = whole, theme
        self.setMinimumSize(theme.px(BRIDGE), theme.px(32))
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setAccessibleName("alike" if whole else "they differ")

    def paintEvent(self, event: QPaintEvent | None) -> None:
        """A line, or its two ends with a gap that sparks."""
        t, y, wide = self._theme, self.height() / 2, self.width()
        with QPainter(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.setPen(QPen(t.color("action" if self._whole else "contradicted"), 3))
            if self._whole:
                painter.drawLine(QPointF(0, y), QPointF(wide, y))
                return
            middle, gap, up = wide / 2, t.px(12), t.px(9)
            painter.drawLine(QPointF(0, y), QPointF(middle - gap, y))
            painter.drawLine(QPointF(middle + gap, y), QPointF(wide, y))
            painter.drawLine(QPointF(middle - gap, y - up), QPointF(middle - gap, y + up))
            painter.drawLine(QPointF(middle + gap, y - up), QPointF(middle + gap, y + up))


class BothEndsPage(QWidget):
    """One line a setting; those that differ say what they look like and what to do."""

    def __init__(self) -> None:
        super().__init__()
        self._grid = QGridLayout()
        self._grid.setHorizontalSpacing(0)
        self._grid.setVerticalSpacing(6)
        self._grid.setColumnStretch(BETWEEN, 2)
        self._grid.setColumnStretch(BY, 3)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 4, 0, 0)
        column.addLayout(self._grid)
        self.second = label(SECOND_PLACE, "quiet", wrap=True)
        column.addSpacing(8)
        column.addWidget(self.second)
        column.addStretch(1)
        self._shown: object = None

    def show_rows(self, rows: list[MatchRow], theme: Theme) -> None:
        """Show the comparison."""
        if self._shown == (rows, theme):
            return
        self._shown = (rows, theme)
        clear(self._grid)
        heads = ("", "Setting", "Computer", "", "Device", "Set at the device by")
        for at, text in enumerate(heads):
            self._grid.addWidget(label(text, "small"), 0, at)
        self._grid.setColumnMinimumWidth(0, theme.px(28))
        line = 1
        for row in rows:
            self._grid.addWidget(Mark(State.CONTRADICTED if row.differs else State.PROVEN, theme), line, 0)
            setting = label(row.setting, "title")
            setting.setContentsMargins(0, 0, theme.px(18), 0)
            self._grid.addWidget(setting, line, 1)
            for at, text in ((OURS, row.computer), (THEIRS, row.device)):
                end = label(text, "end")
                end.setAlignment(Qt.AlignmentFlag.AlignCenter)
                set_role(end, "differs", "yes" if row.differs else "no")
                self._grid.addWidget(end, line, at)
            self._grid.addWidget(SettingBridge(not row.differs, theme), line, BETWEEN)
            by = label(row.device_by, "quiet", wrap=True)
            by.setContentsMargins(theme.px(18), 0, 0, 0)
            self._grid.addWidget(by, line, BY)
            line += 1
            if row.differs:
                told = f"Looks like: {row.looks}. {row.change}"
                self._grid.addWidget(label(told, "", wrap=True), line, 1, 1, BY)
                line += 1
