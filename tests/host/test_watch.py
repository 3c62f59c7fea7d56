"""Which one is mine: plugs pulled and put back on the simulated machine, told apart from other changes."""

from hypothesis import given
from hypothesis import strategies as st

from humble_courier.host.ports import list_ports
from humble_courier.host.watch import RECENT_S, PlugWatch, What
from humble_courier.simulator.machine import SimulatedMachine
from tests.host.conftest import CH341, CP210X, FTDI


def looked(watch: PlugWatch, machine: SimulatedMachine, time: float) -> None:
    watch.feed(list_ports(machine.root), time)


def begun(machine: SimulatedMachine) -> PlugWatch:
    watch = PlugWatch()
    machine.native()
    machine.plug(FTDI, "1-2", 1)
    machine.plug(CH341, "1-3.1", 2)
    machine.plug(CH341, "1-3.2", 3)
    looked(watch, machine, 100)
    assert watch.mine(100) == [] and watch.recent(100) == []
    return watch


def test_pulled_and_put_back(machine: SimulatedMachine) -> None:
    watch = begun(machine)
    machine.pull("1-3.1", 10)
    looked(watch, machine, 101)
    assert [p.address for p in watch.missing(101)] == ["/dev/ttyUSB1"]
    machine.plug(CH341, "1-3.1", 11)
    looked(watch, machine, 104)
    (mine,) = watch.mine(104)
    assert (mine.now.address, mine.sure, mine.moved) == ("/dev/ttyUSB1", True, "")
    assert watch.missing(104) == []
    assert watch.mine(104 + RECENT_S + 1) == []


def test_the_number_changed_and_the_socket_too(machine: SimulatedMachine) -> None:
    watch = begun(machine)
    machine.pull("1-2", 10)
    looked(watch, machine, 101)
    machine.plug(CP210X, "1-5", 11)  # another adapter takes the number meanwhile
    looked(watch, machine, 102)
    machine.plug(FTDI, "1-6", 12)
    looked(watch, machine, 103)
    (mine,) = watch.mine(103)
    assert mine.now.address == "/dev/ttyUSB3" and mine.sure
    assert "it was /dev/ttyUSB0" in mine.moved and "another socket (1-6, before 1-2)" in mine.moved


def test_one_without_a_serial_number_in_another_socket_is_not_certain(machine: SimulatedMachine) -> None:
    watch = begun(machine)
    machine.pull("1-3.1", 10)
    looked(watch, machine, 101)
    machine.plug(CH341, "1-7", 11)
    looked(watch, machine, 102)
    (mine,) = watch.mine(102)
    assert not mine.sure and mine.now.usb is not None and mine.now.usb.path == "1-7"


def test_two_that_come_back_are_a_question(machine: SimulatedMachine) -> None:
    watch = begun(machine)
    for socket in ("1-2", "1-3.2"):
        machine.pull(socket, 10)
    looked(watch, machine, 101)
    for plug, socket in ((FTDI, "1-2"), (CH341, "1-3.2")):
        machine.plug(plug, socket, 11)
    looked(watch, machine, 102)
    assert {m.now.usb.path for m in watch.mine(102) if m.now.usb} == {"1-2", "1-3.2"}


def test_what_comes_new_is_not_what_came_back(machine: SimulatedMachine) -> None:
    watch = begun(machine)
    machine.plug(CP210X, "1-5", 11)
    looked(watch, machine, 101)
    assert [c.what for c in watch.recent(101)] == [What.APPEARED]
    assert watch.mine(101) == []


@given(st.lists(st.sampled_from(["a", "b", "c"]), max_size=12))
def test_any_order_of_lists(names: list[str]) -> None:
    from humble_courier.host.kinds import HostPort, PortKind, UsbDevice

    watch = PlugWatch()
    here: set[str] = set()
    for time, name in enumerate(names):
        here ^= {name}
        ports = [HostPort(f"/dev/tty{n}", PortKind.USB, "x", UsbDevice(n, "1", "2", n)) for n in sorted(here)]
        watch.feed(ports, time)
        for mine in watch.mine(time):
            assert mine.now.address.removeprefix("/dev/tty") in here and mine.sure
