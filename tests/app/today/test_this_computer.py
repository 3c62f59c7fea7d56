"""What a computer wants before one leaves: machines made of a few files."""

from pathlib import Path

import pytest

from humble_courier.app.today import this_computer
from humble_courier.app.today.this_computer import computer_acts
from humble_courier.catalog.kits import KitPart, resolve_kit
from humble_courier.catalog.load import Catalog
from humble_courier.documents.kit import KitItem, KitModel
from humble_courier.host.access import Me

KINDS = {"usb-rs232": "usb-adapter", "usb-rs485": "usb-adapter", "straight-de9": "cable"}


@pytest.fixture
def pieces(catalog: Catalog) -> list[KitPart]:
    items = [KitItem(part="usb-rs232", module="ftdi_sio"), KitItem(part="usb-rs485"), KitItem(part="straight-de9")]
    return resolve_kit(KitModel("kit/1", items), catalog)


def machine(root: Path, loaded: str, sheet: str = "", members: str = "") -> Path:
    for name, text in {
        "proc/modules": loaded, "proc/sys/kernel/osrelease": "6.1.0\n", "etc/modprobe.d/mine.conf": sheet,
        "etc/group": f"dialout:x:20:{members}\n", "etc/passwd": "ruth:x:1000:1000::/home/ruth:/bin/sh\n",
    }.items():  # fmt: skip
        (root / name).parent.mkdir(parents=True, exist_ok=True)
        (root / name).write_text(text)
    return root


CASES = {
    "all there": ("ftdi_sio 1 0\n", "", []),
    "not there": ("", "", ["Fetch: the module ftdi_sio"]),
    "blocked": ("ftdi_sio 1 0\n", "\nblacklist ftdi_sio\n", ["Have the module ftdi_sio allowed"]),
}


@pytest.mark.parametrize("case", CASES)
def test_the_modules_of_the_adapters(case: str, pieces: list[KitPart], tmp_path: Path) -> None:
    loaded, sheet, wanted = CASES[case]
    acts = computer_acts(pieces, KINDS, machine(tmp_path, loaded, sheet))
    assert [act.do for act in acts if "ftdi_sio" in act.do] == wanted
    assert [act.do for act in acts if act.kind == "try"] == [
        "Try: plug the USB adapter to two-wire RS-485 into this computer once, and see that a port appears"
    ]
    assert case != "blocked" or "line 2 of /etc/modprobe.d/mine.conf" in next(a.why for a in acts if "allowed" in a.do)


@pytest.mark.parametrize(
    ("groups", "listed", "words"), [((), (), "usermod -a -G dialout ruth"), ((), (20,), "Log out"), ((20,), (20,), "")]
)
def test_the_permission_to_open_a_port(
    groups: tuple[int, ...], listed: tuple[int, ...], words: str, pieces: list[KitPart], tmp_path: Path,
    monkeypatch: pytest.MonkeyPatch,
) -> None:  # fmt: skip
    me = Me(1000, "ruth", frozenset(groups), frozenset(listed), {1000: "ruth"}, {20: "dialout"})
    monkeypatch.setattr(this_computer, "who_am_i", lambda _: me)
    told = [act.do for act in computer_acts(pieces, KINDS, machine(tmp_path, "ftdi_sio 1 0\n")) if act.kind == "ask"]
    assert len(told) == bool(words) and (not words or words in told[0])


def test_a_bag_without_adapters_wants_nothing(pieces: list[KitPart], tmp_path: Path) -> None:
    assert computer_acts(pieces[2:], KINDS, tmp_path) == []
