"""The line: the link as it lies on the bench. Each place is a button; arrow keys go along it."""

from itertools import pairwise

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QFocusEvent, QFontMetrics, QKeyEvent, QPainter, QPaintEvent, QPen, QPolygonF, QResizeEvent
from PyQt6.QtWidgets import QAbstractButton, QWidget

from humble_courier.app.link.stages import Drawn, Place
from humble_courier.domain.facts import State
from humble_courier.domain.hardware import Gender
from humble_courier.ui.theme import Theme
from humble_courier.ui.widgets.basics import plain_tip
from humble_courier.ui.widgets.fitting import draw_fitting
from humble_courier.ui.widgets.marks import draw_state

BODY_TOP, BODY_HEIGHT = 34, 42  # pixels at 100 %: where the shapes stand
LOWER = 16  # pixels at 100 % by which everything is higher up in a low window, where the second line of words is left out

UNDER_MARK = 7  # pixels at 100 % that the mark of the state takes of the shape
TITLE_SIZES, WORD_SIZES = (
    (13, 12, 11, 10, 9, 8, 7, 6),
    (12, 11, 10, 9, 8, 7, 6),
)  # of the text, at 100 %: as large as there is room for

_WIDTHS = {  # pixels at 100 %: narrowest and widest
    "box": (104, 138),
    "adapter": (104, 136),
    "joint": (64, 84),
    "cable": (130, 176),
    "device": (140, 196),
    "speech": (120, 178),
}


