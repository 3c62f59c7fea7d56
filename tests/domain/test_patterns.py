"""Patterns of people: as Python's own engine where that comes to an end, and given up where it would not."""

import re
import threading

import pytest
from hypothesis import given
from hypothesis import strategies as st

from humble_courier.catalog.load import Catalog
from humble_courier.catalog.sheets import sheet_from_text
from humble_courier.domain.patterns import Pattern, pattern
from humble_courier.errors import BadInput
from humble_courier.protocols.lines import Expect

SLOW = (r"(a|aa)+$", r"^(0|00)+$")
ASKED = (
    r"ID (?P<station>[A-Z0-9-]+) FW(?P<firmware>[\d.]+) SN (?P<serial>\d+)", r"LV (?P<level>[+-]\d+\.\d+) M OK",
    r"^\s*OK\b", r"(?P<n>\d+)(?:,(?P<m>\d+))?", r"READY\r?$", r"[^,]+,(?P<model>[^,]+),", r"(?i)error",
)  # fmt: skip
TEXTS = st.one_of(
    st.text("ID FWSN0123.,-+MOKLV \r\n", max_size=60),
    st.sampled_from(["ID SKW-GH-07 FW3.1 SN 20418", "LV +01.284 M OK", "1,2"]),
)


@given(st.sampled_from(ASKED), TEXTS)
def test_the_same_is_found_as_by_pythons_own_engine(asked: str, text: str) -> None:
    found, match = pattern(asked).search(text), re.search(asked, text)
    assert (found is None) == (match is None)
    if found is not None and match is not None:
        assert found.text == match[0]
        assert found.fields == {name: value for name, value in match.groupdict().items() if value is not None}
    assert pattern(asked).names == tuple(re.compile(asked).groupindex)


@pytest.mark.parametrize("slow", SLOW)
def test_what_takes_too_long_is_given_up_and_not_tried_again(slow: str) -> None:
    made = Pattern(slow)
    assert made.search("a" * 60 + "!") is None and made.search("0" * 60 + "!") is None and made.too_slow
    assert made.search("000" if "0" in slow else "aaa") is None, "it finds nothing from then on"


@pytest.mark.parametrize("slow", SLOW)
def test_it_is_refused_where_it_is_written(slow: str, catalog: Catalog) -> None:
    with pytest.raises(BadInput, match="takes too long"):
        Expect(slow)
    text = (
        "courier: device/1\nid: own\nname: Own\nkind: instrument\nedition: none\nsource: seen\n"
        "port:\n  name: Port\n  mark: P\n"
        "  connector: {family: D, contacts: 9, gender: socket}\n  signals: {5: GND}\n  settings: 9600,8N1\n  set_by: x\n"
        f"first_words:\n  - say: ID\n    means: asks\n    expect: '{slow}'\n"
    )
    with pytest.raises(BadInput, match="takes too long") as told:
        sheet_from_text(text, "own.yaml", catalog.cautions)
    assert told.value.line == 17


def test_other_threads_go_on_while_one_is_looked_for() -> None:
    """The lock of the interpreter is not held: a Stop comes through."""
    made, turns, over = Pattern(SLOW[0]), 0, threading.Event()

    def look() -> None:
        made.search("a" * 60 + "!")
        over.set()

    thread = threading.Thread(target=look)
    thread.start()
    while not over.is_set():
        turns += 1
    thread.join()
    assert turns > 100 and made.too_slow


def test_what_is_no_pattern_is_told() -> None:
    with pytest.raises(BadInput, match="not a regular expression"):
        Pattern("(")
