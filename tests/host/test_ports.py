"""Ports of a machine, from a folder that stands for its root."""

from pathlib import Path

from serial.tools import list_ports as pyserial_ports

from humble_courier.host.ports import list_ports


def machine(root: Path) -> None:
    """One USB adapter, one built-in port, one ttyS without hardware, one virtual terminal."""
    usb = root / "sys/devices/usb1/1-2"
    (usb / "1-2:1.0/ttyUSB0").mkdir(parents=True)
    (usb / "product").write_text("Serial\x07 converter\n")
    (root / "sys/bus/drivers/cp210x").mkdir(parents=True)
    (usb / "1-2:1.0/ttyUSB0/driver").symlink_to(root / "sys/bus/drivers/cp210x")
    for name, device, kind in (
        ("ttyUSB0", usb / "1-2:1.0/ttyUSB0", None),
        ("ttyS0", root / "sys/devices/serial0", "4"),
        ("ttyS1", root / "sys/devices/serial1", "0"),
        ("tty1", None, None),
    ):
        folder = root / "sys/class/tty" / name
        folder.mkdir(parents=True)
        if device is not None:
            device.mkdir(parents=True, exist_ok=True)
            (folder / "device").symlink_to(device)
        if kind is not None:
            (folder / "type").write_text(kind + "\n")
    (root / "dev").mkdir()
    (root / "dev/ttyUSB0").write_text("")


def test_what_has_hardware_is_listed(tmp_path: Path) -> None:
    machine(tmp_path)
    ports = list_ports(tmp_path)
    assert [p.address for p in ports] == ["/dev/ttyS0", "/dev/ttyUSB0"]
    usb = ports[1]
    assert (usb.driver, usb.product, usb.may_open) == ("cp210x", "Serial converter", True)
    assert ports[0].may_open is False


def test_a_machine_without_ports(tmp_path: Path) -> None:
    assert list_ports(tmp_path) == []


def test_a_loop_in_the_tree_does_no_harm(tmp_path: Path) -> None:
    folder = tmp_path / "sys/class/tty/ttyUSB0"
    folder.mkdir(parents=True)
    (folder / "device").symlink_to(folder / "device")
    assert list_ports(tmp_path) == []


def test_this_machine_against_pyserial() -> None:
    """Second opinion: pyserial's own list; it may know more kinds (Bluetooth, Xilinx boards), never fewer."""
    ours = {port.address for port in list_ports()}
    theirs = {port.device for port in pyserial_ports.comports()}
    usb = {a for a in theirs if a.startswith(("/dev/ttyUSB", "/dev/ttyACM"))}
    assert usb <= ours
