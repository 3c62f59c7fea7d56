"""Values noted at a device: nothing is overwritten, and what the device tells is offered."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from humble_courier.app.link import notes
from humble_courier.app.link.open_link import OpenLink
from humble_courier.domain.facts import Fact, Provenance
from humble_courier.errors import BadInput

WORDS = st.text(st.characters(categories=("L", "N", "P")), min_size=1, max_size=20)


@given(st.lists(st.tuples(WORDS, WORDS), max_size=12))
def test_every_value_stays_in_its_history(said: list[tuple[str, str]]) -> None:
    facts = [
        Fact(notes.subject(name), notes.text(name, value), Provenance.OBSERVED, notes.BY_HAND, float(at))
        for at, (name, value) in enumerate(said)
    ]
    found = notes.of_facts(facts)
    for name, note in found.items():
        assert [one.value for one in note.values] == [value for other, value in said if other == name]
        assert [one.value for one in note.before] == [one.value for one in note.values][:-1][::-1]
    assert list(found) == list(dict.fromkeys(name for name, _ in said))


def test_what_the_sheet_asks_for_is_ticked_once_all_is_noted(link: OpenLink) -> None:
    sheet = link.document.link.sheet
    assert sheet is not None and sheet.note_down
    link.tick("note-down", done=False)
    for name in sheet.note_down:
        assert "note-down" not in link.ledger.ticked()
        link.note(name, "7")
    assert "note-down" in link.ledger.ticked()
    assert {note.name: note.now for note in link.notes()} == dict.fromkeys(sheet.note_down, "7")
    assert "serial number: 7" in {fact.text for fact in link.facts()}


def test_what_the_device_has_told_is_offered_until_it_is_noted(link: OpenLink) -> None:
    told = {"firmware": "3.1", "serial number": "00417"}
    offered = {note.name: note.offered for note in link.ledger.notes(link.document.link.sheet, told)}
    assert offered == {"firmware from the power-up line": "3.1", "serial number": "00417", "positions of bank S2": ""}
    link.note("serial number", "00417")
    assert not next(n for n in link.ledger.notes(link.document.link.sheet, told) if n.name == "serial number").offered


@pytest.mark.parametrize(("name", "value"), [("", "1"), ("hours", ""), ("hours", " \n"), ("hours", "9" * 401)])
def test_a_note_without_a_name_or_a_value_is_refused(link: OpenLink, name: str, value: str) -> None:
    before = link.ledger.history
    with pytest.raises(BadInput):
        link.note(name, value)
    assert link.ledger.history == before
