"""What a device's program and its adapters want, against a computer: each case with its verdict."""

import msgspec
import pytest

from humble_courier.app.prepare.computer_fit import ThisComputer, this_computer, wants
from humble_courier.app.prepare.sheet_acts import acts
from humble_courier.catalog.load import Catalog
from humble_courier.catalog.sheets import sheet_from_text
from humble_courier.documents.device import ForbiddenSocket, KnownAdapter, UsualProgram
from humble_courier.domain.settings import Settings
from humble_courier.errors import BadInput

HERE = ThisComputer("Linux", 64, "ftdi_sio", 4)
AT_1200 = Settings.parse("1200,7E1")
GOOD, BAD = KnownAdapter(module="ftdi_sio", works=True), KnownAdapter(module="ftdi_sio", works=False, note="drops bytes")


@pytest.mark.parametrize(
    ("program", "adapters", "met", "told"),
    [
        (UsualProgram(systems=["Linux 5 and later"]), [], True, "runs on Linux"),
        (UsualProgram(systems=["an older system"]), [], False, "take a computer with an older system"),
        (UsualProgram(bits=16), [], False, "16 or 32"),
        (UsualProgram(bits=32), [], True, "32 or 64"),
        (UsualProgram(settings="9600,8N1"), [], False, "set the device, or do without"),
        (UsualProgram(settings="1200,7E1"), [], True, "always opens 1200 7E1"),
        (UsualProgram(), [GOOD], True, "known to work"),
        (UsualProgram(), [BAD], False, "drops bytes"),
        (UsualProgram(), [KnownAdapter(module="ch341", works=False)], None, "known not to: ch341"),
    ],
)
def test_each_want_is_compared(
    catalog: Catalog, program: UsualProgram, adapters: list[KnownAdapter], met: bool | None, told: str
) -> None:
    sheet = msgspec.structs.replace(catalog.device("gauge-logger"), program=program, adapters=adapters)
    (want,) = wants(sheet, HERE, AT_1200)
    assert want.met is met and told in want.told


def test_this_computer_is_the_one_that_runs_it() -> None:
    here = this_computer("ch341", "/dev/ttyUSB12?x=3")
    assert here.system == "Linux" and here.bits in (32, 64) and (here.module, here.number) == ("ch341", 12)


def test_a_socket_that_must_not_be_used_comes_first_and_bands_follow_the_region(catalog: Catalog) -> None:
    sheet = catalog.device("mesh-module")
    sheet = msgspec.structs.replace(sheet, forbidden=[ForbiddenSocket("the card slot", "only its own cards read", "USB")])
    first = acts(sheet, catalog.cautions)[0]
    assert first.act == "Do not use the card slot; USB in its place" and first.caution == "only its own cards read"
    bands = {
        region: next(act.act for act in acts(sheet, catalog.cautions, region) if act.id == "band")
        for region in ("", "far islands (invented)", "Nowhere")
    }
    assert "868" in bands[""] and "902" in bands[""]
    assert "902" in bands["far islands (invented)"] and "868" not in bands["far islands (invented)"]
    assert bands["Nowhere"].startswith("Do not key it")


def test_settings_of_a_program_are_checked_with_the_sheet(catalog: Catalog) -> None:
    text = catalog.sheet_file("gauge-logger").read_text() + "program: {settings: 9600-8-N-1-X}\n"
    with pytest.raises(BadInput) as told:
        sheet_from_text(text, "logger.yaml", catalog.cautions)
    assert told.value.line == text.count("\n")


@pytest.mark.parametrize(
    ("module", "rate", "met", "told"),
    [
        ("cp210x", "10400,8N1", None, "cp210x"),  # some kinds snap to 14 400
        ("ftdi_sio", "31250,8N1", True, ""),
        ("pl2303", "9600,8N1", True, ""),
        ("", "10400,8N1", None, "makes 14400"),
        ("", "9600,8N1", True, ""),
    ],
)
def test_whether_the_adapter_makes_the_rate(module: str, rate: str, met: bool | None, told: str) -> None:
    """A K-line's 10 400 and the 31 250 of musical instruments (cp210x.c of Linux 6.1: kinds with a table)."""
    sheet = Catalog(demo=True).device("gauge-logger")
    bare = msgspec.structs.replace(sheet, program=UsualProgram(), adapters=[])
    found = wants(bare, ThisComputer("Linux", 64, module), Settings.parse(rate))
    if met is True:
        assert found == []
    else:
        (one,) = found
        assert one.met is met and told in one.told and "bit/s from the adapter" in one.what
