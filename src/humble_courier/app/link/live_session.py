"""The live session of a link: its open port and log, words by hand, what is repeated and waited for."""

from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from pathlib import Path

from humble_courier.app.port.opening import address_of, open_lines, start
from humble_courier.app.talk.playing import Playing
from humble_courier.app.talk.typed_words import Typed, Written
from humble_courier.catalog.links import Link
from humble_courier.documents.device import DeviceEntry
from humble_courier.domain.clock import Clock
from humble_courier.domain.lines import Lines
from humble_courier.domain.settings import Settings
from humble_courier.domain.text import Terminator, printable
from humble_courier.domain.utterance import Utterance, Who
from humble_courier.errors import BadInput, CourierError
from humble_courier.port.agenda import Agenda, Speech
from humble_courier.port.authority import Authority
from humble_courier.port.driver import BackgroundDriver, Driver
from humble_courier.port.log import LineLog, newest, read_log, search
from humble_courier.port.permit import Permit, checked
from humble_courier.port.port import OpenLines, OpenPort, open_port
from humble_courier.port.session import Session

SHOWN = 400  # utterances that are handed out; older ones stand in the log
SEARCHED, SEARCH_EVERY_S = 2_000_000, 1.0  # bytes of the log; the whole of it is a file for any other tool
SHOWN_EVERY_S = 0.5  # lamps and counts that move by themselves; twice a second is as fast as an eye follows numbers
WAITS_S = 5.0  # for an answer that a person waits for


