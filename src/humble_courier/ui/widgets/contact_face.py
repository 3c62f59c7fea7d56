"""A connector whose contacts can be touched: each contact is a button of its own, with a list of what it may carry."""

from collections.abc import Sequence
from functools import partial

from PyQt6.QtCore import QPoint, QRectF, pyqtSignal
from PyQt6.QtGui import QPainter, QPaintEvent, QResizeEvent
from PyQt6.QtWidgets import QMenu, QSizePolicy, QWidget

from humble_courier.ui.theme import Theme
from humble_courier.ui.widgets.basics import PlainButton
from humble_courier.ui.widgets.faces import Face, draw_shell
from humble_courier.wiring.orientation import seen

SIZE, HIGH = 32, 132  # of a contact, and of the whole, in pixels of plain type


class ContactFace(QWidget):
    """`carries` gives a contact and what it carries, as one of the choices; empty for not known."""

    carries = pyqtSignal(str, str)

    def __init__(self) -> None:
        super().__init__()
        self._face: Face | None = None
        self._theme = Theme()
        self._choices: tuple[str, ...] = ()
        self.buttons: dict[str, PlainButton] = {}
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)

    def show_face(self, face: Face | None, signals: dict[str, str], choices: Sequence[str], theme: Theme) -> None:
        """Show a connector; `signals`: what its contacts carry, in words."""
        self._theme, self._choices = theme, tuple(choices)
        other = face is None or self._face is None or face.connector != self._face.connector
        self._face = face
        self.setFixedHeight(theme.px(HIGH))
        if other:
            for made in self.buttons.values():
                made.deleteLater()
            self.buttons = {}
            for contact in [c for row in face.shape.rows for c in row] if face is not None else ():
                made = PlainButton(contact)
                made.setParent(self)
                made.setProperty("role", "contact")
                made.setCheckable(True)
                made.clicked.connect(partial(self._ask, contact))
                made.show()
                self.buttons[contact] = made
        for contact, made in self.buttons.items():
            told = signals.get(contact, "not known: leave it open")
            made.setChecked(contact in signals)
            made.setToolTip(f"Contact {contact}: {told}")
            made.setAccessibleName(f"Contact {contact}: {told}")
        self._place()
        self.update()

    def _ask(self, contact: str) -> None:
        menu = QMenu(self)
        for choice in ("", *self._choices):
            action = menu.addAction(choice or "not known")
            if action is not None:
                action.triggered.connect(partial(self.carries.emit, contact, choice))
        made = self.buttons[contact]
        made.setChecked(not made.isChecked())  # the sheet decides, not the press
        menu.popup(made.mapToGlobal(QPoint(0, made.height())))

    def _box(self) -> QRectF:
        assert self._face is not None
        room = QRectF(4, 4, self.width() - 8, self.height() - 8)
        width = min(room.width(), room.height() / self._face.ratio(), self._theme.px(520))
        height = width * self._face.ratio()
        return QRectF(room.center().x() - width / 2, room.center().y() - height / 2, width, height)

    def _place(self) -> None:
        if self._face is None:
            return
        box, size = self._box(), self._theme.px(SIZE)
        inner = box.adjusted(box.width() * 0.07, box.height() * 0.10, -box.width() * 0.07, -box.height() * 0.10)
        for contact, (x, y) in seen(
            self._face.shape, self._face.connector.gender, self._face.side, self._face.turns
        ).items():
            made = self.buttons.get(contact)
            if made is not None:
                centre = QPoint(round(inner.left() + x * inner.width()), round(inner.top() + y * inner.height()))
                made.setGeometry(centre.x() - size // 2, centre.y() - size // 2, size, size)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """The contacts move with the face."""
        super().resizeEvent(event)
        self._place()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        """The shell; the contacts are buttons upon it."""
        if self._face is not None:
            with QPainter(self) as painter:
                draw_shell(painter, self._box(), self._face, self._theme)
