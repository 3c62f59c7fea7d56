"""A sheet of paper out of headings with rows of what and value."""

from collections.abc import Sequence
from html import escape
from pathlib import Path

from PyQt6.QtGui import QTextDocument

from humble_courier.app.files import write_whole
from humble_courier.ui.paper.link_sheet import a4, memory
from humble_courier.ui.paper.without_window import without_window
from humble_courier.ui.theme import LIGHT, Theme

SMALL, ARM_LENGTH = 11, 15  # points: at the desk, and read from where one works
Section = tuple[str, Sequence[tuple[str, str]]]


def print_sections(title: str, sections: Sequence[Section], path: Path) -> None:
    """As `write_sections`, without a window."""
    with without_window():
        write_sections(title, sections, path)


def write_sections(title: str, sections: Sequence[Section], path: Path, points: int = SMALL) -> None:
    """As PDF (A4). Raises MachineRefused where the file cannot be written."""
    data, device = memory()
    writer = a4(device, title)
    text = QTextDocument()
    text.setDefaultFont(Theme(LIGHT).font(points))
    text.setHtml(_page(title, sections))
    text.print(writer)
    device.close()
    write_whole(path, data.data())


def _page(title: str, sections: Sequence[Section]) -> str:
    parts = [f"<h2>{escape(title)}</h2>"]
    for heading, rows in sections:
        cells = "".join(f"<tr><td width='34%'>{escape(what)}</td><td>{escape(value)}</td></tr>" for what, value in rows)
        parts.append(f"<h3>{escape(heading)}</h3><table cellpadding='3' width='100%'>{cells}</table>")
    return "".join(parts)
