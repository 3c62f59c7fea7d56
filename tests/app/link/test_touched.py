"""A change touches what it must: the port is opened once, whatever else is changed."""

from collections.abc import Callable

import msgspec
import pytest

from humble_courier.app.link.open_link import OpenLink
from humble_courier.documents.link import LinkModel
from humble_courier.documents.link_changes import with_part, with_settings
from humble_courier.domain.settings import Settings
from tests.app.link.test_second_visit import proven
from tests.conftest import until
from tests.trials.ptys import far_end

CHANGES: dict[str, Callable[[LinkModel], LinkModel]] = {
    "name": lambda model: msgspec.structs.replace(model, name="another name"),
    "end": lambda model: msgspec.structs.replace(model, end="lf"),
    "drawing": lambda model: with_part(model, 1, "straight-de9"),
    "settings": lambda model: with_settings(model, computer=Settings.parse("2400,8N1")),
    "paper": lambda model: with_settings(model, device=Settings.parse("2400,8N1")),
}


@pytest.mark.parametrize("what", CHANGES)
def test_port_permit_and_talk_stay(link: OpenLink, what: str) -> None:
    with far_end() as far:
        link.change(msgspec.structs.replace(link.document.model, address=far.address))
        link.listen()
        link._acts_passed = True
        link.arm()
        far.say(b"something\r\n")
        until(lambda: (link.poll(), len(link.live.utterances()) == 1)[1])
        opened = link.live.session
        assert link.change(CHANGES[what](link.document.model)) is None and link.live.listening
        assert link.live.session is opened and link.live.armed and len(link.live.utterances()) == 1
        link.undo()
        assert link.live.session is opened and link.live.armed
        link.stop()


def test_another_sheet_withdraws_the_permit_and_keeps_the_port(link: OpenLink) -> None:
    with far_end() as far:
        link.change(msgspec.structs.replace(link.document.model, address=far.address))
        link.listen()
        link._acts_passed = True
        link.arm()
        opened, device = link.live.session, msgspec.structs.replace(link.document.model.device, device="packet-radio")
        link.change(msgspec.structs.replace(link.document.model, device=device, chain=[]))
        assert link.live.session is opened and not link.live.armed
        link.undo()
        assert not link.live.armed, "an undo brings back no permit"
        link.stop()


def test_another_port_is_closed_and_opened_listening_only(link: OpenLink) -> None:
    with far_end() as first, far_end() as second:
        link.change(msgspec.structs.replace(link.document.model, address=first.address))
        link.listen()
        link._acts_passed = True
        link.arm()
        link.change(msgspec.structs.replace(link.document.model, address=second.address))
        assert link.live.listening and not link.live.armed and link.live.utterances() == []
        link.undo()
        assert link.live.listening and not link.live.armed
        link.stop()


def test_a_drawing_changed_after_the_proof_labels_it(link: OpenLink) -> None:
    proven(link)
    before = [part.name for part in link.document.link.parts]
    link.change(msgspec.structs.replace(link.document.model, chain=link.document.model.chain[:1]))
    assert link.evidence.proven and link.earlier_drawing == ", ".join(before)
    link.keep_proof()
    assert link.proofs()[-1].chain == before
    link.undo()
    assert link.evidence.proven and not link.earlier_drawing
    link.stop()
