"""What is said to the device of a link, and when it may be: the sheet's acts and its time to start come first."""

from collections.abc import Callable
from math import ceil

from humble_courier.app.link.answers import ANSWER_MS, PATIENCE, judged_worth
from humble_courier.app.link.document import LinkDocument
from humble_courier.app.link.evidence import Evidence
from humble_courier.app.link.guard import Guard
from humble_courier.app.link.ledger import FactLedger
from humble_courier.app.link.live_session import LiveSession
from humble_courier.app.link.second_visit import Earlier
from humble_courier.app.link.shown import seen_there
from humble_courier.app.link.whole_road import IN_SEARCH, LISTENS_S, PERMIT
from humble_courier.app.prepare.sheet_acts import SheetAct, own_acts
from humble_courier.app.talk.playing import Playing
from humble_courier.app.talk.reading import reading_of
from humble_courier.app.talk.typed_words import Typed
from humble_courier.catalog.load import Catalog
from humble_courier.documents.device import DeviceEntry, FirstWords
from humble_courier.domain.clock import Clock
from humble_courier.domain.text import Terminator
from humble_courier.domain.utterance import Who
from humble_courier.errors import BadInput
from humble_courier.port.agenda import Speech
from humble_courier.port.permit import Permit
from humble_courier.wiring.findings import Verdict


def _answer_s(sheet: DeviceEntry | None) -> float:
    """How long an answer is waited for, in seconds."""
    return PATIENCE * (sheet.answer_ms if sheet is not None else ANSWER_MS) / 1000


