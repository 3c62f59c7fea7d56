"""The documents of `history` and `compare`."""

import re
from pathlib import Path
from typing import TYPE_CHECKING, Any

from humble_courier.app.port.profiles import load_profile
from humble_courier.app.records.comparing import changed, in_words, state_of, state_then
from humble_courier.app.records.things import changes, things, uses
from humble_courier.catalog.links import Link, read_link, resolve_link
from humble_courier.catalog.load import Catalog
from humble_courier.documents.records import KeptLink
from humble_courier.errors import BadInput

if TYPE_CHECKING:
    from humble_courier.records.store import Store

LAST_PROOF = "last-proof"


def history(store: "Store", catalog: Catalog, part: str | None, place: str | None, adapter: str | None) -> dict[str, Any]:
    """What became of everything, or of what has to do with a part, a place (words of a link's name) or an adapter."""
    links = store.past()
    if place is not None:
        links = [kept for kept in links if _names(kept.name, place)]
    names = {part, catalog.part_entries[part].name} if part in catalog.part_entries else {part}
    found = [
        use for use in uses(links)
        if (part is None or names & set(use.parts)) and (adapter is None or use.serial == adapter)
    ]  # fmt: skip
    if not found:
        asked = ", ".join(one for one in (part, place, adapter) if one is not None) or "anything"
        raise BadInput(f"the records tell of no use of {asked}")
    found.sort(key=lambda use: use.at)
    served = [use for use in found if use.works]
    wanted = {use.link for use in found}
    return {
        "proofs": [
            {"at": use.at, "link": use.link, "parts": list(use.parts), "adapter": use.serial, "settings": use.settings}
            for use in served
        ],
        "served": len(served), "failed": len(found) - len(served), "last": found[-1].at,
        "failures": [{"at": use.at, "link": use.link, "text": use.told} for use in found if not use.works],
        "changed": [
            {"link": link, "at": at, "place": one.place, "what": one.what, "before": one.before, "now": one.now}
            for link, at, one in changes(kept for kept in links if kept.name in wanted)
        ],
        "things": [
            {
                "name": t.name, "kind": t.kind, "served": t.served, "failed": t.failed, "last": t.last,
                "rates": list(t.rates),
                "places": list(t.places), "weak": t.weak,
            }
            for t in things(found)
        ],
    }  # fmt: skip


def compare(store: "Store | None", catalog: Catalog, link: str, to: str) -> dict[str, Any]:
    """What differs between a link (a file, or one of the records by its name or id) and its last proof, or another file.

    Raises BadInput where there is no such link, or it was never proven.
    """
    kept, now = _meant(store, catalog, link)
    if to != LAST_PROOF:
        found = changed(state_of(read_link(Path(to), catalog)), state_of(now))
        return {"link": link, "to": to, "last_proof": None, "changed": _plain(found), "told": in_words(found)}
    if store is None or kept is None or not kept.proofs:
        raise BadInput(f"the records hold no proof of {link}: compare it with another link, --to FILE")
    last = max(kept.proofs, key=lambda proof: proof.at)
    profile = load_profile(store, kept.id)
    serial, socket = (profile.serial or "", profile.socket or "") if profile is not None else ("", "")
    found = changed(state_then(last), state_of(now, serial, socket))
    return {"link": kept.name, "to": to, "last_proof": last.at, "changed": _plain(found), "told": in_words(found)}


def _names(name: str, words: str) -> bool:
    """Whether each word begins one of a name."""
    return all(any(one.startswith(word) for one in re.findall(r"\w+", name.lower())) for word in words.lower().split())


def _plain(found: list[Any]) -> list[dict[str, str]]:
    return [{"place": one.place, "what": one.what, "before": one.before, "now": one.now} for one in found]


def _meant(store: "Store | None", catalog: Catalog, link: str) -> tuple[KeptLink | None, Link]:
    """A link of the records and how it is now; a file is the link of its name, or the only one to the same device."""
    if store is None:
        return None, read_link(Path(link), catalog)
    links = store.links()
    named = next((id_ for id_, name in links if link in (id_, name)), None)
    if named is not None:
        kept = store.whole(named)
        if kept is None:
            raise BadInput(f"{link} cannot be read; export the records, and look at what is left out")
        return kept, resolve_link(kept.document, catalog)
    now = read_link(Path(link), catalog)
    wanted = next((id_ for id_, name in links if name == now.name), None)
    if wanted is None:
        alike = [id_ for id_, _ in links if (one := store.link(id_)) is not None and one.device == now.model.device]
        wanted = alike[0] if len(alike) == 1 else None
    return (store.whole(wanted) if wanted is not None else None), now
