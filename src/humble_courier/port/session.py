"""The session of one open port, without input or output: bytes and times in, events and bytes to send out.

Listen-only is the state at start. Nothing leaves before `arm`.
"""

from collections import deque

from humble_courier.domain.lines import Lines
from humble_courier.domain.received import Chunk, Doubt
from humble_courier.domain.settings import Settings
from humble_courier.domain.text import Terminator, octets
from humble_courier.domain.utterance import Utterance, Who
from humble_courier.line.marked import Unstuffer
from humble_courier.port.authority import Authority
from humble_courier.port.permit import Permit, checked

LONGEST_UTTERANCE = 2048  # bytes; more without a line end or a pause is shown in pieces
SHORTEST_PAUSE_S = 0.2  # an adapter gathers for 16 ms, a loaded computer reads late by more (common practice)
LONGEST_S = 1.0  # one that goes on for longer is ended where it makes any pause at all
ANY_PAUSE_S = 0.03  # which is what an adapter does not make by itself: it gathers for 16 ms (common practice)
JOINED_S = 2.0  # keys that follow each other this soon stand in one utterance
ACTIVITY_S = 30  # what the picture of the last half minute shows
KEPT_UTTERANCES = 5000  # the newest; enough for an hour of a talker that speaks once a second
KEPT_BYTES = 1_000_000  # of them; each byte in doubt costs a hundred


class Activity:
    """How much came lately: bytes in each of the last seconds."""

    def __init__(self) -> None:
        self._seconds: deque[tuple[int, int]] = deque(maxlen=ACTIVITY_S + 1)

    def note(self, t: float, count: int) -> None:
        """So many bytes came at `t`."""
        if self._seconds and self._seconds[-1][0] == int(t):
            self._seconds[-1] = (int(t), self._seconds[-1][1] + count)
        else:
            self._seconds.append((int(t), count))

    def levels(self, now: float) -> list[int]:
        """Bytes in each of the last `ACTIVITY_S` whole seconds, oldest first."""
        counts = dict(self._seconds)
        return [counts.get(second, 0) for second in range(int(now) - ACTIVITY_S, int(now))]


