"""Words in a drawing that must be read whole: in two lines where there is height for them, smaller where there is not."""

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QPainter

from humble_courier.ui.theme import Theme

LEAST = 9  # pixels of type that can be read at all
CENTRE = Qt.AlignmentFlag.AlignCenter


def draw_fitting(
    painter: QPainter, box: QRectF, text: str, theme: Theme, sizes: tuple[int, ...], bold: bool = False,
    align: Qt.AlignmentFlag = CENTRE, below: int = 0,
) -> bool:  # fmt: skip
    """Draw `text` as large as there is room for; cut only where the smallest of `sizes` is too large (then False).

    Large type gives way further than small: nothing is drawn with fewer than `LEAST` pixels.
    `below`: pixels at 100 % that several lines keep free above them.
    """
    flags = int(align | Qt.TextFlag.TextWordWrap)
    for size in [one for one in sizes if theme.px(one) >= LEAST]:
        painter.setFont(theme.font(size, bold))
        needed = painter.boundingRect(QRectF(0, 0, box.width(), 0), flags, text)
        several = needed.height() > 1.5 * painter.fontMetrics().lineSpacing()
        room = box.adjusted(0, theme.px(below), 0, 0) if several else box
        if needed.width() <= room.width() and needed.height() <= room.height() + 1:
            painter.drawText(room, flags, text)
            return True
    cut = painter.fontMetrics().elidedText(text, Qt.TextElideMode.ElideRight, int(box.width()))
    painter.drawText(box, int(align), cut)
    return False
