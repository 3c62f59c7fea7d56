"""What an utterance is to our words: a power-up line, an answer that the sheet knows, or one that nobody knows yet."""

from humble_courier.app.link import shown
from humble_courier.app.link.evidence import Evidence, News, Reply, Silence
from humble_courier.app.talk.exchanges import JudgedExchange, newest_of, of_session
from humble_courier.app.talk.reading import reading_of
from humble_courier.catalog.links import Link
from humble_courier.catalog.load import Catalog
from humble_courier.documents.device import DeviceEntry, FirstWords
from humble_courier.domain.patterns import PatternMatch, pattern
from humble_courier.domain.text import Terminator, printable
from humble_courier.domain.utterance import Utterance, Who
from humble_courier.exchange.proof import worth_of
from humble_courier.exchange.verdict import ExchangeState
from humble_courier.port.session import Session

PATIENCE = 2.0  # times what the sheet gives for an answer: an adapter and a loaded computer add to it (common practice)
ANSWER_MS = 1000  # for a device that no sheet knows (common practice)
ANSWERS_WITHIN_S = 5.0  # what comes later than that after our words is said by itself (common practice)
JUDGED = 200  # newest utterances that are judged together: a talker that never stops must not hold the window up
NOTHING_SAID = (ExchangeState.SILENT, ExchangeState.ECHO, ExchangeState.ITSELF)


def of_the_sheet(evidence: Evidence, session: Session, i: int, sheet: DeviceEntry) -> News:
    """Say what one clean utterance of the device means, where the sheet knows it."""
    utterance = session.utterances[i]
    text = _line(session.utterances, i)
    if sheet.power_up and (match := pattern(sheet.power_up.expect).search(text)):
        evidence.greeting, evidence.unanswered = match.fields, frozenset()  # it has only just come to life
        evidence.ready_at = utterance.start - sheet.power_up.after_s + sheet.ready_after_s
        utterance.meaning = ", ".join([sheet.power_up.means, *(f"{k} {v}" for k, v in match.fields.items())])
        return [("greeting", f"Heard its {sheet.power_up.means}: {text}")]
    for words in sheet.first_words:
        asked, match = _asked(session, words, utterance), pattern(words.expect).search(text)
        if asked is not None and match is not None and (pattern(words.expect).names or _newest(session, asked, utterance)):
            return _answer(evidence, words, asked, utterance, match, text)
    return []


def _newest(session: Session, asked: Utterance, answer: Utterance) -> bool:
    """Whether nothing else was said since: a pattern that names nothing would take any answer for its own."""
    said = (u for u in reversed(session.ours) if u.said and u.start <= answer.start)
    return next(said, None) is asked


def _asked(session: Session, words: FirstWords, answer: Utterance) -> Utterance | None:
    """When these words were said last, before an answer."""
    said = (u for u in reversed(session.ours) if u.start <= answer.start)
    return next((u for u in said if u.text.strip() == words.say.strip()), None)


def _answer(
    evidence: Evidence, words: FirstWords, asked: Utterance, utterance: Utterance, match: PatternMatch, text: str
) -> News:
    told = {words.read.get(key, key): value for key, value in match.fields.items()}
    utterance.meaning = ", ".join(f"{name} {value}" for name, value in told.items())
    if words.by == "adapter":
        evidence.adapter = told or {"answered": words.say}
        return [("adapter", f"The adapter answers: {text}")]
    if evidence.asked_at != asked.start:  # of several lines the first is the answer
        # A device may answer at the first character of the line's end, before we have said the last.
        evidence.asked_at, evidence.answer_ms = asked.start, max(0.0, (utterance.start - asked.end) * 1000)
    made = shown.answered(words.say, told)
    if made.outranks(evidence.shown):
        evidence.shown = made
        return [("identity", f"It answers: {text}")]
    return [(f"answer {words.say}", utterance.meaning or text)]


def of_a_unit(evidence: Evidence, session: Session, i: int, link: Link, catalog: Catalog) -> News:
    """Registers that were asked for, or why they did not come."""
    utterance, asked, wanted = session.utterances[i], session.last_said, reading_of(link)
    if wanted is None or asked is None or utterance.start < asked.start or asked.data != wanted.words:
        return []
    unit, reading = wanted.unit, wanted.read(utterance.data, catalog)
    if reading is None:
        return []
    told = ", ".join(f"{name} {value}" for name, value in reading.values.items())
    utterance.meaning = reading.gateway or reading.refused or f"unit {unit}: {told}"
    if reading.gateway:
        evidence.gateway = reading.gateway
        return [("gateway", f"{reading.gateway[0].upper()}{reading.gateway[1:]}")]
    if evidence.asked_at != asked.start:
        evidence.asked_at, evidence.answer_ms = asked.start, max(0.0, (utterance.start - asked.end) * 1000)
    made = shown.registers(reading)
    if made.outranks(evidence.shown):
        evidence.shown = made
        return [("identity", f"Unit {unit} is read: {told or reading.refused}")]
    return [(f"registers of unit {unit}", told)]


