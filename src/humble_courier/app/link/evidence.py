"""What the session of a link has shown so far: the port opened or refused, what was heard, who answered."""

import re
from dataclasses import dataclass, field

from humble_courier.app.settings.first_line import as_predicted
from humble_courier.app.talk.meanings import meaning, spec_of_sheet
from humble_courier.app.talk.traffic import Traffic, looks_like
from humble_courier.catalog.links import Link
from humble_courier.catalog.load import Catalog
from humble_courier.documents.device import DeviceEntry
from humble_courier.domain.settings import Parity, Settings
from humble_courier.domain.utterance import Utterance, Who
from humble_courier.port.session import Session
from humble_courier.protocols.registry import looks_spoken
from humble_courier.protocols.spec import ProtocolSpec

News = list[tuple[str, str]]
READ_AT_ONCE = 40  # newest utterances: a talker that never stops must not hold the window up
LOOKED_BACK = 20  # utterances by which the look of what comes is judged
GUESSED_FROM = 2048  # bytes
PATIENCE = 2.0  # times what the sheet gives for an answer: an adapter and a loaded computer add to it (common practice)
FEW = 4  # bytes below which nothing is said of how they look


@dataclass
class Evidence:
    """Facts of this session; begun anew when the wiring, the settings or the port change."""

    opened: bool = False
    refusal: str = ""  # why the port could not be opened, or is gone
    remedy: str = ""
    lost: bool = False  # it was open and vanished
    refusals: int = 0  # one after another
    asking: str = ""  # what was said last, while its answer may still come
    unanswered: frozenset[str] = frozenset()  # first words that were said, and nothing came within their time
    heard: Traffic = Traffic.NOTHING
    greeting: dict[str, str] | None = None
    identity: dict[str, str] = field(default_factory=dict)
    answer_ms: float | None = None
    proof_kept: bool = False
    spoken: ProtocolSpec | None = None  # the protocol that it looks like
    guessed_at: int = 0
    likelier: str = ""  # settings that what is garbled speaks for
    judged_at: int = 0
    ready_at: float = 0.0  # seconds since the epoch: until then the device starts up, and what is sent may stop it

    def ready_in_s(self, now: float) -> float:
        """Seconds until the device may be spoken to, as its sheet says; 0 once it may."""
        return max(0.0, self.ready_at - now)

    @property
    def answered(self) -> bool:
        """Whether the device said who it is, in answer to our first words."""
        return bool(self.identity)


def read(evidence: Evidence, session: Session, link: Link, now: float, catalog: Catalog) -> News:
    """Take in what the session holds; returns what is new as (subject, text), to be kept as measured facts.

    Only what is complete is read, so that half a number is never taken for the whole. `now` in seconds since the epoch.
    """
    news: News = []
    theirs = [u for u in session.utterances[-LOOKED_BACK:] if u.who is Who.THEY and session.complete(u, now)]
    look = looks_like(b"".join(u.said for u in theirs), sum(u.doubtful for u in theirs))
    if look != evidence.heard and sum(map(len, theirs)) >= FEW:
        evidence.heard = look
        news += [("heard", text)] if (text := _look_text(look, session)) else []
    first = max(0, len(session.utterances) - READ_AT_ONCE)
    if look is Traffic.WRONG_SETTINGS and session.bytes_heard >= 2 * evidence.judged_at:
        evidence.judged_at, evidence.likelier = session.bytes_heard, likelier(theirs, session.settings)
    for i, utterance in enumerate(session.utterances[first:], start=first):
        if utterance.who is Who.THEY and not utterance.looked_at and session.complete(utterance, now):
            utterance.looked_at = True
            if utterance.doubtful:
                utterance.meaning = _doubt(utterance, link)
                continue
            news += _meaning(evidence, session, i, link.sheet) if link.sheet is not None else []
            if not utterance.meaning:
                utterance.meaning = meaning(utterance.data, _spoken(evidence, theirs, session, link, catalog), catalog)
    if link.sheet is not None and session.last_said is not None and not evidence.answered:
        _note_silence(evidence, session, session.last_said, link.sheet, now)
    return news


def _note_silence(evidence: Evidence, session: Session, asked: Utterance, sheet: DeviceEntry, now: float) -> None:
    """Whether the word that was said last may still be answered, or has failed: no answer of the sheet came in its time.

    Words that only prepare others may have an answer of any kind.
    """
    late = now - asked.end >= PATIENCE * sheet.answer_ms / 1000 + session.pause_s
    evidence.asking = "" if late else asked.text
    if late:
        newest = session.utterances[-1]
        came = newest.who is Who.THEY and newest.end > asked.start
        failed = [words.say for i, words in enumerate(sheet.first_words) if i == 0 or not came]
        evidence.unanswered |= {asked.text}.intersection(failed)


