"""What is said of a device beside its words: each change makes a sheet that holds just that, a wrong one none."""

from collections.abc import Callable

import pytest
from hypothesis import given
from hypothesis import strategies as st

from humble_courier.app.devices.draft import Learnt, as_text
from humble_courier.app.link import keeping_more as more
from humble_courier.app.link.keeping import Draft
from humble_courier.app.settings.banks import view
from humble_courier.catalog.load import Catalog
from humble_courier.catalog.sheets import sheet_from_text
from humble_courier.documents.device import DeviceEntry
from humble_courier.domain.settings import Settings
from humble_courier.errors import BadInput

CATALOG = Catalog()
BARE = Draft("Pump", CATALOG.device("text-instrument-dte"), Learnt(Settings.parse("9600,8N1")))


def read_back(now: Draft) -> DeviceEntry:
    """The sheet as the text of it is read: what the draft says must be a sheet."""
    return sheet_from_text(as_text(now.sheet()), "pump.yaml", CATALOG.cautions)


@given(
    st.dictionaries(st.text("01", min_size=4, max_size=4), st.sampled_from(["1200", "2400", "9600", "19200"]), max_size=8)
)
def test_positions_that_were_drawn_are_read_as_they_were_meant(table: dict[str, str]) -> None:
    now = BARE
    for drawn, rate in table.items():
        now = more.with_position(now, "behind the lid", "rate", drawn, rate)
    sheet = read_back(now)
    for drawn, rate in table.items():
        (bank,) = sheet.banks
        assert view(bank, [int(one) for one in drawn]).says == rate
    assert (sheet.port.set_in["rate"].bank if table else None) == (sheet.banks[0].id if table else None)


def test_everything_that_is_said_stands_in_the_sheet() -> None:
    now = more.with_set_in(BARE, "frame", "menu", "Setup, Serial")
    now = more.with_revision(now, "the plate says B", "edition 2")
    now = more.with_other_port(now, "Bus", "BUS", ("D", 9, "plug"), "text")
    now = more.with_program(now, "Linux, an older system", "32", "4", "9600,8N1")
    now = more.with_adapter(more.with_adapter(now, "ch341", True), "ch341", False, "drops bytes")
    now = more.with_forbidden(now, "the card slot", "only its own cards read")
    sheet = read_back(now)
    assert sheet.port.set_in["frame"].how == "Setup, Serial" and sheet.variants[0].settings == "9600,8N1"
    assert [port.name for port in sheet.other_ports] == ["Bus"]
    assert (sheet.program.systems, sheet.program.bits, sheet.program.highest_port) == (["Linux", "an older system"], 32, 4)
    assert [(one.module, one.works) for one in sheet.adapters] == [("ch341", False)]
    assert sheet.forbidden[0].why == "only its own cards read"
    other = more.in_use(now, "bus")
    assert other.base.port.name == "Bus" and [port.id for port in other.base.other_ports] == [BARE.base.port.id]
    gone = more.without_revision(more.with_set_in(now, "frame", "menu", ""), sheet.variants[0].id)
    assert not gone.base.variants and "frame" not in gone.base.port.set_in


def test_a_second_bank_stands_beside_the_first() -> None:
    now = more.with_position(BARE, "behind the lid", "rate", "10", "9600")
    now = more.with_position(now, "under the board", "address", "011", "7")
    assert [bank.id for bank in read_back(now).banks] == ["S1", "S1-2"]
    left = more.without_bank(now, "S1")
    assert [bank.where for bank in read_back(left).banks] == ["under the board"] and "rate" not in left.base.port.set_in


WRONG: list[Callable[[Draft], Draft]] = [
    lambda now: more.with_set_in(now, "colour", "menu", "x"),
    lambda now: more.with_position(now, "", "rate", "01", "9600"),
    lambda now: more.with_position(now, "lid", "rate", "01", "fast"),
    lambda now: more.with_position(now, "lid", "settings", "01", "9600"),
    lambda now: more.with_position(now, "lid", "rate", "", "9600"),
    lambda now: more.with_position(more.with_position(now, "lid", "rate", "01", "9600"), "lid", "rate", "011", "9600"),
    lambda now: more.with_revision(now, " ", ""),
    lambda now: more.with_revision(more.with_revision(now, "B", ""), "B", ""),
    lambda now: more.with_other_port(now, "", "", ("D", 9, "plug"), ""),
    lambda now: more.in_use(now, "none"),
    lambda now: more.with_program(now, "", "33", "", ""),
    lambda now: more.with_program(now, "", "", "two", ""),
    lambda now: more.with_program(now, "", "", "", "9600"),
    lambda now: more.with_adapter(now, "", True),
    lambda now: more.with_forbidden(now, "the slot", ""),
]


@pytest.mark.parametrize("wrong", WRONG)
def test_what_cannot_be_is_refused(wrong: Callable[[Draft], Draft]) -> None:
    with pytest.raises(BadInput):
        wrong(BARE)
