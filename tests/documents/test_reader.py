"""Malformed documents: one line, with file, line and what was expected."""

from pathlib import Path

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from humble_courier.catalog.links import link_from_text, read_link
from humble_courier.catalog.load import Catalog
from humble_courier.documents.reader import parse
from humble_courier.errors import BadInput

CATALOG = Catalog()
GOOD = """courier: link/1
computer: {port: dte-de9}
device:
  connector: {family: D, contacts: 9, gender: socket}
  signals: {2: "TXD out rs232", 3: "RXD in rs232", 5: "GND"}
chain:
  - part: straight-de9
  - ends: [{family: D, contacts: 9, gender: socket}, {family: D, contacts: 9, gender: plug}]
    conductors: [A2-B2, A3-B3]
    length_m: 3
settings: {computer: "9600,8N1", device: "9600,8N1"}
"""


def test_the_good_one_is_read() -> None:
    link = link_from_text(GOOD, "x", CATALOG)
    assert [part.id for part in link.parts] == ["straight-de9", "part-2"]
    assert link.parts[1].length_m == 3


@pytest.mark.parametrize(
    ("old", "new", "line", "told"),
    [
        ("A2-B2", "A2-B12", 9, "no contact 12"),
        ("A2-B2", "A2-C2", 9, "2 ends"),
        ("A2-B2", "A2", 9, "A2-B3"),
        ('"9600,8N1", device', '"9600,9N1", device', 11, "9N1"),
        ("part: straight-de9", "prat: straight-de9", 7, "prat"),
        ("straight-de9", "strait-de9", 7, "did you mean straight-de9"),
        ("dte-de9", "dte-de99", 2, "dte-de9"),
        ("TXD out", "TXD oot", 5, "oot"),
        ('{2: "TXD', '{12: "TXD', 5, "no contact “12”"),
        ("length_m: 3", "length_m: long", 10, "length_m"),
        ("length_m: 3", "length_m: -1", 10, "length_m"),
        ("gender: socket}\n", "gender: boy}\n", 4, "boy"),
        ("courier: link/1", "courier: link/2", 1, "link/1"),
        ("courier: link/1", "", 2, "link/1"),
        ("computer: {port: dte-de9}", "computer: {}", 2, "expected one of"),
        ("computer: {port: dte-de9}", "computer: {port: dte-de9, device: x}", 2, "expected one of"),
        ("computer: {port: dte-de9}", "computer: 7", 2, "computer"),
        ("chain:", "chain: x\nmore:", 6, "chain"),
        ("    length_m: 3", "    length_m: 3\n    length_m: 4", 11, "twice"),
        ("courier: link/1", "courier: &a [*a]", 1, "contains itself"),
        ("length_m: 3", "length_m: [", 12, "YAML"),
        ("length_m: 3", "length_m: !!python/object:os.system x", 10, "YAML|tag|number|length"),
        (", {family: D, contacts: 9, gender: plug}]", "]", 8, "ends"),
    ],
)
def test_mistakes_are_told_with_their_line(old: str, new: str, line: int, told: str) -> None:
    with pytest.raises(BadInput, match=told) as caught:
        link_from_text(GOOD.replace(old, new, 1), "weir.link.yaml", CATALOG)
    assert str(caught.value).startswith(f"weir.link.yaml:{line}: ")
    assert "\n" not in str(caught.value)


@settings(max_examples=200, deadline=None)
@given(st.one_of(st.text(max_size=80), st.text(alphabet="courier:link/1{}[]-,&*!|> \n\t'\"#%", max_size=60)))
def test_any_text_gives_a_link_or_one_line(text: str) -> None:
    try:
        link_from_text(text, "x", CATALOG)
    except BadInput as error:
        assert "\n" not in str(error)


def test_words_stay_words() -> None:
    """YAML 1.2's core schema: no octal numbers, no yes and no, no sixty-based numbers."""
    data = parse("a: NO\nb: 12:30\nc: on\nd: '9'\ne: 1_000\nf: 0x1F\ng: 2.5", "x").data
    assert data == {"a": "NO", "b": "12:30", "c": "on", "d": "9", "e": "1_000", "f": 31, "g": 2.5}


def test_files_that_cannot_be_read(tmp_path: Path) -> None:
    binary = tmp_path / "b"
    binary.write_bytes(b"\xff\xfe\x00")
    for path, told in ((tmp_path / "none", "No such file"), (tmp_path, "directory"), (binary, "UTF-8")):
        with pytest.raises(BadInput, match=told):
            read_link(path, CATALOG)


def test_a_broken_data_file_names_its_line(tmp_path: Path) -> None:
    (tmp_path / "parts.yaml").write_text("- id: x\n  name: X\n  kind: cable\n  ends: []\n  colour: red\n  source: s\n")
    with pytest.raises(BadInput, match=r"parts.yaml:\d: "):
        Catalog(tmp_path).part("x")
    (tmp_path / "ports.yaml").write_text(
        "- {id: x, name: X, connector: {family: D, contacts: 9, gender: plug}, signals: {}, source: s}\n" * 2
    )
    with pytest.raises(BadInput, match=r"ports\.yaml:2: id “x” stands twice"):
        Catalog(tmp_path).port("x")
    (tmp_path / "ports.yaml").write_text("# no id first\n- name: X\n")
    with pytest.raises(BadInput, match=r"ports\.yaml:2: an entry begins with its id"):
        Catalog(tmp_path).port("x")
    (tmp_path / "ports.yaml").write_text("id: x\n")
    with pytest.raises(BadInput, match=r"ports\.yaml:1: expected a list of entries"):
        Catalog(tmp_path).port("x")
