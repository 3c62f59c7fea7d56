"""A drawing that is words as well: Tab comes to it, arrow keys go from piece to piece, each is named to a screen reader.

What is drawn stays as it is; the piece one is at has a frame, its words stand in a tip beside it.
"""

from collections.abc import Callable, Sequence
from typing import Generic, TypeVar, overload

from PyQt6.QtCore import QEvent, QPointF, QRectF, Qt
from PyQt6.QtGui import QFocusEvent, QKeyEvent, QPainter, QPen
from PyQt6.QtWidgets import QScrollArea, QToolTip, QWidget

from humble_courier.ui.theme import Theme
from humble_courier.ui.widgets.basics import plain_tip

T = TypeVar("T")
BACK, ON = (Qt.Key.Key_Left, Qt.Key.Key_Up), (Qt.Key.Key_Right, Qt.Key.Key_Down)
AROUND = 40  # pixels that stay visible around the piece one is at


class Told(Sequence[str], Generic[T]):
    """Things in words, each put into words only when it is asked for: a lane has hundreds, one is reached at a time."""

    def __init__(self, things: Sequence[T], words: Callable[[T], str]) -> None:
        self._things, self._words = tuple(things), words  # what is said goes on while one stands at a piece

    def __len__(self) -> int:
        return len(self._things)

    @overload
    def __getitem__(self, at: int) -> str: ...
    @overload
    def __getitem__(self, at: slice) -> list[str]: ...
    def __getitem__(self, at: int | slice) -> str | list[str]:
        """In words."""
        return [self._words(one) for one in self._things[at]] if isinstance(at, slice) else self._words(self._things[at])


class Pieces(QWidget):
    """Base of drawn widgets. Without a piece nothing can be reached, and Tab passes by."""

    def __init__(self) -> None:
        super().__init__()
        self._pieces: Sequence[str] = ()
        self._at = 0

    def tell(self, name: str, pieces: Sequence[str]) -> None:
        """What it is as a whole, and each piece in words, in the order in which the arrows go."""
        self.setAccessibleName(name)
        self._pieces, self._at = pieces, max(0, min(self._at, len(pieces) - 1))
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus if pieces else Qt.FocusPolicy.NoFocus)
        self.setAccessibleDescription(self.piece)

    @property
    def piece(self) -> str:
        """The words of the piece one is at."""
        if not self._pieces:
            return ""
        return f"{self._pieces[self._at]} ({self._at + 1} of {len(self._pieces)})"

    def box_of(self, i: int) -> QRectF | None:
        """Where a piece is drawn; None where it is not one place."""
        return None

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Arrows, Home and End; other keys are somebody else's."""
        key = event.key() if event is not None else None
        last = len(self._pieces) - 1
        goals = {Qt.Key.Key_Home: 0, Qt.Key.Key_End: last}
        goals |= dict.fromkeys(BACK, self._at - 1) | dict.fromkeys(ON, self._at + 1)
        if key not in goals or last < 0:
            super().keyPressEvent(event)
            return
        self._go(max(0, min(goals[Qt.Key(key)], last)))

    def focusInEvent(self, event: QFocusEvent | None) -> None:
        """Says where one is."""
        super().focusInEvent(event)
        self._go(self._at)

    def focusOutEvent(self, event: QFocusEvent | None) -> None:
        """The frame goes."""
        super().focusOutEvent(event)
        QToolTip.hideText()
        self.update()

    def _go(self, to: int) -> None:
        self._at = to
        self.setAccessibleDescription(self.piece)
        box = self._frame()
        below = QPointF(box.left(), box.bottom()).toPoint()
        above = self.parentWidget()
        while above is not None and not isinstance(above, QScrollArea):
            above = above.parentWidget()
        if isinstance(above, QScrollArea) and (inner := above.widget()) is not None and inner.isAncestorOf(self):
            at = self.mapTo(inner, box.center().toPoint())
            above.ensureVisible(at.x(), at.y(), AROUND, AROUND)
        if self.hasFocus():
            QToolTip.showText(self.mapToGlobal(below), plain_tip(self.piece), self)
        self.update()

    def _frame(self) -> QRectF:
        whole = QRectF(self.rect()).adjusted(1, 1, -1, -1)
        box = self.box_of(self._at) if self._pieces else None
        return box.intersected(whole) if box is not None and box.intersects(whole) else whole

    def event(self, event: QEvent | None) -> bool:
        """After the drawing, the frame of the piece one is at."""
        done = super().event(event)
        if event is not None and event.type() == QEvent.Type.Paint and self.hasFocus():
            painter = QPainter(self)
            painter.setPen(QPen(self.frame_theme.color("action"), 2))
            painter.drawRect(self._frame())
            painter.end()
        return done

    @property
    def frame_theme(self) -> Theme:
        """The theme it was shown with last."""
        theme = getattr(self, "_theme", None)
        return theme if isinstance(theme, Theme) else Theme()
