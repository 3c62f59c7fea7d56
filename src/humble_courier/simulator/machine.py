"""A simulated machine: a folder with the parts of sysfs, proc, dev and the kernel log that the `host` room reads.

Adapters are plugged in and pulled, and behave as adapters do: numbers change, a charge-only cable shows nothing, a hub
browns out, a worn socket enumerates again and again, a module is blocked, two of a kind have no serial number.
"""

import shutil
from dataclasses import dataclass
from enum import StrEnum
from pathlib import Path

RELEASE = "6.1.0-skerrow"
GROUPS = "root:x:0:\ndialout:x:20:technician\n"
USERS = "root:x:0:0:root:/root:/bin/sh\ntechnician:x:1000:1000::/home/technician:/bin/sh\n"
MODULES = ("ftdi_sio", "cp210x", "ch341", "pl2303", "cdc_acm", "usbserial")


class Trouble(StrEnum):
    """What may be wrong between the plug and the port."""

    NONE = "none"
    CHARGE_ONLY = "charge-only"
    BROWN_OUT = "brown-out"
    WORN_SOCKET = "worn-socket"
    NO_DRIVER = "no-driver"
    TAKEN = "taken"


@dataclass(frozen=True)
class Plug:
    """An adapter as USB sees it. `driver` names itself in the log as the kernel's driver does."""

    vid: str
    pid: str
    module: str
    driver: str
    serial: str | None = None
    product: str | None = "Serial adapter"
    power_ma: int = 100
    trouble: Trouble = Trouble.NONE


