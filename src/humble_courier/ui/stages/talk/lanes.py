"""What was said by either side: lanes by direction with time running down, and the meaning beside the bytes."""

import time

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QFontMetrics, QPainter, QPaintEvent, QPen

from humble_courier.domain.received import Chunk, Doubt
from humble_courier.domain.text import PRINTABLE, signs
from humble_courier.domain.utterance import Utterance, Who
from humble_courier.ui.theme import Theme
from humble_courier.ui.widgets.pieces import Pieces, Told

DRAWN = 256  # bytes of an utterance that can fit into a lane
LINES = 2.6  # of a meaning that fit into a row, as words break
ROW = 58  # pixels of an utterance


class Lanes(Pieces):
    """What was said by either side. Bytes in doubt are crossed through and underlined with dots."""

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("lanes")
        self._said: list[Utterance] = []
        self._theme = Theme()
        self._device = ""

    def show_said(self, said: list[Utterance], device: str, theme: Theme) -> None:
        """Show utterances, oldest first."""
        self._said, self._device, self._theme = said, device, theme
        newest = self._said[-1].text if self._said else ""
        self.tell(f"{len(said)} utterances, the newest: {newest}", Told(said, self._in_words))
        self.setMinimumHeight(self.sizeHint().height())
        self.update()

    def _in_words(self, one: Utterance) -> str:
        who = "we" if one.who is Who.WE else self._device or "the device"
        doubt = f", {one.doubtful} in doubt" if one.doubtful else ""
        return f"{who}: {signs(one.text.strip())}{doubt}{', ' + one.meaning if one.meaning else ''}"

    def box_of(self, i: int) -> QRectF | None:
        """A row."""
        return QRectF(0, self._theme.px(27) + i * self._theme.px(ROW), self.width(), self._theme.px(ROW - 4))

    def sizeHint(self) -> QSize:
        """High enough for all of it."""
        return QSize(self._theme.px(560), self._theme.px(30) + len(self._said) * self._theme.px(ROW))

    def paintEvent(self, event: QPaintEvent | None) -> None:
        """Draw the lanes."""
        t = self._theme
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        meaning = min(t.px(210), self.width() * 0.26)
        lane = (self.width() - meaning - t.px(56)) / 2
        spine = lane + t.px(18)
        painter.setFont(t.font(12, bold=True))
        painter.setPen(t.color("quiet"))
        titles = ((0.0, "we say"), (spine + t.px(18), f"{self._device} says"),
                  (self.width() - meaning, "meaning"))  # fmt: skip
        for x, title in titles:
            painter.drawText(QRectF(x, 0, lane, t.px(20)), Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, title)
        painter.setPen(QPen(t.color("hairline"), 3))
        painter.drawLine(QPointF(spine, t.px(24)), QPointF(spine, self.height()))
        seen = event.rect() if event is not None else self.rect()
        first = max(0, (seen.top() - t.px(28)) // t.px(ROW))
        last = (seen.bottom() - t.px(28)) // t.px(ROW) + 1
        for i, said in enumerate(self._said[first:last], start=first):  # what is scrolled away need not be drawn
            top = t.px(28) + i * t.px(ROW)
            x = 0.0 if said.who is Who.WE else spine + t.px(18)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(t.color("ink"))
            painter.drawEllipse(QPointF(spine, top + t.px(22)), 4, 4)
            self._utterance(painter, QRectF(x, top, lane, t.px(48)), said)
            painter.setFont(t.font(12))
            painter.setPen(t.color("contradicted") if said.doubtful else t.color("ink"))
            box = QRectF(self.width() - meaning, top, meaning, t.px(52))
            fits = QFontMetrics(painter.font()).elidedText(said.meaning, Qt.TextElideMode.ElideRight, round(LINES * meaning))
            painter.drawText(box, Qt.AlignmentFlag.AlignVCenter | Qt.TextFlag.TextWordWrap, fits)
        painter.end()

    def _utterance(self, painter: QPainter, box: QRectF, said: Utterance) -> None:
        t = self._theme
        wrong = bool(said.doubtful or said.unsent)
        color = "contradicted" if wrong else "action" if said.meaning and said.who is Who.THEY else "hairline"
        pen = QPen(t.color(color), 2 if color != "hairline" else 1)
        if wrong:
            pen.setDashPattern(t.dash)
        painter.setPen(pen)
        painter.setBrush(t.color("surface"))
        painter.drawRoundedRect(box.adjusted(1, 1, -1, -1), t.px(7), t.px(7))
        self._characters(painter, box.adjusted(t.px(10), t.px(4), -t.px(10), -t.px(22)), said)
        painter.setFont(t.font(11))
        painter.setPen(t.color("quiet"))
        low = box.adjusted(t.px(10), t.px(26), -t.px(10), -t.px(4))
        at = time.strftime("%H:%M:%S", time.localtime(said.start)) + f".{int(said.start % 1 * 1000):03d}"
        painter.drawText(low, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, at)
        count = f"{len(said)} bytes"
        if said.doubtful:
            count += f", {said.doubtful} in doubt"
        if said.cut:
            count += f", {said.cut}"
        if said.unsent:
            count = "not sent" if said.unsent == len(said) else f"{count}, {said.unsent} not sent"
        painter.drawText(low, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, count)

    def _characters(self, painter: QPainter, box: QRectF, said: Utterance) -> None:
        """The text, each doubtful character as its number, crossed through. In the plain face: mono parts “3. 1”."""
        t = self._theme
        painter.setFont(t.font(13))
        metrics = QFontMetrics(painter.font())
        x, y = box.left(), box.center().y() + metrics.ascent() / 2 - 1
        for text, doubt in _runs(said):
            painter.setPen(t.color("contradicted" if doubt else "ink"))
            gap = 0 if doubt is None else t.px(4)
            room = box.right() - x
            if metrics.horizontalAdvance(text) + gap > room:
                painter.drawText(QPointF(x, y), metrics.elidedText(text, Qt.TextElideMode.ElideRight, int(room)))
                return
            painter.drawText(QPointF(x, y), text)
            width = metrics.horizontalAdvance(text) + gap
            if doubt:
                middle = y - metrics.ascent() / 2 + 2
                painter.drawLine(QPointF(x, middle), QPointF(x + width - gap, middle))
            x += width


def _runs(said: Utterance) -> list[tuple[str, bool | None]]:
    """Text as pieces: signs that stand for themselves together (None), each other one as its number, and if in doubt."""
    runs: list[tuple[str, bool | None]] = []
    for one in Chunk(bytes(said.said[:DRAWN]), said.doubts).heard:
        sure = one.doubt is Doubt.NONE
        if sure and one.byte in (10, 13):
            continue
        if not sure or one.byte not in PRINTABLE:
            runs.append((f"{one.byte:02X}", not sure))
        elif runs and runs[-1][1] is None:
            runs[-1] = (runs[-1][0] + chr(one.byte), None)
        else:
            runs.append((chr(one.byte), None))
    return runs
