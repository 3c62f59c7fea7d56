"""Claims against the system's own tool (kmod's `modprobe --resolve-alias`), and what keeps a module away."""

import random
import shutil
import subprocess
from pathlib import Path

import pytest

from humble_courier.app.port.drivers import REFERENCE, Laptop, claim, plan_for
from humble_courier.catalog.load import Catalog
from humble_courier.errors import BadInput
from humble_courier.host.aliases import Aliases, UsbId
from humble_courier.host.modules import Kernel
from humble_courier.simulator.machine import RELEASE, SimulatedMachine, Trouble
from tests.host.conftest import TROUBLES

CATALOG = Catalog()
ALIASES = Aliases.read(REFERENCE)


@pytest.mark.parametrize(
    ("usb_id", "interface", "module"),
    [
        ("0403:6001", None, "ftdi_sio"),
        ("1a86:7523", None, "ch341"),
        ("10C4:EA60", None, "cp210x"),
        ("067b:2303", None, "pl2303"),
        ("1234:5678", "02:02:01", "cdc_acm"),  # class-bound: any communication device with AT commands
        ("1234:5678", None, None),
        ("17ef:6161", "02:02:00", "cdc_acm"),
    ],
)
def test_who_claims_it(usb_id: str, interface: str | None, module: str | None) -> None:
    modules = ALIASES.modules(UsbId.parse(usb_id, interface))
    assert (modules[0] if modules else None) == module


@pytest.mark.skipif(shutil.which("modprobe") is None, reason="kmod is not installed")
def test_claims_against_kmod(tmp_path: Path) -> None:
    """Every eighth id of the reference file and 100 random ones, each with a class of interface, asked of kmod itself."""
    aliases = tmp_path / "aliases.conf"
    shutil.copy(REFERENCE, aliases)
    dice = random.Random(7)
    ids = sorted(ALIASES.exact)[::8] + [(dice.randrange(65536), dice.randrange(65536)) for _ in range(100)]
    classes = ((0xFF, 0xFF, 0xFF), (2, 2, 1), (2, 2, 0xFF), (0xFF, 0x50, 1), (8, 6, 80))
    hits = 0
    for vid, pid in ids:
        usb = UsbId(vid, pid, dice.choice((0x100, 0x301, 0x600)), interface=dice.choice(classes))
        command = ["modprobe", "-C", str(aliases), "-d", str(tmp_path), "--resolve-alias", usb.modalias]
        theirs = subprocess.run(command, capture_output=True, text=True, check=False).stdout.split()
        assert set(ALIASES.modules(usb)) == set(theirs), usb.modalias
        hits += bool(theirs)
    assert hits > len(ids) / 3


def test_a_file_that_is_cut_in_half() -> None:
    text = REFERENCE.read_text()
    half = text[: len(text) // 2]
    cut = Aliases.parse(half + "alias usb:v0403p60")
    assert cut.skipped == 1 and sum(map(len, cut.exact.values())) > 500
    assert Aliases.parse("").modules(UsbId(0x0403, 0x6001)) == []


@pytest.mark.parametrize("text", ["0403", "0403-6001", "zz:6001", "10403:6001", ""])
def test_a_wrong_id_is_told(text: str) -> None:
    with pytest.raises(BadInput, match="expected vendor and product"):
        UsbId.parse(text)


def test_blocked_loaded_present(machine: SimulatedMachine) -> None:
    kernel = Kernel(machine.root)
    assert kernel.release == RELEASE
    found = claim(UsbId.parse("1a86:7523"), CATALOG, kernel)
    assert (found.claimed_by, found.in_kernel, found.loaded, found.block, found.from_reference) == (
        "ch341",
        True,
        False,
        None,
        False,
    )
    assert any("modprobe ch341" in s.do for s in found.steps)
    machine.block("ch341")
    blocked = claim(UsbId.parse("1a86:7523"), CATALOG, kernel)
    assert blocked.block is not None and (blocked.block.file, blocked.block.line) == ("/etc/modprobe.d/blacklist.conf", 2)
    assert "sed -i '2s/^/# /' /etc/modprobe.d/blacklist.conf" in blocked.steps[0].do
    assert claim(UsbId.parse("10c4:ea60"), CATALOG, kernel).loaded
    missing = claim(UsbId.parse("0557:2008"), CATALOG, kernel)  # pl2303 by another vendor's id
    assert missing.claimed_by == "pl2303" and missing.in_kernel
    unlisted = claim(UsbId.parse("1234:5678"), CATALOG, kernel)
    assert unlisted.claimed_by is None and any("new_id" in s.do for s in unlisted.steps)
    assert any("before the adapter is plugged in" in s.do for s in unlisted.other_os)


def test_a_kernel_without_the_module(machine: SimulatedMachine) -> None:
    (machine.root / f"lib/modules/{RELEASE}/modules.dep").write_text("kernel/drivers/usb/serial/cp210x.ko:\n")
    found = claim(UsbId.parse("0403:6001"), CATALOG, Kernel(machine.root))
    assert not found.in_kernel and "linux-modules-extra" in found.steps[0].do


def test_an_install_line_that_runs_nothing_blocks_as_well(machine: SimulatedMachine) -> None:
    (machine.root / "etc/modprobe.d/x.conf").write_text("install usb-storage /bin/true\ninstall ftdi-sio /bin/false\n")
    block = Kernel(machine.root).block("ftdi_sio")
    assert block is not None and block.line == 2
    assert Kernel(machine.root).block("cp210x") is None


def test_the_plan_follows_the_laptop() -> None:
    """Two schools: Linux binds by itself, elsewhere the driver is placed first (common practice)."""
    linux = [s.do for s in plan_for(CATALOG, Laptop(linux=True))]
    other = [s.do for s in plan_for(CATALOG, Laptop(linux=False))]
    assert any("let the kernel bind it" in s for s in linux) and not any("first time" in s for s in linux)
    assert any("first time" in s for s in other) and not any("let the kernel bind it" in s for s in other)
    poor = [s.do for s in plan_for(CATALOG, Laptop(linux=False, administrator=False, signed_only=True))]
    assert len(poor) == len(other) + 2


def test_a_wrong_driver_is_unbound_and_the_right_one_bound(machine: SimulatedMachine) -> None:
    machine.plug(TROUBLES[Trouble.NO_DRIVER], "1-2", 1)
    assert claim(UsbId.parse("1a86:7523"), CATALOG, Kernel(machine.root)).bound[0].driver is None
    machine.take("1-2")
    found = claim(UsbId.parse("1a86:7523"), CATALOG, Kernel(machine.root))
    assert [(b.interface, b.driver) for b in found.bound] == [("1-2:1.0", "usbfs")]
    assert found.steps[0].do == "echo -n 1-2:1.0 | sudo tee /sys/bus/usb/drivers/usbfs/unbind"
    assert "drivers/ch341/bind" in found.steps[1].do and "authorized" in found.steps[2].do
