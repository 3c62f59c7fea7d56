"""Control units on a K-line: each wakes at its own address, answers what changes nothing, and sleeps after five seconds.

Source: ISO 14230-2, 5.2.4 (fast start), 4.3 (P2 25 to 50 ms, P3 max 5 s); ISO 14230-3, 9 (negative answers; code 11: the
service is not known); from memory.
"""

from collections.abc import Sequence

from humble_courier.domain.received import Doubt, Heard
from humble_courier.protocols.iso14230 import FUNCTIONAL, REFUSED, START, START_ANSWER, TESTER, bare, message
from humble_courier.protocols.kline_units import ANSWERED, IDENTITY, PRESENT, STOP, TROUBLES
from humble_courier.simulator.devices.behaviour import UnitOfKLine
from humble_courier.simulator.devices.device import Device

WOKEN_S = 0.1  # after the break, within which the request to start must come
SLEEPS_S = 5.0  # P3 max
UNKNOWN = 0x11  # the service is not known
KEYS = bytes((0xEF, 0x8F))  # both headers, normal times (ISO 14230-2, 5.2.4.1)


class KLineUnits(Device):
    """One or more control units on one wire."""

    def __init__(self, units: Sequence[UnitOfKLine], think_s: float) -> None:
        super().__init__()
        self._units = {unit.address: unit for unit in units}
        self._think_s, self._heard = think_s, bytearray()
        self._broken_at = float("-inf")
        self._awake: dict[int, float] = {}

    def hear(self, t: float, heard: Heard) -> None:
        """A break wakes; bytes are gathered until they make a message."""
        if heard.doubt is not Doubt.NONE:
            self._broken_at = t
            self._heard.clear()
            return
        self._heard.append(heard.byte)
        size, made = bare(bytes(self._heard), 0)
        if size == 0:
            return
        self._heard.clear()
        if made is not None and made.fields.get("from") == TESTER:
            self._asked(t, int(str(made.fields["to"])), bytes.fromhex(str(made.fields["hex"])))

    def _asked(self, t: float, to: int, data: bytes) -> None:
        if data[0] == START and t - self._broken_at < WOKEN_S:
            who = min(self._units, default=to) if to == FUNCTIONAL else to
            if who in self._units:
                self._awake[who] = t
                self._say(t, who, bytes((START_ANSWER,)) + KEYS)
        elif to in self._units and t - self._awake.get(to, float("-inf")) < SLEEPS_S:
            self._awake[to] = t
            self._say(t, to, self._answer(self._units[to], data))
            if data[0] == STOP[0]:
                del self._awake[to]

    def _say(self, t: float, who: int, data: bytes) -> None:
        self.outbox.put(t + self._think_s, message(data, TESTER, who))

    @staticmethod
    def _answer(unit: UnitOfKLine, data: bytes) -> bytes:
        if data == IDENTITY:
            return bytes((data[0] | ANSWERED, data[1])) + unit.identity.encode("ascii")
        if data == TROUBLES and unit.troubles is not None:
            listed = bytes.fromhex("".join(unit.troubles))
            return bytes((data[0] | ANSWERED, len(unit.troubles))) + listed
        if data[0] in (STOP[0], PRESENT[0]):
            return bytes((data[0] | ANSWERED,))
        return bytes((REFUSED, data[0], UNKNOWN))
