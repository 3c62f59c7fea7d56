"""The sheet of a day on paper, for the pocket: large enough to be read at arm's length."""

from pathlib import Path
from typing import Any

from humble_courier.app.settings.site_plans import site_sections
from humble_courier.ui.paper.sections import ARM_LENGTH, Section, write_sections
from humble_courier.ui.paper.without_window import without_window


def print_day(document: dict[str, Any], path: Path) -> None:
    """Without a window. Raises MachineRefused where the file cannot be written."""
    with without_window():
        write_day(document, path)


def write_day(document: dict[str, Any], path: Path) -> None:
    """`document`: that of `day`. As PDF (A4). Raises MachineRefused where the file cannot be written."""
    before = ("Before leaving", [("\u2610", f"{one['do']} ({one['why']})") for one in document["before_leaving"]])
    title = " ".join(filter(None, (document["name"] or "The day", document["date"])))
    sections: list[Section] = [before]
    for visit in document["visits"]:
        sections.append(_visit(visit))
        for plan in visit["plans"]:
            sections += [(f"{visit['id']}, {plan['name']}, {heading}", rows) for heading, rows in site_sections(plan)]
    write_sections(title, sections, path, ARM_LENGTH)


def _visit(visit: dict[str, Any]) -> Section:
    """One place: cautions first, then the acts in their order."""
    when = f"{visit['at']}, {visit['minutes']} min" if visit["at"] else f"{visit['minutes']} min"
    rows = [("\u25b2 Caution", one) for one in visit["cautions"]]
    rows += [(f"Join {name}", " \u2013 ".join(["computer", *parts, "device"])) for name, parts in visit["chains"].items()]
    rows += [(f"{number}.", act) for number, act in enumerate(visit["prepare"], start=1)]
    rows += [(name, settings) for name, settings in visit["settings"].items()]
    rows += [(f"Say to {name}", ", then ".join(words)) for name, words in visit["words"].items() if words]
    rows += [("Note down", ", ".join(visit["note_down"]))] if visit["note_down"] else []
    rows += [("Put back", one) for one in visit["afterwards"]]
    rows += [("Note", visit["note"])] if visit["note"] else []
    return f"{visit['id']} ({when})", rows
