"""A link that does not work, as the window and the command line ask about it."""

from pathlib import Path

import pytest

from humble_courier.app.diagnose.diagnosis import ALWAYS, Diagnosis, at_hand_of
from humble_courier.app.diagnose.evidence_document import diagnosed, plan_of, read_evidence
from humble_courier.app.diagnose.evidence_sheet import evidence_sheet
from humble_courier.catalog.kits import resolve_kit
from humble_courier.documents.kit import KitItem, KitModel
from humble_courier.domain.clock import minutes_in_words
from humble_courier.errors import BadInput
from tests.diagnose.links import CATALOG, link_to, unknown_device


def test_what_the_program_sees_replaces_what_it_saw_and_a_person_is_asked_nothing_twice() -> None:
    diagnosis = Diagnosis(unknown_device(), CATALOG)
    assert diagnosis.told({"open": "held", "fuse-whole": "blown"}) and not diagnosis.told({"open": "held"})
    assert diagnosis.advice().causes[0].code == "held"
    assert diagnosis.told({"open": "opens"}) and diagnosis.advice().causes[0].code != "held"
    diagnosis.seen("power-lamp", "dark")
    assert [(one.code, one.by_itself) for one in diagnosis.done()] == [("open", True), ("power-lamp", False)]
    assert diagnosis.advice().causes[0].code == "no-supply"
    diagnosis.take_back("power-lamp")
    assert diagnosis.advice().causes[0].probability < 0.2


def test_a_mend_in_vain_begins_anew_and_can_be_taken_back() -> None:
    diagnosis = Diagnosis(unknown_device(), CATALOG)
    diagnosis.told({"open": "opens"})
    diagnosis.seen("power-lamp", "dark")
    diagnosis.in_vain("no-supply")
    assert diagnosis.advice().causes[0].code != "no-supply" and not diagnosis.case.facts
    diagnosis.told({"open": "opens"})
    assert not diagnosis.case.facts, "what was so before the mend says nothing new"
    diagnosis.told({"open": "held"})
    assert [fact.outcome for fact in diagnosis.case.facts] == ["held"]
    diagnosis.take_back("no-supply")
    assert not diagnosis.case.mended


def test_the_bench_is_asked_once_and_sharpens_what_a_check_tells() -> None:
    diagnosis = Diagnosis(link_to("mesh-module"), CATALOG)
    assert diagnosis.may_simulate
    diagnosis.use(diagnosis.simulate())
    assert diagnosis.simulated and not diagnosis.may_simulate
    assert "echo-off" not in diagnosis.model.causes
    assert not Diagnosis(unknown_device(), CATALOG).may_simulate and not Diagnosis(None, CATALOG).may_simulate


def test_what_is_at_hand() -> None:
    items = [KitItem(part="usb-rs232", count=2), KitItem(part="crossover-adapter-de9"), KitItem(part="straight-de9")]
    kit = resolve_kit(KitModel("kit/1", items), CATALOG)
    assert at_hand_of(kit) == ALWAYS | {"second-adapter", "crossing"}
    diagnosis = Diagnosis(unknown_device(), CATALOG, at_hand_of(kit))
    assert any(act.code == "exchange-adapter" for act in diagnosis.advice().acts)
    diagnosis.without("second-adapter")
    assert not any(act.code == "exchange-adapter" for act in diagnosis.advice().acts)
    diagnosis.with_("loop-plug")
    assert any(act.code == "loop-adapter" for act in diagnosis.advice().acts)
    with pytest.raises(BadInput, match="known are meter"):
        diagnosis.with_("luck")


@pytest.mark.parametrize(
    ("minutes", "said"), [(0.05, "5 seconds"), (0.5, "30 seconds"), (1.2, "1 minute"), (7.6, "8 minutes")]
)
def test_times(minutes: float, said: str) -> None:
    assert minutes_in_words(minutes) == said