def note_exchange(evidence: Evidence, session: Session) -> News:
    """What the judge makes of the newest question that no sheet knows, and of all of them as a proof.

    What proved a name may be taken back by what comes later: then that is news as well.
    """
    newest = newest_of(session.utterances[-JUDGED:], str(session.settings.frame))
    if newest is None:
        return []
    evidence.echoed = printable(newest.sent) if newest.verdict.state is ExchangeState.ECHO else ""
    if newest.verdict.state in NOTHING_SAID:
        return []
    before, evidence.reply = evidence.reply, _reply(evidence.reply, newest)
    told = _told_of(evidence.reply) if before is None or before.asked_at != newest.at else []
    return [*judged_worth(evidence, session), *told]


def _reply(before: Reply | None, newest: JudgedExchange) -> Reply:
    verdict, words = newest.verdict, printable(newest.sent).strip() or newest.sent.hex(" ").upper()
    answer = verdict.answer or verdict.told or verdict.why
    again = before is not None and before.asked_at != newest.at and (before.words, before.answer) == (words, answer)
    alike = 1 if before is None else before.alike + 1 if again else before.alike if before.asked_at == newest.at else 1
    return Reply(words, answer, newest.at, alike, verdict.state, newest.sent)


def _told_of(reply: Reply) -> News:
    if reply.state is ExchangeState.REFUSED:
        return [("reply", f"“{reply.words}” was refused: “{reply.answer}”; both conductors carry, at these settings")]
    return []


def judged_worth(evidence: Evidence, session: Session) -> News:
    """The proof that the exchanges of this session make together; what is known by a sheet or a check stays as it is."""
    if evidence.shown is not None and not evidence.by_judge:
        return []
    utterances = [one for one in session.utterances[-JUDGED:] if one.end > session.since]
    found = of_session(utterances, str(session.settings.frame))
    worth = worth_of([(one.sent, one.verdict) for one in found], evidence.marked)
    made = shown.judged(worth, found, evidence.marked)
    if made == evidence.shown:
        return []
    if made is None:
        evidence.shown, evidence.by_judge, evidence.proof_kept = None, False, False
        why = worth.withdrawn if worth is not None and worth.withdrawn else "what came later speaks against it"
        return [("withdrawn", f"The proof is taken back: {why}")]
    evidence.shown, evidence.by_judge, evidence.proof_kept = made, True, False
    return [("identity", f"It answers: {made.reason}")]


def note_silence(evidence: Evidence, session: Session, link: Link, now: float) -> None:
    """Whether the words that were said last may still be answered, or have failed: no answer came in their time.

    Words that only prepare others may have an answer of any kind.
    """
    asked, sheet = session.last_said, link.sheet
    if evidence.since is not None and (asked is None or asked.start == evidence.since):
        return  # what was asked for last is still to be sent
    evidence.since = None
    if asked is None or not asked.said or evidence.shown is not None:
        evidence.silence, evidence.asking = None, ""
        return
    answer_ms = sheet.answer_ms if sheet is not None else ANSWER_MS
    late = now - asked.end >= PATIENCE * answer_ms / 1000 + session.pause_s
    newest = session.utterances[-1]
    came = newest.who is Who.THEY and newest.end > asked.start
    evidence.asking = "" if late or (came and not _proves(asked, link)) else asked.text
    before, end = evidence.silence, Terminator.of(asked.data)
    if came and before is not None and before.words == asked.text and before.end is not end:
        evidence.end = end
    if came:
        evidence.silence = None
    elif late and asked.text and asked.text.encode("latin-1", "replace") == asked.data.rstrip(b"\r\n"):
        tried = before.tried if before is not None and before.words == asked.text else frozenset()
        evidence.silence = Silence(asked.text, end, tried | {end})
    reading = reading_of(link)
    if late and reading is not None and reading.words == asked.data:
        evidence.unanswered |= {asked.data.hex()}
    if late and sheet is not None:
        failed = [words.say for i, words in enumerate(sheet.first_words) if i == 0 or not came]
        evidence.unanswered |= {asked.text}.intersection(failed)


def _proves(asked: Utterance, link: Link) -> bool:
    """Whether the answer to these words is what is waited for, and not just any answer."""
    sheet = link.sheet
    if sheet is None:
        return reading_of(link) is not None
    return reading_of(link) is not None or asked.text in [words.say for words in sheet.first_words if words.by == "device"]


def _line(all_of_it: list[Utterance], i: int) -> str:
    """The text of an utterance with what came right before it of the same line: a late reader cuts a line in two."""
    parts = [all_of_it[i]]
    while i > 0 and all_of_it[i - 1].who is Who.THEY and not all_of_it[i - 1].data.endswith((b"\n", b"\r")):
        i -= 1
        parts.insert(0, all_of_it[i])
    return "".join(part.text for part in parts)
