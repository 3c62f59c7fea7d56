"""Printing: tables and sentences for people, one JSON document for programs."""

import sys
from typing import Any

import msgspec

from humble_courier.app.files import unwritable
from humble_courier.domain.text import signs


def write(text: str, now: bool = False) -> None:
    """Text on standard output, where asked for at once. Raises MachineRefused where it cannot be written."""
    with unwritable("standard output"):
        sys.stdout.write(text)
        if now:
            sys.stdout.flush()


def print_json(data: Any) -> None:
    """One JSON document on standard output."""
    write(msgspec.json.format(msgspec.json.encode(data), indent=2).decode() + "\n")


def line(text: str = "", now: bool = False) -> None:
    """A line for people; controls in it are shown as signs."""
    write(signs(text) + "\n", now)


def error_line(text: str) -> None:
    """A line for people beside a document: on standard error."""
    sys.stderr.write(signs(text) + "\n")


def columns(rows: list[tuple[str, ...]]) -> None:
    """Rows with their columns aligned, two spaces between."""
    if not rows:
        return
    widths = [max(len(row[i]) for row in rows) for i in range(len(rows[0]))]
    for row in rows:
        line("  ".join(cell.ljust(width) for cell, width in zip(row, widths, strict=True)).rstrip())


def marked(byte: int, doubtful: bool) -> str:
    """A received byte for people: the character, or its number; a doubtful one with a question mark."""
    shown = chr(byte) if 32 < byte < 127 else f"{byte:02X}"
    return f"{shown}?" if doubtful else shown
