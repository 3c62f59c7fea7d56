"""Ports that lead to no device stand folded under a count, save those that are new or ours; an adapter leads to its link."""

import msgspec

from humble_courier.app.port.machine import Machine, Seen
from humble_courier.app.port.profiles import Profile, link_at, save_profile
from humble_courier.catalog.load import Catalog
from humble_courier.host.kinds import HostPort, PortKind, UsbDevice
from humble_courier.records.store import Store
from tests.records.test_store import LINK


def usb(address: str, serial: str | None, socket: str) -> HostPort:
    return HostPort(address, PortKind.USB, "ftdi_sio", UsbDevice(socket, "0403", "6001", serial))


PORTS = [
    usb("/dev/ttyUSB0", "SK0001", "1-2"), HostPort("/dev/rfcomm0", PortKind.BLUETOOTH),
    *(HostPort(f"/dev/pts/{n}", PortKind.PTY) for n in range(3)), HostPort("/dev/ttyS0"),
]  # fmt: skip


def test_they_are_folded_and_shown_when_asked(catalog: Catalog) -> None:
    machine = Machine(catalog)
    machine.take(Seen(machine.root, PORTS, []), 100.0)
    titles = [row.title for row in machine.rows()]
    assert titles == ["/dev/ttyUSB0", "/dev/ttyS0", "4 ports that lead to no device"]
    fold = machine.rows()[-1]
    assert fold.folds and "1 Bluetooth" in fold.detail and "3 made by programs" in fold.detail
    machine.ours = "/dev/pts/1"
    assert "/dev/pts/1" in [row.title for row in machine.rows()], "the port of the link is never folded away"
    machine.unfolded = True
    assert len(machine.rows()) == len(PORTS) + 1
    machine.unfolded = False
    machine.take(Seen(machine.root, [*PORTS, HostPort("/dev/pts/9", PortKind.PTY)], []), 101.0)
    assert "/dev/pts/9" in [row.title for row in machine.rows()], "what has just appeared is shown"


def test_an_adapter_leads_to_the_link_that_it_served_last(store: Store) -> None:
    first, second = store.save_link(LINK, "weir"), store.save_link(LINK, "hut")
    profile = Profile("/dev/ttyUSB0", "9600,8N1", 1.0, "ftdi_sio", "0403", "6001", "SK0001", "1-2")
    save_profile(store, first, profile)
    assert link_at(store, usb("/dev/ttyUSB7", "SK0001", "1-4")) == (first, "weir"), "known by its serial number"
    assert link_at(store, usb("/dev/ttyUSB0", "SK0009", "1-2")) is None
    save_profile(store, second, msgspec.structs.replace(profile, at=2.0, serial=None))
    assert link_at(store, usb("/dev/ttyUSB3", None, "1-2")) == (second, "hut"), "known by its socket"
    assert link_at(store, HostPort("/dev/ttyS0")) is None
