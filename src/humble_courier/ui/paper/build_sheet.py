"""The build sheet on paper and as a drawing."""

from html import escape
from pathlib import Path

from PyQt6.QtCore import QRectF, QSize
from PyQt6.QtGui import QPainter
from PyQt6.QtSvg import QSvgGenerator

from humble_courier.app.files import write_whole
from humble_courier.app.wire.planning import Build
from humble_courier.catalog.load import Catalog
from humble_courier.ui.paper.build_drawing import BuildDrawing, Shapes
from humble_courier.ui.paper.link_sheet import MAP_WIDTH, a4, flow, memory
from humble_courier.ui.paper.without_window import without_window
from humble_courier.ui.theme import LIGHT, Theme
from humble_courier.wiring.build import BuildSheet

TITLE = "Build sheet"


def write_build_svg(sheet: BuildSheet, shapes: Shapes, path: Path) -> None:
    """Both ends from both sides as SVG. Raises MachineRefused where the file cannot be written."""
    drawing = BuildDrawing(sheet, shapes, Theme(LIGHT), MAP_WIDTH)
    data, device = memory()
    generator = QSvgGenerator()
    generator.setOutputDevice(device)
    generator.setSize(QSize(MAP_WIDTH, int(drawing.height)))
    generator.setViewBox(QRectF(0, 0, MAP_WIDTH, drawing.height))
    generator.setTitle(TITLE)
    painter = QPainter(generator)
    drawing.paint(painter)
    painter.end()
    device.close()
    write_whole(path, data.data())


def write_build_pdf(build: Build, shapes: Shapes, path: Path) -> None:
    """The build sheet as PDF (A4): drawing, wire list, acceptance table. Raises MachineRefused."""
    data, device = memory()
    writer = a4(device, TITLE)
    painter = QPainter(writer)
    width = writer.width()
    drawing = BuildDrawing(build.sheet, shapes, Theme(LIGHT, min(1.0, width / MAP_WIDTH)), width)
    drawing.paint(painter)
    flow(pieces(build), painter, writer, drawing.height + 8)
    painter.end()
    device.close()
    write_whole(path, data.data())


def pieces(build: Build) -> list[str]:
    """The words of the sheet, paragraph by paragraph, as HTML."""
    sheet = build.sheet
    rows = [("A", "B", "signal", "colour", "pair")]
    rows += [(w.a, w.b, f"{w.at_a} to {w.at_b}", w.colour, str(w.pair or "")) for w in sheet.wires]
    cells = "".join("<tr>" + "".join(f"<td>{escape(cell)}</td>" for cell in row) + "</tr>" for row in rows)
    found = [f"<h3>Conductors</h3><table cellpadding='3'>{cells}</table>"]
    found += [f"<p>{escape(one[0].upper() + one[1:])}.</p>" for one in build.advice or (sheet.screen,)]
    if build.before:
        found.insert(0, f"<p>It goes behind: {escape(', '.join(part.name for part in build.before))}.</p>")
    if sheet.open:
        found.append("<h3>Stay unconnected</h3>")
    found += [
        f"<p style='margin:2px'>{o.end} {escape(o.contact)} ({escape(o.signal)}): {escape(o.why)}</p>" for o in sheet.open
    ]
    for title, pairs in (("Must beep", sheet.beep), ("Must be silent", sheet.silent)):
        found.append(f"<h3>{title}</h3>")
        for i in range(0, len(pairs), 6):
            row = "&nbsp;&nbsp;&nbsp; ".join(f"\u2610 {escape(a)}–{escape(b)}" for a, b in pairs[i : i + 6])
            found.append(f"<p style='margin:2px'>{row}</p>")
    found.append("<p style='margin:2px'>Every other contact is silent to all of these.</p>")
    return found


def print_build(build: Build, pdf: Path | None, svg: Path | None) -> None:
    """Sheet and drawing without a window."""
    shapes = Catalog().shapes
    with without_window():
        if svg is not None:
            write_build_svg(build.sheet, shapes, svg)
        if pdf is not None:
            write_build_pdf(build, shapes, pdf)