def test_advice_says_what_each_outcome_leads_to_and_a_place_is_as_likely_as_its_causes() -> None:
    diagnosis = Diagnosis(unknown_device(), CATALOG)
    diagnosis.told({"open": "opens", "listen": "nothing", "ask": "nothing"})
    advice = diagnosis.advice(may_send=False)
    assert 1 - 0.05 < sum(advice.places.values()) < 2
    assert all(one.probability <= advice.places[one.place] + 1e-9 <= 1 + 1e-9 for one in advice.causes)
    checks = [act for act in advice.acts if act.is_check]
    assert checks and all(sum(one.chance for one in act.outcomes) == pytest.approx(1) for act in checks)
    assert not any(act.sends and act.by == "program" for act in checks)
    lamp = next(act for act in checks if act.code == "power-lamp")
    assert next(one.leads[0][0] for one in lamp.outcomes if one.id == "dark") == "the device has no supply"
    assert advice.headline and advice.thinkable + advice.ruled_out == len(diagnosis.model.causes)


def test_the_sheet_for_the_support_holds_the_evidence_and_nothing_of_the_machine() -> None:
    link = unknown_device("/dev/serial/by-id/usb-SECRET0815-if00-port0")
    diagnosis = Diagnosis(link, CATALOG)
    diagnosis.seen("power-lamp", "lit")
    sheet = evidence_sheet(link, diagnosis.done(), diagnosis.advice())
    text = str(sheet)
    assert "SECRET0815" not in text and "/dev" not in text
    assert "it is lit (seen by a person)" in text and "9600" in text


def written(folder: Path, text: str) -> Path:
    path = folder / "e.evidence.yaml"
    path.write_text(text)
    return path


def test_evidence_from_a_file(tmp_path: Path) -> None:
    text = "courier: evidence/1\nfacts: [{check: adapter-lamp, outcome: lit}, {check: loop-adapter, outcome: echoes}]\n"
    diagnosis = read_evidence(written(tmp_path, text + "mended: [terminator]\nat_hand: [meter, crossing]\n"), CATALOG)
    assert diagnosis.at_hand == {"meter", "crossing"}
    told = diagnosed(diagnosis, diagnosis.advice())
    assert set(told) >= {"causes", "next", "plan", "expected_minutes"}
    assert set(told["causes"][0]) >= {"code", "place", "probability", "because", "mend"}
    assert set(told["next"]) >= {"check", "minutes", "worth", "ask", "outcomes", "by", "sends"}
    assert next(one["probability"] for one in told["causes"] if one["code"] == "terminator") < 0.02
    assert len(plan_of(diagnosis)) <= 5


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("courier: evidence/1\nfacts:\n- {check: nix, outcome: x}\n", ":3: there is no check “nix”"),
        (
            "courier: evidence/1\nfacts:\n- {check: ask, outcome: x}\n",
            ":3: the check “ask” has no outcome “x”: it has nothing",
        ),
        ("courier: evidence/1\nfacts:\n- {check: key, outcome: on}\n", "does not apply to this link: it wants vehicle"),
        ("courier: evidence/1\nmended: [x]\n", ":2: “x” is no cause"),
        ("courier: evidence/1\nat_hand: [x]\n", ":2: “x” is nothing that a check needs"),
        ("courier: evidence/1\nlink: none.yaml\n", "none.yaml"),
        ("courier: link/1\n", "expected a document that begins with courier: evidence/1"),
        ("courier: evidence/1\nfact: []\n", "unknown key “fact”"),
    ],
)
def test_bad_evidence_is_told_with_its_line(tmp_path: Path, text: str, said: str) -> None:
    with pytest.raises(BadInput) as told:
        read_evidence(written(tmp_path, text), CATALOG)
    assert said in str(told.value)


def test_evidence_that_excludes_everything_says_so(tmp_path: Path) -> None:
    facts = ["open, outcome: held", "list-ports, outcome: absent", "pull-and-put-back, outcome: mine",
             "power-lamp, outcome: dark", "other-frames, outcome: answer", "kernel-log, outcome: taken"]  # fmt: skip
    lines = "".join(f"- {{check: {fact}}}\n" for fact in facts)
    advice = read_evidence(written(tmp_path, f"courier: evidence/1\nfacts:\n{lines}"), CATALOG).advice()
    assert advice.fits_none and advice.headline.startswith("None of the causes that are known fits")
    assert "stands alone" in advice.headline
