"""A station on a DF1 line: it takes each sound frame, and answers what asks for its status.

Source: the protocol's published reference manual, chapters on the full-duplex link layer and on the diagnostic status
command; from memory.
"""

from humble_courier.domain.received import Doubt, Heard
from humble_courier.protocols import df1
from humble_courier.protocols.framer import Framer
from humble_courier.simulator.devices.behaviour import Behaviour
from humble_courier.simulator.devices.device import Device

TAKEN = bytes((df1.DLE, df1.ACK))
HEAD = bytes((0x00, 0xEE, 0x31, 0x5B, 0x10))  # mode, extender, kinds of interface and of processor, revision
NOT_KNOWN = 0x10  # status: the command or its form is not known


class Df1Station(Device):
    """One station with a name."""

    def __init__(self, how: Behaviour, think_s: float) -> None:
        super().__init__()
        self._units, self._name, self._think_s = how.units, how.values.get("name", ""), think_s
        self._framer = Framer(df1.cut)

    def hear(self, t: float, heard: Heard) -> None:
        """A damaged character makes the frame's check wrong."""
        byte = heard.byte if heard.doubt is Doubt.NONE else heard.byte ^ 0xFF
        for event in self._framer.feed(bytes((byte,))):
            if event.ok and event.kind == "command" and event.fields["to"] in self._units:
                self.outbox.put(t, TAKEN)
                self.outbox.put(t + self._think_s, df1.frame(self._answer(bytes.fromhex(str(event.fields["hex"])))))

    def _answer(self, asked: bytes) -> bytes:
        to, source, command = asked[0], asked[1], asked[2]
        known = command == 0x06 and asked[6:] == b"\x03"
        head = bytes((source, to, command | 0x40, 0x00 if known else NOT_KNOWN)) + asked[4:6]
        return head + HEAD + self._name.encode("ascii") if known else head
