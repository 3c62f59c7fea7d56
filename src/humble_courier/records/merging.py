"""Taking in what another copy of the records holds, so that neither side loses anything.

Theory of operation. Facts, proofs and versions of links are only ever added: of two copies the union holds all of both. The
version of a link that holds is the newest one; of two that are as new, the one whose text comes last. So the outcome does
not depend on the order in which copies meet. Where both copies have gone on from a version that each knows, one of them is
behind a version that it has never seen: that is a conflict, which somebody decides by making a newer version.
"""

import hashlib
import json
from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass, field
from itertools import count

import msgspec
from sqlalchemy import func, insert, select, update
from sqlalchemy.orm import Session, selectinload

from humble_courier.documents.link import LinkModel
from humble_courier.documents.records import KeptLink, Proof, Version
from humble_courier.records.tables import FactRow, LinkRow, ProofRow, VersionRow, WordRow

AT_ONCE = 400  # links; fewer than the names that a question to SQLite may hold (sqlite.org/limits: 999 in older ones)
VersionKey = tuple[float, str, str]  # when, name, document: of two as new the last one in this order holds


@dataclass(frozen=True)
class BothChanged:
    """A link that was changed on both sides: the version that holds now, and the other one, which is kept too."""

    link_id: str
    ours: Version
    theirs: Version


@dataclass
class Merged:
    """What came of it: `taken` links, facts, proofs and versions that were new; `same` links of which nothing was."""

    taken: int = 0
    same: int = 0
    links: int = 0
    conflicts: list[BothChanged] = field(default_factory=list)


def key_of(version: Version) -> VersionKey:
    """By which versions are one, and in which order they hold."""
    return version.updated, version.name, document_text(version.document)


def document_text(model: LinkModel) -> str:
    """A link's document, always written alike."""
    return msgspec.json.encode(model, order="sorted").decode()


def history(kept: KeptLink) -> list[Version]:
    """All versions of a link, the one that holds last; an older export knows only that one."""
    own = [*kept.versions] or [Version(kept.updated, kept.name, kept.document)]
    return sorted(own, key=key_of)


class Taking:
    """Takes links into open records, some hundred at a time. Everything happens in the session's one transaction."""

    def __init__(self, session: Session) -> None:
        self._session = session
        self._numbers = count((session.scalar(select(func.max(ProofRow.id))) or 0) + 1)

    def take(self, links: Sequence[KeptLink]) -> Merged:
        """Take them in; what is there already stays as it is."""
        merged = Merged()
        for begun in range(0, len(links), AT_ONCE):
            some = links[begun : begun + AT_ONCE]
            self._look([kept.id for kept in some])
            for kept in some:
                merged.links += 1
                new = self._versions_of(kept, merged) + self._facts_of(kept) + self._proofs_of(kept)
                merged.taken += new
                merged.same += new == 0
            self._put_in()
        return merged

    def _look(self, ids: Sequence[str]) -> None:
        """What is here of these links."""
        session = self._session
        self._new: dict[type[VersionRow | FactRow | ProofRow | WordRow], list[dict[str, object]]]
        self._new = {VersionRow: [], FactRow: [], ProofRow: [], WordRow: []}
        self._heads: dict[str, dict[str, object]] = {}
        self._here = set(session.scalars(select(LinkRow.id).where(LinkRow.id.in_(ids))))
        self._versions: dict[str, dict[VersionKey, Version]] = defaultdict(dict)
        for kept in session.scalars(select(VersionRow).where(VersionRow.link_id.in_(ids))):
            try:
                version = Version(kept.updated, kept.name, msgspec.json.decode(kept.document, type=LinkModel), kept.who)
            except msgspec.MsgspecError:  # a row that cannot be read stays as it is, and is named where it is read
                continue
            self._versions[kept.link_id][key_of(version)] = version
        facts = select(*(getattr(FactRow, name) for name in _FACT)).where(FactRow.link_id.in_(ids))
        self._facts = {tuple(row) for row in session.execute(facts)}
        proofs = select(ProofRow).where(ProofRow.link_id.in_(ids)).options(selectinload(ProofRow.words))
        self._proofs = {
            (row.link_id, row.at, _digest([getattr(row, name) for name in _COLUMNS], [_word(w) for w in row.words]))
            for row in session.scalars(proofs)
        }

    def _versions_of(self, kept: KeptLink, merged: Merged) -> int:
        ours, theirs = self._versions[kept.id], {key_of(one): one for one in history(kept)}
        new = [key for key in theirs if key not in ours]
        our_head, their_head = max(ours, default=None), max(theirs)
        ours.update({key: theirs[key] for key in new})
        if our_head is not None and _apart(our_head, their_head, new, theirs):
            merged.conflicts.append(BothChanged(kept.id, ours[our_head], theirs[their_head]))
        if our_head is None or their_head > our_head:
            self._heads[kept.id] = dict(zip(("updated", "name", "document"), their_head, strict=True))
        self._new[VersionRow] += [
            {"link_id": kept.id, "updated": k[0], "name": k[1], "document": k[2], "who": theirs[k].who} for k in new
        ]
        return len(new)

    def _facts_of(self, kept: KeptLink) -> int:
        rows = [(kept.id, f.subject, f.text, f.provenance, f.source, f.at, f.holds) for f in kept.facts]
        new = [row for row in dict.fromkeys(rows) if row not in self._facts]
        self._facts.update(new)
        self._new[FactRow] += [dict(zip(_FACT, row, strict=True)) for row in new]
        return len(new)

    def _proofs_of(self, kept: KeptLink) -> int:
        new = 0
        for proof in kept.proofs:
            values, words = proof_values(proof), proof_words(proof)
            told = [(w["at"], w["who"], w["data"], w["doubtful"], w["meaning"]) for w in words]
            key = (kept.id, proof.at, _digest([values[name] for name in _COLUMNS], told))
            if key not in self._proofs:
                self._proofs.add(key)
                number = next(self._numbers)
                self._new[ProofRow].append({"id": number, "link_id": kept.id, **values})
                self._new[WordRow] += [{"proof_id": number, **word} for word in words]
                new += 1
        return new

    def _put_in(self) -> None:
        """What is new, links first: all else belongs to them."""
        fresh = [{"id": id_, **head} for id_, head in self._heads.items() if id_ not in self._here]
        other = [{"id": id_, **head} for id_, head in self._heads.items() if id_ in self._here]
        if fresh:
            self._session.execute(insert(LinkRow), fresh)
        if other:
            self._session.execute(update(LinkRow), other)
        for table, rows in self._new.items():
            if rows:
                self._session.execute(insert(table), rows)


