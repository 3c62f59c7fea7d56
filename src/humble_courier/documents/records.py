"""The open format `records/1`: what `records export` writes and other programs read."""

from typing import Literal

from msgspec import Struct

from humble_courier.documents.link import LinkModel
from humble_courier.domain.proven import Grade, ProofKind


class Word(Struct, frozen=True):
    """One thing said. `at` in seconds since the epoch, `hex` the bytes, `doubtful` the indices of damaged ones."""

    at: float
    who: Literal["we", "they"]
    hex: str
    text: str
    doubtful: list[int]
    meaning: str


class KnownFact(Struct, frozen=True):
    """A fact with its provenance; `holds` is false for what stands against the link."""

    subject: str
    text: str
    provenance: Literal["measured", "observed", "documented", "assumed", "computed"]
    source: str
    at: float
    holds: bool = True


class Proof(Struct, frozen=True):
    """That the link worked at `at`: port, adapter, chain (part names in order), settings, identity, words, facts.

    `kind`: by what it is proven; `grade` how strong that is, with its `reason`. `serial`: of the adapter; `socket`: of the
    computer, in which it was. `who` kept it.
    """

    at: float
    port: str
    adapter: str
    chain: list[str]
    computer_settings: str
    device_settings: str
    identity: dict[str, str]
    words: list[Word]
    facts: list[KnownFact]
    kind: ProofKind = ProofKind.ANSWERED
    grade: Grade = Grade.STRONG
    reason: str = ""
    serial: str = ""
    socket: str = ""
    who: str = ""


class Version(Struct, frozen=True):
    """A link as it was from `updated` on. `who` made it so: a person at a computer; empty where nobody noted it."""

    updated: float
    name: str
    document: LinkModel
    who: str = ""


class KeptLink(Struct, frozen=True):
    """A link with all that is known of it, oldest first. `versions`: as it was before, and as it is."""

    id: str
    name: str
    updated: float
    document: LinkModel
    facts: list[KnownFact]
    proofs: list[Proof]
    versions: list[Version] = []


class LeftOut(Struct, frozen=True):
    """A row of the database that could not be read, and why."""

    row: str
    why: str


class Export(Struct, frozen=True):
    """The document `records/1`; `left_out`: what could not be read."""

    courier: Literal["records/1"]
    links: list[KeptLink]
    left_out: list[LeftOut] = []
