"""Widgets beside each other; where the window is narrow or the type large they go on in further rows."""

from PyQt6.QtCore import QEvent, QRect, QSize
from PyQt6.QtGui import QResizeEvent, QShowEvent
from PyQt6.QtWidgets import QWidget

GAP = 8  # pixels: the grid
LEAST_FIELD = 130  # pixels of a field that takes what is left, before it goes into a row of its own


class FlowRow(QWidget):
    """Takes widgets; those in `wide` take the room that is left in their row."""

    def __init__(self, widgets: list[QWidget], wide: tuple[QWidget, ...] = ()) -> None:
        super().__init__()
        self._widgets, self._wide = widgets, wide
        for widget in widgets:
            widget.setParent(self)
        self._fitting = False

    def _width(self, widget: QWidget) -> int:
        least = max(widget.minimumSizeHint().width(), widget.minimumWidth())
        return max(LEAST_FIELD, least) if widget in self._wide else max(widget.sizeHint().width(), least)

    def _rows(self, width: int) -> list[list[QWidget]]:
        rows: list[list[QWidget]] = [[]]
        used = 0
        for widget in self._widgets:
            if widget.isHidden():
                continue
            wanted = self._width(widget)
            if rows[-1] and used + wanted > width:
                rows.append([])
                used = 0
            rows[-1].append(widget)
            used += wanted + GAP
        return [row for row in rows if row]

    def fit(self) -> None:
        """Lay the widgets out for this width, and claim the height that takes."""
        if self._fitting:
            return
        self._fitting = True
        y = 0
        for row in self._rows(self.width()):
            height = max(widget.sizeHint().height() for widget in row)
            height = max([height, *(widget.minimumHeight() for widget in row)])
            left = self.width() - sum(map(self._width, row)) - GAP * (len(row) - 1)
            wide = [widget for widget in row if widget in self._wide]
            x = 0
            for widget in row:
                width = self._width(widget) + (max(0, left) // len(wide) if widget in wide else 0)
                width = min(width, self.width())
                widget.setGeometry(QRect(x, y, width, height))
                x += width + GAP
            y += height + GAP
        if self.minimumHeight() != max(0, y - GAP):
            self.setMinimumHeight(max(0, y - GAP))
            self.setMaximumHeight(max(0, y - GAP))
        self._fitting = False

    def sizeHint(self) -> QSize:
        """All in one row."""
        shown = [widget for widget in self._widgets if not widget.isHidden()]
        return QSize(sum(map(self._width, shown)) + GAP * len(shown), self.minimumHeight())

    def minimumSizeHint(self) -> QSize:
        """As narrow as the widest of them."""
        shown = [widget for widget in self._widgets if not widget.isHidden()]
        least = max((widget.minimumSizeHint().width() for widget in shown), default=0)
        return QSize(least, self.minimumHeight())

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """Another width, other rows."""
        super().resizeEvent(event)
        self.fit()

    def showEvent(self, event: QShowEvent | None) -> None:
        """Lay out when it comes to be seen."""
        super().showEvent(event)
        self.fit()

    def event(self, event: QEvent | None) -> bool:
        """A widget needs more room or less, or was hidden."""
        if event is not None and event.type() is QEvent.Type.LayoutRequest:
            self.fit()
        return super().event(event)
