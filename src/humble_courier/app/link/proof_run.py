"""Proving a link by itself, as a person would at the Talk stage: listen, wait as the sheet says, say its words in order.

`run` blocks. Nothing is said without a permit; what will be said is told before. It ends once a proof is strong, once
nothing is left to say, or when the time is over.
"""

from collections.abc import Callable
from dataclasses import dataclass, field
from enum import StrEnum
from pathlib import Path

from humble_courier.app.link.evidence import Evidence
from humble_courier.app.link.facts import documented
from humble_courier.app.link.listening import read
from humble_courier.app.link.live_session import LiveSession
from humble_courier.app.link.seen import LinkSeen
from humble_courier.app.link.step import Action, NextStep
from humble_courier.app.link.word_ways import KLINE, said
from humble_courier.app.prepare.sheet_acts import acts
from humble_courier.app.talk.reading import reading_of
from humble_courier.app.talk.traffic import Traffic
from humble_courier.app.talk.unit_round import SAYS as UNITS_SAY
from humble_courier.app.talk.unit_round import SENDING as UNITS_SENDING
from humble_courier.app.talk.unit_round import UnitsRun
from humble_courier.app.wire.tracing import trace_link
from humble_courier.catalog.links import Link, read_link
from humble_courier.catalog.load import Catalog
from humble_courier.documents.kit import KitModel
from humble_courier.domain.clock import Clock
from humble_courier.domain.facts import Fact, Provenance
from humble_courier.domain.proven import Grade, ProofKind, Shown
from humble_courier.domain.text import Terminator
from humble_courier.domain.utterance import Utterance, Who
from humble_courier.errors import BadInput
from humble_courier.port.authority import Authority
from humble_courier.port.log import LineLog

LOOK_EVERY_S = 0.02
ASK_AFTER_S = 1.0  # of listening: who talks by himself is heard first
ARMED_FOR = "first words of the sheet"


class WhyNot(StrEnum):
    """What kept it from a proof."""

    NOT_ARMED = "not-armed"  # it would have to be asked
    NO_WORDS = "no-words"  # nothing is known that it could be asked
    NO_ANSWER = "no-answer"
    NOTHING_HEARD = "nothing-heard"
    GARBLED = "garbled"
    ADAPTER_ONLY = "adapter-only"  # the adapter answers, and the bus behind it is silent
    GATEWAY = "gateway"
    UNKNOWN_ANSWER = "unknown-answer"  # it answers something that its sheet does not know
    TOO_LITTLE = "too-little"  # it talks, and not for long enough


def of_file(
    path: Path, catalog: Catalog, log: LineLog, armed: bool, seconds: float, told: Callable[[str], None],
    authority: Authority | None = None,
) -> "ProofRun":  # fmt: skip
    """The run for a link file. Raises BadInput with the line of what is wrong in it."""
    return ProofRun(read_link(path, catalog), catalog, log, armed, seconds, told, authority or Authority())


