"""The live link: from the straight cable to the kept proof, without a window."""

from collections.abc import Collection
from dataclasses import replace

import msgspec
import pytest

from humble_courier.app.demo.records import demo_kit, demo_store
from humble_courier.app.folders import data_folder
from humble_courier.app.kit.contents import EMPTY
from humble_courier.app.link.changes import new_link
from humble_courier.app.link.evidence import Evidence, Silence
from humble_courier.app.link.failed_ways import USUAL_ENDS
from humble_courier.app.link.headlines import talk_headline
from humble_courier.app.link.listening import read
from humble_courier.app.link.open_link import OpenLink
from humble_courier.app.link.seen import LinkSeen
from humble_courier.app.link.stages import Stage, place_of
from humble_courier.app.link.step import Action, NextStep
from humble_courier.app.link.word_ways import said as ways
from humble_courier.app.port.opening import address_of
from humble_courier.app.prepare.sheet_acts import acts
from humble_courier.app.settings.first_line import comparison
from humble_courier.app.talk.typed_words import Typed
from humble_courier.app.wire.chains import better_chain
from humble_courier.app.wire.tracing import trace_link
from humble_courier.catalog.links import link_from_text, resolve_link
from humble_courier.catalog.load import Catalog
from humble_courier.documents.device import DeviceEntry
from humble_courier.documents.link_changes import with_part, with_settings, yaml_text
from humble_courier.domain.facts import Provenance, State
from humble_courier.domain.settings import Settings
from humble_courier.domain.text import Terminator
from humble_courier.errors import BadInput
from humble_courier.port.session import Session
from humble_courier.procedures.device_search.found import Found
from humble_courier.records.store import Store
from humble_courier.wiring.trace import Verdict
from tests.conftest import untick, until


def states(link: OpenLink) -> dict[str, State]:
    return {place.id: place.state for place in link.places()}


def polled(link: OpenLink, what: str) -> bool:
    link.poll()
    evidence = link.evidence
    return {
        "alive": evidence.greeting is not None,
        "answers": evidence.proven,
        "garbled": evidence.heard == "wrong-settings",
    }[what]


def test_the_straight_cable_is_marked_and_mended(link: OpenLink) -> None:
    assert State.CONTRADICTED not in states(link).values()
    link.change(with_part(link.document.model, 1, "straight-de9"))
    assert [id_ for id_, state in states(link).items() if state is State.CONTRADICTED] == ["joint:3"]
    assert "two senders meet" in link.document.wire_map().headline
    step = link.next_step()
    assert step.chain is not None
    link.change(step.chain)
    assert link.document.trace.verdict is Verdict.WORKS
    assert State.CONTRADICTED not in states(link).values()


def test_undo_and_redo(link: OpenLink, store: Store) -> None:
    crossed = link.document.model
    link.change(with_part(crossed, 1, "straight-de9"))
    straight = link.document.model
    assert link.undo()
    assert (link.document.model, store.link(link.id)) == (crossed, crossed)
    assert link.redo()
    assert store.link(link.id) == straight
    assert not link.redo()
    with pytest.raises(BadInput, match="unknown part"):
        link.change(with_part(straight, 1, "no-such-cable"))
    assert link.document.model == straight


def test_from_listening_to_the_proof(link: OpenLink, store: Store, catalog: Catalog) -> None:
    with pytest.raises(BadInput, match="arm"):
        link.say("ID")
    link.listen()
    assert states(link)["port"] is State.PROVEN
    until(lambda: polled(link, "alive"))
    with pytest.raises(BadInput, match="arm first"):
        link.say("ID")
    assert [u.who for u in link.live.utterances()] == ["they"]
    link.arm()
    link.say("ID")
    until(lambda: polled(link, "answers"))
    assert link.evidence.identity == {"station": "SKW-GH-07", "firmware": "3.1", "serial number": "20418"}
    assert set(states(link).values()) == {State.PROVEN}
    measured = {f.subject for f in link.facts() if f.provenance is Provenance.MEASURED}
    assert {"greeting", "identity", "both ways"} <= measured
    link.keep_proof()
    proof = store.proofs(link.id)[-1]
    assert [w.text for w in proof.words] == ["LEVEL LOGGER FW 3.1 READY", "ID", "ID SKW-GH-07 FW3.1 SN 20418"]
    assert bytes.fromhex(proof.words[1].hex) == b"ID\r\n"
    assert {f.provenance for f in proof.facts} >= {"measured", "observed", "documented", "assumed"}
    link.stop()
    again = OpenLink(catalog, store, link.id)
    assert again.document.model == link.document.model
    assert not again.evidence.proven and again.earlier is not None, "what worked then says nothing of now"
    assert states(again)["device"] is State.EARLIER and states(again)["speech"] is State.UNKNOWN
    again.change(with_part(again.document.model, 1, "straight-de9"))
    assert again.earlier is None, "a proof says something only of the chain it was made with"


