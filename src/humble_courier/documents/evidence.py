"""The document `evidence/1`: what was seen at a link that does not work."""

from typing import Literal

from humble_courier.documents.base import Strict, Text


class EvidenceFact(Strict, frozen=True):
    """A check (`humble-courier checks` lists them) and its outcome."""

    check: Text
    outcome: Text


class EvidenceModel(Strict, frozen=True):
    """The document `evidence/1`.

    `link`: its file, from the folder of this document; `mended`: causes (`humble-courier causes`) whose mend was tried and
    brought no answer; `at_hand`: what can be used beside the program; None for a meter alone.
    """

    courier: Literal["evidence/1"]
    link: str | None = None
    facts: list[EvidenceFact] = []
    mended: list[Text] = []
    at_hand: list[Text] | None = None
