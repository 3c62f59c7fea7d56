"""Ways to an answer: first words in their order, the registers of a unit, or listening on; nothing that has just failed."""

from humble_courier.app.link.failed_ways import failed
from humble_courier.app.link.seen import LinkSeen
from humble_courier.app.link.stages import Stage, TalkPage
from humble_courier.app.link.step import Action, NextStep
from humble_courier.app.talk.reading import UnitQuestion, reading_of
from humble_courier.app.talk.traffic import Traffic
from humble_courier.catalog.links import Link
from humble_courier.documents.device import DeviceEntry
from humble_courier.domain.signals import Role

KLINE = "iso14230"
SECONDS, MINUTE = 0.1, 1.0


def said(seen: LinkSeen) -> list[NextStep]:
    """What to say to a device that may be spoken to."""
    link, evidence = seen.link, seen.evidence
    if link.sheet is not None and link.sheet.port.protocol == KLINE:
        text = "Wake the control units one after the other, ask each who it is and which troubles it keeps; clears nothing."
        return [NextStep(text, MINUTE, "Ask all units", Action.UNITS, stage=Stage.TALK, page=TalkPage.PROVE)]
    if only_listens(link):
        text = "It only listens: let the talker play, look at its display, and say whether it follows."
        return [NextStep(text, MINUTE, "Play the talker", Action.PLAY, stage=Stage.TALK, page=TalkPage.PLAY)]
    reading = reading_of(link)
    if reading is not None:
        return _read(reading, seen)
    if link.sheet is not None and link.sheet.first_words:
        return of_its_sheet(link.sheet, seen)
    if evidence.asking:
        return [_awaited(f"“{evidence.asking}” is said; its answer may still come.")]
    if evidence.silence is not None:
        return failed(seen, f"“{evidence.silence.words}” brought nothing with {evidence.silence.end.spoken}")
    if evidence.suggested:
        return [_suggested(evidence.suggested)]
    text = "Type the words that the manual gives. They are sent as you see them."
    return [NextStep(text, MINUTE, "Type", Action.TYPE, stage=Stage.TALK, page=TalkPage.LISTEN)]


def heard_on(seen: LinkSeen) -> list[NextStep]:
    """A device that speaks by itself is waited for."""
    evidence = seen.evidence
    count = evidence.tally.sound if evidence.tally is not None else 0
    if evidence.heard is Traffic.NOTHING:
        text = "It speaks by itself, and nothing has come yet. Is it on, and in the mode in which it speaks?"
    else:
        text = f"It speaks by itself: {count} whole messages so far. Listen on; enough of them prove the link."
    return [NextStep(text, SECONDS, "Wait", Action.WAIT, stage=Stage.TALK, page=TalkPage.LISTEN)]


def only_listens(link: Link) -> bool:
    """Whether the device's port has an input for data and no output."""
    data = [signal for signal in link.device.signals.values() if signal.role is Role.DATA]
    return bool(data) and not any(signal.drives for signal in data)


def _awaited(text: str) -> NextStep:
    return NextStep(text, SECONDS, "Wait", Action.WAIT, stage=Stage.TALK)


def _suggested(words: str) -> NextStep:
    text = f"Say “{words}”, to which the search got an answer: then it is in the record."
    return NextStep(text, SECONDS, f"Say {words}", Action.SAY, words=words, stage=Stage.TALK)


def _read(reading: UnitQuestion, seen: LinkSeen) -> list[NextStep]:
    unit, evidence = reading.unit, seen.evidence
    if evidence.gateway:
        what = f"{evidence.gateway[0].upper()}{evidence.gateway[1:]}: look at the bus behind it, at the number of the unit"
        return failed(seen, what)
    if reading.words.hex() in evidence.unanswered:
        return failed(seen, f"Unit {unit} had time enough and did not answer")
    if evidence.asking:
        return [_awaited(f"Unit {unit} is asked; its answer may still come.")]
    text = reading.says
    return [NextStep(f"{text[0].upper()}{text[1:]}.", SECONDS, f"Read unit {unit}", Action.READ, stage=Stage.TALK)]


def of_its_sheet(sheet: DeviceEntry, seen: LinkSeen) -> list[NextStep]:
    """The first words that have not failed, and before them what has to be said before them."""
    evidence = seen.evidence
    if evidence.asking:
        answers_s = sheet.answer_ms / 1000
        return [_awaited(f"“{evidence.asking}” is said. The answer may take {answers_s:g} s, and an adapter adds to it.")]
    by_text = {words.say: words for words in sheet.first_words}
    left = (words for words in sheet.first_words if words.say not in evidence.unanswered)
    wanted = next((words for words in left if words.by == "device"), None)
    if wanted is None and evidence.adapter:
        what = "The adapter answers and the bus behind it is silent: key on? fuse? the rate of the bus, not of the adapter?"
        return failed(seen, what.rstrip("?"))
    if wanted is None and evidence.suggested and evidence.suggested not in evidence.unanswered:
        return [_suggested(evidence.suggested)]
    if wanted is None:
        asked = " and ".join(f"“{words}”" for words in by_text)
        return failed(seen, f"{asked} had time enough, and no answer of its sheet came{_set_by(sheet)}")
    for _ in by_text:
        if wanted.after in by_text and wanted.after not in seen.said:
            wanted = by_text[wanted.after]
    text = f"Say “{wanted.say}”: it {wanted.means}."
    return [NextStep(text, SECONDS, f"Say {wanted.say}", Action.SAY, words=wanted.say, stage=Stage.TALK)]


def _set_by(sheet: DeviceEntry) -> str:
    """Where one looks whether it is set as the sheet says."""
    places = dict.fromkeys(place.how for place in sheet.port.set_in.values() if place.kind != "fixed")
    return f". Set otherwise? Look there: {'; '.join(places)}" if places else ""
