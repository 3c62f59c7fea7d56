"""What to say next: first words in their order, or the registers of a unit; nothing that has just failed."""

from collections.abc import Collection

from humble_courier.app.link.evidence import Evidence, Silence
from humble_courier.app.link.stages import Stage, TalkPage
from humble_courier.app.link.step import Action, NextStep
from humble_courier.app.talk.reading import UnitQuestion, reading_of
from humble_courier.catalog.links import Link
from humble_courier.documents.device import DeviceEntry
from humble_courier.domain.signals import Role
from humble_courier.domain.text import Terminator

USUAL_ENDS = (Terminator.CR, Terminator.LF, Terminator.CRLF)  # in the order in which they are met (common practice)

KLINE = "iso14230"


def first_words(link: Link, evidence: Evidence, spoken: Collection[str]) -> NextStep:
    """The next words to a device that may be spoken to; `spoken`: what we have said in this session."""
    if link.sheet is not None and link.sheet.port.protocol == KLINE:
        text = "Wake the control units one after the other, ask each who it is and which troubles it keeps; clears nothing."
        return NextStep(text, "1 minute", "Ask all units", Action.UNITS, stage=Stage.TALK, page=TalkPage.PROVE)
    if only_listens(link):
        text = "It only listens: let the talker play, look at its display, and say whether it follows."
        return NextStep(text, "1 minute", "Play the talker", Action.PLAY, stage=Stage.TALK, page=TalkPage.PLAY)
    reading = reading_of(link)
    if reading is not None:
        return _read(reading, evidence)
    if evidence.asking and (link.sheet is None or not link.sheet.first_words):
        text = f"“{evidence.asking}” is said; its answer may still come."
        return NextStep(text, "seconds", "Wait", Action.WAIT, stage=Stage.TALK)
    if (link.sheet is None or not link.sheet.first_words) and evidence.silence is not None:
        return _again(evidence.silence)
    if evidence.suggested and (link.sheet is None or not link.sheet.first_words):
        text = f"Say “{evidence.suggested}”, to which the search got an answer: then it is in the record."
        return NextStep(text, "seconds", f"Say {evidence.suggested}", Action.SAY, words=evidence.suggested, stage=Stage.TALK)
    if link.sheet is None or not link.sheet.first_words:
        text = "Type the words that the manual gives. They are sent as you see them."
        return NextStep(text, "1 minute", "Type", Action.TYPE, stage=Stage.TALK, page=TalkPage.LISTEN)
    return words_step(link.sheet, evidence, spoken)


def only_listens(link: Link) -> bool:
    """Whether the device's port has an input for data and no output."""
    data = [signal for signal in link.device.signals.values() if signal.role is Role.DATA]
    return bool(data) and not any(signal.drives for signal in data)


def _again(silence: Silence) -> NextStep:
    left = next((end for end in USUAL_ENDS if end not in silence.tried), None)
    if left is None:
        text = f"“{silence.words}” brought nothing with any usual end. Look at its power, then search for its settings."
        return NextStep(text, "minutes", "Search for it", Action.FIND, stage=Stage.TALK, page=TalkPage.FIND)
    text = f"“{silence.words}” brought nothing with {silence.end.spoken}. Quickest is to try another end: {left.spoken}."
    return NextStep(text, "seconds", f"Say it with {left.spoken}", Action.AGAIN, end=left, stage=Stage.TALK)


def _read(reading: UnitQuestion, evidence: Evidence) -> NextStep:
    unit = reading.unit
    if evidence.gateway:
        text = (
            f"{evidence.gateway[0].upper()}{evidence.gateway[1:]}: look at the bus behind it, and at the number of the unit."
        )
        return NextStep(text, "minutes", "Open Prepare", Action.PREPARE, stage=Stage.PREPARE)
    if reading.words.hex() in evidence.unanswered:
        text = (
            f"Unit {unit} had time enough and did not answer. Look at its power, A and B, its address; then search for it."
        )
        return NextStep(text, "minutes", "Search for it", Action.FIND, stage=Stage.TALK, page=TalkPage.FIND)
    if evidence.asking:
        return NextStep(
            f"Unit {unit} is asked; its answer may still come.", "seconds", "Wait", Action.WAIT, stage=Stage.TALK
        )
    text = reading.says
    return NextStep(f"{text[0].upper()}{text[1:]}.", "seconds", f"Read unit {unit}", Action.READ, stage=Stage.TALK)


def words_step(sheet: DeviceEntry, evidence: Evidence, spoken: Collection[str]) -> NextStep:
    """The first words that have not failed, and before them what has to be said before them."""
    by_text = {words.say: words for words in sheet.first_words}
    left = (words for words in sheet.first_words if words.say not in evidence.unanswered)
    wanted = next((words for words in left if words.by == "device"), None)
    if wanted is None and evidence.adapter:
        text = "The adapter answers and the bus behind it is silent: key on? fuse? the rate of the bus, not of the adapter?"
        return NextStep(text, "minutes", "Open Prepare", Action.PREPARE, stage=Stage.PREPARE)
    if wanted is None and evidence.suggested and evidence.suggested not in evidence.unanswered:
        text = f"Say “{evidence.suggested}”, to which the search got an answer: then it is in the record."
        return NextStep(text, "seconds", f"Say {evidence.suggested}", Action.SAY, words=evidence.suggested, stage=Stage.TALK)
    if wanted is None:
        asked = " and ".join(f"“{words}”" for words in by_text)
        text = f"{asked} had time enough, and no answer of its sheet came. Has it power? {_set_by(sheet)}Then search for it."
        return NextStep(text, "minutes", "Search for it", Action.FIND, stage=Stage.TALK, page=TalkPage.FIND)
    for _ in by_text:
        if wanted.after in by_text and wanted.after not in spoken:
            wanted = by_text[wanted.after]
    if evidence.asking:
        text = f"“{evidence.asking}” is said. The answer may take {sheet.answer_ms / 1000:g} s, and an adapter adds to it."
        return NextStep(text, "seconds", "Wait", Action.WAIT, stage=Stage.TALK)
    text = f"Say “{wanted.say}”: it {wanted.means}."
    return NextStep(text, "seconds", f"Say {wanted.say}", Action.SAY, words=wanted.say, stage=Stage.TALK)


def _set_by(sheet: DeviceEntry) -> str:
    """Where one looks whether it is set as the sheet says."""
    places = dict.fromkeys(place.how for place in sheet.port.set_in.values() if place.kind != "fixed")
    return f"Set otherwise? Look there: {'; '.join(places)}. " if places else ""
