"""A label as PDF: one small page of its size, for a label printer or to cut out."""

from html import escape
from pathlib import Path

import segno
from PyQt6.QtCore import QMarginsF, QPointF, QRectF, QSizeF, Qt
from PyQt6.QtGui import QPageLayout, QPageSize, QPainter, QPdfWriter, QTextDocument

from humble_courier.app.files import write_whole
from humble_courier.app.port.label import LabelFor, LabelSize, PortLabel, label_for
from humble_courier.catalog.links import read_link
from humble_courier.catalog.load import Catalog
from humble_courier.ui.paper.link_sheet import memory
from humble_courier.ui.paper.without_window import without_window
from humble_courier.ui.theme import LIGHT, Theme

DPI = 288  # of label printers
CODE_MM, GAP = 30.0, 12  # side of the code with what is light around it; dots between it and the text
QUIET = 4  # light cells around a code (ISO/IEC 18004, 6.3.8, from memory)
LARGEST, LEAST = 9.0, 4.5  # points; the text is made smaller until it fits


def write_label(content: PortLabel, path: Path, wanted: LabelSize | None = None) -> None:
    """Write the label. Raises MachineRefused where the file cannot be written."""
    mm = wanted or LabelSize()
    data, device = memory()
    writer = QPdfWriter(device)
    writer.setTitle(content.title)
    writer.setCreator("Humble Courier")
    size = QPageSize(QSizeF(mm.width, mm.height), QPageSize.Unit.Millimeter)
    margins = QMarginsF(3, 2, 3, 2)
    writer.setPageLayout(QPageLayout(size, QPageLayout.Orientation.Portrait, margins, QPageLayout.Unit.Millimeter))
    writer.setResolution(DPI)
    painter = QPainter(writer)
    side = min(round(CODE_MM / 25.4 * DPI), writer.height(), writer.width() // 2)
    _fitting(content, writer, writer.width() - side - GAP).drawContents(painter)
    _draw_code(painter, QRectF(writer.width() - side, (writer.height() - side) / 2, side, side), content.code)
    painter.end()
    device.close()
    write_whole(path, data.data())


def _draw_code(painter: QPainter, box: QRectF, text: str) -> None:
    """The link in short as a QR code (ISO/IEC 18004): who reads it has the link, and can open it."""
    rows = [list(row) for row in segno.make(text, error="l", micro=False).matrix]
    step = box.width() / (len(rows) + 2 * QUIET)
    for y, row in enumerate(rows):
        for x, dark in enumerate(row):
            if dark:  # a little over the edge, so that no white line is left between two
                at = QPointF(box.left() + (x + QUIET) * step, box.top() + (y + QUIET) * step)
                painter.fillRect(QRectF(at.x(), at.y(), step + 0.2, step + 0.2), Qt.GlobalColor.black)


def _fitting(content: PortLabel, writer: QPdfWriter, width: float) -> QTextDocument:
    """The text, as large as fits beside the code."""
    points = LARGEST
    while True:
        text = QTextDocument()
        layout = text.documentLayout()
        if layout is not None:
            layout.setPaintDevice(writer)
        text.setDocumentMargin(0)
        font = Theme(LIGHT).font(10)
        font.setPointSizeF(points)
        text.setDefaultFont(font)
        text.setTextWidth(width)
        text.setHtml(_html(content))
        if text.size().height() <= writer.height() or points <= LEAST:
            return text
        points -= 0.5


def _html(content: PortLabel) -> str:
    rows = "".join(f"<tr><td>{escape(a)}&nbsp;&nbsp;</td><td><b>{escape(b)}</b></td></tr>" for a, b in content.lines)
    return f"<p style='margin:0'><b>{escape(content.title)}</b></p><table cellspacing='0' cellpadding='0'>{rows}</table>"


def print_label(link: Path, catalog: Catalog, pdf: Path, what: LabelFor, size: LabelSize) -> None:
    """A label of a link file, without a window."""
    found = read_link(link, catalog)
    with without_window():
        write_label(label_for(found, found.name, None, what), pdf, size)