@dataclass
class ProofRun:
    """One link, one run. `told`: what is about to be sent, before it is."""

    link: Link
    catalog: Catalog
    log: LineLog
    armed: bool
    seconds: float
    told: Callable[[str], None] = lambda _: None
    authority: Authority = field(default_factory=Authority)
    evidence: Evidence = field(default_factory=Evidence)
    utterances: list[Utterance] = field(default_factory=list)

    @property
    def clock(self) -> Clock:
        """The one that it goes by."""
        return self.authority.clock

    @property
    def shown(self) -> Shown | None:
        """What it has shown."""
        return self.evidence.shown

    @property
    def says(self) -> str:
        """What it may send, in a sentence."""
        sheet = self.link.sheet
        reading = reading_of(self.link)
        if reading is not None:
            return reading.says
        if self._kline:
            return UNITS_SENDING
        words = [f"“{words.say}” ({words.means})" for words in sheet.first_words] if sheet is not None else []
        return ", ".join(words) or "nothing: no words of this device are known"

    @property
    def first_done(self) -> list[str]:
        """Acts that its sheet wants done at the device first."""
        sheet = self.link.sheet
        return [act.act for act in acts(sheet, self.catalog.cautions) if not act.after] if sheet is not None else []

    def run(self) -> Shown | None:
        """Until it is over. Raises MachineRefused where the port cannot be opened or goes away."""
        if not self.link.address:
            raise BadInput("the link names no port: give it an address, as in address: /dev/ttyUSB0")
        if self._kline and self.armed:
            return self._round()
        live = LiveSession(lambda: None, self.authority)
        live.listen(self.link, self.log)
        self.evidence.opened = True
        try:
            if self.armed:
                live.arm(ARMED_FOR)
            self._until_over(live)
        finally:
            self.utterances = live.utterances()
            live.close()
        return self.shown

    @property
    def _kline(self) -> bool:
        return self.link.sheet is not None and self.link.sheet.port.protocol == KLINE

    def _round(self) -> Shown | None:
        """Control units of a K-line are asked one after the other. Raises MachineRefused."""
        self.told(UNITS_SAY)
        run = UnitsRun.of(self.link, self.catalog, self.log, self.authority)
        run.run()
        if run.refused is not None:
            raise run.refused
        self.evidence.opened, self.evidence.shown = True, run.shown
        return self.shown

    def _until_over(self, live: LiveSession) -> None:
        begun = self.clock.now()
        while self.clock.now() - begun < self.seconds and not self.authority.stopped:
            if live.error is not None:
                raise live.error
            with live.held() as session:
                read(self.evidence, session, self.link, self.clock.wall(), self.catalog)
            if self.shown is not None and (self.shown.grade is Grade.STRONG or self.shown.kind is not ProofKind.HEARD):
                return  # what is said again brings the same answer; only what is heard grows by itself
            if self.armed and self.clock.now() - begun > ASK_AFTER_S and not self._ask(live):
                return
            self.clock.wait(self.clock.now() + LOOK_EVERY_S)

    def _ask(self, live: LiveSession) -> bool:
        """Say what comes next, once the device may be spoken to; False where nothing is left to say."""
        if self.evidence.ready_in_s(self.clock.wall()):
            return True
        step, sheet = self._next(live)[0], self.link.sheet
        if step.action is Action.SAY and sheet is not None:
            self.told(step.text)
            live.say(step.words, self.link.end or Terminator.CR, step.text)
        elif step.action is Action.READ and (reading := reading_of(self.link)) is not None:
            self.told(step.text)
            live.say_bytes(reading.words, step.text)
        elif step.action is not Action.WAIT:
            return step.action is Action.TYPE  # without words of its own it is only listened to
        self.evidence.asking = self.evidence.asking or "…"  # until the session has taken it
        return True

    def _next(self, live: LiveSession) -> list[NextStep]:
        trace, kit = trace_link(self.link, self.catalog), KitModel("kit/1", [])
        return said(LinkSeen(self.link, trace, self.evidence, self.catalog, kit, True, True, said=live.said(), alone=True))

    @property
    def why_not(self) -> list[WhyNot]:
        """What kept it from a proof; nothing where there is one."""
        evidence, sheet = self.evidence, self.link.sheet
        if evidence.shown is not None:
            return []
        asks = self._kline or reading_of(self.link) is not None or (sheet is not None and bool(sheet.first_words))
        spoke = any(u.who is Who.WE for u in self.utterances)
        heard = any(u.who is Who.THEY for u in self.utterances)
        found = {
            WhyNot.GARBLED: evidence.heard is Traffic.WRONG_SETTINGS,
            WhyNot.GATEWAY: bool(evidence.gateway),
            WhyNot.ADAPTER_ONLY: bool(evidence.adapter),
            WhyNot.UNKNOWN_ANSWER: evidence.reply is not None,
            WhyNot.NO_ANSWER: spoke and evidence.reply is None,
            WhyNot.TOO_LITTLE: heard and not spoke,
            WhyNot.NOTHING_HEARD: not heard,
            WhyNot.NOT_ARMED: asks and not self.armed,
            WhyNot.NO_WORDS: not asks,
        }
        return [why for why, holds in found.items() if holds]


def kept_facts(run: ProofRun) -> list[Fact]:
    """What is kept with the proof of a run: what its documents say, and that it was proven."""
    now = run.clock.wall()
    shown = run.shown
    made = [Fact("proof", shown.reason, Provenance.MEASURED, "prove", now)] if shown is not None else []
    return [*documented(run.link, now), *made]
