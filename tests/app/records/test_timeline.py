"""A link over time, what changed, what things did: tables of proofs drawn by hand, and properties of all."""

import msgspec
import pytest
from hypothesis import given
from hypothesis import strategies as st

from humble_courier.app.records.comparing import Changed, LinkState, changed, in_words, state_then
from humble_courier.app.records.things import changes, things, uses
from humble_courier.app.records.timeline import between, timeline
from humble_courier.documents.records import KeptLink, KnownFact, Proof
from tests.records.test_store import LINK, PROOF

CHAIN = ["USB adapter", "Crossed cable"]


def proof(at: float, **other: object) -> Proof:
    return msgspec.structs.replace(PROOF, at=at, adapter="USB adapter", **{"chain": CHAIN, **other})


PROOFS = [
    proof(1.0, serial="SK0003", socket="1-2"), proof(2.0, serial="SK0001", socket="1-2"),
    proof(3.0, serial="SK0001", socket="1-4", chain=["USB adapter", "Straight cable"]),
]  # fmt: skip


def test_each_lane_tells_for_how_long_a_thing_was_in_use() -> None:
    line = timeline(PROOFS, [(p.at, True, "") for p in PROOFS] + [(2.5, False, "silent")])
    lanes = {lane: [(span.begun, span.ended, span.text) for span in spans] for lane, spans in line.lanes}
    assert list(lanes)[:4] == ["adapter", "socket", "cable", "settings"] and (line.begun, line.ended) == (1.0, 3.0)
    assert lanes["adapter"] == [(1.0, 1.0, "SK0003"), (2.0, 3.0, "SK0001")]
    assert lanes["cable"] == [(1.0, 2.0, "Crossed cable"), (3.0, 3.0, "Straight cable")]
    assert [at for at, _, _ in line.events] == [1.0, 2.0, 2.5, 3.0]


@pytest.mark.parametrize(
    ("at", "what"),
    [(0.5, None), (1.0, []), (2.7, [("adapter", "SK0003", "SK0001")]),
     (3.0, [("socket", "1-2", "1-4"), ("cable or adapter", "Crossed cable", "Straight cable")])],
)  # fmt: skip
def test_a_moment_has_its_proof_and_what_was_otherwise_before(at: float, what: list[tuple[str, str, str]] | None) -> None:
    looked, differs = between(PROOFS, at)
    assert (looked is None) == (what is None)
    assert [(one.what, one.before, one.now) for one in differs] == (what or [])


STATES = st.builds(
    LinkState, port=st.sampled_from(["", "a", "b"]), adapter=st.sampled_from(["", "x", "y"]),
    chain=st.lists(st.sampled_from("pqr"), max_size=3).map(tuple), computer_settings=st.sampled_from(["", "1", "2"]),
)  # fmt: skip


@given(STATES, STATES)
def test_what_differs_is_the_same_from_both_sides_and_nothing_differs_from_itself(a: LinkState, b: LinkState) -> None:
    assert changed(a, a) == [] and in_words([]) == ""
    there, back = changed(a, b), changed(b, a)
    assert [(one.place, one.before, one.now) for one in there] == [(one.place, one.now, one.before) for one in back]


def test_since_it_last_worked_is_a_sentence() -> None:
    told = in_words(changed(state_then(PROOFS[0]), state_then(PROOFS[1])))
    assert told == "Since it last worked: adapter SK0001 in place of SK0003."


def test_things_are_what_the_proofs_and_failures_say() -> None:
    failures = [KnownFact("failure", f"silent {n}", "observed", "us", 2.5 + n / 10, False) for n in range(2)]
    kept = KeptLink("1", "weir", 0.0, LINK, [*failures, KnownFact("port", "open", "observed", "us", 1.0)], PROOFS)
    made = {(one.kind, one.name): one for one in things(uses([kept]))}
    assert (made["part", "USB adapter"].served, made["part", "USB adapter"].failed) == (3, 2)
    assert made["part", "Crossed cable"].weak and not made["part", "Straight cable"].weak
    assert made["adapter", "SK0003"].last == 1.0 and made["adapter", "SK0001"].failed == 2
    assert made["device", "gauge-logger"].places == {"weir": None}
    assert changes([kept])[0] == ("weir", 2.0, Changed("port", "adapter", "SK0003", "SK0001"))
