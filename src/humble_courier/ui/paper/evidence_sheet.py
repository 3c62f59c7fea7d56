"""The sheet of all evidence on paper, for the maker's support."""

from html import escape
from pathlib import Path

from PyQt6.QtGui import QTextDocument

from humble_courier.app.diagnose.evidence_sheet import EvidenceSheet
from humble_courier.app.files import write_whole
from humble_courier.ui.paper.link_sheet import a4, memory
from humble_courier.ui.theme import LIGHT, Theme


def write_evidence(sheet: EvidenceSheet, path: Path) -> None:
    """As PDF (A4). Raises MachineRefused where the file cannot be written."""
    data, device = memory()
    writer = a4(device, sheet.title)
    text = QTextDocument()
    text.setDefaultFont(Theme(LIGHT).font(11))
    text.setHtml(_page(sheet))
    text.print(writer)
    device.close()
    write_whole(path, data.data())


def _page(sheet: EvidenceSheet) -> str:
    parts = [f"<h2>{escape(sheet.title)}</h2>"]
    for heading, rows in sheet.sections:
        cells = "".join(f"<tr><td width='34%'>{escape(what)}</td><td>{escape(value)}</td></tr>" for what, value in rows)
        parts.append(f"<h3>{escape(heading)}</h3><table cellpadding='3' width='100%'>{cells}</table>")
    return "".join(parts)