def test_garbled_when_the_settings_differ(link: OpenLink) -> None:
    link.change(with_settings(link.document.model, computer=Settings.parse("2400,8N1")))
    assert states(link)["settings"] is State.CONTRADICTED
    link.listen()
    until(lambda: polled(link, "garbled"))
    until(lambda: (link.poll(), bool(link.live.utterances()[0].meaning))[1])
    assert "40 of 40 are as predicted" in link.live.utterances()[0].meaning
    step = link.next_step()
    assert step.settings == Settings.parse("1200,7E1")


def test_silent_when_the_wiring_is_wrong(link: OpenLink) -> None:
    link.change(with_part(link.document.model, 1, "straight-de9"))
    link.listen()
    with pytest.raises(AssertionError, match="of its time"):
        until(lambda: polled(link, "alive"), 0.5)
    assert link.live.session is not None
    assert link.live.session.bytes_heard == 0


def test_a_refused_port_is_evidence(link: OpenLink) -> None:
    link.change(msgspec.structs.replace(link.document.model, address="/dev/ttyNONE9"))
    link.listen()
    assert not link.live.listening
    assert "there is no port" in link.evidence.refusal
    assert states(link)["port"] is State.CONTRADICTED
    assert link.next_step().action == "listen"
    assert link.facts()[0].state is State.CONTRADICTED


def test_the_port_goes_away_while_listening(link: OpenLink) -> None:
    link.change(msgspec.structs.replace(link.document.model, address="sim://bench/gauge-logger?pace=10&vanish=5"))
    link.listen()
    until(lambda: (link.poll(), bool(link.evidence.refusal))[1])
    assert not link.live.listening
    assert link.live.utterances()[0].text == "LEVEL LOGGER FW 3.1 READY"


def test_acts_are_ticked_with_their_evidence(link: OpenLink, store: Store, catalog: Catalog) -> None:
    first, second, *_ = acts(catalog.device("gauge-logger"), catalog.cautions)
    untick(link)
    link.tick(first.id, done=True)
    link.tick(second.id, done=True)
    link.tick(second.id, done=False)
    link.tick("an act of another sheet", done=True)
    assert OpenLink(catalog, store, link.id).ledger.ticked() == {first.id}
    fact = next(f for f in link.facts() if f.subject == f"act {first.id}")
    assert (fact.provenance, fact.source) == (Provenance.OBSERVED, "battery lamp lit")


@pytest.mark.parametrize("part", ["straight-de9", "gender-changer-de9-sockets", "patch-8p8c", "straight-db25"])
def test_one_change_mends_a_wrong_cable(part: str, catalog: Catalog) -> None:
    model = new_link("gauge-logger", ["usb-rs232", part], None, catalog)
    for kit, in_kit in ((demo_kit(), True), (EMPTY, False)):
        better = better_chain(resolve_link(model, catalog), kit, catalog)
        assert better is not None and better.in_kit is in_kit
        assert better.model.chain[1].part in ("crossed-de9-3wire", "crossover-adapter-de9")
        assert trace_link(resolve_link(better.model, catalog), catalog).verdict is Verdict.WORKS


def test_what_works_is_not_mended(catalog: Catalog) -> None:
    link = resolve_link(new_link("gauge-logger", ["usb-rs232", "crossed-de9-3wire"], None, catalog), catalog)
    assert better_chain(link, demo_kit(), catalog) is None


def test_a_link_written_as_yaml_is_read_back(link: OpenLink, catalog: Catalog) -> None:
    assert link_from_text(yaml_text(link.document.model), "x", catalog).model == link.document.model


