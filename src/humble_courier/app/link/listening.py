"""Taking in what the session brought: what it looks like, what it means, and what it proves."""

from humble_courier.app.link import shown
from humble_courier.app.link.answers import ANSWERS_WITHIN_S, note_exchange, note_silence, of_a_unit, of_the_sheet
from humble_courier.app.link.evidence import Evidence, News
from humble_courier.app.settings.first_line import as_predicted
from humble_courier.app.talk.meanings import meaning, spec_of_sheet
from humble_courier.app.talk.traffic import Traffic, looks_like
from humble_courier.catalog.links import Link
from humble_courier.catalog.load import Catalog
from humble_courier.domain.settings import Parity, Settings
from humble_courier.domain.utterance import Utterance, Who
from humble_courier.port.session import Session
from humble_courier.protocols.registry import all_specs, looks_spoken
from humble_courier.protocols.spec import ProtocolSpec
from humble_courier.protocols.text import SPEC as TEXT

READ_AT_ONCE = 20  # newest utterances: a talker that never stops must not hold the window up
LOOKED_BACK = 20  # utterances by which the look of what comes is judged
JUDGED_WITHIN_S = 30.0  # after our words: what comes later is no reply to them
GUESSED_FROM = 2048  # bytes
FEW = 4  # bytes below which nothing is said of how they look
AS_PREDICTED = 0.8  # share of bytes that come as the settings on paper predict, from which these explain them


def read(evidence: Evidence, session: Session, link: Link, now: float, catalog: Catalog) -> News:
    """Take in what the session holds; returns what is new as (subject, text), to be kept as measured facts.

    Only what is complete is read, so that half a number is never taken for the whole. `now` in seconds since the epoch.
    """
    newest = [u for u in session.utterances[-LOOKED_BACK:] if u.end > session.since]
    theirs = [u for u in newest if u.who is Who.THEY and session.complete(u, now)]
    news = _look(evidence, session, theirs, link)
    first = max(0, len(session.utterances) - READ_AT_ONCE)
    for i, utterance in enumerate(session.utterances[first:], start=first):
        if utterance.who is Who.THEY and not utterance.looked_at and session.complete(utterance, now):
            utterance.looked_at = True
            news += _take(evidence, session, i, theirs, link, catalog)
    note_silence(evidence, session, link, now)
    return news


def _take(evidence: Evidence, session: Session, i: int, theirs: list[Utterance], link: Link, catalog: Catalog) -> News:
    """One utterance that is complete."""
    utterance = session.utterances[i]
    spec = _spoken(evidence, theirs, session, link, catalog)
    news = _tell(evidence, session, i, spec, link, catalog)
    if utterance.doubtful:
        utterance.meaning = _doubt(utterance, link)
        return news
    news += of_the_sheet(evidence, session, i, link.sheet) if link.sheet is not None else []
    news += of_a_unit(evidence, session, i, link, catalog)
    if not utterance.meaning:
        utterance.meaning = meaning(utterance.data, spec, catalog)
        asked = session.last_said
        if asked is not None and asked.said and 0 <= utterance.start - asked.start <= JUDGED_WITHIN_S:
            news += note_exchange(evidence, session)
    return news


def _tell(evidence: Evidence, session: Session, i: int, spec: ProtocolSpec | None, link: Link, catalog: Catalog) -> News:
    """What is said by itself counts towards a proof by hearing."""
    utterance, asked = session.utterances[i], session.last_said
    if asked is not None and utterance.start - asked.start < ANSWERS_WITHIN_S and asked.said:
        return []
    if spec is None and (link.sheet is None or not link.sheet.first_words) and evidence.heard is Traffic.TEXT:
        spec = TEXT
    if spec is None:
        return []
    if evidence.tally is None or evidence.tally.spec is not spec:
        evidence.tally = shown.Tally(spec, spec.decoder(catalog))
    evidence.tally.feed(utterance.data, utterance.doubtful, utterance.end)
    evidence.tally.notes = tuple(spec.summed_up(evidence.tally.decoder, (), catalog))
    made = shown.heard(evidence.tally)
    if made is None or not made.outranks(evidence.shown):
        return []
    evidence.shown = made
    return [("heard by itself", made.reason[0].upper() + made.reason[1:])]


def _look(evidence: Evidence, session: Session, theirs: list[Utterance], link: Link) -> News:
    if not session.bytes_heard:
        evidence.heard = Traffic.NOTHING
    look = looks_like(b"".join(u.said for u in theirs), sum(u.doubtful for u in theirs))
    spoken = all_specs().get(link.sheet.port.protocol) if link.sheet is not None else None
    if look is Traffic.BINARY and spoken is not None and spoken.text:
        look = Traffic.WRONG_SETTINGS  # no error came with it, and yet it is not what this device says
    if look is Traffic.WRONG_SETTINGS and session.bytes_heard >= 2 * evidence.judged_at:
        evidence.judged_at, evidence.likelier = session.bytes_heard, _explained(theirs, session.settings, link)
    if look == evidence.heard or sum(map(len, theirs)) < FEW:
        return []
    evidence.heard = look
    if look is Traffic.WRONG_SETTINGS:
        without = ", though without errors" if not session.errors else ""
        return [("heard", f"Garbled{without}: {session.summary}")]
    return [("heard", "Text arrives, without errors")] if look is Traffic.TEXT else []


def _explained(theirs: list[Utterance], ours: Settings, link: Link) -> str:
    """Which settings garbled bytes speak for: those on paper where they predict just these bytes, else by the tables."""
    paper = link.device_settings
    for utterance in theirs if paper is not None and ours.differences(paper) else ():
        like, of = as_predicted(link, utterance.data)
        if of and like >= AS_PREDICTED * of:
            return f"{paper.spoken} ({like} of {of} bytes as predicted for it)" if paper is not None else ""
    return likelier(theirs, ours)


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
    belief.listen(Settings(ours.rate, ours.frame), counted(values, errors))  # by count: the window waits for it
    return " or ".join(f"{b.rate} {b.frame} ({b.probability:.0%})" for b in belief.told()[:2])


def _doubt(utterance: Utterance, link: Link) -> str:
    """What to make of a damaged utterance: whether it is what the settings on paper would make of the power-up line."""
    text = f"{utterance.doubtful} of {len(utterance)} characters in doubt"
    ours, theirs = link.computer_settings, link.device_settings
    if ours and theirs and ours.differences(theirs):
        like, of = as_predicted(link, utterance.data)
        if of and like >= AS_PREDICTED * of:
            text += f"; {like} of {of} are as predicted for {theirs.spoken} heard at {ours.spoken}"
    return text


def summary_fact(settings: Settings, session: Session) -> str:
    """Both ways proven, with the count behind it."""
    return f"{settings.spoken} both ways: {session.bytes_heard} characters, {session.errors} in doubt"
