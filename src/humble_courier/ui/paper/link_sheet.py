"""On paper: the link sheet as PDF, the wiring as SVG, with Qt's own writers."""

from html import escape
from pathlib import Path

from PyQt6.QtCore import QBuffer, QByteArray, QIODevice, QMarginsF, QRectF, QSize, QSizeF
from PyQt6.QtGui import QPageLayout, QPageSize, QPainter, QPdfWriter, QTextDocument
from PyQt6.QtSvg import QSvgGenerator

from humble_courier.app.files import write_whole
from humble_courier.app.records.link_sheet import Sheet, sheet
from humble_courier.app.wire.wire_map import WireMap, wire_map
from humble_courier.catalog.links import read_link
from humble_courier.catalog.load import Catalog
from humble_courier.ui.paper.without_window import without_window
from humble_courier.ui.theme import LIGHT, Theme
from humble_courier.ui.widgets.wire_view import MapPainter

DPI = 96  # at which the sizes of the window fit the page
MAP_WIDTH = 760  # pixels: a page between its margins


def memory() -> tuple[QByteArray, QBuffer]:
    """A place in memory to write to; a file is then written whole or not at all."""
    data = QByteArray()
    device = QBuffer(data)
    device.open(QIODevice.OpenModeFlag.WriteOnly)
    return data, device


def write_svg(wiring: WireMap, path: Path) -> None:
    """The conductor map as SVG. Raises MachineRefused where the file cannot be written."""
    drawing = MapPainter(wiring, Theme(LIGHT), MAP_WIDTH)
    data, device = memory()
    generator = QSvgGenerator()
    generator.setOutputDevice(device)
    generator.setSize(QSize(MAP_WIDTH, int(drawing.height)))
    generator.setViewBox(QRectF(0, 0, MAP_WIDTH, drawing.height))
    generator.setTitle(wiring.headline)
    generator.setDescription(wiring.reason)
    painter = QPainter(generator)
    drawing.paint(painter)
    painter.end()
    device.close()
    write_whole(path, data.data())


def write_pdf(content: Sheet, path: Path) -> None:
    """The link sheet as PDF (A4). Raises MachineRefused where the file cannot be written."""
    data, device = memory()
    writer = a4(device, content.title)
    painter = QPainter(writer)
    width, height = writer.width(), writer.height()
    text = QTextDocument()
    text.setDefaultFont(Theme(LIGHT).font(11))
    text.setPageSize(QSizeF(width, height * 100))  # one long page: the cuts are made below, at whole lines
    text.setHtml(_head(content))
    text.drawContents(painter, QRectF(0, 0, width, height))
    top = text.size().height() + 8
    drawing = MapPainter(content.map, Theme(LIGHT, min(1.0, width / MAP_WIDTH)), width)
    if top + drawing.height > height:
        writer.newPage()
        top = 0
    painter.save()
    painter.translate(0, top)
    drawing.paint(painter)
    painter.restore()
    flow(_pieces(content), painter, writer, top + drawing.height + 8)
    painter.end()
    device.close()
    write_whole(path, data.data())


def a4(device: QBuffer, title: str) -> QPdfWriter:
    """A PDF on A4, upright, with margins of 15 mm."""
    writer = QPdfWriter(device)
    writer.setTitle(title)
    writer.setCreator("Humble Courier")
    page, margins = QPageSize(QPageSize.PageSizeId.A4), QMarginsF(15, 15, 15, 15)
    writer.setPageLayout(QPageLayout(page, QPageLayout.Orientation.Portrait, margins, QPageLayout.Unit.Millimeter))
    writer.setResolution(DPI)
    return writer


def flow(pieces: list[str], painter: QPainter, writer: QPdfWriter, top: float) -> None:
    """Paragraphs of HTML one below the other from `top` on, on as many pages as they take."""
    width, height = writer.width(), writer.height()
    for piece in pieces:
        text = QTextDocument()
        text.setDefaultFont(Theme(LIGHT).font(11))
        text.setTextWidth(width)
        text.setHtml(piece)
        if top + text.size().height() > height:
            writer.newPage()
            top = 0
        painter.save()
        painter.translate(0, top)
        text.drawContents(painter)
        painter.restore()
        top += text.size().height()


def _head(content: Sheet) -> str:
    rows = "".join(
        f"<tr><td style='padding:2px 14px 2px 0; color:{LIGHT.quiet}'>{escape(r.what)}</td>"
        f"<td style='padding:2px 14px 2px 0'><b>{escape(r.value)}</b></td>"
        f"<td style='padding:2px 0; color:{LIGHT.quiet}'>{escape(r.known_by)}</td></tr>"
        for r in content.rows
    )
    return f"<h2>{escape(content.title)}</h2><p>{escape(content.subtitle)}</p><table>{rows}</table>"


def _pieces(content: Sheet) -> list[str]:
    import time

    pieces = [f"<p><b>{escape(content.map.headline)}.</b> {escape(content.map.reason)}</p>"]
    if content.words:
        pieces.append("<h3>Words</h3>")
    for word in content.words:
        who = "we say" if word.who == "we" else "it says"
        at = time.strftime("%H:%M:%S", time.localtime(word.at))
        doubt = f" ({len(word.doubtful)} bytes in doubt)" if word.doubtful else ""
        pieces.append(
            f"<p style='margin:2px'>{at} {who}: <b>{escape(word.text)}</b>{doubt} "
            f"<span style='color:{LIGHT.quiet}'>{escape(word.meaning)}</span></p>"
        )
    if content.cautions:
        pieces.append("<h3>Cautions</h3>")
    pieces += [f"<p style='margin:2px'>▲ {escape(text)}</p>" for text in content.cautions]
    last = "Local codes, the site's rules, the maker's manual and licensed people come first."
    pieces.append(f"<p style='color:{LIGHT.quiet}'>{last}</p>")
    return pieces


def print_link(link: Path, catalog: Catalog, pdf: Path | None, svg: Path | None) -> None:
    """Sheet and drawing of a link file, without a window."""
    from humble_courier.app.wire.tracing import trace_link

    found = read_link(link, catalog)
    with without_window():
        if svg is not None:
            write_svg(wire_map(trace_link(found, catalog)), svg)
        if pdf is not None:
            write_pdf(sheet(found, catalog), pdf)
