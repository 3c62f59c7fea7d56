"""Ports of a machine: the simulated one as adapters come and go, permission, holders; this one against pyserial."""

import os
import stat
import subprocess
import sys
from dataclasses import replace
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st
from serial.tools import list_ports as pyserial_ports

from humble_courier.host.access import Me, allowed, look, who_am_i
from humble_courier.host.kinds import HostPort, PortKind
from humble_courier.host.ports import list_ports
from humble_courier.host.power import power_of
from humble_courier.simulator.machine import Plug, SimulatedMachine
from tests.host.conftest import ACM, CH341, CP210X, FTDI


def addresses(machine: SimulatedMachine) -> list[str]:
    return [p.address for p in list_ports(machine.root)]


def test_what_the_system_knows_of_each(machine: SimulatedMachine) -> None:
    machine.native()
    machine.plug(FTDI, "1-2", 10)
    machine.plug(CH341, "1-3", 20)
    machine.plug(ACM, "1-4", 30)
    acm, first, second, native = list_ports(machine.root)
    assert [p.kind for p in (acm, first, second, native)] == [PortKind.USB, PortKind.USB, PortKind.USB, PortKind.NATIVE]
    assert (first.driver, second.driver, acm.driver, native.driver) == ("ftdi_sio", "ch341", "cdc_acm", None)
    assert first.usb is not None and (first.usb.vid, first.usb.pid, first.usb.path) == ("0403", "6001", "1-2")
    assert (first.usb.serial, first.usb.max_power_ma, first.latency_ms) == ("SK0001", 90, 16)
    assert first.by_id == "/dev/serial/by-id/usb-SK0001-if00-port0" and second.by_id is None
    assert second.by_path == "/dev/serial/by-path/pci-0000:00:14.0-usb-0:3:1.0-port0"


def test_numbers_change_when_adapters_come_back(machine: SimulatedMachine) -> None:
    assert machine.plug(FTDI, "1-2", 1) == "ttyUSB0"
    assert machine.plug(CH341, "1-3", 2) == "ttyUSB1"
    machine.pull("1-2", 3)
    assert addresses(machine) == ["/dev/ttyUSB1"]
    machine.plug(CP210X, "1-5", 4)
    assert machine.plug(FTDI, "1-2", 5) == "ttyUSB2"
    assert addresses(machine) == [f"/dev/ttyUSB{n}" for n in range(3)]


def test_ttys_without_hardware_and_loops_are_left_out(machine: SimulatedMachine) -> None:
    machine.native("ttyS0")
    machine.native("ttyS1")
    (machine.root / "sys/class/tty/ttyS1/type").write_text("0\n")
    (machine.root / "sys/class/tty/tty1").mkdir()
    loop = machine.root / "sys/class/tty/ttyUSB7"
    loop.mkdir()
    (loop / "device").symlink_to(loop / "device")
    assert addresses(machine) == ["/dev/ttyS0"]
    assert list_ports(machine.root / "nothing") == []


def test_strings_of_a_device_are_shown_without_control_characters(machine: SimulatedMachine) -> None:
    plug = Plug("0403", "6001", "ftdi_sio", "ftdi_sio", product="Serial\x07\x1b[31m adapter" + "x" * 200)
    machine.plug(plug, "1-2", 1)
    product = list_ports(machine.root)[0].product
    assert product is not None and product.isprintable() and len(product) == 80


def test_what_stands_in_the_way(machine: SimulatedMachine) -> None:
    machine.plug(FTDI, "1-2", 1)
    assert list_ports(machine.root)[0].why_not == ()
    machine.hold("/dev/ttyUSB0", 4711, "ModemManager")
    (machine.root / "run/lock/LCK..ttyUSB0").write_text("      4711\n")
    port = list_ports(machine.root)[0]
    assert port.why_not == ("held", "locked") and not port.openable
    assert port.holder is not None and (port.holder.pid, port.holder.program) == (4711, "ModemManager")
    (machine.root / "dev/ttyUSB0").unlink()
    assert "gone" in list_ports(machine.root)[0].why_not


ASKS = [
    (Me(1000, "technician", frozenset({1000}), frozenset({1000})), False, False, "sudo usermod -a -G dialout technician"),
    (Me(1000, "technician", frozenset({1000}), frozenset({1000, 20})), False, True, "newgrp dialout"),
    (Me(1000, "technician", frozenset({1000, 20}), frozenset({1000, 20})), True, False, ""),
    (Me(0, "root", frozenset({0}), frozenset({0})), True, False, ""),
]


@pytest.mark.parametrize(("me", "may", "new_login", "remedy"), ASKS)
def test_the_remedy_for_a_refused_port(machine: SimulatedMachine, me: Me, may: bool, new_login: bool, remedy: str) -> None:
    machine.plug(FTDI, "1-2", 1)
    os.chown(machine.root / "dev/ttyUSB0", 0, 20)
    access = look(machine.root, "/dev/ttyUSB0", replace(me, group_names={20: "dialout"}))
    assert (access.allowed, access.new_login, access.remedy, access.group) == (may, new_login, remedy, "dialout")


SCRIPT = """
import os, sys
os.setgroups([int(g) for g in sys.argv[3].split(",") if g]); os.setgid(int(sys.argv[2])); os.setuid(int(sys.argv[1]))
print(*(int(os.access(path, os.R_OK | os.W_OK)) for path in sys.argv[4:]))
"""


