"""Listening and saying a line in one call, as the command line does."""

from dataclasses import dataclass

from humble_courier.app.port.opening import start
from humble_courier.app.talk.traffic import looks_like
from humble_courier.app.talk.typed_words import Typed
from humble_courier.domain.settings import Settings
from humble_courier.domain.text import printable
from humble_courier.errors import NotArmed, PortGone
from humble_courier.port.authority import Authority
from humble_courier.port.log import LineLog
from humble_courier.protocols.lines import Expect

QUIET_S = 0.25  # something came and then nothing for so long: the answer is over (common practice)


@dataclass(frozen=True)
class Listened:
    """What one listen brought."""

    data: bytes
    errors: int
    looks_like: str
    gone: PortGone | None = None

    @property
    def text(self) -> str:
        """The bytes as text."""
        return self.data.decode("latin-1")


def listen(
    address: str, settings: Settings, seconds: float, log: LineLog | None = None, authority: Authority | None = None
) -> Listened:  # fmt: skip
    """Listen for a while; sends nothing. Raises BadInput or MachineRefused where the port does not open.

    When the port vanishes in between, what was heard so far is returned, with the reason in `gone`.
    """
    authority = authority or Authority()
    clock, driver = authority.clock, start(address, settings, log=log, authority=authority)
    until = clock.now() + seconds
    gone, chunks = None, []
    try:
        while clock.now() < until and not authority.stopped:
            chunks.append(driver.step())
    except PortGone as error:
        gone = error
    finally:
        driver.close()
    data, errors = b"".join(chunk.data for chunk in chunks), driver.session.errors + driver.session.breaks
    return Listened(data, errors, looks_like(data, errors), gone)


@dataclass(frozen=True)
class Exchange:
    """A line that was sent and what came back within the time-out. `unsent`: how many of its last bytes did not leave."""

    sent: bytes
    received: bytes
    matched: bool | None
    fields: dict[str, str]
    ms: float
    unsent: int = 0

    @property
    def text(self) -> str:
        """The answer for people."""
        return printable(self.received)


def say(
    address: str, settings: Settings, words: Typed, armed: bool, timeout: float = 2.0, log: LineLog | None = None,
    authority: Authority | None = None,
) -> Exchange:  # fmt: skip
    """Send words and wait for what is expected, or for any answer, or until the time-out, also where it is held off.

    Raises NotArmed where `armed` is not set: nothing is ever sent without it.
    """
    if not armed:
        raise NotArmed(f"listening only: would send {words.spoken}", "Say --arm to send it")
    data, wanted = words.octets, Expect(words.expect) if words.expect else None
    authority = authority or Authority()
    clock, driver = authority.clock, start(address, settings, log=log, authority=authority)
    try:
        driver.session.arm(f"may send {words.spoken}")
        begun = clock.now()
        sent = driver.say_bytes(data)
        received, quiet_since, first = bytearray(), begun, None
        while (now := clock.now()) - begun < timeout and not authority.stopped:
            heard = driver.step().data
            if heard:
                received += heard
                quiet_since = clock.now()
                first = first or quiet_since
                if wanted:
                    wanted.feed(heard)
            if wanted and wanted.answer and now - quiet_since > driver.session.pause_s:
                break  # the answer, and the rest of its line end
            if received and now - quiet_since > QUIET_S and (wanted is None or wanted.settle()):
                break
        ms = ((first or quiet_since) - begun) * 1000
    finally:
        driver.close()
    answer = wanted.settle() if wanted else None
    matched, fields = None if wanted is None else answer is not None, answer.fields if answer else {}
    said = driver.session.last_said
    return Exchange(sent, bytes(received), matched, fields, ms, said.unsent if said is not None else 0)
