"""Device sheets: revisions and ports chosen, contradictions told with their line."""

import pytest

from humble_courier.catalog.load import DEMO, Catalog
from humble_courier.catalog.sheets import as_it_is, sheet_from_text, variant_for, version
from humble_courier.errors import BadInput

LOGGER = (DEMO / "gauge-logger.yaml").read_text()


def test_every_sheet_of_the_demo_is_rich_enough() -> None:
    catalog = Catalog(demo=True)
    for id_ in (id_ for id_ in catalog.device_ids() if not catalog.is_kind(id_)):
        sheet = catalog.device(id_)
        assert sheet.preconditions and sheet.lamps and sheet.note_down and sheet.port.meant, id_
        assert all(a.caution in catalog.cautions for a in sheet.preconditions if a.caution), id_
        keyed = sheet.kind == "radio"
        assert not keyed or (sheet.bands and "keyed-transmitter" in sheet.cautions)


def test_a_revision_changes_what_it_says_and_nothing_else(catalog: Catalog) -> None:
    sheet = catalog.device("gauge-logger")
    old = as_it_is(sheet, "before-3")
    assert old.banks[0].table["000"] == "300" and sheet.banks[0].table["000"] == "1200"
    assert old.edition.endswith("edition 2") and old.port == sheet.port
    assert as_it_is(catalog.device("chart-recorder"), "revision-a").port.settings == "2400,7E1,rts-cts"


@pytest.mark.parametrize(("firmware", "id_"), [("2.9", "before-3"), ("3.0", "from-3"), ("3.1.4", "from-3"), ("x", None)])
def test_the_revision_of_a_firmware(catalog: Catalog, firmware: str, id_: str | None) -> None:
    found = variant_for(catalog.device("gauge-logger"), firmware)
    assert (found.id if found else None) == id_
    assert version("3.10") > version("3.9")  # type: ignore[operator]


def test_the_other_port_has_its_own_settings(catalog: Catalog) -> None:
    sheet = catalog.device("bridge-controller")
    bus = as_it_is(sheet, socket="bus")
    assert (sheet.port.settings, bus.port.settings) == ("4800,8N1", "38400,8E1")
    assert [p.id for p in bus.other_ports] == ["service"] and as_it_is(sheet, socket="service") is sheet
    for wrong in ({"socket": "x"}, {"variant": "x"}):
        with pytest.raises(BadInput, match="there are"):
            as_it_is(sheet, **wrong)


VARIANTS = """variants:
  - {id: a, tell: plate A, edition: one, firmware_below: "3.0"}
  - {id: b, tell: plate B, edition: two, firmware_from: "2.0"}
source: invented
"""


@pytest.mark.parametrize(
    ("change", "said"),
    [
        (lambda s: s[: s.index("variants:")] + VARIANTS, "contradict each other"),
        (lambda s: s[: s.index("variants:")] + VARIANTS.replace("2.0", "3.0").replace("plate B", "plate A"), "same mark"),
        (lambda s: s[: s.index("variants:")] + VARIANTS.replace("id: b", "id: a"), "stands twice"),
        (lambda s: s.replace('"3.0"', '"three"'), "expected numbers with points"),
        (lambda s: s.replace('"100": "300"', '"1000": "300"'), "not 3 positions"),
        (lambda s: s.replace("bank: S2, effect", "bank: S9, effect"), "does not have"),
        (lambda s: s.replace("settings: 1200,7E1", "settings: 1200,7X1"), "7X1"),
        (lambda s: s.replace("caution: open-cabinet", "caution: nothing"), "unknown caution"),
        (lambda s: s.replace(r"'LV (?P<level>[+-]\d+\.\d+) M'", "'LV ('"), "regular expression"),
        (lambda s: s.replace("courier: device/1", "courier: device/2"), "device/1"),
        (lambda s: s + "colour: red\n", "colour"),
    ],
)
def test_contradictions_are_told_with_their_line(catalog: Catalog, change: object, said: str) -> None:
    text = change(LOGGER)  # type: ignore[operator]
    with pytest.raises(BadInput, match=said) as told:
        sheet_from_text(text, "own.yaml", catalog.cautions)
    assert str(told.value.file) == "own.yaml" and told.value.line