def test_every_place_opens_a_stage(link: OpenLink) -> None:
    places = link.places()
    assert {place.stage for place in places} == {Stage.PORT, Stage.WIRE, Stage.SETTINGS, Stage.PREPARE, Stage.TALK}
    assert place_of(Stage.WIRE, places) == "part:2" and place_of(Stage.PORT, places) == "port"
    assert len({place.id for place in places}) == len(places)


def test_the_comparison_marks_the_wrong_bits(link: OpenLink) -> None:
    link.change(with_settings(link.document.model, computer=Settings.parse("2400,8N1")))
    both = comparison(link.document.link)
    assert both is not None
    assert not both.clean
    assert [s.wanted for s in both.sender] == [True] * 10
    assert any(not s.wanted for s in both.receiver)
    link.undo()
    clean = comparison(link.document.link)
    assert clean is not None
    assert clean.clean


def test_demo_data_never_mixes(tmp_path: object, catalog: Catalog) -> None:
    from pathlib import Path

    folder = Path(str(tmp_path))
    assert data_folder() != data_folder(demo=True)
    first = demo_store(folder, catalog, fresh=False)
    first.save_link(new_link("dce-de9", [], None, catalog), "my own")
    first.close()
    kept = demo_store(folder, catalog, fresh=False)
    assert len(kept.links()) == 14
    kept.close()
    fresh = demo_store(folder, catalog, fresh=True)
    names = [name for _, name in fresh.links()]
    assert len(names) == 13 and "Gauge house, level logger" in names and "my own" not in names
    fresh.close()


def test_what_opening_does_is_said_before(link: OpenLink) -> None:
    from dataclasses import replace

    from msgspec.structs import replace as with_fields

    from humble_courier.app.link.headlines import adapter_story
    from humble_courier.app.port.opening import open_lines
    from humble_courier.documents.device import LinesAtOpen
    from humble_courier.port.port import OpenLines

    caution, story, opening = adapter_story(link)
    assert "5 V" in caution
    assert "TXD on 3" in story
    assert "raises DTR and RTS" in opening
    assert open_lines(link.document.link.sheet) == OpenLines(dtr=True, rts=True)
    assert link.document.link.sheet is not None
    keyed = with_fields(link.document.link.sheet, lines_at_open=LinesAtOpen(rts="low"))
    link.document.link = replace(link.document.link, sheet=keyed)
    assert "holds RTS low, as the device sheet asks" in adapter_story(link)[2]
    link.document.link = replace(link.document.link, sheet=None)
    assert "holds DTR and RTS low, as nobody knows yet" in adapter_story(link)[2]
    assert open_lines(None) == OpenLines(dtr=False, rts=False)
    link.document.link = replace(link.document.link, sheet=keyed)
    assert open_lines(link.document.link.sheet) == OpenLines(dtr=True, rts=False)


def test_a_device_that_starts_up_is_not_interrupted(link: OpenLink) -> None:
    """A boot text that may not be interrupted: nothing is advised, nor sent by one press, before its time is over."""
    link.listen()
    link.arm()
    link.evidence.ready_at = link.clock.wall() + 11.9
    step = link.next_step()
    assert (step.action, step.minutes) == (Action.WAIT, 0.2) and "may stop it" in step.text and link.take(step)
    link.evidence.greeting = {}
    assert talk_headline(link)[0].endswith("starting up") and "12 s" in talk_headline(link)[1]
    said = link.live.session
    assert said is not None and said.last_said is None
    for say in (lambda: link.say("ID"), lambda: link.say_typed(Typed("ID 2"))):
        with pytest.raises(BadInput, match="once more within 5 s"):
            say()
    with pytest.raises(BadInput, match="once more"):
        link.say("ID")  # another one came between: this is a first press again
    link.say("ID")
    until(lambda: said.last_said is not None)
    link.evidence.ready_at = link.clock.wall() - 1
    assert "starting up" not in link.next_step().text
    link.say("ID")


