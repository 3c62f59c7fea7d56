"""The plug is pulled in the middle of whatever sends: that is said, soon, and no verdict on the device or the cable."""

import random
import threading
import time
from collections.abc import Callable
from contextlib import suppress

import msgspec
import pytest

from humble_courier.app.link.open_link import OpenLink
from humble_courier.app.talk.device_search import find, search
from humble_courier.app.talk.port_proof import PortProof, PortProofKind
from humble_courier.catalog.load import Catalog
from humble_courier.domain.settings import Settings
from humble_courier.errors import NoLines, NotArmed, PortGone
from humble_courier.port.log import read_log
from humble_courier.port.permit import Permit
from humble_courier.procedures.endurance import Endurance
from humble_courier.procedures.latency import Latency
from humble_courier.procedures.loopback import LoopBack
from humble_courier.procedures.runner import Runner
from tests.conftest import until
from tests.trials.conftest import Report
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


def polled(link: OpenLink) -> None:
    """A refusal is an answer to the person, and the session goes on."""
    with suppress(NotArmed, NoLines):
        link.poll()


STATES: dict[str, Callable[[OpenLink], object]] = {
    "listening": lambda link: None,
    "armed": lambda link: link.arm(),
    "saying": lambda link: (link.arm(), link.live.say_bytes(b"U" * 20_000)),
    "a break": lambda link: (link.arm(), link.live.send_break()),
    "repeating": lambda link: (link.arm(), link.live.repeat(b"U", 0.01)),
    "moving lines": lambda link: (link.arm(), link.live.set_lines(dtr=True, rts=True)),
    "waiting for an answer": lambda link: (link.arm(), link.live.wait_for("never")),
    "disarmed while it says": lambda link: (link.arm(), link.live.say_bytes(b"U" * 20_000), link.live.disarm()),
    "closed while it says": lambda link: (link.arm(), link.live.say_bytes(b"U" * 20_000), link.stop(), link.listen()),
}


@pytest.mark.tries(2, 40)
@pytest.mark.parametrize("state", STATES)
def test_a_pull_in_each_state(link: OpenLink, state: str, tries: int, report: Report) -> None:
    dice = random.Random(state)
    for _ in range(tries):
        there = FarEnd(echo)
        at(link, there.address).listen()
        there.say(b"HELLO\r\n")
        until(lambda: (link.poll(), link.live.session is not None and link.live.session.bytes_heard >= 7)[1])
        STATES[state](link)
        time.sleep(dice.uniform(0, 0.05))
        there.pull()
        until(lambda: (polled(link), link.evidence.lost)[1])
        assert not link.live.listening and not link.live.armed and "is gone" in link.evidence.refusal
        path = link.live.log_path
        assert path is not None
        logged = read_log(path.read_bytes())
        heard = b"".join(piece.data for piece in logged.pieces if piece.who == "they")
        assert heard.startswith(b"HELLO\r\n") or state.startswith("closed")
        assert not logged.damaged
    report("plugs pulled in the middle of use", tries, 0)


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