class Session:
    """Groups what is heard into utterances, keeps count of errors, and lets nothing be said unless armed."""

    def __init__(self, settings: Settings, line_end: bytes = b"\n", authority: Authority | None = None) -> None:
        """`line_end`: the byte at which what is heard is cut into lines."""
        self.settings, self._line_end, self._authority = settings, line_end, authority or Authority()
        self.permit: Permit | None = None
        self.utterances: list[Utterance] = []
        self.since = 0.0  # what ended until then was heard at other settings
        self.lines = Lines()
        self.alarms: list[str] = []  # what our presence has done at a simulated device
        self.bytes_heard = 0
        self.errors = 0
        self.breaks = 0
        self.activity = Activity()
        self.last_said: Utterance | None = None
        self.ours: list[Utterance] = []  # of the utterances, those that we said: few among many
        self._kept = 0  # bytes in the utterances
        self._unstuff = Unstuffer()

    @property
    def pause_s(self) -> float:
        """What ends an utterance: three characters, but no shorter than a busy computer or an adapter makes itself."""
        return max(SHORTEST_PAUSE_S, 3 * self.settings.character_s)

    def take_settings(self, settings: Settings) -> None:
        """Other settings from now on; what came so far was heard at those before, and is not counted for these."""
        if self.utterances:
            self.utterances[-1].closed, self.since = True, self.utterances[-1].end
        self.settings, self.bytes_heard, self.errors, self.breaks = settings, 0, 0, 0

    @property
    def armed(self) -> bool:
        """Whether something may be sent."""
        return self.permit is not None and self.permit.holds

    @property
    def armed_for(self) -> str:
        """What may be sent, as the person was told; empty while nothing may."""
        return self.permit.scope if self.permit is not None and self.permit.holds else ""

    def arm(self, what: str) -> Permit:
        """Allow sending; `what` is the sentence that was shown to the person."""
        self.disarm()
        self.permit = self._authority.permit(what)
        return self.permit

    def disarm(self) -> None:
        """Back to listening only, in all threads at once."""
        if self.permit is not None:
            self.permit.withdraw()
            self.permit = None

    def hear(self, t: float, data: bytes, marked: bool = True) -> Chunk:
        """Take received bytes at `t`; returns them without their marks."""
        chunk = self._unstuff.chunk(data) if marked else Chunk(data, {})
        if not chunk.data:
            return chunk
        self.bytes_heard += len(chunk.data)
        breaks = sum(doubt is Doubt.BREAK for doubt in chunk.doubts.values())
        self.breaks += breaks
        self.errors += len(chunk.doubts) - breaks
        self.activity.note(t, len(chunk.data))
        at = 0
        while at < len(chunk.data):
            at += self._take(t, chunk, at)
        return chunk

    def _take(self, t: float, chunk: Chunk, at: int) -> int:
        """The bytes from `at` on that belong to one utterance; returns how many."""
        current = self.utterances[-1] if self.utterances else None
        if current is None or current.who is Who.WE or self.complete(current, t):
            current = self._begin(Who.THEY, t)
        elif cut := self._too_long(current, t):
            current.cut = cut
            current = self._begin(Who.THEY, t)
        end = chunk.data.find(self._line_end, at) + 1 or len(chunk.data)
        piece = chunk.data[at : min(end, at + LONGEST_UTTERANCE - len(current))]
        if chunk.doubts:
            first = len(current)
            places = (i for i in range(at, at + len(piece)) if i in chunk.doubts)
            current.doubts |= {first + i - at: chunk.doubts[i] for i in places}
        current.said += piece
        self._kept += len(piece)
        current.end = t
        return len(piece)

    def _too_long(self, current: Utterance, t: float) -> str:
        """Why an utterance without an end is ended by us at `t`; empty where it may go on."""
        if len(current) >= LONGEST_UTTERANCE:
            return f"cut after {LONGEST_UTTERANCE} bytes without an end"
        pause_s = max(ANY_PAUSE_S, 3 * self.settings.character_s)
        if t - current.start > LONGEST_S and t - current.end > pause_s:
            return f"cut at a short pause: it goes on for more than {LONGEST_S:g} s"
        return ""

    def _begin(self, who: Who, t: float) -> Utterance:
        utterance = Utterance(who, t, t)
        self.utterances.append(utterance)
        if who is Who.WE:
            self.ours.append(utterance)
        while len(self.utterances) > KEPT_UTTERANCES or (self._kept > KEPT_BYTES and len(self.utterances) > 1):
            oldest = self.utterances.pop(0)
            self._kept -= len(oldest)
            if self.ours and self.ours[0] is oldest:
                self.ours.pop(0)
        return utterance

    def say(self, t: float, text: str, end: Terminator, meaning: str = "") -> bytes:
        """The bytes to send for a line of text; raises NotArmed while listening only."""
        return self.say_bytes(t, octets(text) + end.octets, meaning)

    def say_bytes(self, t: float, data: bytes, meaning: str = "", joined: bool = False) -> bytes:
        """The bytes to send; raises NotArmed while listening only. `joined`: with what was said just before, as keys."""
        checked(self.permit)
        before = self.utterances[-1] if self.utterances else None
        goes_on = joined and before is not None and before is self.last_said and t - before.end < JOINED_S
        utterance = self.last_said = before if goes_on and before is not None else self._begin(Who.WE, t)
        utterance.said += data
        self._kept += len(data)
        utterance.end, utterance.meaning, utterance.closed = t + len(data) * self.settings.character_s, meaning, True
        return data

    def not_sent(self, count: int) -> None:
        """The last `count` bytes of what we were to say did not leave."""
        for utterance in reversed(self.ours):
            more = min(count, len(utterance) - utterance.unsent)
            utterance.unsent += more
            count -= more

    def newest(self, count: int) -> list[Utterance]:
        """The newest utterances; only the last can still grow, so only that is copied for another thread."""
        newest = self.utterances[-count:]
        return [*newest[:-1], newest[-1].copy()] if newest else []

    def complete(self, utterance: Utterance, now: float) -> bool:
        """Whether nothing more will be added to an utterance: its line has ended, or the pause after it."""
        ended = utterance.said[-1:] == self._line_end or utterance.closed or utterance is not self.utterances[-1]
        return ended or now - utterance.end > self.pause_s

    @property
    def summary(self) -> str:
        """What arrived so far, in a few words."""
        if not self.bytes_heard:
            return "nothing heard yet"
        words = f"{self.bytes_heard} bytes"
        if self.errors:
            words += f", {self.errors} with errors"
        if self.breaks:
            words += f", {self.breaks} break" + ("s" if self.breaks > 1 else "")
        return words
