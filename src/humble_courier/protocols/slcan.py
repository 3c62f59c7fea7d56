"""The ASCII CAN adapter's lines (as the kernel's slcan driver and python-can speak them), and candump text.

Sources: Linux drivers/net/can/slcan (format of the lines); can-utils (log format); from memory. Such an adapter is opened to
listen with `S5`, `L`: with `L` it does not even acknowledge what others send, and so changes nothing on the bus.
"""

import re
from dataclasses import dataclass

from humble_courier.domain.text import PRINTABLE
from humble_courier.errors import BadInput
from humble_courier.protocols.framer import Made
from humble_courier.protocols.spec import NO_NEWS, Check, ProtocolSpec, of_cut

RATES = {10_000: 0, 20_000: 1, 50_000: 2, 100_000: 3, 125_000: 4, 250_000: 5, 500_000: 6, 800_000: 7, 1_000_000: 8}
LONGEST = 64  # a line of eight bytes with a time stamp has 31 characters; more is another protocol
LONGEST_ANSWER = 8  # characters of a version or a serial number
_FRAME = re.compile(
    rb"(?:t([0-9A-Fa-f]{3})|T([0-9A-Fa-f]{8})|r([0-9A-Fa-f]{3})|R([0-9A-Fa-f]{8}))([0-8])((?:[0-9A-Fa-f]{2})*)"
)
_BLANK, _END = re.compile(rb"[ \t]*[\r\n][ \t\r\n]*"), re.compile(rb"[\r\n\x07]")
_DUMP = re.compile(rb"\((\d+\.\d+)\)\s+(\S+)\s+([0-9A-Fa-f]{3}|[0-9A-Fa-f]{8})#(R?)((?:[0-9A-Fa-f]{2})*)\s*")


@dataclass(frozen=True)
class CanFrame:
    """A frame on the bus: identifier of 11 or 29 bits, data of up to 8 bytes."""

    id: int
    extended: bool
    data: bytes = b""
    remote: bool = False

    def line(self) -> bytes:
        """As the adapter writes it."""
        letter = ("R" if self.extended else "r") if self.remote else "T" if self.extended else "t"
        head = f"{letter}{self.id:08X}" if self.extended else f"{letter}{self.id:03X}"
        return f"{head}{len(self.data)}{'' if self.remote else self.data.hex().upper()}\r".encode()

    def candump(self, t: float, interface: str = "can0") -> str:
        """As a line of a log, `t` in seconds."""
        name = f"{self.id:08X}" if self.extended else f"{self.id:03X}"
        return f"({t:017.6f}) {interface} {name}#{'R' if self.remote else self.data.hex().upper()}"


def listen_only(rate: int) -> tuple[bytes, ...]:
    """Words that open the adapter to listen only: close first, set the rate, listen. Raises BadInput for an unknown rate."""
    if rate not in RATES:
        raise BadInput(f"the adapter has no step for {rate} bit/s; it has {', '.join(map(str, RATES))}")
    return b"C\r", f"S{RATES[rate]}\r".encode(), b"L\r"


def read(text: bytes) -> CanFrame | None:
    """A frame out of a line of the adapter (without CR) or of a log; None where it is neither."""
    if match := _FRAME.match(text):
        id_ = next(part for part in match.groups()[:4] if part is not None)
        size, data = int(match[5]), bytes.fromhex(match[6].decode())
        remote = match[3] is not None or match[4] is not None
        if not remote and len(data) not in (size, size + 2):  # two more are the adapter's time stamp
            return None
        return CanFrame(int(id_, 16), len(id_) == 8, b"" if remote else data[:size], remote)
    if match := _DUMP.fullmatch(text):
        return CanFrame(int(match[3], 16), len(match[3]) == 8, bytes.fromhex(match[5].decode()), bool(match[4]))
    return None


def cut(buffer: bytes, at: int, over: bool) -> tuple[int, Made | None]:
    """A line of the adapter, which ends with CR, or its bell for “no”; or a line of a log."""
    if buffer[at] == 0x07:
        return 1, Made("refused", True, {}, "the adapter says no to the command before")
    if blank := _BLANK.match(buffer, at):
        return blank.end() - at, Made("done", True)
    ends = _END.search(buffer, at)
    if ends is None or ends.start() - at > LONGEST:
        left = (len(buffer) if ends is None else ends.start()) - at
        wait = ends is None and not over
        return (0, None) if wait and left <= LONGEST else (left - LONGEST if wait else left, None)
    end = ends.start()
    size, text = end - at + (buffer[end] != 7), buffer[at:end]
    frame = read(text)
    if frame is None:
        plain = not text.translate(None, PRINTABLE)
        return size, Made("answer", True, {"text": text.decode("ascii")}) if plain and len(text) <= LONGEST_ANSWER else None
    fields = {"id": f"{frame.id:08X}" if frame.extended else f"{frame.id:03X}", "extended": frame.extended}
    return size, Made("frame", True, {**fields, "hex": frame.data.hex(" ").upper(), "remote": frame.remote})


SPEC = ProtocolSpec(
    id="can-ascii",
    name="CAN through an ASCII adapter",
    text=True,
    check=Check.WEAK,
    decoder=of_cut(cut),
    proves="frames come from the bus: the adapter's rate, the bus's rate and the pair are right",
    guess=55,  # after J1939, which says more of the same frames
    aside=frozenset((*NO_NEWS, "answer", "refused")),  # an adapter's own words
)
