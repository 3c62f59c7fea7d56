"""ISO 14230 (keyword protocol 2000) over K-line: the fast start, framing and checksum.

Source: ISO 14230-2, 4.1 (header), 4.4 (checksum), 5.2.4.2.3 (fast initialisation: 25 ms low, 25 ms high, then the request to
start); from memory. The start wakes the controller and asks for a session; it changes nothing that is stored.
"""

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from humble_courier.protocols.framer import Event, Framer, Made
from humble_courier.protocols.places import Places, Sums, at_each, octets
from humble_courier.protocols.spec import Check, ProtocolSpec, plainly

WAKE_LOW_S, WAKE_HIGH_S = 0.025, 0.025  # ISO 14230-2, 5.2.4.2.3
# Service numbers of ISO 14230-3; F1 is the tester (ISO 14230-2, 4.1.3).
START, START_ANSWER, REFUSED, TESTER = 0x81, 0xC1, 0x7F, 0xF1
ANSWER_WITHIN_S = 0.05  # P2 max
ADAPTER_S = 0.3  # what the computer and its adapter add (common practice)
FUNCTIONAL = 0x33  # whoever is there
LONGEST = 4 + 255 + 1  # bytes of a message: head, data, checksum (ISO 14230-2, 4.1)
RATE = 10_400  # bit/s, ISO 14230-2, 5.2.4.2.3
# Headers of emission testers and of their answers, at most seven bytes of data (ISO 9141-2, 6; ISO 14230-4, 5.3).
CARB, CARB_HEADS, CARB_LONGEST = 0x40, (b"\x68\x6a", b"\x48\x6b"), 7
_PHYSICAL, _FUNCTIONAL = 0x80, 0xC0  # the two upper bits of the format byte (ISO 14230-2, 4.1.1)


def message(data: bytes, target: int, source: int = TESTER, functional: bool = False) -> bytes:
    """A message with both addresses (up to 63 bytes in its first byte, more in a length of its own)."""
    mode = _FUNCTIONAL if functional else _PHYSICAL
    head = bytes((mode | len(data), target, source)) if len(data) < 64 else bytes((mode, target, source, len(data)))
    body = head + data
    return body + bytes((sum(body) & 0xFF,))


@dataclass(frozen=True)
class StartStep:
    """What the fast start wants next: hold the line `low`, leave it `high`, `send` bytes, or `wait`."""

    do: str
    seconds: float = 0.0
    data: bytes = b""


class FastStart:
    """Yields steps; is fed what is heard. `keys` are the two key bytes of the answer, once it has come."""

    def __init__(self, target: int = FUNCTIONAL, functional: bool = True) -> None:
        asked = message(bytes((START,)), target, functional=functional)
        self._steps = [
            StartStep("low", WAKE_LOW_S),
            StartStep("high", WAKE_HIGH_S),
            StartStep("send", 0.0, asked),
            StartStep("wait", ANSWER_WITHIN_S + ADAPTER_S),
        ]
        self._heard, self._asked = bytearray(), asked
        self.keys: tuple[int, int] | None = None
        self.refusal = ""

    @property
    def settled(self) -> bool:
        """Whether what is waited for has come."""
        return self.keys is not None or bool(self.refusal)

    def next(self) -> StartStep | None:
        """The next step; None when it is over."""
        return None if self.keys or not self._steps else self._steps.pop(0)

    def feed(self, data: bytes) -> None:
        """Bytes heard; on one wire our own words come back first and are left out."""
        self._heard += data
        heard = bytes(self._heard)
        at = heard.find(self._asked)
        rest = heard[at + len(self._asked) :] if at >= 0 else heard
        for begin in range(len(rest)):
            size, made = bare(rest, begin)
            if size and made is not None and made.ok:
                service = made.fields["service"]
                if service == START_ANSWER and len(bytes.fromhex(made.fields["hex"])) >= 3:
                    said = bytes.fromhex(made.fields["hex"])
                    self.keys = (said[1], said[2])
                elif service == REFUSED:
                    self.refusal = f"the controller refuses with code {bytes.fromhex(made.fields['hex'])[-1]:02X}"
                return


