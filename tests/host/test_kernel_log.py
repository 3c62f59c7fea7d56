"""Kernel log reading; message formats of the kernel's sources as named beside each (from memory), and odd input."""

from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from humble_courier.catalog.load import Catalog
from humble_courier.host.kernel_log import MOST_EVENTS, PIECE, conclude, read_log
from humble_courier.simulator.machine import SimulatedMachine, Trouble
from tests.host.conftest import FTDI, TROUBLES

PATTERNS = list(Catalog().log_lines.values())

LINES = [
    ("usb 1-1.2: new full-speed USB device number 5 using xhci_hcd", "attached", "1-1.2", None),
    ("usb 2-1: new SuperSpeed USB device number 3 using xhci_hcd", "attached", "2-1", None),
    ("usb 1-1.2: USB disconnect, device number 5", "unplugged", "1-1.2", None),
    ("usb 1-2: device descriptor read/64, error -32", "descriptor-read-failed", "1-2", None),
    ("usb 1-2: device descriptor read/8, error -71", "descriptor-read-failed", "1-2", None),
    ("usb 1-2: device not accepting address 9, error -71", "address-not-accepted", "1-2", None),
    ("usb 1-2: Device not responding to setup address.", "address-not-accepted", "1-2", None),
    ("usb 1-2: Device not responding to setup context.", "address-not-accepted", "1-2", None),
    ("usb usb1-port2: Cannot enable. Maybe the USB cable is bad?", "cannot-enable", "1-2", None),
    ("usb 1-1-port3: attempt power cycle", "power-cycled", "1-1.3", None),
    ("usb 1-4: can't set config #1, error -110", "configuration-refused", "1-4", None),
    ("usb 1-4: string descriptor 0 read error: -71", "descriptor-read-failed", "1-4", None),
    ("usb 1-4: unable to read config index 0 descriptor/start: -71", "descriptor-read-failed", "1-4", None),
    ("usb 1-3: usbfs: interface 0 claimed by cp210x while 'qemu' resets device", "taken-by-program", "1-3", None),
    ("ch341-uart ttyUSB0: usb_serial_generic_read_bulk_callback - urb stopped: -32", "transfer-stopped", None, "ttyUSB0"),
    ("xhci_hcd 0000:00:14.0: HC died; cleaning up", "controller-died", "0000:00:14.0", None),
    ("usb usb1-port2: unable to enumerate USB device", "enumeration-gave-up", "1-2", None),
    ("usb 1-1-port3: unable to enumerate USB device", "enumeration-gave-up", "1-1.3", None),
    ("usb usb1-port2: over-current condition", "over-current", "1-2", None),
    ("usb 1-1-port4: over-current change #2", "over-current", "1-1.4", None),
    ("usb 1-4: rejected 1 configuration due to insufficient available bus power", "not-enough-power", "1-4", None),
    ("usb usb1-port1: disabled by hub (EMI?), re-enabling...", "hub-disabled-port", "1-1", None),
    ("usb 1-1: reset full-speed USB device number 5 using xhci_hcd", "reset", "1-1", None),
    ("usb 1-3: usbfs: interface 0 claimed by ch341 while 'brltty' sets config #1", "taken-by-program", "1-3", None),
    ("usb 1-3: usbfs: process 812 (ModemManager) did not claim interface 0 before use", "taken-by-program", "1-3", None),
    ("usb 1-3: ch341-uart converter now attached to ttyUSB0", "port-appeared", "1-3", "ttyUSB0"),
    ("usb 1-3: FTDI USB Serial Device converter now attached to ttyUSB12", "port-appeared", "1-3", "ttyUSB12"),
    ("cdc_acm 1-3:1.0: ttyACM0: USB ACM device", "port-appeared", "1-3", "ttyACM0"),
    ("ch341-uart ttyUSB0: ch341-uart converter now disconnected from ttyUSB0", "port-vanished", None, "ttyUSB0"),
    ("ch341: probe of 1-3:1.0 failed with error -110", "probe-failed", "1-3", None),
    ("cp210x 1-3:1.0: probe with driver cp210x failed with error -5", "probe-failed", "1-3", None),
]
HEADS = ["", "[ 1234.567890] ", "[    3.000001][  T123] ", "<6>[   12.5] ", "Nov 23 10:00:01 hut kernel: ",
         "2026-11-23T10:00:01+0000 hut kernel: ", "[Mon Nov 23 10:00:01 2026] "]  # fmt: skip


@pytest.mark.parametrize("head", HEADS)
def test_messages_of_the_kernel(head: str) -> None:
    for text, code, path, port in LINES:
        (event,) = read_log([(head + text + "\n").encode()], PATTERNS)
        assert (event.code, event.usb_path, event.port) == (code, path, port), text
        assert (event.time is None) == (head == "")


