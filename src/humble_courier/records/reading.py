"""Rows as what they mean. A row that does not hold what it should costs that row: it is left out, and named."""

import json
from collections.abc import Callable, Iterable
from typing import Any, TypeVar

import msgspec

from humble_courier.documents.link import LinkModel
from humble_courier.documents.records import KnownFact, Proof, Version, Word
from humble_courier.domain.facts import Fact, Provenance
from humble_courier.domain.text import printable
from humble_courier.records.tables import FactRow, ProofRow, VersionRow, WordRow

T = TypeVar("T")


class Reader:
    """Reads rows; `left_out` names those that could not be read, with the reason."""

    def __init__(self) -> None:
        self.left_out: dict[str, str] = {}

    def one(self, name: str, read: Callable[[], T]) -> T | None:
        """One row, or None where it cannot be read."""
        try:
            return read()
        except (msgspec.MsgspecError, ValueError, TypeError, RecursionError) as error:
            self.left_out[name] = str(error)
            return None

    def all(self, rows: Iterable[Any], name: str, read: Callable[[Any], T]) -> list[T]:
        """Those rows that can be read; each is called by `name` and its number."""
        found = [self.one(f"{name} {row.id}", lambda row=row: read(row)) for row in rows]  # type: ignore[misc]
        return [one for one in found if one is not None]

    def proof(self, row: ProofRow) -> Proof:
        """A proof, with those of its words that can be read."""
        facts = msgspec.json.decode(row.facts, type=list[KnownFact])
        return msgspec.structs.replace(proof_alone(row), words=self.all(row.words, "word", word), facts=facts)


def proof_alone(row: Any) -> Proof:
    """A proof without its words and facts, out of its columns."""
    return msgspec.convert(
        {
            "at": row.at, "port": row.port, "adapter": row.adapter, "chain": json.loads(row.chain),
            "computer_settings": row.computer_settings, "device_settings": row.device_settings,
            "identity": json.loads(row.identity), "words": [], "facts": [],
            "kind": row.kind, "grade": row.grade, "reason": row.reason, "serial": row.serial, "socket": row.socket,
            "who": row.who,
        },
        Proof,
    )  # fmt: skip


def model(document: str) -> LinkModel:
    """The document of a link. Raises msgspec's errors."""
    return msgspec.json.decode(document, type=LinkModel)


def version(row: VersionRow) -> Version:
    """A link as it was."""
    return Version(row.updated, row.name, model(row.document), row.who)


def word(row: WordRow) -> Word:
    """One thing that was said."""
    data = bytes(row.data)
    return msgspec.convert(
        {
            "at": row.at, "who": row.who, "hex": data.hex(), "text": printable(data), "doubtful": json.loads(row.doubtful),
            "meaning": row.meaning,
        },
        Word,
    )  # fmt: skip


def fact(row: FactRow) -> Fact:
    """A fact about a link."""
    known = KnownFact(row.subject, row.text, Provenance(row.provenance).value, row.source, row.at, row.holds)
    sound = msgspec.convert(msgspec.to_builtins(known), KnownFact)
    return Fact(sound.subject, sound.text, Provenance(sound.provenance), sound.source, sound.at, sound.holds)