_FACT = ("link_id", "subject", "text", "provenance", "source", "at", "holds")
_COLUMNS = (
    "port", "adapter", "chain", "computer_settings", "device_settings", "identity", "facts", "kind", "grade", "reason",
    "serial", "socket",
)  # fmt: skip


def proof_values(proof: Proof) -> dict[str, object]:
    """The columns of a proof, without its link and its words."""
    return {
        "at": proof.at, "port": proof.port, "adapter": proof.adapter, "chain": json.dumps(proof.chain),
        "computer_settings": proof.computer_settings, "device_settings": proof.device_settings,
        "identity": json.dumps(proof.identity), "facts": msgspec.json.encode(proof.facts).decode(),
        "kind": proof.kind.value, "grade": proof.grade.value, "reason": proof.reason, "serial": proof.serial,
        "socket": proof.socket, "who": proof.who,
    }  # fmt: skip


def proof_words(proof: Proof) -> list[dict[str, object]]:
    """The columns of the words of a proof."""
    return [
        {"at": w.at, "who": w.who, "data": bytes.fromhex(w.hex), "doubtful": json.dumps(w.doubtful), "meaning": w.meaning}
        for w in proof.words
    ]


def _word(row: WordRow) -> tuple[object, ...]:
    return row.at, row.who, row.data, row.doubtful, row.meaning


def _digest(values: Sequence[object], words: Sequence[tuple[object, ...]]) -> str:
    """Two proofs of the same moment are one where all of this is the same."""
    return hashlib.sha256(repr(([str(value) for value in values], list(words))).encode()).hexdigest()


def _apart(
    our_head: VersionKey, their_head: VersionKey, new: Sequence[VersionKey], theirs: dict[VersionKey, Version]
) -> bool:  # fmt: skip
    """Whether both sides have gone on: each head is a version that the other side did not know, and they differ."""
    return our_head not in theirs and their_head in new and our_head[1:] != their_head[1:]


def differing(conflict: BothChanged) -> list[tuple[str, str, str]]:
    """What differs between the two versions: where in the document, and what stands there on either side."""
    sides = [_flat(msgspec.to_builtins(one.document)) | {"name": one.name} for one in (conflict.ours, conflict.theirs)]
    places = dict.fromkeys([*sides[0], *sides[1]])
    return [(p, sides[0].get(p, ""), sides[1].get(p, "")) for p in places if sides[0].get(p, "") != sides[1].get(p, "")]


def _flat(value: object, path: str = "") -> dict[str, str]:
    """Every single value of a document by its place in it."""
    if isinstance(value, dict):
        pairs = [(f"{path}.{key}" if path else str(key), one) for key, one in value.items()]
    elif isinstance(value, list):
        pairs = [(f"{path}[{n}]", one) for n, one in enumerate(value)]
    else:
        return {} if value is None else {path: str(value)}
    found: dict[str, str] = {}
    for at, one in pairs:
        found |= _flat(one, at)
    return found