def bare(buffer: bytes, at: int) -> tuple[int, Made | None]:
    """One message whose checksum is right, without names."""
    mode, length = buffer[at] & 0xC0, buffer[at] & 0x3F
    if mode == CARB:
        return _carb(buffer, at)
    head = 1 + (2 if mode in (_PHYSICAL, _FUNCTIONAL) else 0)
    if length == 0:
        if at + head >= len(buffer):
            return 0, None
        length, head = buffer[at + head], head + 1
    size = head + length + 1
    if length == 0:
        return 1, None
    if len(buffer) - at < size:
        return 0, None
    raw = buffer[at : at + size]
    if sum(raw[:-1]) & 0xFF != raw[-1]:
        return 1, None
    data = raw[head:-1]
    fields: dict[str, object] = {"service": data[0], "hex": data.hex(" ").upper()}
    if mode:
        fields |= {"to": raw[1], "from": raw[2]}
    return size, Made("message", True, fields)


def _carb(buffer: bytes, at: int) -> tuple[int, Made | None]:
    """One message with the header of emission testers: it does not say how long it is, so its checksum does."""
    if buffer[at : at + 2] not in CARB_HEADS:
        unfinished = at + 1 == len(buffer) and any(head[0] == buffer[at] for head in CARB_HEADS)
        return (0, None) if unfinished else (1, None)
    for length in range(1, CARB_LONGEST + 1):
        end = at + 3 + length
        if end >= len(buffer):
            return 0, None
        if sum(buffer[at:end]) & 0xFF == buffer[end]:
            data = buffer[at + 3 : end]
            fields = {"service": data[0], "hex": data.hex(" ").upper(), "to": buffer[at + 1], "from": buffer[at + 2]}
            return end + 1 - at, Made("message", True, fields)
    return 1, None


def places(buffer: bytes) -> Places:
    """Where a message may begin: its checksum is right, or it has not come whole."""
    octet, size = octets(buffer), len(buffer)
    begins = np.arange(size)
    mode, short = octet & 0xC0, octet & 0x3F
    head = np.where(mode >= _PHYSICAL, 3, 1)
    own = short == 0  # a length of its own behind the addresses
    length = np.where(own, at_each(octet, begins + head), short)
    ends = begins + head + own + length
    fits = Sums(buffer).of(begins, ends) == at_each(octet, ends)
    unfinished = (ends >= size) | (own & (begins + head >= size))
    second = at_each(octet, begins + 1)
    carb = np.zeros(size, bool)
    for first, then in CARB_HEADS:
        carb |= (octet == first) & ((second == then) | (begins + 1 >= size))
    return np.flatnonzero(((mode != CARB) & (fits | unfinished)) | carb)


class Iso14230:
    """Messages of a K-line. `services`: names by number."""

    def __init__(self, services: Mapping[int, str]) -> None:
        self._services = services

    def cut(self, buffer: bytes, at: int, over: bool) -> tuple[int, Made | None]:
        """One message."""
        size, made = bare(buffer, at)
        if size == 0:
            return (1, None) if over else (0, None)
        if made is None:
            return size, None
        service = int(made.fields["service"])
        if service == REFUSED:
            return size, Made("refused", True, made.fields, "the controller refuses")
        answer = bool(service & 0x40)
        name = self._services.get(service & ~0x40, f"service {service & ~0x40:02X}")
        return size, Made("answer" if answer else "request", True, {**made.fields, "what": name})


def in_words(event: Event) -> str:
    """A message in a few words."""
    f = event.fields
    if event.kind in ("request", "answer"):
        return f"{f.get('from', '')} to {f.get('to', '')}: {f['what']}".strip()
    return plainly(event)


SPEC = ProtocolSpec(
    id="iso14230",
    name="ISO 14230 on a K-line",
    check=Check.WEAK,
    decoder=lambda facts: Framer(Iso14230(facts.names("iso14230-services")).cut, LONGEST, places),
    proves="a control unit has answered with the right checksum: it is awake, and the K-line and its rate are right",
    guess=70,
    sentence=in_words,
)
