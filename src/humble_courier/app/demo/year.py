"""The valley's records over a made-up year, out of `valley.yaml`: links with their proofs and failures."""

from datetime import datetime
from pathlib import Path

import msgspec

from humble_courier.catalog.links import resolve_link
from humble_courier.catalog.load import Catalog
from humble_courier.documents.base import Strict, Text
from humble_courier.documents.link import LinkModel, LinkPart, LinkPort, LinkSettings
from humble_courier.documents.reader import convert, parse, read_text
from humble_courier.documents.records import Proof
from humble_courier.domain.facts import Fact, Provenance
from humble_courier.domain.proven import Grade, ProofKind
from humble_courier.records.store import Store

VALLEY = Path(__file__).parent / "valley.yaml"
REASONS = {
    ProofKind.ANSWERED: "it answered its first words as its sheet says",
    ProofKind.HEARD: "whole messages came, one after another",
    ProofKind.READ: "its registers came with their check",
}


class Occasion(Strict, frozen=True):
    """What came of one visit: a proof of some kind, or why it failed."""

    at: Text
    kind: ProofKind | None = None
    identity: dict[str, str] = msgspec.field(default_factory=dict)
    failed: str = ""

    @property
    def seconds(self) -> float:
        """Its time, in seconds since the epoch."""
        return datetime.strptime(self.at, "%Y-%m-%d %H:%M").timestamp()


class YearOfLink(Strict, frozen=True):
    """One link with its year, oldest first."""

    name: Text
    device: Text
    chain: list[LinkPart]
    adapter: Text
    year: list[Occasion]


def valley() -> list[YearOfLink]:
    """All links of the valley save the gauge house, whose story is still to be told."""
    document = parse(read_text(VALLEY), str(VALLEY))
    return [convert(document, YearOfLink, (i,)) for i in range(len(document.data))]


def tell(store: Store, catalog: Catalog) -> None:
    """Put the valley's links with their year into empty records."""
    for one in valley():
        settings = catalog.device(one.device).port.settings
        model = LinkModel(
            courier="link/1", computer=LinkPort(port="usb-a"), device=LinkPort(device=one.device), chain=one.chain,
            settings=LinkSettings(computer=settings), address=f"sim://bench/{one.device}",
        )  # fmt: skip
        link_id = store.save_link(model, one.name)
        names = [part.name for part in resolve_link(model, catalog).parts]
        for occasion in one.year:
            if occasion.kind is None:
                text = occasion.failed[0].upper() + occasion.failed[1:]
                fact = Fact("failure", text, Provenance.OBSERVED, "noted at the place", occasion.seconds, holds=False)
                store.add_facts(link_id, [fact])
            else:
                store.add_proof(link_id, _proof(one, occasion, model, names, settings))


def _proof(one: YearOfLink, occasion: Occasion, model: LinkModel, names: list[str], settings: str) -> Proof:
    kind = occasion.kind or ProofKind.ANSWERED
    grade = Grade.FAIR if kind is ProofKind.HEARD else Grade.STRONG
    return msgspec.structs.replace(
        Proof(
            at=occasion.seconds, port=model.address or "", adapter=names[0], chain=names, computer_settings=settings,
            device_settings=settings, identity=dict(occasion.identity), words=[], facts=[],
        ),
        kind=kind, grade=grade, reason=REASONS[kind], serial=one.adapter,
    )  # fmt: skip