@pytest.mark.skipif(os.geteuid() != 0, reason="only root can become other users")
@pytest.mark.parametrize(
    ("uid", "gid", "groups"), [(1001, 1001, ""), (1002, 1002, "20"), (1003, 20, ""), (65534, 65534, "1001")]
)
def test_permission_against_the_system_itself(tmp_path: Path, uid: int, gid: int, groups: str) -> None:
    """Outside reference: access(2) asked as that user, over all modes of owner, group and others."""
    tmp_path.chmod(0o755)
    for folder in tmp_path.parents:
        folder.chmod(folder.stat().st_mode | 0o011)
    cases = []
    for owner, group in ((1001, 20), (1002, 1001), (0, 20)):
        for mode in (0o600, 0o060, 0o006, 0o660, 0o606, 0o066, 0o640, 0o440, 0o666, 0o000):
            node = tmp_path / f"{owner}-{group}-{mode:o}"
            node.touch()
            os.chown(node, owner, group)
            node.chmod(mode)
            cases.append((node, mode, owner, group))
    command = [sys.executable, "-c", SCRIPT, str(uid), str(gid), groups, *(str(c[0]) for c in cases)]
    told = subprocess.run(command, capture_output=True, text=True, check=True, cwd="/").stdout.split()
    me = Me(uid, "x", frozenset({gid, *(int(g) for g in groups.split(",") if g)}), frozenset())
    assert [allowed(mode, owner, group, me) for _, mode, owner, group in cases] == [word == "1" for word in told]


@given(st.integers(0, 0o777), st.integers(0, 3), st.integers(0, 3), st.integers(1, 3), st.sets(st.integers(0, 3)))
def test_more_permission_never_closes_a_port_to_others(
    mode: int, owner: int, group: int, uid: int, groups: set[int]
) -> None:
    me = Me(uid, "x", frozenset(groups), frozenset(groups))
    assert allowed(0o666, owner, group, me)
    assert allowed(mode, owner, group, me) <= allowed(mode | 0o666, owner, group, me)
    assert allowed(mode, owner, group, Me(0, "root", frozenset(), frozenset()))


@pytest.mark.parametrize(
    ("socket", "attributes", "asks", "gives", "enough"),
    [
        ("1-2", None, 400, 500, True),
        ("1-1.3", "80", 90, 100, True),  # a hub fed by the bus gives 100 mA a socket
        ("1-1.3", "80", 300, 100, False),
        ("1-1.3", "e0", 300, 500, True),
    ],
)
def test_power(machine: SimulatedMachine, socket: str, attributes: str | None, asks: int, gives: int, enough: bool) -> None:
    if attributes is not None:
        hub = machine.root / "sys/bus/usb/devices/1-1"
        hub.mkdir(parents=True)
        (hub / "bmAttributes").write_text(attributes + "\n")
    machine.plug(Plug("0403", "6001", "ftdi_sio", "ftdi_sio", power_ma=asks), socket, 1)
    power = power_of(list_ports(machine.root)[0], machine.root)
    assert power is not None and (power.asks_ma, power.gives_ma, power.enough) == (asks, gives, enough)
    assert ("supply" in power.story.rpartition(".")[0].rpartition(". ")[2]) or enough


@pytest.mark.parametrize(
    ("own", "inner", "asks", "told"),
    [
        (False, None, (98, 98), ""),
        (False, None, (98, 98, 98, 98, 98), "together ask for 590 mA of 500"),  # five of 98 and the hub's own 100
        (False, False, (90,), "hangs on another hub"),
        (True, False, (90,), ""),
        (True, True, (450, 450), ""),
    ],
)
def test_hubs(machine: SimulatedMachine, own: bool, inner: bool | None, asks: tuple[int, ...], told: str) -> None:
    machine.hub("1-3", own)
    socket = "1-3"
    if inner is not None:
        machine.hub("1-3.4", inner)
        socket = "1-3.4"
    for number, ma in enumerate(asks, start=1):
        machine.plug(Plug("1a86", "7523", "ch341", "ch341-uart", power_ma=ma), f"{socket}.{number}", 1)
    power = power_of(list_ports(machine.root)[0], machine.root)
    assert power is not None and power.enough == (not told) and told in power.story
    assert bool(power.remedy) == bool(told)


def test_over_current_is_remembered(machine: SimulatedMachine) -> None:
    machine.plug(FTDI, "1-2", 1)
    counter = machine.root / "sys/bus/usb/devices/usb1/1-0:1.0/usb1-port2/over_current_count"
    counter.parent.mkdir(parents=True)
    counter.write_text("3\n")
    power = power_of(list_ports(machine.root)[0], machine.root)
    assert power is not None and not power.enough and "3 times" in power.story


def test_this_machine_against_pyserial() -> None:
    """Second opinion: pyserial's own list; it may know more kinds (Xilinx boards), never fewer of these."""
    ours = {port.address for port in list_ports()}
    theirs = {port.device for port in pyserial_ports.comports()}
    usb = {a for a in theirs if a.startswith(("/dev/ttyUSB", "/dev/ttyACM"))}
    assert usb <= ours
    me = who_am_i()
    assert me.uid == os.geteuid()
    for port in list_ports():
        assert isinstance(port, HostPort)
        assert stat.S_ISCHR(Path(port.address).stat().st_mode)
        assert port.may_open == os.access(port.address, os.R_OK | os.W_OK, effective_ids=True)
