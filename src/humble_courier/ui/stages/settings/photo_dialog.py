"""A picture of a switch bank: frame the row of switches, see the reading of each, take it over."""

from pathlib import Path

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QImage, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QCheckBox, QDialog, QHBoxLayout, QVBoxLayout, QWidget

from humble_courier.address.photo import Lever, read_levers
from humble_courier.errors import BadInput
from humble_courier.ui.theme import Theme
from humble_courier.ui.widgets.basics import button, label

WIDEST, HIGHEST = 820, 420  # pixels: a dialog that fits the smallest screen


class Framed(QWidget):
    """The picture with a frame that is drawn with the pointer. `framed` gives it in points of the picture."""

    framed = pyqtSignal()

    def __init__(self, image: QImage, theme: Theme) -> None:
        super().__init__()
        keep = Qt.AspectRatioMode.KeepAspectRatio
        self._shown = image.scaled(WIDEST, HIGHEST, keep, Qt.TransformationMode.SmoothTransformation)
        self.setFixedSize(self._shown.size())
        self._theme, self.scale = theme, image.width() / max(self._shown.width(), 1)
        self.frame = QRectF(self.rect())
        self.levers: tuple[Lever, ...] = ()
        self._from = QPointF()

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        """A corner."""
        if event is not None:
            self._from = event.position()

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        """The corner across."""
        if event is not None:
            self.frame = QRectF(self._from, event.position()).normalized() & QRectF(self.rect())
            self.framed.emit()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        """The picture, the frame, an arrow or a question mark over each lever."""
        painter, t = QPainter(self), self._theme
        painter.drawImage(0, 0, self._shown)
        painter.setPen(QPen(t.color("contradicted"), 2))
        painter.drawRect(self.frame)
        width = self.frame.width() / max(len(self.levers), 1)
        painter.setFont(t.font(16, bold=True))
        for i, lever in enumerate(self.levers):
            box = QRectF(self.frame.x() + i * width, self.frame.y(), width, self.frame.height())
            painter.drawLine(box.topLeft(), box.bottomLeft())
            sign = ("↓", "↑")[lever.up] if lever.sure else "?"
            badge = QRectF(box.center().x() - t.px(12), box.center().y() - t.px(12), t.px(24), t.px(24))
            painter.fillRect(badge, t.color("surface"))
            painter.drawText(badge, Qt.AlignmentFlag.AlignCenter, sign)
        painter.end()


class PhotoDialog(QDialog):
    """`taken` gives the levers from left to right, 1 up. Raises BadInput for a file that is no picture."""

    taken = pyqtSignal(tuple)

    def __init__(self, path: Path, count: int, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        image = QImage(str(path))
        if image.isNull():
            raise BadInput("not a picture that can be read: PNG and JPEG can", file=path)
        self.setWindowTitle("Picture of the bank")
        self._image, self._count = image.convertToFormat(QImage.Format.Format_Grayscale8), count
        self.view = Framed(image, theme)
        self.light = QCheckBox("The levers are lighter than their slots")
        self.light.setChecked(True)
        self.says = label("", "", wrap=True)
        self.take = button("Take this reading", "main", self._take)
        row = QHBoxLayout()
        row.addWidget(self.light)
        row.addStretch(1)
        row.addWidget(self.take)
        column = QVBoxLayout(self)
        told = "Draw a frame around the row of {n} switches, from the edge of the first slot to the edge of the last."
        column.addWidget(label(told.format(n=count), "", wrap=True))
        column.addWidget(self.view)
        column.addWidget(self.says)
        column.addLayout(row)
        self.view.framed.connect(self.read)
        self.light.toggled.connect(self.read)
        self.read()

    def read(self) -> None:
        """Read what is framed."""
        box, scale = self.view.frame, self.view.scale
        bits, image = self._image.constBits(), self._image
        if bits is None:
            return
        whole = np.frombuffer(bits.asstring(image.sizeInBytes()), np.uint8).reshape(image.height(), image.bytesPerLine())
        rows = slice(int(box.top() * scale), max(int(box.bottom() * scale), 0))
        columns = slice(int(box.left() * scale), min(int(box.right() * scale), image.width()))
        try:
            self.view.levers = read_levers(whole[rows, columns].astype(np.float64), self._count, self.light.isChecked())
            doubtful = [str(i + 1) for i, lever in enumerate(self.view.levers) if not lever.sure]
            told = "Not told from left: {which}. Look, and turn them afterwards.".format(which=", ".join(doubtful))
            self.says.setText(told if doubtful else "Every lever is told. Compare with the switches themselves.")
        except BadInput as error:
            self.view.levers = ()
            self.says.setText(error.text)
        self.take.setEnabled(bool(self.view.levers))
        self.view.update()

    def _take(self) -> None:
        self.taken.emit(tuple(lever.up for lever in self.view.levers))
        self.accept()
