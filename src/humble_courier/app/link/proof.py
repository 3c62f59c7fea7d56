"""The proof of a link, and the sheet that goes on paper."""

from humble_courier.app.link.evidence import Evidence
from humble_courier.catalog.links import Link
from humble_courier.documents.records import KnownFact, Proof, Word
from humble_courier.domain.facts import Fact
from humble_courier.domain.proven import Grade, ProofKind
from humble_courier.domain.utterance import Utterance, Who


def make_proof(link: Link, evidence: Evidence, utterances: list[Utterance], facts: list[Fact], at: float) -> Proof:
    """Everything that worked, in one piece: it must stand when the link is changed later. `at`: seconds since the epoch."""
    shown = evidence.shown
    adapter = next((part.name for part in link.parts if part.kind == "usb-adapter"), "none")
    words = [
        Word(
            u.start,
            "we" if u.who is Who.WE else "they",
            u.data.hex(),
            u.text,
            sorted(u.doubts),
            u.meaning,
        )
        for u in utterances
    ]
    return Proof(
        at=at,
        port=(link.address or "").partition("?")[0],
        adapter=adapter,
        chain=[part.name for part in link.parts],
        computer_settings=str(link.computer_settings or ""),
        device_settings=str(link.device_settings or ""),
        identity=dict(evidence.identity),
        kind=shown.kind if shown is not None else ProofKind.ANSWERED,
        grade=shown.grade if shown is not None else Grade.WEAK,
        reason=shown.reason if shown is not None else "",
        words=words,
        facts=[KnownFact(f.subject, f.text, f.provenance.value, f.source, f.at, f.holds) for f in facts],
    )
