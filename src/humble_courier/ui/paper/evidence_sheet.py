"""The sheet of all evidence on paper, for the maker's support."""

from pathlib import Path

from humble_courier.app.diagnose.evidence_sheet import EvidenceSheet
from humble_courier.ui.paper.sections import write_sections


def write_evidence(sheet: EvidenceSheet, path: Path) -> None:
    """As PDF (A4). Raises MachineRefused where the file cannot be written."""
    write_sections(sheet.title, sheet.sections, path)
