"""Two columns beside each other; where the window is narrow or the type large they stand one above the other."""

from PyQt6.QtGui import QResizeEvent
from PyQt6.QtWidgets import QBoxLayout, QVBoxLayout, QWidget


class TwoColumns(QWidget):
    """`left` and `right` take widgets. `narrow`: pixels of plain type below which they are stacked."""

    def __init__(self, narrow: int, stretch: tuple[int, int], gap: int) -> None:
        super().__init__()
        self._narrow, self._scale = narrow, 1.0
        self._body = QBoxLayout(QBoxLayout.Direction.LeftToRight, self)
        self._body.setContentsMargins(0, 0, 0, 0)
        self._body.setSpacing(gap)
        self.left, self.right = QVBoxLayout(), QVBoxLayout()
        for column, share in zip((self.left, self.right), stretch, strict=True):
            column.setContentsMargins(0, 0, 0, 0)
            column.setSpacing(6)
            holder = QWidget()
            holder.setLayout(column)
            self._body.addWidget(holder, share)

    def show_scale(self, scale: float) -> None:
        """Another size of type."""
        self._scale = scale
        self._lay_out()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """Another width."""
        super().resizeEvent(event)
        self._lay_out()

    def _lay_out(self) -> None:
        stacked = self.width() < self._narrow * self._scale
        self._body.setDirection(QBoxLayout.Direction.TopToBottom if stacked else QBoxLayout.Direction.LeftToRight)
