"""On paper for others: a report over many links, and the handover of one link to a colleague."""

import time
from collections.abc import Sequence
from typing import TYPE_CHECKING

from humble_courier.app.link.kept_files import kept_files
from humble_courier.app.link.notes import of_facts
from humble_courier.app.prepare.sheet_acts import acts
from humble_courier.app.records.link_list import LinkList, Sorted
from humble_courier.app.records.searching import search
from humble_courier.app.records.things import uses
from humble_courier.catalog.links import Link, resolve_link
from humble_courier.catalog.load import Catalog
from humble_courier.documents.records import KeptLink
from humble_courier.domain.facts import Fact, Provenance
from humble_courier.domain.text import Terminator
from humble_courier.errors import BadInput

if TYPE_CHECKING:
    from humble_courier.records.store import Store

Rows = list[tuple[str, str]]
Paper = tuple[str, list[tuple[str, Rows]]]  # title, and headings with rows of what and value
LAST_FIRST = 6  # things that became of a link, that a handover tells


def report(store: "Store", ids: Sequence[str], catalog: Catalog) -> Paper:
    """Each link with how it is set, what it goes through, when it was proven and what failed since. Raises BadInput."""
    links = [kept for id_ in ids if (kept := store.whole(id_)) is not None]
    if not links:
        raise BadInput("no link is shown: search for other words")
    proven = sum(bool(kept.proofs) for kept in links)
    day = time.strftime("%Y-%m-%d")
    sections = [(kept.name, _short(kept, resolved(kept, catalog))) for kept in links]
    return f"{len(links)} links, {proven} of them proven, as of {day}", sections


def with_words(store: "Store", words: str) -> list[str]:
    """Ids of the links in which all words stand, by their names; of all links where no word is said."""
    everywhere = {one.link_id for one in search(store, words)} if words.strip() else set()
    return [one.id for one in LinkList(store).listed(words, Sorted.NAME, everywhere)]


def handover(store: "Store", id_: str, catalog: Catalog) -> Paper:
    """One link with all that a colleague needs to go on. Raises BadInput where there is none."""
    kept = store.whole(id_)
    if kept is None:
        raise BadInput("this link cannot be read; export the records, and look at what is left out")
    link = resolved(kept, catalog)
    sections = [("The link", _short(kept, link))]
    if link is not None and link.sheet is not None:
        sheet = link.sheet
        todo = acts(sheet, catalog.cautions)
        sections.append(("Cautions", [("▲", act.caution) for act in todo if act.caution]))
        sections.append(("Before the first word", [(act.act, f"done when: {act.proof}") for act in todo if not act.after]))
        sections.append(("First words", [(words.say, words.means) for words in sheet.first_words]))
        sections.append(("After the job", [(act.act, f"done when: {act.proof}") for act in todo if act.after]))
    facts = _facts(kept)
    sections.append(("Values noted", [(note.name, _history(note.values)) for note in of_facts(facts).values()]))
    files = [(one.name, f"{_day(one.at)}, kept in the records as {one.content[:12]}") for one in kept_files(facts)]
    sections.append(("Pictures and files", files))
    sections.append(("What became of it", _story(kept)))
    return f"Handover: {kept.name}", [(heading, rows) for heading, rows in sections if rows]


def resolved(kept: KeptLink, catalog: Catalog) -> Link | None:
    """The link with its parts and sheet; None where it names what is not there any more."""
    try:
        return resolve_link(kept.document, catalog)
    except BadInput:
        return None


def _short(kept: KeptLink, link: Link | None) -> Rows:
    last = max(kept.proofs, key=lambda proof: proof.at, default=None)
    rows: Rows = []
    if link is None:
        rows.append(("Cannot be drawn", "it names a part or a device that is not there any more"))
    else:
        rows.append(("Device", link.sheet.name if link.sheet is not None else link.device.name))
        rows.append(("Through", " – ".join(part.name for part in link.parts) or "nothing between"))
        ours, theirs = link.computer_settings, link.device_settings
        rows.append(
            ("Settings", f"computer {ours.spoken if ours else 'unknown'}, device {theirs.spoken if theirs else 'unknown'}")
        )
        if link.end is not None:
            rows.append(("Lines end with", Terminator(link.end).spoken))
    if last is None:
        rows.append(("Proven", "not yet"))
    else:
        told = ", ".join(f"{name} {value}" for name, value in last.identity.items())
        who = f", by {last.who}" if last.who else ""
        rows.append(("Proven", f"{_day(last.at)}{who}: {last.kind.value}, {last.grade.value}. {told or last.reason}"))
    failed = [use for use in uses([kept]) if not use.works and use.at > (last.at if last is not None else 0.0)]
    rows += [("Failed since", f"{_day(use.at)}: {use.told}") for use in failed]
    return rows


def _story(kept: KeptLink) -> Rows:
    happened = [(use.at, "proven" if use.works else f"failed: {use.told}") for use in uses([kept])]
    happened += [(version.updated, f"changed by {version.who}") for version in kept.versions if version.who]
    return [(_day(at), told) for at, told in sorted(happened, reverse=True)[:LAST_FIRST]]


def _facts(kept: KeptLink) -> list[Fact]:
    return [Fact(f.subject, f.text, Provenance(f.provenance), f.source, f.at, f.holds) for f in kept.facts]


def _history(values: Sequence[object]) -> str:
    return ", before that ".join(
        f"{getattr(one, 'value', '')} ({_day(getattr(one, 'at', 0.0))})" for one in reversed(values)
    )


def _day(at: float) -> str:
    return time.strftime("%Y-%m-%d", time.localtime(at))