class Speaking:
    """The part of an open link that speaks. Words go out under the permit of the live session only."""

    clock: Clock
    catalog: Catalog
    document: LinkDocument
    ledger: FactLedger
    live: LiveSession
    evidence: Evidence
    earlier: Earlier | None
    listen: Callable[[], None]
    _asks_again: bool = False
    _asks_at: float | None = None
    _asks_under: Permit | None = None
    first_end: Terminator = Terminator.CR  # of a line, where nothing is known of the device

    def __init__(self) -> None:
        self._guard, self._acts_passed = Guard(self.clock), False

    def arm(self) -> str:
        """Allow first words; returns the sentence that says what may be sent. Raises BadInput while the port is closed.

        Acts of the sheet that are not ticked are named once for each link; a second press arms all the same.
        """
        sheet, undone = self.document.link.sheet, self.undone()
        if undone and self.live.listening and not self._acts_passed:
            more = f" and {len(undone) - 1} more" if len(undone) > 1 else ""
            self._guard.ask("Arm", f"not ticked under Prepare: {undone[0].act}{more}")
            self._acts_passed = True
        what = "first words and what you type" if sheet and sheet.first_words else "what you type"
        self.live.arm(what)
        return what

    def permit_road(self) -> None:
        """The whole road: the first press is told what may be sent, and which acts are not ticked. Raises BadInput."""
        undone = self.undone()
        more = f" Not ticked under Prepare: {'; '.join(act.act for act in undone)}." if undone else ""
        self._guard.ask("Go on by itself", PERMIT.format(search=IN_SEARCH) + f".{more}".rstrip("."))
        self._acts_passed = True

    def permit_check(self, ask: str, says: str) -> None:
        """A check of the diagnosis: the first press says what is sent. Raises BadInput for the first."""
        undone = self.undone()
        more = f"; not ticked under Prepare: {', '.join(act.act for act in undone)}" if undone else ""
        wait = self.ready_in_s
        starts = f"; it is starting up, ready in {wait} s: what is sent now may stop it" if wait else ""
        self._guard.ask(f"“{ask}”: do it", f"it sends {says}{more}{starts}" if says else "")

    def say(self, text: str, end: Terminator | None = None) -> None:
        """Send a line with the device's terminator (or another); raises BadInput while closed or listening only."""
        sheet = self.document.link.sheet
        words = next((w for w in sheet.first_words if w.say == text), None) if sheet else None
        end = end or self.document.link.end or self.first_end
        self._held_back(f"Send “{text}”", words)
        self.live.say(text, end, words.means if words else "")
        self._asked(text)

    def say_typed(self, typed: Typed) -> None:
        """Say what was typed; raises BadInput while closed, listening only, or while the device starts up."""
        self._held_back(f"Send “{typed.words}”")
        self.live.say_typed(typed)
        self._asked(typed.words)

    def read_registers(self) -> None:
        """Ask the unit for what can be read of it; raises BadInput while closed, or where nothing can."""
        reading = reading_of(self.document.link)
        if reading is None:
            raise BadInput("the sheet of this device names no registers, and no unit was found")
        self._held_back(f"Read unit {reading.unit}")
        self.live.say_bytes(reading.words, reading.says, whole=True)
        self._asked(f"what unit {reading.unit} holds")

    def say_again(self, end: Terminator) -> None:
        """The words that brought nothing, with another end. Raises BadInput where there are none."""
        silence = self.evidence.silence
        if silence is None:
            raise BadInput("nothing was left without an answer")
        self.say(silence.words, end)

    def ask_again(self) -> None:
        """The questions of an earlier day, by one press: it opens the port, and says only what only asks.

        What the sheet wants done before stands beside the button, and is ticked for today by pressing it; where the whole
        road goes on by itself nothing is ticked. Raises BadInput.
        """
        if self.document.trace.verdict is Verdict.MAY_DAMAGE:
            raise BadInput("the wiring as drawn may damage something: put that right first, then anything is sent")
        earlier = self.earlier
        asked = earlier.asked_again() if earlier is not None else []
        if earlier is None or not asked:
            raise BadInput("nothing of an earlier day may be asked again by itself: type the words, and send them")
        already = self.live.listening
        self.listen()
        if not self.live.listening:
            return  # the refusal is told
        for act in [] if self._acts_passed else self.undone():
            self.ledger.tick(act, done=True)
        self._acts_passed = True
        told = ", ".join(one.words for one in asked)
        self.live.arm(f"the questions asked {earlier.day}: {told}")
        self._asks_at, self._asks_under = self.clock.now() + (0.0 if already else LISTENS_S), self.live.permit
        self._asked(asked[0].words)

    def go_on_asking(self) -> None:
        """Ask what is to be asked again, once it was listened for long enough; when it is over, so is the permit for it."""
        if self._asks_at is not None and (self.live.permit is not self._asks_under or not self.live.armed):
            self._asks_at, self._asks_again, self.evidence.asking = None, False, ""  # stopped before, whoever arms since
        elif self._asks_at is not None and self.clock.now() >= self._asks_at and not self.ready_in_s:
            self._asks_at, self._asks_again = None, True
            asked = self.earlier.asked_again() if self.earlier is not None else []
            words = [Speech(one.data, self._means(one.words)) for one in asked]
            self.live.ask_in_turn(words, _answer_s(self.document.link.sheet))
        elif self._asks_again and not (self.live.asking or self.evidence.asking):
            self._asks_again = False
            if self.live.permit is self._asks_under:  # a later permit is for other words
                self.live.disarm()

    def _means(self, words: str) -> str:
        sheet = self.document.link.sheet
        return next((one.means for one in sheet.first_words if one.say.strip() == words), "") if sheet is not None else ""

    def _asked(self, words: str) -> None:
        """An answer may come from now on, though the thread of the port has still to send the words."""
        session = self.live.session
        before = session.last_said if session is not None else None
        self.evidence.asking, self.evidence.since = words, before.start if before is not None else 0.0

    def press(self, data: bytes) -> None:
        """Send a key as it is pressed; raises BadInput while closed, listening only, or while the device starts up."""
        self._held_back("Press it")
        self.live.press(data)

    def when(self, pattern: str, typed: Typed) -> None:
        """Say what was typed once, as soon as a text has come: armed before the device is switched on. Raises BadInput."""
        if not pattern:
            raise BadInput("say which text is waited for, as in PRESS ANY KEY")
        self.live.when(pattern, typed.octets)

    def send_break(self) -> None:
        """Hold the line at space; raises BadInput while closed, listening only, or while the device starts up."""
        self._held_back("Send the break")
        self.live.send_break()

    def play(self, playing: Playing) -> None:
        """Say whatever is due of it; raises BadInput while the device starts up."""
        self._held_back("Talk")
        self.live.play(playing)

    @property
    def ready_in_s(self) -> int:
        """Whole seconds until the device may be spoken to, as its sheet says; 0 once it may."""
        return ceil(self.evidence.ready_in_s(self.clock.wall()))

    def undone(self) -> list[SheetAct]:
        """What the sheet wants done before the first words, and nobody has ticked."""
        sheet = self.document.link.sheet
        wanted = own_acts(sheet, self.catalog.cautions) if sheet is not None else []
        done = self.ledger.ticked() if wanted else set()
        return [act for act in wanted if act.id not in done]

    def _held_back(self, press: str, words: FirstWords | None = None) -> None:
        """A device that starts up is sent nothing, and words keep their order, unless a second press means it."""
        wait = self.ready_in_s
        why = f"it is starting up, ready in {wait} s: what is sent now may stop it" if wait else ""
        if not why and words is not None and words.after and words.after not in self.live.said():
            why = f"its sheet wants “{words.after}” said before"
        self._guard.ask(press, why if self.live.armed else "")

    def set_line(self, name: str, on: bool) -> None:
        """Set DTR or RTS by hand; raises BadInput where the sheet says that it stays low, and while closed."""
        sheet, lines = self.document.link.sheet, self.live.lines()
        wanted = getattr(sheet.lines_at_open, name.lower()) if sheet else "any"
        if on and wanted == "low":
            raise BadInput(f"the sheet of this device says that {name} stays low: it keys or resets")
        dtr, rts = (on, bool(lines.rts)) if name == "DTR" else (bool(lines.dtr), on)
        self.live.set_lines(dtr, rts)

    def mark_seen(self) -> None:
        """The device shows what was said to it. Raises BadInput where nothing has left yet."""
        session = self.live.session
        sent = sum(len(one) for one in self.live.utterances() if one.who is Who.WE) if session is not None else 0
        if not sent:
            raise BadInput("nothing was said to it yet: let the talker talk, then look at the device")
        made = seen_there(sent)
        if made.outranks(self.evidence.shown):
            self.evidence.shown, self.evidence.proof_kept = made, False
        self.ledger.observed("seen at the device", "It shows what the talker says", "seen by you")

    def mark_right(self) -> None:
        """The person calls the newest answer to typed words right. Raises BadInput where there is none."""
        reply, session = self.evidence.reply, self.live.session
        if reply is None or session is None:
            raise BadInput("there is no answer to call right: say something first")
        if not reply.may_be_right:
            raise BadInput(f"“{reply.words}” brought no answer: {reply.answer}")
        self.evidence.marked |= {reply.sent}
        judged_worth(self.evidence, session)
        self.ledger.observed("answer", f"“{reply.words}” is answered “{reply.answer}”", "called right by you")
