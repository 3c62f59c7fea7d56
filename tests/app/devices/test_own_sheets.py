"""Device sheets of one's own: from a blank or a near relative, judged while they are written, saved and found again."""

from pathlib import Path

import pytest

from humble_courier.app.devices.own_sheets import BLANK, begun_from, check, is_own, save
from humble_courier.app.link.choices import devices, sheet_names
from humble_courier.catalog.load import Catalog
from humble_courier.errors import BadInput, MachineRefused


@pytest.fixture
def own(tmp_path: Path) -> Catalog:
    return Catalog(own=tmp_path / "devices")


def test_a_blank_is_a_right_sheet_and_every_relative_too(own: Catalog) -> None:
    assert begun_from(None, own) == BLANK and not check(BLANK, own).problem
    for id_ in own.device_ids():
        found = check(begun_from(id_, own), own)
        assert (found.problem, found.id) == ("", f"my-{id_}") and found.about


@pytest.mark.parametrize(
    ("old", "new", "said", "line"),
    [("9600,8N1", "9600,8X1", "8X1", 15), ("id: my-device", "id: My Device", "small letters", 2),
     ("5: GND", "15: GND", "no contact", None), ("kind: instrument", "kind: toy", "kind", 4),
     ("courier: device/1", "x: 1", "device/1", 1)],
)  # fmt: skip
def test_what_is_wrong_is_told_with_its_line(own: Catalog, old: str, new: str, said: str, line: int | None) -> None:
    found = check(BLANK.replace(old, new), own)
    assert said in found.problem and (line is None or found.line == line)
    with pytest.raises(BadInput, match=said):
        save(BLANK.replace(old, new), own)


def test_a_saved_sheet_is_found_and_can_be_picked(own: Catalog) -> None:
    path = save(BLANK, own)
    assert path.read_text() == BLANK and is_own("my-device", own) and not is_own("gauge-logger", own)
    assert ("my-device", "My device") in devices(own) and own.device("my-device").port.settings == "9600,8N1"
    path.write_text("spoiled: by hand\n")
    assert ("my-device", "my-device (cannot be read)", False) in sheet_names(own)
    assert "my-device" not in dict(devices(own))


def test_ones_own_sheet_stands_before_the_shipped_one(own: Catalog) -> None:
    text = own.sheet_file("gauge-logger").read_text().replace("answer_ms: 400", "answer_ms: 900")
    save(text, own)
    assert own.device("gauge-logger").answer_ms == 900 and own.device_ids().count("gauge-logger") == 1


def test_no_folder_or_one_that_cannot_be_made(tmp_path: Path) -> None:
    with pytest.raises(MachineRefused, match="no folder"):
        save(BLANK, Catalog())
    (tmp_path / "file").write_text("")
    with pytest.raises(MachineRefused, match="file"):
        save(BLANK, Catalog(own=tmp_path / "file" / "devices"))
