"""Which kernel module claims a USB id: the machine's own `modules.alias`, by the kernel's own matching rules.

A device presents itself as one line (`usb:v0403p6001d0600dc00…`); an alias is a shell pattern on such lines. The module
tools of the system match with fnmatch(3), and so does this. Aliases are looked up by vendor and product first.
"""

import re
from dataclasses import dataclass, field
from fnmatch import translate
from pathlib import Path

from humble_courier.documents.files import read_whole
from humble_courier.errors import BadInput, MachineRefused

_ID = re.compile(r"([0-9a-fA-F]{1,4}):([0-9a-fA-F]{1,4})")
LARGEST = 64_000_000  # bytes; the file of a full kernel has 1.5 million
_CLASS = re.compile(r"([0-9a-fA-F]{1,2}):([0-9a-fA-F]{1,2}):([0-9a-fA-F]{1,2})")
_EXACT = re.compile(r"usb:v([0-9A-F]{4})p([0-9A-F]{4})d")
Class = tuple[int, int, int]
VENDOR_SPECIFIC: Class = (0xFF, 0xFF, 0xFF)  # what adapters of their own kind say (USB class codes, usb.org)
PER_INTERFACE: Class = (0, 0, 0)


@dataclass(frozen=True)
class UsbId:
    """What a USB device says of itself, as far as the kernel matches on it."""

    vid: int
    pid: int
    bcd: int = 0x0100
    device_class: Class = PER_INTERFACE
    interface: Class = VENDOR_SPECIFIC
    number: int = 0

    @classmethod
    def parse(cls, text: str, interface: str | None = None, device_class: str | None = None) -> "UsbId":
        """Read `0403:6001`, with an interface class `02:02:01` where it is known. Raises BadInput."""
        match = _ID.fullmatch(text.strip())
        if not match:
            raise BadInput(f"USB id “{text}”: expected vendor and product in hexadecimal, as in 0403:6001")
        return cls(
            int(match[1], 16), int(match[2], 16),
            device_class=_class(device_class, "--device-class") if device_class else PER_INTERFACE,
            interface=_class(interface, "--interface") if interface else VENDOR_SPECIFIC,
        )  # fmt: skip

    @property
    def modalias(self) -> str:
        """The line by which the kernel asks for a module (drivers/usb/core/sysfs.c, modalias_show)."""
        dc, ic = self.device_class, self.interface
        return (
            f"usb:v{self.vid:04X}p{self.pid:04X}d{self.bcd:04X}dc{dc[0]:02X}dsc{dc[1]:02X}dp{dc[2]:02X}"
            f"ic{ic[0]:02X}isc{ic[1]:02X}ip{ic[2]:02X}in{self.number:02X}"
        )


def _class(text: str, option: str) -> Class:
    match = _CLASS.fullmatch(text.strip())
    if not match:
        raise BadInput(f"{option} {text}: expected class, subclass and protocol in hexadecimal, as in 02:02:01")
    return int(match[1], 16), int(match[2], 16), int(match[3], 16)


@dataclass
class Aliases:
    """A `modules.alias` file in memory, by vendor and product. Patterns are compiled when first asked for."""

    exact: dict[tuple[int, int], list[tuple[str, str]]] = field(default_factory=dict)
    loose: list[tuple[str, str]] = field(default_factory=list)
    skipped: int = 0
    _compiled: dict[str, re.Pattern[str]] = field(default_factory=dict)

    @classmethod
    def read(cls, path: Path) -> "Aliases":
        """Read a file; lines that are cut or of another kind are counted and left out. Raises MachineRefused."""
        try:
            return cls.parse(read_whole(path, LARGEST).decode("utf-8", "replace"))
        except BadInput as error:
            raise MachineRefused(str(error), "Name another file: --modules-alias FILE") from None

    @classmethod
    def parse(cls, text: str) -> "Aliases":
        """Read the text of such a file; only USB aliases are kept."""
        made = cls()
        lines = text.split("\n")
        for number, line in enumerate(lines, start=1):
            words = line.split()
            whole = len(words) == 3 and words[0] == "alias"
            if not whole or (number == len(lines) and line):  # a last line without its end was cut
                made.skipped += bool(words) and not line.startswith("#")
                continue
            if words[1].startswith("usb:"):
                made._take(words[1], words[2])
        return made

    def _take(self, pattern: str, module: str) -> None:
        match = _EXACT.match(pattern)
        if match:
            self.exact.setdefault((int(match[1], 16), int(match[2], 16)), []).append((pattern, module))
        else:
            self.loose.append((pattern, module))

    def modules(self, usb: UsbId) -> list[str]:
        """The modules that claim the device, each once, in the order of the file."""
        line = usb.modalias
        near = [*self.exact.get((usb.vid, usb.pid), ()), *self.loose]
        return list(dict.fromkeys(module for pattern, module in near if self._matches(pattern, line)))

    def perhaps(self, usb: UsbId) -> list[str]:
        """Modules that name this vendor and product, if another interface class than ours."""
        found = dict.fromkeys(module for _, module in self.exact.get((usb.vid, usb.pid), ()))
        return [module for module in found if module not in self.modules(usb)]

    def _matches(self, pattern: str, line: str) -> bool:
        if pattern not in self._compiled:
            self._compiled[pattern] = re.compile(translate(pattern))
        return self._compiled[pattern].match(line) is not None
