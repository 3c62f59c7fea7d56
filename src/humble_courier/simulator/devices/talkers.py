"""Devices that speak by themselves: sentences, vehicle buses, a token that goes round, a packet radio."""

from humble_courier.domain.received import Doubt, Heard
from humble_courier.protocols import kiss, mstp
from humble_courier.protocols.framer import Framer
from humble_courier.protocols.registry import spec_named
from humble_courier.simulator.devices.behaviour import Behaviour, Talk
from humble_courier.simulator.devices.device import Device


class TalkingDevice(Device):
    """Says its things again and again, from `power_up_s` on; listens to nothing."""

    def __init__(self, how: Behaviour) -> None:
        super().__init__()
        self._how = how
        self._next = [how.power_up_s + 0.37 * i for i, _ in enumerate(how.talks)]
        self._said = [0 for _ in how.talks]
        if how.power_up:
            self.outbox.put(how.power_up_s, self._framed(how.power_up.encode()))

    def skip(self, t: float) -> None:
        """Go on from `t`, each thing at its own moment, without going through all of the past."""
        self.outbox.clear()
        self._next = [t + 0.37 * i % talk.every_s for i, talk in enumerate(self._how.talks)]

    def due(self) -> float:
        """When the next thing is said."""
        return min([self.outbox.due(), *self._next])

    def say(self, t: float) -> bytes:
        """What is due."""
        made = self.outbox.take(t)
        for i, talk in enumerate(self._how.talks):
            if self._next[i] <= t:
                made += self.said(talk, self._said[i])
                self._said[i] += 1
                self._next[i] += talk.every_s
        return made

    def said(self, talk: Talk, count: int) -> bytes:
        """One thing, framed as its protocol says."""
        if talk.text:
            return talk.text.format(n=count).encode()
        body = talk.body.format(n=count, a=(214.8 + 7.3 * count) % 360).encode() if talk.body else bytes.fromhex(talk.hex)
        return self._framed(body)

    def _framed(self, body: bytes) -> bytes:
        framed = spec_named(self._how.protocol).framed
        return framed(body) if framed is not None else body


class TokenBus(Device):
    """Masters of an MS/TP bus that pass the token, and ask now and then for one that is not there."""

    STEP_S = 0.012

    def __init__(self, how: Behaviour, alike: int | None = None) -> None:
        super().__init__()
        self._masters, self._alike = how.masters, alike
        self._at, self._turn, self._second = how.power_up_s, 0, b""

    def skip(self, t: float) -> None:
        """Go on from `t`."""
        self._at = t

    def due(self) -> float:
        """When the next frame is sent."""
        return self._at

    def say(self, t: float) -> bytes:
        """One frame."""
        if t < self._at:
            return b""
        turn, ring = self._turn, self._masters
        self._turn, self._at = turn + 1, self._at + self.STEP_S
        holder, following = ring[turn % len(ring)], ring[(turn + 1) % len(ring)]
        if turn % 25 == 24 and self._alike is not None:
            reply = mstp.frame(mstp.REPLY, holder, self._alike)
            return mstp.frame(mstp.POLL, self._alike, holder) + reply + reply
        if turn % 10 == 9:
            return mstp.frame(mstp.POLL, (holder + 1) & 0x7F, holder) + mstp.frame(mstp.TOKEN, following, holder)
        return mstp.frame(mstp.TOKEN, following, holder)


class PacketRadio(TalkingDevice):
    """A packet radio: hands over what it hears on the air, transmits what it is given, and while a line keys it."""

    def __init__(self, how: Behaviour) -> None:
        super().__init__(how)
        self._framer, self._keyed = Framer(kiss.cut), False

    def hear(self, t: float, heard: Heard) -> None:
        """A data frame is transmitted."""
        byte = heard.byte if heard.doubt is Doubt.NONE else 0
        for event in self._framer.feed(bytes((byte,))):
            if event.kind in ("packet", "data"):
                self.alarms.append((t, "it transmits what it was given"))

    def set_line(self, t: float, name: str, on: bool) -> None:
        """RTS keys the transmitter."""
        if name == "RTS" and on and not self._keyed:
            self.alarms.append((t, "RTS keys the transmitter"))
        if name == "RTS":
            self._keyed = on

    def said(self, talk: Talk, count: int) -> bytes:
        """A packet from the air; a radio that transmits hears none."""
        if self._keyed:
            return b""
        return self._framed(kiss.ui_frame(talk.to, talk.source, talk.body.format(n=count).encode()))