class PlaceButton(QAbstractButton):
    """One place of the line, drawn in its shape with its state mark and words."""

    def __init__(self, place: Place, theme: Theme, parent: QWidget) -> None:
        super().__init__(parent)
        self.place, self._theme = place, theme
        self.compact = False
        self.cut = False  # whether words were drawn that do not stand there whole
        self.setCheckable(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.show_place(place, theme)

    def show_place(self, place: Place, theme: Theme) -> None:
        """Take new values."""
        if (place, theme) == (self.place, self._theme) and self.accessibleName():
            return
        self.place, self._theme = place, theme
        title = place.title.replace("|", ", ")
        self.setAccessibleName(f"{title}: {place.state.value}, {place.word}")
        self.setToolTip(plain_tip(f"{title}\n{place.subtitle}\n{place.state.value}: {place.word}".replace("\n\n", "\n")))
        self.update()

    def body(self) -> QRectF:
        """Where the shape stands, in the button's own pixels."""
        t = self._theme
        if self.place.drawn is Drawn.SETTINGS:
            return QRectF(1, 1, self.width() - 2, self.height() - 2)
        return QRectF(2, t.px(BODY_TOP - LOWER * self.compact), self.width() - 4, t.px(BODY_HEIGHT))

    def sizeHint(self) -> QSize:
        """Wide enough for its words."""
        low, high = _WIDTHS.get(self.place.drawn, (80, 120))
        metrics = QFontMetrics(self._theme.font(13, bold=True))
        wanted = metrics.horizontalAdvance(self.place.title) + self._theme.px(24)
        return QSize(max(self._theme.px(low), min(self._theme.px(high), wanted)), self._theme.px(118))

    def paintEvent(self, event: QPaintEvent | None) -> None:
        """Draw shape, words and mark."""
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self.cut = False
        if self.place.drawn is Drawn.SETTINGS:
            self._paint_settings(painter)
        elif self.place.drawn is Drawn.JOINT:
            self._paint_joint(painter)
        else:
            self._paint_shape(painter)
            self._paint_words(painter)
        painter.end()

    def _pen(self) -> QPen:
        t = self._theme
        color = t.color("contradicted") if self.place.state is State.CONTRADICTED else t.color("ink")
        pen = QPen(t.color("action") if self.isChecked() else color, 2.4 if self.isChecked() or self.hasFocus() else 1.4)
        if self.hasFocus() and not self.isChecked():
            pen.setColor(t.color("action"))
        if self.place.drawn is Drawn.SPEECH and self.place.state is State.UNKNOWN:
            pen.setDashPattern(t.dash)
        return pen

    def _paint_shape(self, painter: QPainter) -> None:
        t, body = self._theme, self.body()
        painter.setPen(self._pen())
        painter.setBrush(t.color("socket") if self.isChecked() else t.color("surface"))
        kind = self.place.drawn
        if kind in (Drawn.ADAPTER, Drawn.CABLE):
            radius = body.height() / 2
            painter.drawRoundedRect(body, radius, radius)
        elif kind is Drawn.SPEECH:
            x, nib = body.left() + t.px(10), t.px(8)
            y = body.center().y()
            corner = [(x, body.top()), (body.right(), body.top()), (body.right(), body.bottom()), (x, body.bottom())]
            points = [*corner, (x - nib, y)]
            painter.drawPolygon(QPolygonF([QPointF(a, b) for a, b in points]))
        else:
            grow = t.px(5) if kind is Drawn.DEVICE else 0
            painter.drawRoundedRect(body.adjusted(0, -grow, 0, grow), t.px(6), t.px(6))

    def _paint_words(self, painter: QPainter) -> None:
        t, body = self._theme, self.body()
        speech = self.place.drawn is Drawn.SPEECH
        painter.setPen(t.color("contradicted") if self.place.state is State.CONTRADICTED else t.color("ink"))
        inner = body.adjusted(t.px(13 if speech else 5), 0, -t.px(5), 0)
        self._words(painter, inner, self.place.title, bold=not speech)  # not mono: “1. 7”
        grow = t.px(5) if self.place.drawn is Drawn.DEVICE else 0
        if not speech:
            draw_state(painter, QPointF(body.center().x(), body.top() - grow - t.px(1)), t.px(15), self.place.state, t)
        painter.setPen(t.color("quiet"))
        below = QRectF(0, body.bottom() + grow + t.px(2), self.width(), t.px(16))
        self._words(painter, below, self.place.word)
        if self.place.subtitle and not self.compact:
            below.translate(0, t.px(15))
            self._words(painter, below, self.place.subtitle)

    def _paint_joint(self, painter: QPainter) -> None:
        t, body = self._theme, self.body()
        genders = self.place.genders or (Gender.PLUG, Gender.SOCKET)
        middle, half, top, height = self.width() / 2, t.px(15), body.top() + t.px(7), body.height() - t.px(14)
        painter.setPen(self._pen())
        for side, gender in zip((-1, 1), genders, strict=True):
            painter.setBrush(t.color("socket") if gender is Gender.SOCKET else t.color("surface"))
            inner, outer, notch = middle + side * t.px(2), middle + side * half, t.px(5)
            points = [(outer, top), (inner + side * notch, top), (inner, top + notch), (inner, top + height - notch),
                      (inner + side * notch, top + height), (outer, top + height)]  # fmt: skip
            painter.drawPolygon(QPolygonF([QPointF(a, b) for a, b in points]))
        draw_state(painter, QPointF(middle, top - t.px(9)), t.px(15), self.place.state, t)
        painter.setPen(t.color("contradicted") if self.place.state is State.CONTRADICTED else t.color("quiet"))
        below = QRectF(0, body.bottom() + t.px(2), self.width(), t.px(16))
        self._words(painter, below, self.place.word)

    def _paint_settings(self, painter: QPainter) -> None:
        t, body = self._theme, self.body()
        painter.setPen(self._pen())
        painter.setBrush(t.color("surface"))
        painter.drawRoundedRect(body, body.height() / 2, body.height() / 2)
        ours, _, theirs = self.place.title.partition("|")
        side = body.adjusted(t.px(18), 0, -t.px(18), 0)
        painter.setFont(t.font(12, mono=True))
        painter.setPen(t.color("ink"))
        left, right = Qt.AlignmentFlag.AlignLeft, Qt.AlignmentFlag.AlignRight
        painter.drawText(side, Qt.AlignmentFlag.AlignVCenter | left, ours)
        painter.drawText(side, Qt.AlignmentFlag.AlignVCenter | right, theirs)
        painter.setFont(t.font(12, bold=True))
        width = QFontMetrics(painter.font()).horizontalAdvance(self.place.subtitle)
        painter.setPen(t.palette.state(self.place.state))
        painter.drawText(side, Qt.AlignmentFlag.AlignCenter, self.place.subtitle)
        mark = QPointF(side.center().x() - width / 2 - t.px(14), side.center().y())
        draw_state(painter, mark, t.px(13), self.place.state, t)

    def _words(self, painter: QPainter, box: QRectF, text: str, bold: bool = False) -> None:
        """Words of the place; whether all stand there whole is noted."""
        sizes = TITLE_SIZES if bold else WORD_SIZES
        whole = draw_fitting(painter, box, text, self._theme, sizes, bold, below=UNDER_MARK if bold else 0)
        self.cut = self.cut or not whole


class LineView(QWidget):
    """All places from the program to what the device says. `chosen` gives the place that was touched."""

    chosen = pyqtSignal(str)

    def __init__(self, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("line")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFocusPolicy(Qt.FocusPolicy.ClickFocus)
        self.setAccessibleName("The line: places of this link")
        self._theme = theme
        self.buttons: list[PlaceButton] = []
        self._shown: object = None
        self._compact = False

    def set_compact(self, compact: bool) -> None:
        """Lower, with one line of words at each place."""
        if compact is not self._compact:
            self._compact = compact
            self._lay_out()
            self.update()

    def show_places(self, places: list[Place], current: str, theme: Theme) -> None:
        """Show the places; `current` is the id of the one whose stage is open."""
        if (places, current, theme) == self._shown:
            for button in self.buttons:  # a press has turned it, whatever it meant
                button.setChecked(button.place.id == current)
            return
        self._theme, self._shown = theme, (list(places), current, theme)
        focused = next((b.place.id for b in self.buttons if b.hasFocus()), None)
        if [b.place.id for b in self.buttons] != [p.id for p in places]:
            for button in self.buttons:
                button.hide()  # see basics.clear
                button.setParent(None)
                button.deleteLater()
            self.buttons = [self._button(place) for place in places]
        for button, place in zip(self.buttons, places, strict=True):
            button.show_place(place, theme)
            button.setChecked(place.id == current)
            if place.id == focused:
                button.setFocus()
        self._lay_out()
        self.update()

    def _button(self, place: Place) -> PlaceButton:
        button = PlaceButton(place, self._theme, self)
        button.clicked.connect(lambda: self.chosen.emit(button.place.id))
        button.show()
        return button

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """Lay the places out anew."""
        self._lay_out()

    def _lay_out(self) -> None:
        t = self._theme
        up = (LOWER + 16) * self._compact
        self.setFixedHeight(t.px(156 - up))
        for made in self.buttons:
            made.compact = self._compact
        row = [b for b in self.buttons if b.place.drawn is not Drawn.SETTINGS]
        if not row:
            return
        margin, gap = t.px(16), t.px(6)
        room = self.width() - 2 * margin - gap * (len(row) - 1)
        wanted = [b.sizeHint().width() for b in row]
        shrink = min(1.0, room / max(1, sum(wanted)))
        widths = [int(w * shrink) for w in wanted]
        spare = (room - sum(widths)) / max(1, len(row) - 1)
        x = float(margin)
        for button, width in zip(row, widths, strict=True):
            button.setGeometry(int(x), 0, width, t.px(120 - up))
            x += width + gap + spare
        strip = next((b for b in self.buttons if b.place.drawn is Drawn.SETTINGS), None)
        ends = [b for b in row if b.place.drawn in (Drawn.ADAPTER, Drawn.CABLE, Drawn.BOX)]
        if strip is not None and ends:
            left = ends[1].x() + ends[1].width() // 2
            right = ends[-1].x() + ends[-1].width() // 2
            width = min(max(right - left, t.px(560)), self.width() - 2 * margin)
            strip.setGeometry(max(margin, (left + right - width) // 2), t.px(120 - up), width, t.px(32))

    def middles(self) -> dict[str, tuple[float, float]]:
        """Middle and width of each place, in pixels; of the settings, of the last joint, which they lie under."""
        found = {b.place.id: (b.x() + b.width() / 2, float(b.width())) for b in self.buttons}
        joints = [b for b in self.buttons if b.place.drawn is Drawn.JOINT]
        strip = next((b for b in self.buttons if b.place.drawn is Drawn.SETTINGS), None)
        if strip is not None and joints:
            found[strip.place.id] = (joints[-1].x() + joints[-1].width() / 2, float(joints[-1].width()))
        return found

    def focusInEvent(self, event: QFocusEvent | None) -> None:
        """The keyboard goes to the place whose stage is open."""
        target = next((b for b in self.buttons if b.isChecked()), self.buttons[0] if self.buttons else None)
        if target is not None:
            target.setFocus()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        """Draw the conductor between the places, broken where something is wrong."""
        super().paintEvent(event)
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        t = self._theme
        y = t.px(BODY_TOP - LOWER * self._compact + BODY_HEIGHT / 2)
        row = [b for b in self.buttons if b.place.drawn not in (Drawn.SETTINGS, Drawn.SPEECH)]
        for before, after in pairwise(row):
            left, right = before.x() + before.width() - 2, after.x() + 2
            left = before.x() + before.width() // 2 + t.px(15) if before.place.drawn is Drawn.JOINT else left
            right = after.x() + after.width() // 2 - t.px(15) if after.place.drawn is Drawn.JOINT else right
            if State.CONTRADICTED is after.place.state:
                self._broken(painter, left, right, y)
            else:
                painter.setPen(QPen(t.color("ink"), 4))
                painter.drawLine(QPointF(left, y), QPointF(right, y))

    def _broken(self, painter: QPainter, left: float, right: float, y: float) -> None:
        t = self._theme
        painter.setPen(QPen(t.color("contradicted"), 2.6))
        width, up = max(right - left, 8.0), t.px(8)
        steps = [(0.0, 0), (0.25, -1), (0.45, 1), (0.65, -1), (0.82, 1), (1.0, 0)]
        painter.drawPolyline(QPolygonF([QPointF(left + width * a, y + up * b) for a, b in steps]))

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Left and right go along the line; Home and End to its ends; the stage follows."""
        assert event is not None
        focused = next((i for i, b in enumerate(self.buttons) if b.hasFocus()), 0)
        last = len(self.buttons) - 1
        move = {
            int(Qt.Key.Key_Left): max(0, focused - 1),
            int(Qt.Key.Key_Right): min(last, focused + 1),
            int(Qt.Key.Key_Home): 0,
            int(Qt.Key.Key_End): last,
        }
        if event.key() in move and self.buttons:
            target = self.buttons[move[event.key()]]
            target.setFocus()
            self.chosen.emit(target.place.id)
        else:
            super().keyPressEvent(event)
