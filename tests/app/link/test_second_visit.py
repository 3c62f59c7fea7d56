"""A second visit: history with its date, asked again by one press, and what comes now beside what came then."""

from dataclasses import replace

import msgspec
import pytest

from humble_courier.app.link.changes import new_link
from humble_courier.app.link.evidence import Evidence
from humble_courier.app.link.open_link import OpenLink
from humble_courier.app.link.proof import make_proof
from humble_courier.app.link.second_visit import beside, earlier_of
from humble_courier.app.link.step import Action
from humble_courier.app.talk.reading import reading_of
from humble_courier.catalog.load import Catalog
from humble_courier.documents.link import LinkPort
from humble_courier.documents.link_changes import with_settings
from humble_courier.documents.records import Word
from humble_courier.domain.facts import State
from humble_courier.errors import BadInput
from humble_courier.records.store import Store
from humble_courier.wiring.findings import Verdict
from tests.conftest import until
from tests.trials.ptys import far_end
from tests.virtual_time import VirtualTime

DAYS = 63 * 86_400.0


def proven(link: OpenLink) -> None:
    """The level logger of the demo, from the closed port to its answer."""
    link.listen()
    until(lambda: (link.poll(), link.evidence.greeting is not None and not link.ready_in_s)[1])
    link._acts_passed = True
    link.arm()
    link.say("ID")
    until(lambda: (link.poll(), link.evidence.proven)[1])


@pytest.fixture
def again(link: OpenLink, store: Store, catalog: Catalog) -> OpenLink:
    """A link that answered two months ago, opened anew."""
    proven(link)
    link.keep_proof()
    proof = link.proofs()[-1]
    store.add_proof(link.id, msgspec.structs.replace(proof, at=proof.at - DAYS, who="ada"))
    link.stop()
    return OpenLink(catalog, store, link.id, authority=link.authority)


def test_what_worked_then_says_nothing_of_now(again: OpenLink) -> None:
    assert not again.evidence.proven and again.earlier is not None and "nothing was asked yet" in again.told
    states = {place.id: place.state for place in again.places()}
    assert states["device"] is State.EARLIER and states["settings"] is State.EARLIER and states["port"] is State.ASSUMED
    step = again.next_step()
    assert step.action is Action.ASK_AGAIN and "says ID" in step.text and again.earlier.day in step.text
    with pytest.raises(BadInput, match="nothing is proven"):
        again.keep_proof()


def test_proof_again_in_two_presses_and_the_permit_ends_with_the_questions(again: OpenLink) -> None:
    again.take(again.next_step())
    assert again.live.armed and "ID" in again.live.armed_for and not again.undone()
    until(lambda: (again.poll(), again.next_step().action is Action.KEEP_PROOF and not again.live.armed)[1])
    assert again.earlier is not None
    (row,) = beside(again.earlier, again.live.utterances())
    assert row.same and row.question.words == "ID" and again.told == "proven today, not kept yet"
    again.take(again.next_step())
    assert len(again.proofs()) == 3 and again.told == "proven today"


def test_a_device_that_is_silent_now_is_told_so(link: OpenLink, store: Store, catalog: Catalog) -> None:
    answers = [b"ID SKW-GH-07 FW3.1 SN 20418\r\n"]
    with far_end(lambda said: answers[0] if b"ID\r\n" in said else b"") as far:
        link.change(msgspec.structs.replace(link.document.model, address=far.address))
        link.listen()
        link._acts_passed = True
        link.arm()
        link.say("ID")
        until(lambda: (link.poll(), link.evidence.proven)[1])
        link.keep_proof()
        link.stop()
        answers[0] = b""
        again = OpenLink(catalog, store, link.id, authority=link.authority)
        assert again.earlier is not None and again.earlier.today and "since" in again.told
        again.ask_again()
        until(lambda: (again.poll(), bool(again.evidence.unanswered))[1])
        assert "silent now" in again.told and not again.evidence.proven
        device = next(place for place in again.places() if place.id == "device")
        assert (device.state, device.word) == (State.CONTRADICTED, "silent now")
        assert again.diagnosis.look()._own["ask"] == "nothing", "the diagnosis begins with that"
        again.stop()


def test_words_that_nobody_ticked_are_put_into_the_field(again: OpenLink, catalog: Catalog) -> None:
    theirs = again.document.link.device_settings
    bare = with_settings(again.document.model, device=theirs)
    again.document.change(msgspec.structs.replace(bare, device=LinkPort(port="dte-de9")))
    again._look_back()
    assert again.earlier is not None and again.earlier.asked_again() == []
    again.listen()
    again.live.arm("what you type")
    step = again.next_step()
    assert step.action is Action.TYPE and step.words == "ID"
    with pytest.raises(BadInput, match="type the words"):
        again.ask_again()
    again.stop()


def test_asking_again_sends_nothing_where_the_wiring_may_damage(again: OpenLink) -> None:
    again.document.trace = replace(again.document.trace, verdict=Verdict.MAY_DAMAGE)
    with pytest.raises(BadInput, match="may damage"):
        again.ask_again()
    assert not again.live.listening and not again.authority.now().may_send


def test_a_permit_given_after_a_stop_is_not_for_these_questions(again: OpenLink) -> None:
    again.ask_again()
    again.live.disarm()
    again.live.arm("what you type")  # before anybody has looked
    clock = VirtualTime.here
    assert clock is not None
    for _ in range(40):
        clock.pass_s(0.25)
        again.poll()
    assert again.live.said() == frozenset() and again.live.armed_for == "what you type"
    again.stop()


def test_the_whole_road_ticks_nothing(again: OpenLink) -> None:
    with pytest.raises(BadInput):
        again.permit_road()
    again.permit_road()
    undone = {act.id for act in again.undone()}
    again.ask_again()
    assert {act.id for act in again.undone()} == undone
    again.stop()


def test_registers_asked_again_stand_in_hexadecimal(link: OpenLink) -> None:
    """MODBUS application protocol V1.1b3, 6.3: a read of holding registers."""
    pillow = new_link("snow-pillow", ["usb-rs485"], "sim://bench/snow-pillow", link.catalog)
    link.document.change(pillow)
    asked = reading_of(link.document.link)
    assert asked is not None
    words = [
        Word(1.0, "we", asked.words.hex(), "x", [], asked.says),
        Word(1.1, "they", "010302019c", "y", [], "unit 1: snow water 412 mm"),
    ]
    here = make_proof(link.document.link, Evidence(), [], [], at=1.0)
    earlier = earlier_of([msgspec.structs.replace(here, words=words)], link.document.link, 2.0)
    assert earlier is not None
    (question,) = earlier.questions
    assert question.words.startswith("01 03 ") and question.answer == "01 03 02 01 9C" and question.only_asks
