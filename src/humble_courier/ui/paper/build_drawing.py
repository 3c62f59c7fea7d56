"""The drawing of a build sheet: both ends from both sides, each contact in use with its colour and signal."""

from collections.abc import Mapping

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QPainter

from humble_courier.catalog.entries import ShapeEntry
from humble_courier.domain.hardware import Connector
from humble_courier.ui.theme import Theme
from humble_courier.ui.widgets.faces import Face, draw_face
from humble_courier.ui.widgets.pieces import Pieces
from humble_courier.wiring.build import BuildSheet
from humble_courier.wiring.orientation import Side

Shapes = Mapping[tuple[str, int], ShapeEntry]
NAME = "Both ends of the cable from the solder side and the mating face"
HEAD, FACE, LINE, GAP = 22.0, 92.0, 16.0, 14.0  # pixels at 100 %


class BuildDrawing:
    """Draws the ends of a build sheet; the same for the window, for SVG and for paper."""

    def __init__(self, sheet: BuildSheet, shapes: Shapes, theme: Theme, width: float) -> None:
        self.sheet, self.shapes, self.theme, self.width = sheet, shapes, theme, width

    @property
    def height(self) -> float:
        """Height that the drawing takes."""
        t = self.theme
        return t.px(HEAD + 2 * FACE + 2 * GAP) + t.px(LINE) * (len(self.sheet.wires) + 2)

    def paint(self, painter: QPainter) -> None:
        """Draw everything."""
        half = self.width / 2
        ends = (("A", self.sheet.a, True), ("B", self.sheet.b, False))
        for i, (letter, connector, first) in enumerate(ends):
            self._end(painter, QRectF(i * half, 0, half - self.theme.px(12), self.height), letter, connector, first)

    def _end(self, painter: QPainter, box: QRectF, letter: str, connector: Connector, first: bool) -> None:
        t = self.theme
        painter.setFont(t.font(13, bold=True))
        painter.setPen(t.color("ink"))
        whose = "computer's side" if first else "device's side"
        painter.drawText(QRectF(box.left(), box.top(), box.width(), t.px(18)), Qt.AlignmentFlag.AlignLeft,
                         f"End {letter}, {whose}: {connector}")  # fmt: skip
        used = frozenset(w.a if first else w.b for w in self.sheet.wires)
        top = box.top() + t.px(HEAD)
        for side in (Side.SOLDER, Side.MATING):
            self._face(painter, QRectF(box.left(), top, box.width(), t.px(FACE)), connector, used, side)
            top += t.px(FACE + GAP / 2)
        self._wires(painter, box, top + t.px(GAP / 2), first)

    def _face(self, painter: QPainter, box: QRectF, connector: Connector, used: frozenset[str], side: Side) -> None:
        t = self.theme
        shape = self.shapes.get((connector.family, connector.contacts))
        painter.setFont(t.font(11))
        painter.setPen(t.color("quiet"))
        painter.drawText(
            QRectF(box.left(), box.bottom() - t.px(16), box.width(), t.px(16)), Qt.AlignmentFlag.AlignHCenter, str(side)
        )
        if shape is None:
            return
        face = Face(connector, shape, used, side=side)
        room = box.adjusted(0, 2, 0, -t.px(18))
        width = min(room.width(), room.height() / face.ratio(), t.px(220))
        height = width * face.ratio()
        draw_face(painter, QRectF(room.center().x() - width / 2, room.center().y() - height / 2, width, height), face, t)

    def _wires(self, painter: QPainter, box: QRectF, top: float, first: bool) -> None:
        t = self.theme
        for i, wire in enumerate(self.sheet.wires):
            contact, signal = (wire.a, wire.at_a) if first else (wire.b, wire.at_b)
            y = top + i * t.px(LINE)
            painter.setFont(t.font(12, bold=True))
            painter.setPen(t.color("ink"))
            painter.drawText(QRectF(box.left(), y, t.px(40), t.px(LINE)), Qt.AlignmentFlag.AlignRight, contact)
            painter.setFont(t.font(12))
            rest = QRectF(box.left() + t.px(52), y, box.width() - t.px(52), t.px(LINE))
            pair = f"  (pair {wire.pair})" if wire.pair else ""
            painter.drawText(rest, Qt.AlignmentFlag.AlignLeft, f"{wire.colour}{pair}  {signal}")


class BuildView(Pieces):
    """The drawing in the window."""

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self._theme = theme
        self._shown: tuple[BuildSheet, Shapes] | None = None
        self.tell(NAME, ())

    def show_sheet(self, sheet: BuildSheet, shapes: Shapes, theme: Theme) -> None:
        """Show another cable."""
        self._shown, self._theme = (sheet, shapes), theme
        told = [f"A {w.a} to B {w.b}: {w.colour}, {w.at_a} at A, {w.at_b} at B" for w in sheet.wires]
        told += [f"{one.end} {one.contact} {one.signal} stays open: {one.why}" for one in sheet.open]
        self.tell(NAME, told)
        self.setMinimumHeight(int(BuildDrawing(sheet, shapes, theme, 400).height))
        self.update()

    def paintEvent(self, event: object) -> None:
        """Draw it."""
        if self._shown is not None:
            painter = QPainter(self)
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            BuildDrawing(*self._shown, self._theme, self.width()).paint(painter)
            painter.end()