def _spoken(
    evidence: Evidence, theirs: list[Utterance], session: Session, link: Link, catalog: Catalog
) -> ProtocolSpec | None:
    """The protocol of the sheet, else what it looks like; that is asked again each time twice as much has come."""
    named = spec_of_sheet(link.sheet.port.protocol if link.sheet else "")
    if named is None and evidence.spoken is None and session.bytes_heard >= 2 * evidence.guessed_at:
        evidence.guessed_at = session.bytes_heard
        evidence.spoken = looks_spoken(b"".join(u.said for u in theirs)[:GUESSED_FROM], catalog)
    return named or evidence.spoken


def likelier(theirs: list[Utterance], ours: Settings) -> str:
    """Which settings garbled bytes speak for, the two likeliest; empty for a receiver that the tables do not know."""
    if ours.frame.data_bits + (ours.frame.parity is not Parity.NONE) != 8:
        return ""
    import numpy as np

    from humble_courier.line.belief.belief import Belief, counted

    values = np.frombuffer(b"".join(bytes(u.said) for u in theirs), np.uint8)
    errors = np.concatenate([[i in u.doubts for i in range(len(u))] for u in theirs]).astype(bool)
    belief = Belief()
    belief.listen(Settings(ours.rate, ours.frame), counted(values, errors))
    return " or ".join(f"{b.rate} {b.frame} ({b.probability:.0%})" for b in belief.told()[:2])


def _look_text(look: Traffic, session: Session) -> str:
    if look is Traffic.WRONG_SETTINGS:
        return f"Garbled: {session.summary}"
    return "Text arrives, without errors" if look is Traffic.TEXT else ""


def _doubt(utterance: Utterance, link: Link) -> str:
    """What to make of a damaged utterance: whether it is what the settings on paper would make of the power-up line."""
    text = f"{utterance.doubtful} of {len(utterance)} characters in doubt"
    ours, theirs = link.computer_settings, link.device_settings
    if ours and theirs and ours.differences(theirs):
        like, of = as_predicted(link, utterance.data)
        if of and like * 10 >= of * 8:
            text += f"; {like} of {of} are as predicted for {theirs.spoken} heard at {ours.spoken}"
    return text


def _meaning(evidence: Evidence, session: Session, i: int, sheet: DeviceEntry) -> News:
    """Say what one clean utterance of the device means, where the sheet knows it."""
    utterance, asked = session.utterances[i], session.last_said
    text = _line(session.utterances, i)
    if sheet.power_up and (match := re.search(sheet.power_up.expect, text)):
        evidence.greeting, evidence.unanswered = match.groupdict(), frozenset()  # it has only just come to life
        evidence.ready_at = utterance.start - sheet.power_up.after_s + sheet.ready_after_s
        utterance.meaning = ", ".join([sheet.power_up.means, *(f"{k} {v}" for k, v in match.groupdict().items())])
        return [("greeting", f"Heard its {sheet.power_up.means}: {text}")]
    for index, words in enumerate(sheet.first_words):
        match = re.search(words.expect, text)
        if match and asked is not None and asked.start <= utterance.start:
            shown = {words.read.get(key, key): value for key, value in match.groupdict().items()}
            utterance.meaning = ", ".join(f"{name} {value}" for name, value in shown.items())
            if index == 0:
                evidence.identity = shown
                evidence.answer_ms = (utterance.start - asked.end) * 1000
                return [("identity", f"It answers: {text}")]
            return [(f"answer {words.say}", utterance.meaning)]
    return []


def _line(all_of_it: list[Utterance], i: int) -> str:
    """The text of an utterance with what came right before it of the same line: a late reader cuts a line in two."""
    parts = [all_of_it[i]]
    while i > 0 and all_of_it[i - 1].who is Who.THEY and not all_of_it[i - 1].data.endswith((b"\n", b"\r")):
        i -= 1
        parts.insert(0, all_of_it[i])
    return "".join(part.text for part in parts)


def summary_fact(settings: Settings, session: Session) -> str:
    """Both ways proven, with the count behind it."""
    return f"{settings.spoken} both ways: {session.bytes_heard} characters, {session.errors} in doubt"
