"""A sheet made from what a device said: the pattern of its answer, the draft, and the device simulated from it."""

import re
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from humble_courier.app.devices.answer_pattern import AnswerPart, fits, guessed, pattern_of
from humble_courier.app.devices.draft import Learnt, Said, as_text, draft, fields, id_of
from humble_courier.app.devices.own_sheets import check, save
from humble_courier.app.port.opening import of_own
from humble_courier.app.talk.one_call import listen, say
from humble_courier.app.talk.typed_words import Typed, Written
from humble_courier.catalog.load import Catalog
from humble_courier.documents.device import FirstWords
from humble_courier.domain.settings import Settings
from humble_courier.domain.text import Terminator
from humble_courier.errors import BadInput
from humble_courier.simulator.devices.from_sheet import example

ANSWERS = [
    ("FLOWMETER 12 v2.0", {"firmware": "2.0"}, "FLOWMETER 7 v2.11"),
    ("SN A00417 FW 3.1", {"serial number": "A00417", "firmware": "3.1"}, "SN B9 FW 3.10"),
    (
        "ID SKW-GH-07 FW3.1 SN 20418",
        {"firmware": "3.1", "serial number": "20418"},
        "ID SKW-GH-09 FW4.0 SN 1",
    ),
    ("UNIT 5 READY", {"station": "5"}, "UNIT 31  READY"),
    ("LV +01.284 M OK", {"reading": "+01.284 M"}, "LV -00.2 M OK"),
    ("T 21.4 C", {"reading": "21.4 C"}, "T 9.0 C"),
    ("LEVEL 1.284 m", {"reading": "1.284 m"}, "LEVEL 0.9 m"),
]


@pytest.mark.parametrize(("answer", "names", "another"), ANSWERS)
def test_an_answer_becomes_a_pattern_that_knows_the_next_one(answer: str, names: dict[str, str], another: str) -> None:
    one = Said("ID?", answer)
    assert fields(one) == names
    pattern, _ = pattern_of(answer, guessed(answer))
    assert fits(pattern, [answer, another, "? unknown"]) == 2


@given(st.text(st.characters(min_codepoint=32, max_codepoint=126), min_size=1, max_size=60))
def test_any_answer_fits_its_own_pattern(answer: str) -> None:
    pattern, groups = pattern_of(answer, guessed(answer))
    found = re.search(pattern, answer)
    assert found is not None and all(found[group] for group in groups)
    words = FirstWords(say="X", means="asks", expect=pattern)
    told = example(words)
    assert told == "" or re.search(pattern, told)


def test_parts_may_not_overlap_nor_share_a_name() -> None:
    for named in ([AnswerPart(0, 4, "a"), AnswerPart(2, 6, "b")], [AnswerPart(0, 2, "a"), AnswerPart(3, 5, "a")]):
        with pytest.raises(BadInput):
            pattern_of("AB CD EF", named)
    assert id_of("Flow meter, pump house") == "flow-meter-pump-house"
    with pytest.raises(BadInput):
        id_of("12")


@pytest.fixture
def catalog(tmp_path: Path) -> Catalog:
    return Catalog(own=tmp_path / "devices")


def test_a_drafted_device_counts_as_a_sheet_and_is_simulated_from_its_words(catalog: Catalog) -> None:
    said = Said("VER?", "FLOWMETER 12 v2.0", 41.0, asks="you")
    base = catalog.device("text-instrument-dce")
    sheet = draft("flow-meter", "Flow meter", base, Learnt(Settings.parse("1200,7E1"), Terminator.CRLF, (said,)))
    assert not check(as_text(sheet), catalog).problem
    save(as_text(sheet), catalog)
    assert catalog.device("flow-meter") == sheet
    address = of_own("sim://bench/flow-meter?power=on&pace=4", catalog)
    words = Typed("VER?", Written.PLAIN, Terminator.CRLF, expect=sheet.first_words[0].expect)
    answer = say(address, Settings.parse("1200,7E1"), words, True, 3.0)
    assert answer.matched and answer.fields == {"firmware": "2.0"}


def test_words_of_which_nobody_says_that_they_only_ask_are_known_and_not_said_again(catalog: Catalog) -> None:
    """“IP 192.168.0.77”, kept as words that change nothing, was sent to the next device of the kind."""
    said = (Said("IP 192.168.0.77", "IP set to 192.168.0.77"), Said("VER?", "FLOWMETER 12 v2.0", asks="you"))
    base = catalog.device("text-instrument-dce")
    sheet = draft("flow-meter", "Flow meter", base, Learnt(Settings(9600), Terminator.CR, said))
    assert [one.say for one in sheet.first_words] == ["VER?"] and [one.say for one in sheet.not_again] == ["IP 192.168.0.77"]
    older = as_text(sheet).replace("asks: you", "asks: ''")  # as a sheet of before, or one that came from elsewhere
    save(older, catalog)
    kept = catalog.device("flow-meter")
    assert kept.first_words == [] and {one.say for one in kept.not_again} == {"VER?", "IP 192.168.0.77"}


def test_a_drafted_talker_talks(catalog: Catalog) -> None:
    base = catalog.device("scale-reader")
    sheet = draft("scale", "Scale", base, Learnt(Settings(9600), heard="ST,GS,+  12.34kg"))
    save(as_text(sheet), catalog)
    heard = listen(of_own("sim://bench/scale?power=on&pace=8", catalog), Settings(9600), 0.6)
    assert b"+  12.34kg" in heard.data
