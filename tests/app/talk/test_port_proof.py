"""One proof of a port: what may be chosen, how far it is, what its numbers say, how it is stopped."""

import msgspec
import pytest

from humble_courier.app.link.changes import new_link
from humble_courier.app.talk.port_proof import PortProof, PortProofKind, of_known_devices
from humble_courier.catalog.links import Link, resolve_link
from humble_courier.catalog.load import Catalog
from humble_courier.documents.link_changes import with_settings
from humble_courier.domain.facts import State
from humble_courier.domain.settings import Settings
from humble_courier.errors import BadInput

CATALOG = Catalog()


def linked(address: str | None = "sim://bench/gauge-logger?power=on&pace=50", at: str = "115200,8N1") -> Link:
    model = new_link("gauge-logger", ["usb-rs232", "crossed-de9-3wire"], address, CATALOG)
    return resolve_link(with_settings(model, computer=Settings.parse(at)), CATALOG)


def test_nothing_is_proven_without_a_port() -> None:
    with pytest.raises(BadInput, match="choose a port"):
        PortProof(PortProofKind.LOOP_BACK, linked(None), CATALOG, plugged=True)
    bare = msgspec.structs.replace(linked().model, settings=msgspec.structs.replace(linked().model.settings, computer=None))
    with pytest.raises(BadInput, match="settings of the computer's end"):
        PortProof(PortProofKind.LATENCY, resolve_link(bare, CATALOG), CATALOG, plugged=True)


@pytest.mark.parametrize(
    ("kind", "headline", "row", "evidence"),
    [
        (PortProofKind.LOOP_BACK, "Proven.", "115200 8N1", ("loop-cable", "echoes")),
        (PortProofKind.LATENCY, "A round trip takes", "Round trip", None),
        (PortProofKind.LONG, "The long transfer is whole", "Sent", ("long-transfer", "whole")),
    ],
)
def test_with_a_plug(kind: PortProofKind, headline: str, row: str, evidence: tuple[str, str] | None) -> None:
    proof, shares = PortProof(kind, linked(), CATALOG, plugged=True), []
    assert proof.running and proof.rows() == []
    proof.run(lambda: shares.append(proof.share))
    assert proof.headline()[0].startswith(headline) and proof.good and not proof.running
    assert proof.evidence == evidence and (evidence is None or evidence[1] in CATALOG.checks[evidence[0]].outcomes)
    assert row in [what for _, what, _ in proof.rows()]
    assert shares == sorted(shares) and shares[-1] <= 1 and len(shares) > 1


def test_without_a_plug_nothing_comes_back() -> None:
    proof = PortProof(PortProofKind.LOOP_BACK, linked(), CATALOG, plugged=False)
    proof.run(lambda: None)
    assert not proof.good and "Nothing comes back" in proof.headline()[0]
    assert proof.evidence == ("loop-cable", "silent")
    assert proof.rows()[0][0] is State.CONTRADICTED


def test_it_is_stopped() -> None:
    proof = PortProof(PortProofKind.LATENCY, linked(), CATALOG, plugged=True)
    proof.run(proof.cancel)
    assert not proof.running and 0 < proof.share < 1
    stopped = PortProof(PortProofKind.LONG, linked(), CATALOG, plugged=True)
    stopped.run(stopped.cancel)
    assert stopped.evidence is None, "what was stopped tells nothing"


def test_a_device_that_answered_here_is_as_good_as_a_plug() -> None:
    assert of_known_devices([])[0][0] is State.UNKNOWN
    assert [text for _, _, text in of_known_devices(["a", "b", "c", "d"])] == ["b", "c", "d"]