class SimulatedMachine:
    """The tree under `root`, and what happens when something is plugged in or pulled. Times are handed in (seconds)."""

    def __init__(self, root: Path, aliases: str) -> None:
        self.root = root
        self._number = 1
        self._sockets: dict[str, Plug] = {}
        for folder in ("sys/class/tty", "sys/bus/usb/devices", "dev/serial/by-id", "dev/serial/by-path", "etc/modprobe.d",
                       "proc/sys/kernel", "var/log", f"lib/modules/{RELEASE}", "run/lock"):  # fmt: skip
            (root / folder).mkdir(parents=True, exist_ok=True)
        self._write("proc/sys/kernel/osrelease", RELEASE + "\n")
        self._write("proc/modules", "".join(f"{name} 16384 0 - Live 0x0\n" for name in ("cp210x", "usbserial")))
        self._write("etc/group", GROUPS)
        self._write("etc/passwd", USERS)
        modules = f"lib/modules/{RELEASE}"
        self._write(f"{modules}/modules.alias", aliases)
        self._write(f"{modules}/modules.builtin", "kernel/drivers/tty/serial/8250/8250.ko\n")
        listed = "".join(
            f"kernel/drivers/usb/serial/{name}.ko.xz: kernel/drivers/usb/serial/usbserial.ko.xz\n" for name in MODULES
        )
        self._write(f"{modules}/modules.dep", listed)
        (root / "var/log/kern.log").touch()

    def _write(self, path: str, text: str) -> None:
        target = self.root / path
        target.parent.mkdir(parents=True, exist_ok=True)
        target.write_text(text)

    @property
    def log_file(self) -> Path:
        """The kernel log of the machine."""
        return self.root / "var/log/kern.log"

    def say(self, time: float, text: str) -> None:
        """A line of the kernel log."""
        with self.log_file.open("a") as file:
            file.write(f"[{time:12.6f}] {text}\n")

    def native(self, name: str = "ttyS0") -> None:
        """A port of the board itself."""
        device = self.root / "sys/devices/platform" / name
        device.mkdir(parents=True)
        self._tty(name, device)
        self._write(f"sys/class/tty/{name}/type", "4\n")

    def block(self, module: str) -> None:
        """Keep a module from loading by itself."""
        with (self.root / "etc/modprobe.d/blacklist.conf").open("a") as file:
            file.write(f"# kept out\nblacklist {module}\n")

    def hold(self, node: str, pid: int, program: str) -> None:
        """Let a process have a node open."""
        folder = self.root / "proc" / str(pid)
        (folder / "fd").mkdir(parents=True)
        self._write(f"proc/{pid}/comm", program + "\n")
        (folder / "fd/3").symlink_to(node)

    def hub(self, socket: str, own_supply: bool) -> None:
        """A hub in a socket; what is plugged into it has a socket like 1-3.1."""
        folder = self._folder(socket)
        (folder / f"{socket}:1.0").mkdir(parents=True)
        for name, value in (("bmAttributes", "e0" if own_supply else "80"), ("bMaxPower", "100mA")):
            (folder / name).write_text(value + "\n")
        (folder / f"{socket}:1.0" / "driver").symlink_to(self.root / "sys/bus/usb/drivers/hub")
        (self.root / "sys/bus/usb/drivers/hub").mkdir(parents=True, exist_ok=True)
        (self.root / "sys/bus/usb/devices" / socket).symlink_to(folder)

    def pty(self, number: int, pid: int, program: str) -> None:
        """A pty that a program serves (tty-index in the fdinfo of its end)."""
        self._write(f"dev/pts/{number}", "")
        (self.root / f"dev/pts/{number}").chmod(0o620)
        self.hold("/dev/ptmx", pid, program)
        self._write(f"proc/{pid}/fdinfo/3", f"pos:\t0\nflags:\t02\ntty-index:\t{number}\n")

    def terminal(self, number: int, pid: int) -> None:
        """A pty that somebody sits at: it is the controlling terminal of a process."""
        self._write(f"dev/pts/{number}", "")
        device = (number & 0xFF) | 136 << 8 | (number & ~0xFF) << 12  # new_encode_dev in include/linux/kdev_t.h
        self._write(f"proc/{pid}/stat", f"{pid} (a shell) S 1 {pid} {pid} {device} {pid} 0\n")

    def take(self, socket: str) -> None:
        """Let a program hold a device past the kernel, as a virtual machine does."""
        driver = self.root / "sys/bus/usb/drivers/usbfs"
        driver.mkdir(parents=True, exist_ok=True)
        (self._folder(socket) / f"{socket}:1.0" / "driver").symlink_to(driver)

    def _tty(self, name: str, device: Path) -> None:
        folder = self.root / "sys/class/tty" / name
        folder.mkdir(parents=True)
        (folder / "device").symlink_to(device)
        self._write(f"dev/{name}", "")
        (self.root / "dev" / name).chmod(0o660)

    def plug(self, plug: Plug, socket: str, time: float) -> str | None:
        """Plug an adapter into a socket (`1-2`, `1-2.3` behind a hub); returns the tty that appears, or None."""
        if plug.trouble is Trouble.CHARGE_ONLY:
            return None
        self._number += 1
        if plug.trouble is Trouble.WORN_SOCKET:
            self._fail(socket, time)
            return None
        self.say(time, f"usb {socket}: new full-speed USB device number {self._number} using xhci_hcd")
        if plug.trouble is Trouble.BROWN_OUT:
            hub, _, number = socket.rpartition(".")
            self.say(time + 0.2, f"usb {hub}-port{number}: over-current condition" if hub else f"usb {socket}: rejected "
                     "1 configuration due to insufficient available bus power")  # fmt: skip
            self.say(time + 0.3, f"usb {socket}: USB disconnect, device number {self._number}")
            return None
        found = f"usb {socket}: New USB device found, idVendor={plug.vid}, idProduct={plug.pid}, bcdDevice= 1.00"
        self.say(time + 0.1, found)
        self._device(plug, socket)
        self._sockets[socket] = plug
        if plug.trouble is Trouble.NO_DRIVER:
            return None
        return self._claim(plug, socket, time)

    def _fail(self, socket: str, time: float) -> None:
        for i in range(2):
            self.say(time + i, f"usb {socket}: new full-speed USB device number {self._number + i} using xhci_hcd")
            self.say(time + i + 0.2, f"usb {socket}: device descriptor read/64, error -32")
        self.say(time + 2, f"usb {socket}: device not accepting address {self._number + 1}, error -71")
        bus, _, port = socket.partition("-")
        self.say(time + 3, f"usb usb{bus}-port{port}: unable to enumerate USB device")

    def _folder(self, socket: str) -> Path:
        return self.root / "sys/devices/pci0000:00/usb1" / socket

    def _device(self, plug: Plug, socket: str) -> None:
        folder = self._folder(socket)
        (folder / f"{socket}:1.0").mkdir(parents=True)
        facts = {"idVendor": plug.vid, "idProduct": plug.pid, "bMaxPower": f"{plug.power_ma}mA", "speed": "12",
                 "serial": plug.serial, "product": plug.product}  # fmt: skip
        for name, value in facts.items():
            if value is not None:
                (folder / name).write_text(value + "\n")
        (folder / f"{socket}:1.0" / "bInterfaceNumber").write_text("00\n")
        (self.root / "sys/bus/usb/devices" / socket).symlink_to(folder)

    def _claim(self, plug: Plug, socket: str, time: float) -> str:
        acm = plug.module == "cdc_acm"
        stem = "ttyACM" if acm else "ttyUSB"
        number = next(n for n in range(256) if not (self.root / "sys/class/tty" / f"{stem}{n}").exists())
        name = f"{stem}{number}"
        interface = self._folder(socket) / f"{socket}:1.0"
        device = interface if acm else interface / name
        device.mkdir(exist_ok=True)
        driver = self.root / "sys/bus/usb-serial/drivers" / plug.driver
        module = self.root / "sys/module" / plug.module
        driver.mkdir(parents=True, exist_ok=True)
        module.mkdir(parents=True, exist_ok=True)
        if not (driver / "module").exists():
            (driver / "module").symlink_to(module)
        (device / "driver").symlink_to(driver)
        if plug.module == "ftdi_sio":
            (device / "latency_timer").write_text("16\n")
        self._tty(name, device)
        (self.root / f"dev/serial/by-path/pci-0000:00:14.0-usb-0:{socket.partition('-')[2]}:1.0-port0").symlink_to(
            f"../../{name}"
        )
        if plug.serial:
            (self.root / f"dev/serial/by-id/usb-{plug.serial}-if00-port0").symlink_to(f"../../{name}")
        if acm:
            self.say(time + 0.2, f"cdc_acm {socket}:1.0: {name}: USB ACM device")
        else:
            self.say(time + 0.2, f"usb {socket}: {plug.driver} converter now attached to {name}")
        if plug.trouble is Trouble.TAKEN:
            self.say(time + 0.5, f"usb {socket}: usbfs: interface 0 claimed by {plug.driver} while 'brltty' sets config #1")
            self.say(time + 0.6, f"{plug.driver} {name}: {plug.driver} converter now disconnected from {name}")
            self._forget(name)
        return name

    def _forget(self, name: str) -> None:
        shutil.rmtree(self.root / "sys/class/tty" / name)
        (self.root / "dev" / name).unlink()
        for kind in ("id", "path"):
            for link in (self.root / f"dev/serial/by-{kind}").iterdir():
                if link.readlink().name == name:
                    link.unlink()

    def pull(self, socket: str, time: float) -> None:
        """Pull what is in a socket."""
        plug = self._sockets.pop(socket)
        self.say(time, f"usb {socket}: USB disconnect, device number {self._number}")
        for tty in list((self.root / "sys/class/tty").iterdir()):
            if self._folder(socket) in (tty / "device").resolve().parents or (tty / "device").resolve() == self._folder(
                socket
            ):
                self.say(time + 0.1, f"{plug.driver} {tty.name}: {plug.driver} converter now disconnected from {tty.name}")
                self._forget(tty.name)
        shutil.rmtree(self._folder(socket))
        (self.root / "sys/bus/usb/devices" / socket).unlink()