def test_every_published_code_has_a_line() -> None:
    assert {code for _, code, _, _ in LINES} | {"identified", "other-device"} == {p.code for p in PATTERNS}


@pytest.mark.parametrize(
    ("trouble", "code"),
    [
        (Trouble.NONE, "healthy"),
        (Trouble.CHARGE_ONLY, "nothing-seen"),
        (Trouble.BROWN_OUT, "not-enough-power"),
        (Trouble.WORN_SOCKET, "cable-or-socket"),
        (Trouble.NO_DRIVER, "no-driver"),
        (Trouble.TAKEN, "taken-by-program"),
    ],
)
def test_what_a_technician_can_act_on(machine: SimulatedMachine, trouble: Trouble, code: str) -> None:
    machine.plug(TROUBLES[trouble], "1-1.2", 5.0)
    (found,) = conclude(read_log([machine.log_file.read_bytes()], PATTERNS))
    assert found.code == code and found.next
    assert bool(found.because) == (code != "nothing-seen")
    assert ("brltty" in found.next) == (trouble is Trouble.TAKEN)


def test_came_and_went_and_came_back(machine: SimulatedMachine) -> None:
    machine.plug(FTDI, "1-2", 1)
    machine.pull("1-2", 2)
    assert [c.code for c in conclude(read_log([machine.log_file.read_bytes()], PATTERNS))] == ["came-and-went"]
    machine.plug(FTDI, "1-2", 3)
    assert [c.code for c in conclude(read_log([machine.log_file.read_bytes()], PATTERNS))] == ["healthy"]
    for time in (4, 6, 8):
        machine.pull("1-2", time)
        machine.plug(FTDI, "1-2", time + 1)
    assert [c.code for c in conclude(read_log([machine.log_file.read_bytes()], PATTERNS))] == ["came-and-went"]


def test_a_port_that_goes_while_its_plug_stays_in_was_taken() -> None:
    """A virtual machine unbinds the driver: the port goes, and no line tells of a plug."""
    begin = b"usb 1-3: new full-speed USB device number 5 using xhci_hcd\nusb 1-3: FTDI converter now attached to ttyUSB0\n"
    taken = begin + b"ftdi_sio ttyUSB0: FTDI USB Serial Device converter now disconnected from ttyUSB0\n"
    pulled = begin + b"usb 1-3: USB disconnect, device number 5\n" + taken[len(begin) :]
    for log, code in ((taken, "taken-by-program"), (pulled, "came-and-went"), (begin, "healthy")):
        assert [c.code for c in conclude(read_log([log], PATTERNS))] == [code]


def test_other_devices_are_nobodys_fault() -> None:
    log = b"usb 1-5: new high-speed USB device number 4 using xhci_hcd\nusb-storage 1-5:1.0: USB Mass Storage detected\n"
    assert [c.code for c in conclude(read_log(log.splitlines(keepends=True), PATTERNS))] == ["nothing-seen"]


@given(st.lists(st.binary(max_size=200), max_size=30))
def test_any_bytes_do_no_harm(lines: list[bytes]) -> None:
    events = read_log([line + b" usb " for line in lines], PATTERNS)
    assert conclude(events)


@given(st.lists(st.sampled_from([*(text for text, *_ in LINES), "nothing to do with it", ""]), max_size=12), st.data())
def test_pieces_of_any_size_tell_the_same(texts: list[str], data: st.DataObject) -> None:
    whole = "".join(text + "\n" for text in texts).encode()
    cuts = sorted(data.draw(st.lists(st.integers(0, len(whole)), max_size=6)))
    chunks = [whole[a:b] for a, b in zip([0, *cuts], [*cuts, len(whole)], strict=True)]
    told = [(e.line, e.code) for e in read_log(chunks, PATTERNS)]
    codes = {text: code for text, code, _, _ in LINES}
    assert told == [(i, codes[text]) for i, text in enumerate(texts, start=1) if text in codes]


def test_odd_logs(tmp_path: Path) -> None:
    """Escape sequences, broken UTF-8, a line without end, more events than are kept."""
    path = tmp_path / "odd.log"
    good = b"\x1b[33m[    1.000000] \x1b[0musb 1-3: \xff\xfe ch341-uart converter now attached to ttyUSB0\n"
    path.write_bytes(good + b"x" * (3 * PIECE) + b" usb 1-1: USB disconnect, device number 5\n" + good)
    events = read_log([path.read_bytes()], PATTERNS)
    assert [(e.line, e.code) for e in events] == [(1, "port-appeared"), (3, "port-appeared")]
    many = (b"usb 1-1: USB disconnect, device number 5\n" for _ in range(MOST_EVENTS + 5))
    assert len(read_log(many, PATTERNS)) == MOST_EVENTS
