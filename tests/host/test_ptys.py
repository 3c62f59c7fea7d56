"""Ptys of programs, the latency timer, events of plugs, and the second opinion."""

import os
from dataclasses import dataclass, field
from pathlib import Path

import pytest
import serial.tools.list_ports_linux

from humble_courier.errors import BadInput, MachineRefused
from humble_courier.host.access import holders
from humble_courier.host.kinds import HostPort, PortKind
from humble_courier.host.plug_events import PlugEvents, plug_events
from humble_courier.host.ports import list_ports
from humble_courier.host.ptys import list_ptys
from humble_courier.host.second_opinion import overlooked
from humble_courier.host.timing import flag_command, set_timer, timer_command
from humble_courier.simulator.machine import SimulatedMachine
from tests.host.conftest import CP210X, FTDI

HERE = Path("/")


def test_a_pty_of_a_program_is_a_port_and_a_terminal_is_none(machine: SimulatedMachine) -> None:
    machine.pty(4, 2101, "bench")
    machine.terminal(5, 2102)
    machine.terminal(300, 2103)  # the number's high bits stand apart in tty_nr
    (port,) = list_ports(machine.root)[-1:]
    assert (port.address, port.kind, port.holder) == ("/dev/pts/4", PortKind.PTY, None)
    assert port.served is not None and (port.served.pid, port.served.program) == (2101, "bench")
    machine.hold("/dev/pts/4", 2104, "terminal")
    assert list_ports(machine.root)[-1].why_not == ("held",)


def test_a_pty_of_this_machine_names_its_maker() -> None:
    """Outside reference: the kernel itself, with a pty that this test makes."""
    ours, theirs = os.openpty()
    try:
        name = os.ttyname(theirs)
        found = {p.address: p for p in list_ptys(HERE, holders())}
        assert name in found
        served = found[name].served
        assert served is not None and served.pid == os.getpid()
    finally:
        os.close(ours)
        os.close(theirs)


def test_the_timer_is_set_and_the_old_value_told(machine: SimulatedMachine) -> None:
    machine.plug(FTDI, "1-2", 1)
    (port,) = list_ports(machine.root)
    assert set_timer(machine.root, port, 1) == 16
    assert list_ports(machine.root)[0].latency_ms == 1
    assert timer_command(port, 16).endswith("/sys/class/tty/ttyUSB0/device/latency_timer")
    for ms in (0, 256):
        with pytest.raises(BadInput, match="expected 1 to 255"):
            set_timer(machine.root, port, ms)
    machine.pull("1-2", 2)
    with pytest.raises(MachineRefused, match="could not be set"):
        set_timer(machine.root, port, 1)


def test_a_driver_without_a_timer(machine: SimulatedMachine) -> None:
    machine.plug(CP210X, "1-2", 1)
    (port,) = list_ports(machine.root)
    with pytest.raises(BadInput, match="no latency timer"):
        set_timer(machine.root, port, 1)


@pytest.mark.parametrize(
    ("flags", "low"), [("0x2040", True), ("0x40", False), ("50002000", True), ("", None), ("rubbish", None)]
)
def test_the_low_latency_flag(machine: SimulatedMachine, flags: str, low: bool | None) -> None:
    machine.native()
    (machine.root / "sys/class/tty/ttyS0/flags").write_text(flags + "\n")
    assert list_ports(machine.root)[0].low_latency is low
    assert flag_command(HostPort("/dev/ttyS0"), low=False) == "sudo setserial /dev/ttyS0 ^low_latency"


@dataclass
class Events:
    """A monitor with events that wait."""

    waiting: list[str] = field(default_factory=list)

    def fileno(self) -> int:
        return 7

    def poll(self, timeout: float) -> object | None:
        assert timeout == 0
        return self.waiting.pop() if self.waiting else None


def test_events_are_drained() -> None:
    events = PlugEvents(Events(["add", "bind"]))
    assert events.drain() and not events.drain() and events.fileno() == 7
    live = plug_events()
    assert (live is not None) == Path("/run/udev/control").exists()


def test_the_second_opinion_adds_what_was_overlooked(monkeypatch: pytest.MonkeyPatch) -> None:
    class Named:
        def __init__(self, device: str) -> None:
            self.device = device

    names = [Named("/dev/ttyXRUSB0"), Named("/dev/ttyUSB0"), Named("/dev/null")]
    monkeypatch.setattr(serial.tools.list_ports_linux, "comports", lambda: names)
    found = overlooked([HostPort("/dev/ttyUSB0"), HostPort("/dev/null")])
    assert [(p.address, p.kind) for p in found] == [("/dev/ttyXRUSB0", PortKind.VIRTUAL)]
