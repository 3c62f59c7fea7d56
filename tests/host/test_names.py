"""Rules that name a port, safe against what a device reports; numbers against every permutation."""

import os
import shutil
import subprocess
from itertools import permutations
from pathlib import Path

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from humble_courier.errors import BadInput
from humble_courier.host.kinds import HostPort, PortKind, UsbDevice
from humble_courier.host.names import By, make_rule
from humble_courier.host.numbers import Adapter, Program, assign
from humble_courier.host.ports import list_ports
from humble_courier.simulator.machine import SimulatedMachine
from tests.host.conftest import CH341, FTDI


def test_by_serial_number_where_there_is_one_else_by_socket(machine: SimulatedMachine) -> None:
    machine.plug(FTDI, "1-2", 1)
    machine.plug(CH341, "1-3.1", 2)
    first, second = list_ports(machine.root)
    rule = make_rule(first, "weir", None)
    assert rule.by is By.SERIAL and rule.link == "/dev/serial-weir"
    assert rule.text == (
        'SUBSYSTEM=="tty", ATTRS{idVendor}=="0403", ATTRS{idProduct}=="6001", ATTRS{serial}=="SK0001", '
        'ENV{ID_USB_INTERFACE_NUM}=="00", SYMLINK+="serial-weir"'
    )
    rule = make_rule(second, "hut", None)
    assert rule.by is By.SOCKET and 'KERNELS=="1-3.1"' in rule.text and "socket" in rule.survives
    with pytest.raises(BadInput, match="no serial number"):
        make_rule(second, "hut", By.SERIAL)


def usb(serial: str, address: str = "/dev/ttyUSB0") -> HostPort:
    return HostPort(address, PortKind.USB, "ftdi_sio", UsbDevice("1-2", "0403", "6001", serial))


def test_two_with_the_same_serial_number_are_not_told_apart_by_it() -> None:
    with pytest.raises(BadInput, match="same serial number"):
        make_rule(usb("0001"), "weir", None, [usb("0001"), usb("0001", "/dev/ttyUSB1")])


@pytest.mark.parametrize("name", ["", "Weir", "../etc", 'a"b', "a b", "-a", "x" * 40])
def test_a_name_is_plain(name: str) -> None:
    with pytest.raises(BadInput, match="expected small letters"):
        make_rule(usb("1"), name, None)


@given(st.text(min_size=1, max_size=40))
def test_no_string_of_a_device_gets_out_of_its_quotes(serial: str) -> None:
    """A rule is one line of pairs; what could end the quotes, match as a pattern or begin a line is refused."""
    try:
        rule = make_rule(usb(serial), "weir", By.SERIAL)
    except BadInput:
        return
    assert "\n" not in rule.text and rule.text.count('"') == 2 * 6 - 2
    assert not set("*?[]|'\\$%") & set(serial)
    assert all("'" not in command.removeprefix("echo '").partition("' |")[0] for command in rule.commands[:1])


adapters = st.lists(st.one_of(st.none(), st.integers(1, 9)), min_size=1, max_size=4)


@settings(deadline=None)
@given(
    adapters,
    st.lists(st.tuples(st.integers(0, 3), st.sampled_from([1, 2, 4, 8])), max_size=4),
    st.sets(st.integers(1, 6), max_size=2),
)
def test_fewest_changes_against_every_permutation(
    now: list[int | None], programs: list[tuple[int, int]], reserved: set[int]
) -> None:
    have = [Adapter(f"a{i}", n) for i, n in enumerate(now)]
    want = [Program(f"p{i}", f"a{uses % len(now)}", highest) for i, (uses, highest) in enumerate(programs)]
    found = assign(have, want, frozenset(reserved))
    limits = [min((p.highest for p in want if p.uses == a.id), default=99) for a in have]
    best = None
    for numbers in permutations([n for n in range(1, 12) if n not in reserved], len(have)):
        if all(n <= limit for n, limit in zip(numbers, limits, strict=True)):
            changes = sum(n != a.number for n, a in zip(numbers, have, strict=True))
            best = changes if best is None else min(best, changes)
    assert bool(found.conflicts) == (best is None)
    assert len(set(found.numbers.values())) == len(found.numbers) and not set(found.numbers.values()) & reserved
    if best is not None:
        assert found.changes == best == sum(found.numbers[a.id] != a.number for a in have)
        assert all(found.numbers[a.id] <= limit for a, limit in zip(have, limits, strict=True))


def test_the_chart_recorder_takes_port_one_or_two_only() -> None:
    found = assign([Adapter("yard", 8), Adapter("spare", 2)], [Program("chart", "yard", 2)], frozenset({1}))
    assert found.numbers["yard"] == 2 and found.numbers["spare"] != 2 and found.changes == 2


UDEV = """
mount -t tmpfs none /run && mkdir -p /run/udev/rules.d && mount -t tmpfs none /dev && cat > /run/udev/rules.d/70-serial.rules
udevadm test --action=change /sys/class/tty/"$1" 2>&1
"""


@pytest.mark.skipif(os.geteuid() != 0 or shutil.which("udevadm") is None, reason="needs root and udev")
@pytest.mark.parametrize("product", ["SK0001", "A/b c:1.2+3-4_5"])
def test_rules_against_udev_itself(product: str) -> None:
    """Outside reference: udev's own reader and matcher, in a name space of its own; nothing of the machine is changed."""
    tty, above = next(
        (t.name, (t / "device").resolve()) for t in sorted(Path("/sys/class/tty").iterdir()) if (t / "device").exists()
    )
    device = UsbDevice(above.parent.name, "0403", "6001", product)
    by_serial = make_rule(HostPort("/dev/ttyUSB0", PortKind.USB, usb=device), "weir", By.SERIAL)
    by_socket = make_rule(HostPort(f"/dev/{tty}", PortKind.USB, usb=device), "pass", By.SOCKET)
    broken = 'SUBSYSTEM=="tty", KERNELZ=="x"'
    rules = "\n".join((by_serial.text, by_socket.text, broken)) + "\n"
    told = subprocess.run(
        ["unshare", "-m", "sh", "-c", UDEV, "sh", tty], input=rules, capture_output=True, text=True, check=False
    ).stdout
    ours = [line for line in told.splitlines() if "70-serial.rules:" in line]
    assert any("70-serial.rules:3 Invalid key" in line for line in ours), told[-2000:]
    assert [line for line in ours if "Invalid" in line or "rror" in line] == [line for line in ours if ":3 " in line]
    assert any("70-serial.rules:2 LINK 'serial-pass'" in line for line in ours)
    assert not any("serial-weir" in line for line in ours)