def test_the_time_to_wait_follows_from_the_power_up_text(link: OpenLink, catalog: Catalog) -> None:
    """The concentrator speaks 4 s after power is applied and takes no key before 25 s."""
    sheet = catalog.device("data-concentrator")
    session, evidence = Session(Settings(9600)), Evidence()
    session.hear(1000.0, b"CONCENTRATOR 2.4 PRESS ANY KEY TO STOP\r\n", marked=False)
    read(evidence, session, replace(link.document.link, sheet=sheet), 1010.0, catalog)
    assert evidence.ready_at == 1021.0 and evidence.ready_in_s(1010.0) == 11.0 and evidence.ready_in_s(1030.0) == 0.0


def test_acts_of_the_sheet_come_before_arming_in_advice_and_by_key(link: OpenLink) -> None:
    done = [act.id for act in acts(link.document.link.sheet, link.catalog.cautions) if act.id in link.ledger.ticked()]
    link.tick(done[1], done=False)
    link.listen()
    step = link.next_step()
    assert (step.action, step.stage) == (Action.PREPARE, Stage.PREPARE) and "Find the socket marked SERVICE" in step.text
    with pytest.raises(BadInput, match=r"not ticked under Prepare: Find the socket.*Arm once more"):
        link.arm()
    assert not link.live.armed
    link.arm()
    link.live.disarm()
    assert link.next_step().action is Action.ARM and link.arm()  # asked once for each link


def words_step(link: OpenLink, sheet: DeviceEntry, evidence: Evidence, said: Collection[str] = ()) -> NextStep:
    here = replace(link.document.link, sheet=sheet)
    seen = LinkSeen(here, link.document.trace, evidence, link.catalog, link.bag.kit, True, True, said=said, alone=True)
    return ways(seen)[0]


def test_words_keep_their_order(link: OpenLink, catalog: Catalog) -> None:
    sheet = catalog.device("snow-carrier")
    evidence, said = Evidence(opened=True), set[str]()
    for wanted in ("C", "S5", "L"):
        step = words_step(link, sheet, evidence, said)
        assert (step.action, step.words) == (Action.SAY, wanted)
        said.add(wanted)
    link.document.link = replace(link.document.link, sheet=sheet)
    link.listen()
    link._acts_passed = True
    link.arm()
    with pytest.raises(BadInput, match=r"wants “S5” said before. Send “L” once more"):
        link.say("L")


def test_advice_that_has_just_failed_is_not_given_again(link: OpenLink, catalog: Catalog) -> None:
    sheet = catalog.device("mesh-module")
    session, evidence = Session(Settings(9600)), Evidence(opened=True)
    here = replace(link.document.link, sheet=sheet)
    session.arm("a test")
    for words in sheet.first_words:
        assert words_step(link, sheet, evidence).words == words.say
        session.say(1000.0, words.say, Terminator.CR)
        read(evidence, session, here, 1000.2, catalog)
        assert words_step(link, sheet, evidence).action is Action.WAIT
        read(evidence, session, here, 1030.0, catalog)
    step = words_step(link, sheet, evidence)
    assert (step.action, step.end) == (Action.AGAIN, Terminator.LF), "the end that its sheet names may be what is wrong"
    assert "“VER” and “BAND?” had time enough" in step.text
    evidence.silence = Silence("VER", Terminator.CR, frozenset(USUAL_ENDS))
    assert words_step(link, sheet, evidence).action is Action.FIND
    session.disarm()


def test_a_port_that_is_refused_again_is_looked_at(link: OpenLink) -> None:
    link.change(msgspec.structs.replace(link.document.model, address="/dev/ttyNONE9"))
    actions = []
    for _ in range(3):
        link.listen()
        actions.append(link.next_step().action)
    assert actions == [Action.LISTEN, Action.LOOK_PORT, Action.LOOK_PORT]


def test_what_a_search_has_found_is_taken_whole(link: OpenLink) -> None:
    here = link.document.link
    at = Settings.parse("9600,8N1")
    link.take_found(Found(address_of(here), at, "modbus-rtu", 7, "unit 7 answers", "CR LF"))
    model = link.document.model
    assert (model.unit, model.end, model.address) == (7, "crlf", here.address)  # the bench behind a simulated port stays out
    assert link.document.link.computer_settings == link.document.link.device_settings == at
    link.take_found(Found("/dev/ttyUSB7", at, "text", None, "OK"))
    assert (link.document.model.address, link.document.model.unit, link.document.model.end) == ("/dev/ttyUSB7", 7, "crlf")
