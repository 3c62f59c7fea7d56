"""The plug is pulled in the middle of whatever sends: that is said, soon, and no verdict on the device or the cable."""

import threading
import time

import msgspec
import pytest

from humble_courier.app.link.open_link import OpenLink
from humble_courier.app.talk.device_search import find, search
from humble_courier.app.talk.port_proof import PortProof, PortProofKind
from humble_courier.catalog.load import Catalog
from humble_courier.domain.settings import Settings
from humble_courier.errors import PortGone
from humble_courier.port.permit import Permit
from humble_courier.procedures.endurance import Endurance
from humble_courier.procedures.latency import Latency
from humble_courier.procedures.loopback import LoopBack
from humble_courier.procedures.runner import Runner
from tests.conftest import until
from tests.trials.ptys import FarEnd, echo, far_end

AT = Settings.parse("9600,8N1")


@pytest.mark.parametrize("after", [0, 100, 700])
@pytest.mark.parametrize("kind", [LoopBack, Latency, Endurance])
def test_a_pull_in_a_proof_is_a_pull(kind: type, after: int) -> None:
    with far_end(echo, min(after, 20) if kind is Latency else after) as there:
        proof = kind(there.address) if kind is LoopBack else kind(there.address, AT)
        begun = time.monotonic()
        Runner(permit=Permit("a trial")).run(proof)
        assert isinstance(proof.refused, PortGone)
        assert time.monotonic() - begun < 10


def at(link: OpenLink, address: str) -> OpenLink:
    """The link with its port at a far end."""
    link.change(msgspec.structs.replace(link.document.model, address=address))
    return link


@pytest.mark.parametrize("kind", PortProofKind)
def test_the_page_says_that_it_was_broken_off(link: OpenLink, catalog: Catalog, kind: PortProofKind) -> None:
    with far_end(echo, 10) as there:
        proof = PortProof(kind, at(link, there.address).document.link, catalog, plugged=False)
        proof.run(lambda: None)
    headline, why = proof.headline()
    assert headline == "The proof was broken off." and "is gone" in why and not proof.good


def test_a_search_is_over_at_the_port_that_is_pulled(catalog: Catalog) -> None:
    with far_end(pull_after=60) as there:
        found = find(search([there.address], catalog, armed=True))[0]
    end, why = found.ends[there.address]
    assert end.value == "refused" and "is gone" in why


def test_what_is_repeated_ends_with_the_port_and_not_before_another_press(link: OpenLink) -> None:
    there = FarEnd()
    at(link, there.address).listen()
    link.arm()
    link.live.repeat(b"U", 0.05)
    until(lambda: (link.poll(), len(there.received) > 3)[1])
    threading.Timer(0.1, there.pull).start()
    until(lambda: (link.poll(), link.evidence.lost)[1])
    assert not link.live.repeating and not link.live.armed
    assert "is gone" in link.evidence.refusal and "by itself" in link.evidence.remedy
