"""What is recommended where something has failed is what the diagnosis says, at the place where it is done."""

from dataclasses import replace

import pytest

from humble_courier.app.diagnose.advice import ActTold, Advice
from humble_courier.app.link.evidence import Evidence, Silence
from humble_courier.app.link.failed_ways import ELSEWHERE, USUAL_ENDS, failed
from humble_courier.app.link.open_link import OpenLink
from humble_courier.app.link.seen import LinkSeen
from humble_courier.app.link.step import Action
from humble_courier.catalog.load import Catalog
from humble_courier.domain.text import Terminator


def advice(code: str, fits_none: bool = False) -> Advice:
    by = "program" if code == "other-endings" else "person"
    act = ActTold(code, True, "Is it so?", "speech", 0.25, 0.0, by, "", (), "", ())
    return Advice((), {}, (act,), 1.0, 1, 0, fits_none, "")


def seen(link: OpenLink, told: Advice | None, silence: Silence | None = None, alone: bool = False) -> LinkSeen:
    document = link.document
    evidence = Evidence(opened=True, silence=silence)
    return LinkSeen(
        document.link, document.trace, evidence, link.catalog, link.bag.kit, True, True, diagnosed=lambda: told, alone=alone
    )


@pytest.mark.parametrize("code", [*ELSEWHERE, "fuse-whole"])
def test_a_check_is_told_at_its_place(link: OpenLink, code: str) -> None:
    (step,) = failed(seen(link, advice(code)), "Nothing came")
    assert step.text == "Nothing came. Worth most now: Is it so? 15 seconds."
    assert step.action is (ELSEWHERE[code][1] if code in ELSEWHERE else Action.DIAGNOSE) and step.stage is not None


def test_every_check_that_has_another_place_exists(catalog: Catalog) -> None:
    assert set(ELSEWHERE) <= set(catalog.checks)


def test_another_end_is_said_at_a_press_until_all_were_tried(link: OpenLink) -> None:
    silence = Silence("VER?", Terminator.CR, frozenset({Terminator.CR}))
    (step,) = failed(seen(link, advice("other-endings"), silence), "Nothing came")
    assert (step.action, step.end) == (Action.AGAIN, Terminator.LF)
    tried = replace(silence, tried=frozenset(USUAL_ENDS))
    (step,) = failed(seen(link, advice("other-endings"), tried), "Nothing came")
    assert step.action is Action.DIAGNOSE
    (step,) = failed(seen(link, advice("power-lamp"), silence, alone=True), "Nothing came")
    assert step.action is Action.AGAIN, "nobody is there who could look at a lamp"


@pytest.mark.parametrize("told", [None, advice("power-lamp", fits_none=True)])
def test_without_a_diagnosis_it_is_searched_for(link: OpenLink, told: Advice | None) -> None:
    (step,) = failed(seen(link, told), "Nothing came")
    assert step.action is Action.FIND