class LiveSession:
    """One port at a time. `changed` is called, from any thread, when something was heard or said."""

    def __init__(self, changed: Callable[[], None], authority: Authority | None = None) -> None:
        self._changed, self.authority = changed, authority or Authority()
        self._clock = self.authority.clock
        self._background: BackgroundDriver | None = None
        self._last: Session | None = None
        self._log: LineLog | None = None
        self._searched: tuple[str, float, list[Utterance]] = ("", 0.0, [])

    def listen(self, link: Link, log: LineLog, session: Session | None = None) -> None:
        """Open the port of a link, listening only; a `session` that was interrupted goes on.

        Raises BadInput where settings or port are not chosen, MachineRefused where the system says no.
        """
        if link.computer_settings is None:
            raise BadInput("choose the settings of the computer's end first")
        line_end = b"\r" if link.end is Terminator.CR else b"\n"
        driver = start(
            address_of(link), link.computer_settings, open_lines(link.sheet), log, session, line_end, self.authority
        )
        self.open(driver, log)

    def open(self, driver: Driver, log: LineLog) -> None:
        """Take over a port that was opened, listening only."""
        self._background, self._log = BackgroundDriver(driver, self._changed), log

    def set(self, settings: Settings) -> None:
        """Other settings at the open port; no line moves, and the permit stays."""
        if self._background is not None:
            with self._background.driver.lock:
                self._background.driver.session.take_settings(settings)
            self._background.set(settings)

    def another_sheet(self, sheet: DeviceEntry | None) -> None:
        """Another device may be there: nothing is sent any more, and lines that its sheet keeps low are lowered."""
        self.disarm()
        if self._background is not None:
            self._background.lower(open_lines(sheet))

    def bench_again(self, link: Link) -> None:
        """The bench of a simulated port is set up again in place: what was said stays, and so does the permit."""
        background, log = self._background, self._log
        if background is None or log is None or link.computer_settings is None:
            return
        session = background.driver.session
        background.stop()
        session.take_settings(link.computer_settings)
        lines = open_lines(link.sheet)
        driver = start(address_of(link), link.computer_settings, lines, log, session, authority=self.authority)
        driver.agenda = background.driver.agenda
        self.open(driver, log)

    def judge_again(self) -> None:
        """All that was heard is looked at anew: another sheet may know it."""
        if self._background is not None:
            with self._background.driver.lock:
                for one in self._background.driver.session.utterances:
                    one.looked_at, one.meaning = False, "" if one.who is Who.THEY else one.meaning

    @property
    def asking(self) -> bool:
        """Whether questions of a round are left."""
        return self._agenda.asking

    def lends(self, what: str) -> Callable[..., OpenPort]:
        """How somebody who works at ports opens one, from any thread: ours, if it is that, is lent and not opened again."""

        def opens(
            address: str, settings: Settings, lines: OpenLines = OpenLines(), clock: Clock = self._clock
        ) -> OpenPort:  # fmt: skip
            background = self._background
            if background is not None and background.driver.port.address == address and background.error is None:
                return background.lend(what, settings)
            return open_port(address, settings, lines, clock)

        return opens

    @property
    def lent(self) -> str:
        """Who works at the port in our place; empty while nobody does."""
        return self._background.lent if self._background is not None else ""

    def close(self) -> None:
        """Close the port and disarm; the session stays to be looked at."""
        if self._background is not None:
            background, self._background = self._background, None
            background.driver.session.disarm()
            background.driver.agenda.clear()
            background.stop()
            self._last = background.driver.session

    def forget(self) -> None:
        """The link is another one: the last session does not belong to it."""
        self._last = None

    @property
    def error(self) -> CourierError | None:
        """Why the port is gone, once it is."""
        return self._background.error if self._background is not None else None

    def take_refusal(self) -> CourierError | None:
        """Why something was not sent; handed out once."""
        if self._background is None:
            return None
        refused, self._background.refused = self._background.refused, None
        return refused

    @property
    def session(self) -> Session | None:
        """The session of the open port, or of the last one."""
        return self._background.driver.session if self._background is not None else self._last

    @property
    def listening(self) -> bool:
        """Whether the port is open."""
        return self._background is not None

    @property
    def armed(self) -> bool:
        """Whether something may be sent."""
        return self._background is not None and self._background.driver.session.armed

    @property
    def permit(self) -> Permit | None:
        """The permit of the open port; None where there is none."""
        return self._background.driver.session.permit if self._background is not None else None

    def arm(self, what: str) -> None:
        """Allow sending; `what` is what the person was told. Raises BadInput while closed."""
        self._opened().driver.session.arm(what)

    def disarm(self) -> None:
        """Back to listening only; what was to be said by itself is forgotten, however soon one arms again."""
        if self._background is not None:
            self._background.driver.session.disarm()
            self._background.driver.agenda.clear()

    @contextmanager
    def held(self) -> Iterator[Session]:
        """The session of the open port, while nothing is added to it. Raises BadInput while closed."""
        driver = self._opened().driver
        with driver.lock:
            yield driver.session

    @property
    def armed_for(self) -> str:
        """What may be sent, as the person was told; empty while nothing may."""
        return self._background.driver.session.armed_for if self._background is not None else ""

    @property
    def count(self) -> tuple[int, int, bool]:
        """Bytes heard, utterances, whether the port is open: what is other when something has happened."""
        session = self.session
        return (session.bytes_heard, len(session.utterances), self.listening) if session else (0, 0, self.listening)

    def _opened(self) -> BackgroundDriver:
        if self._background is None:
            raise BadInput("nothing is open yet: listen first")
        return self._background

    def _may(self) -> BackgroundDriver:
        if self._background is None or not self.armed:
            raise BadInput("listening only: arm first")
        return self._background

    # Words

    def say(self, text: str, end: Terminator, meaning: str) -> None:
        """Send a line; raises BadInput while closed or listening only."""
        self._may().say(text, end, meaning)

    def say_bytes(self, data: bytes, meaning: str = "", whole: bool = False) -> None:
        """Send bytes as they are (`whole`: a frame without gaps); raises BadInput while closed or listening only."""
        self._may().do(lambda driver: driver.say_bytes(data, meaning, whole=whole))

    def press(self, data: bytes) -> None:
        """Send a key as it is pressed; raises BadInput while closed or listening only."""
        self._may().do(lambda driver: driver.say_bytes(data, "keys", joined=True))

    def when(self, pattern: str, data: bytes) -> None:
        """Say something once, as soon as a text has come; raises BadInput while closed or listening only."""
        agenda, permit = self._planned()
        words = Speech(data, "as soon as it came")
        agenda.wait_for(pattern, self._clock.now(), at_once=True, then=words, permit=permit)

    def ask_in_turn(self, words: Sequence[Speech], answer_s: float) -> None:
        """Questions one after another, each once the one before was answered. Raises BadInput while it may not send."""
        agenda, permit = self._planned()
        session = self.session
        agenda.ask(words, answer_s, session.pause_s if session is not None else 0.0, permit)

    def say_typed(self, typed: Typed) -> None:
        """Say what was typed, wait for what is expected, and say it again where that was asked for. Raises BadInput."""
        data, every_s, in_hex = typed.octets, typed.every_s, typed.written is Written.HEX
        if typed.expect:
            self.wait_for(typed.expect)
        self.say_bytes(data, "in hex" if in_hex else "", whole=in_hex)
        if every_s is not None:
            self.repeat(data, every_s)

    def set_lines(self, dtr: bool, rts: bool) -> None:
        """Set DTR and RTS by hand; raises BadInput while closed or listening only."""
        self._may().do(lambda driver: driver.set_lines(dtr, rts))

    def send_break(self, seconds: float = 0.25) -> None:
        """Hold the line at space for a while; raises BadInput while closed or listening only."""
        self._may().do(lambda driver: driver.send_break(seconds))

    # What is said by itself: it ends with its permit, and with the port

    def _planned(self) -> tuple[Agenda, Permit]:
        driver = self._may().driver
        return driver.agenda, checked(driver.session.permit)

    @property
    def _agenda(self) -> Agenda:
        return self._background.driver.agenda if self._background is not None else Agenda()

    def repeat(self, data: bytes, every_s: float) -> None:
        """Say something again and again; raises BadInput while closed or listening only."""
        agenda, permit = self._planned()
        agenda.repeat(Speech(data), every_s, permit, self._clock.now())

    def stop_repeating(self) -> None:
        """Say it no more."""
        self._agenda.stop_repeating()

    @property
    def repeating(self) -> bool:
        """Whether something is said again and again."""
        return self._agenda.repeating

    def play(self, playing: Playing) -> None:
        """Say what it says whenever it is due; raises BadInput while closed or listening only."""
        agenda, permit = self._planned()
        agenda.play(playing, permit)

    def stop_playing(self) -> None:
        """Play no more."""
        self._agenda.stop_playing()

    @property
    def playing(self) -> Playing | None:
        """What is played."""
        playing = self._agenda.playing
        return playing if isinstance(playing, Playing) else None

    @property
    def played(self) -> int:
        """Bytes that the talker has said so far."""
        return self._agenda.played

    @property
    def due_s(self) -> float | None:
        """Seconds until there is something to show though nothing is heard; None while the port is closed.

        What was heard last is complete only after a pause; the lamps and the counts of seconds move by themselves.
        """
        return None if self._background is None else min(self._background.driver.session.pause_s, SHOWN_EVERY_S)

    def wait_for(self, pattern: str) -> None:
        """Wait for an answer; raises BadInput for a pattern that is none."""
        self._agenda.wait_for(pattern, self._clock.now())

    @property
    def waiting(self) -> str:
        """What is waited for, or how that ended, in words; empty where nothing was."""
        waiting = self._agenda.waiting
        if waiting is None:
            return ""
        if waiting.answer is not None:
            return f"It came: {waiting.answer.text}"
        if waiting.then is not None:
            said = printable(waiting.then.data)
            return f"As soon as {waiting.pattern} comes, {said} is sent once; switch the device on now"
        over = self._clock.now() - waiting.begun >= WAITS_S
        return f"{waiting.pattern} did not come within {WAITS_S:g} s" if over else f"Waiting for {waiting.pattern}"

    # What was said

    def utterances(self) -> list[Utterance]:
        """What was said by either side, oldest first; the newest few hundred."""
        if self._background is None:
            return self._last.newest(SHOWN) if self._last is not None else []
        with self._background.driver.lock:
            return self._background.driver.session.newest(SHOWN)

    def said(self) -> frozenset[str]:
        """Lines that we have said in this session."""
        return frozenset(one.text for one in self.utterances() if one.who is Who.WE)

    def lines(self) -> Lines:
        """States of the handshake lines."""
        return self._background.driver.session.lines if self._background is not None else Lines()

    def activity(self) -> list[int]:
        """Bytes in each of the last seconds, oldest first; nothing while no port was open."""
        session = self.session
        return session.activity.levels(self._clock.wall()) if session is not None else []

    def search(self, words: str) -> list[Utterance]:
        """Lines in which words or bytes stand, as utterances: out of the newest megabytes of the log.

        Looked up once a second at most, however often it is asked: a talker that never stops must not hold the window up.
        """
        if self._log is None or not self._log.path.exists():
            return []
        wanted, at, found = self._searched
        if wanted != words or self._clock.now() - at > SEARCH_EVERY_S:
            pieces = search(read_log(newest(self._log.path, SEARCHED)).pieces, words)[-SHOWN:]
            found = [Utterance(Who(p.who), p.t, p.t, bytearray(p.data), p.places, closed=True) for p in pieces]
            self._searched = words, self._clock.now(), found
        return found

    @property
    def log_problem(self) -> str:
        """Why the log is not written at the moment; empty while it is."""
        return self._log.problem if self._log is not None and self.listening else ""

    @property
    def log_path(self) -> Path | None:
        """The file of the log; None where nothing was opened yet."""
        return self._log.path if self._log is not None else None
