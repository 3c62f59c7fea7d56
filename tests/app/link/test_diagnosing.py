"""What the session of the open link shows by itself, as facts for its diagnosis."""

from dataclasses import replace

import msgspec
import pytest

from humble_courier.app.link.diagnosing import WHERE, observed
from humble_courier.app.link.evidence import Silence
from humble_courier.app.link.open_link import OpenLink
from humble_courier.app.link.step import Action
from humble_courier.app.prepare.sheet_acts import LAMP
from humble_courier.app.talk.traffic import Traffic
from humble_courier.documents.link_changes import with_part
from humble_courier.domain.text import Terminator
from humble_courier.errors import BadInput, Refusal
from humble_courier.wiring.findings import Verdict


def test_a_link_that_was_not_opened_shows_what_is_drawn(link: OpenLink) -> None:
    assert observed(link) == {"trace": "works"}
    link.change(with_part(link.document.model, 1, "straight-de9"))
    assert observed(link)["trace"] == "will-not-work"
    assert link.diagnosis.look().advice().causes[0].place == "wire"


@pytest.mark.parametrize(
    ("code", "outcome"), [(Refusal.HELD, "held"), (Refusal.NO_PERMISSION, "no-permission"), (Refusal.GONE, "gone")]
)
def test_a_refusal_says_why(link: OpenLink, code: Refusal, outcome: str) -> None:
    link.evidence = replace(link.evidence, refused=code, refusal="no")
    assert observed(link)["open"] == outcome
    leads = link.diagnosis.look().advice().causes[0]
    assert leads.place in ("port", "adapter")


def test_what_was_asked_and_searched(link: OpenLink) -> None:
    ends = frozenset({Terminator.CR, Terminator.LF, Terminator.CRLF})
    silent = Silence("VER?", Terminator.CR, ends)
    link.evidence = replace(link.evidence, opened=True, silence=silent, searched=True)
    facts = observed(link)
    assert (facts["open"], facts["ask"], facts["other-endings"], facts["device-search"]) == (
        "opens",
        "nothing",
        "nothing",
        "silent",
    )
    link.evidence = replace(link.evidence, likelier="4800 7E1", heard=Traffic.WRONG_SETTINGS)
    assert observed(link)["judge-bytes"] == "other" and observed(link)["ask"] == "garbled"


def test_do_next_is_the_check_that_is_worth_most_once_something_has_failed(link: OpenLink) -> None:
    assert link.next_step().action is not Action.DIAGNOSE
    sheet = link.document.link.sheet
    assert sheet is not None
    link.listen()
    link._acts_passed = True
    link.arm()
    link.evidence = replace(link.evidence, unanswered=frozenset(words.say for words in sheet.first_words))
    step = link.next_step()
    assert step.action is Action.DIAGNOSE and "Worth most now: " in step.text
    assert link.next_step(alone=True).action is Action.FIND, "by itself it searches"
    before = step.text
    diagnosis = link.diagnosis.look()
    diagnosis.seen(diagnosis.advice().acts[0].code, "nothing")
    assert link.next_step().text != before, "what a person has seen counts at once"
    link.stop()


def test_the_true_cause_counts_for_the_next_link(link: OpenLink) -> None:
    before = link.diagnosis.look().advice()
    share = next(one.probability for one in before.causes if one.code == "terminator")
    for _ in range(3):
        link.diagnosis.over("terminator")
    assert link.diagnosis.causes_met()["terminator"] >= 1
    after = next(one.probability for one in link.diagnosis.look().advice().causes if one.code == "terminator")
    assert after > 1.3 * share
    with pytest.raises(BadInput, match="no cause"):
        link.diagnosis.over("luck")


def test_another_link_begins_anew_and_every_place_is_of_a_check(link: OpenLink) -> None:
    first = link.diagnosis.look()
    assert link.diagnosis.look() is first
    link.change(msgspec.structs.replace(link.document.model, end="lf"))
    assert link.diagnosis.look() is not first
    assert set(WHERE) <= set(link.catalog.checks)


def test_a_check_says_first_what_it_sends(link: OpenLink) -> None:
    run = link.diagnosis.own_check("ask")
    assert run is not None
    with pytest.raises(BadInput, match=r"it sends the first words \(“ID”\)\. .*once more within 5 s"):
        link.diagnosis.permit(run)
    link.diagnosis.permit(run)
    assert link.diagnosis.own_check("power-lamp") is None


def test_a_wiring_that_may_damage_is_sent_nothing(link: OpenLink, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(link.document, "trace", replace(link.document.trace, verdict=Verdict.MAY_DAMAGE))
    diagnosis = link.diagnosis.look()
    assert diagnosis.may_damage and not any(act.sends for act in diagnosis.advice().acts)
    run = link.diagnosis.own_check("ask")
    assert run is not None
    for _ in range(2):
        with pytest.raises(BadInput, match="may damage"):
            link.diagnosis.permit(run)


def test_an_open_port_says_nothing_of_the_kernels_log(link: OpenLink) -> None:
    link.evidence = replace(link.evidence, opened=True)
    assert observed(link)["open"] == "opens" and not {"kernel-log", "list-ports"} & set(observed(link))


def test_what_a_person_ticks_and_what_the_machine_shows_enters_by_itself(link: OpenLink) -> None:
    sheet = link.document.link.sheet
    assert sheet is not None and sheet.lamps
    assert "power-lamp" not in observed(link)
    link.tick(f"{LAMP}{sheet.lamps[0].what}", done=True)
    assert observed(link)["power-lamp"] == "lit" and not link.diagnosis.asks_machine
    link.tick(f"{LAMP}{sheet.lamps[0].what}", done=False)
    assert "power-lamp" not in observed(link)
    link.change(msgspec.structs.replace(link.document.model, address="/dev/ttyNONE9"))
    link.listen()
    assert link.diagnosis.asks_machine and link.diagnosis.can_do("kernel-log")
    link.diagnosis.machine_told({"list-ports": "absent", "kernel-log": "power"})
    assert not link.diagnosis.asks_machine
    advice = link.diagnosis.look().advice()
    assert advice.causes[0].code == "hub-power", "too little current is what the log says"
    link.listen()
    assert link.diagnosis.asks_machine, "refused again: the machine is looked at again"
