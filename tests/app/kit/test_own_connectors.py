"""Connectors that nobody knew: said once, drawn and used from then on, in parts, sheets and commands."""

from pathlib import Path

import pytest

from humble_courier.app.kit.contents import EMPTY, own_lead, parts_of, with_item
from humble_courier.app.kit.own_connectors import learnt
from humble_courier.catalog.load import Catalog
from humble_courier.errors import BadInput, MachineRefused


def test_one_that_is_said_once_is_known_from_then_on(tmp_path: Path) -> None:
    catalog = Catalog(own=tmp_path / "devices")
    assert learnt("bayonet(3,4) plug", catalog) == "bayonet 7 plug"
    assert learnt("D9 socket", catalog) == "D9 socket"
    shape = catalog.shapes["bayonet", 7]
    assert shape.rows == [["1", "2", "3"], ["4", "5", "6", "7"]]
    again = Catalog(own=tmp_path / "devices")
    lead = own_lead("probe lead", "bayonet 7 socket", "leads", "1-white, 7-brown", again)
    assert [part.part.name for part in parts_of(with_item(EMPTY, lead, again), again)] == ["probe lead"]
    learnt("ring(2)", again)
    assert {("bayonet", 7), ("ring", 2), ("D", 9)} <= set(Catalog(own=tmp_path / "devices").shapes)
    with pytest.raises(BadInput, match="rows of 3, 4"):
        learnt("bayonet(7) plug", again)


@pytest.mark.parametrize("words", ["x(0) plug", "x(3,0) plug", "x(60,60) plug", "x(1,1,1,1,1,1,1,1,1) plug", "D(9) plug"])
def test_what_cannot_be_one_makes_no_file(tmp_path: Path, words: str) -> None:
    with pytest.raises(BadInput):
        learnt(words, Catalog(own=tmp_path / "devices"))
    assert not (tmp_path / "connectors.yaml").exists()


def test_without_a_folder_that_is_said() -> None:
    with pytest.raises(MachineRefused, match="--data DIR"):
        learnt("bayonet(3,4) plug", Catalog())
