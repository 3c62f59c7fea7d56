"""A device kept as one's own, by doing: what the link has shown of it, made into a sheet that is touched up and saved.

Theory of operation. A `Draft` is one immutable state of the sheet in the making: what was said and answered, which parts
of an answer are named, which contacts carry what, which acts go before. Every change makes a new state, and whoever keeps
the old ones can take it back. The sheet itself is made anew from the state each time, and is the same document `device/1`
that the text shows; nothing is written before it is kept.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Any

import msgspec

from humble_courier.app.devices.answer_pattern import AnswerPart, fits, guessed
from humble_courier.app.devices.draft import Learnt, Said, as_text, base_of, draft, first_words, id_of
from humble_courier.app.link.open_link import OpenLink
from humble_courier.app.talk.exchanges import of_session
from humble_courier.app.talk.meanings import spec_of_sheet
from humble_courier.app.talk.one_call import listen, say
from humble_courier.app.talk.typed_words import Typed, Written
from humble_courier.catalog.load import Catalog
from humble_courier.documents.device import DeviceEntry, Lamp, Precondition
from humble_courier.domain.facts import State
from humble_courier.domain.settings import Settings
from humble_courier.domain.text import Terminator
from humble_courier.domain.utterance import Utterance, Who
from humble_courier.errors import BadInput
from humble_courier.exchange.form import bare_number, by_protocol, form_of
from humble_courier.exchange.verdict import ExchangeState, SpanRole, WordsForm
from humble_courier.simulator.address import SimAddress

ANSWERS = (ExchangeState.ANSWERED, ExchangeState.REPLIED)
YOU, PROTOCOL, ITS_SHEET = "you", "its protocol", "its sheet"
BENCH_PACE, LISTENS_S, ASKS_S = "20", 0.3, 1.0  # a trial on the bench is over before one waits
SIGNALS = (
    "TXD out", "RXD in", "GND", "RTS out", "CTS in", "RTS in", "CTS out", "DTR out", "DSR in", "A both", "B both", "VCC out",
)  # fmt: skip
LEVEL_OF_SUPPLY = "power-5v"
DEFAULT_LEVEL = "rs232"
ADDED = ("act before the first words", "caution", "lamp", "value to note down", "act after the job")


@dataclass(frozen=True)
class Draft:
    """One state of a sheet in the making. `answers`: all answers to the same words, the newest last, by words."""

    name: str
    base: DeviceEntry
    learnt: Learnt
    answers: dict[str, tuple[str, ...]] = field(default_factory=dict)

    @property
    def kept(self) -> tuple[Said, ...]:
        """Words that are said again: those of which somebody says that they only ask."""
        return tuple(one for one in self.learnt.said if one.asks)

    def sheet(self) -> DeviceEntry:
        """The sheet as it stands. Raises BadInput for a name that cannot be one, or parts that overlap."""
        return draft(id_of(self.name), self.name, self.base, self.learnt)


def begin(link: OpenLink, catalog: Catalog) -> Draft:
    """What the link has shown so far. Raises BadInput where no settings are chosen."""
    settings = link.document.link.computer_settings
    if settings is None:
        raise BadInput("choose the settings of the computer's end first")
    known = (
        {one.say: one.asks or ITS_SHEET for one in link.document.link.sheet.first_words} if link.document.link.sheet else {}
    )
    said, answers = exchanges(link.live.utterances(), str(settings.frame), known)
    tally = link.evidence.tally
    sheet = link.document.link.sheet
    spec = spec_of_sheet(sheet.port.protocol) if sheet is not None else None
    protocol = tally.spec.id if tally is not None and tally.sound else spec.id if spec is not None else "text"
    heard = "" if said else _talked(link.live.utterances())
    end = link.evidence.end or link.document.link.end
    learnt = Learnt(settings, end or _end_of(link.live.utterances()), said, heard, protocol, link.document.model.unit)
    name = link.document.name if sheet is None or catalog.is_kind(sheet.id) else sheet.name
    return Draft(name, base_of(link.document.link, catalog), learnt, answers)


def exchanges(
    utterances: Sequence[Utterance], frame: str, ticked: Mapping[str, str]
) -> tuple[tuple[Said, ...], dict[str, tuple[str, ...]]]:  # fmt: skip
    """Lines of ours that were answered, as the judge sees it; `ticked`: who says of which words that they only ask.

    Nothing is ticked beforehand but what a protocol says. What was typed where a secret was asked for is never kept, nor a
    bare number, which sets something at some devices.
    """
    found: dict[str, Said] = {}
    answers: dict[str, list[str]] = {}
    secret = False
    for one in of_session(utterances, frame):
        words, verdict, asked_secret = one.sent.decode("latin-1").strip(), one.verdict, secret
        last = verdict.spans[-1] if verdict.spans else None
        secret = last is not None and last.role is SpanRole.PROMPT and verdict.secret
        if asked_secret or not _is_line(one.sent) or bare_number(words) or verdict.state not in ANSWERS:
            continue
        text = next((line.strip() for line in verdict.answer.splitlines() if line.strip()), "")
        if not text.isascii() or not text.isprintable():
            continue
        answers.setdefault(words, []).append(text)
        found[words] = Said(words, text, verdict.ms or 0.0, ticked.get(words) or (PROTOCOL if by_protocol(one.sent) else ""))
    return tuple(found.values()), {words: tuple(told) for words, told in answers.items()}


def _is_line(data: bytes) -> bool:
    return bool(data.strip()) and all(32 <= b < 127 or b in b"\r\n\t" for b in data)


def _first_line(data: bytes) -> str:
    told = [line.decode("latin-1") for part in data.replace(b"\r", b"\n").split(b"\n") if (line := part.strip())]
    return told[0] if told and told[0].isascii() and told[0].isprintable() else ""


def why_asks(one: Said) -> str:
    """Who says that words only ask; else what their form tells of it, for the person who ticks."""
    if one.asks:
        return f"{one.asks} said that it only asks" if one.asks == YOU else f"{one.asks} says that it only asks"
    return {
        WordsForm.ASKS: "its form is that of a question", WordsForm.SETS: "its form is that of a setting",
        WordsForm.UNKNOWN: "its form does not tell whether it sets something",
    }[form_of(one.words.encode("latin-1", "replace"))]  # fmt: skip


def _talked(utterances: Sequence[Utterance]) -> str:
    """A whole line that came by itself."""
    whole = (_first_line(one.data) for one in utterances if one.who is Who.THEY and not one.doubtful)
    return next((line for line in whole if line), "")


def _end_of(utterances: Sequence[Utterance]) -> Terminator | None:
    said = next((one for one in reversed(utterances) if one.who is Who.WE and _is_line(one.data)), None)
    return Terminator.of(said.data) if said is not None else None


# Changes: each gives a new state


def with_part(now: Draft, words: str, at: int, name: str) -> Draft:
    """Name the part of an answer that begins at `at`; an empty name takes it away."""
    said = []
    for one in now.learnt.said:
        parts = one.parts if one.parts is not None else tuple(guessed(one.answer, one.words))
        if one.words == words:
            parts = tuple(replace(part, name=name) if part.start == at else part for part in parts)
            one = replace(one, parts=parts)
        said.append(one)
    made = replace(now, learnt=replace(now.learnt, said=tuple(said)))
    for one in made.kept:
        first_words(one)  # raises for two parts of one name
    return made


def with_asking(now: Draft, words: str, only_asks: bool) -> Draft:
    """Whether words only ask: those that may change something are listed, and not said again."""
    said = tuple(replace(one, asks=YOU if only_asks else "") if one.words == words else one for one in now.learnt.said)
    return replace(now, learnt=replace(now.learnt, said=said))


def with_signal(now: Draft, contact: str, signal: str) -> Draft:
    """What a contact carries, as in `TXD out` at the level of the others; empty for not known."""
    signals = dict(now.base.port.signals)
    if signal:
        signals[contact] = spelled(signal, level_of(now))
    else:
        signals.pop(contact, None)
    return _with_port(now, signals=signals)


def with_level(now: Draft, level: str) -> Draft:
    """The level of all signals that are neither ground nor supply."""
    signals = {contact: _at_level(text, level) for contact, text in now.base.port.signals.items()}
    return _with_port(now, signals=signals)


def _at_level(text: str, level: str) -> str:
    words = text.split()
    passive = len(words) != 3 or words[2] in ("ground", "shield") or words[2].startswith("power")
    return text if passive else f"{words[0]} {words[1]} {level}"


def spelled(signal: str, level: str) -> str:
    """A signal as a sheet writes it."""
    if signal == "GND":
        return signal
    return f"{signal} {LEVEL_OF_SUPPLY if signal.startswith('VCC') else level}"


def level_of(now: Draft) -> str:
    """The level of most signals."""
    levels = [text.split()[2] for text in now.base.port.signals.values() if len(text.split()) == 3]
    data = [level for level in levels if level not in ("ground", "shield") and not level.startswith("power")]
    return max(set(data), key=data.count) if data else DEFAULT_LEVEL


def with_settings(now: Draft, settings: str, end: Terminator) -> Draft:
    """Settings and line end. Raises BadInput."""
    return replace(now, learnt=replace(now.learnt, settings=Settings.parse(settings), end=end))


def with_name(now: Draft, name: str) -> Draft:
    """Another name. Raises BadInput for one that cannot be."""
    id_of(name)
    return replace(now, name=name)


def with_mark(now: Draft, mark: str) -> Draft:
    """What stands beside the port."""
    return _with_port(now, mark=mark or "as seen")


def _with_port(now: Draft, **changed: str | dict[str, str]) -> Draft:
    port = msgspec.structs.replace(now.base.port, **changed)
    return replace(now, base=msgspec.structs.replace(now.base, port=port))


def added(now: Draft, what: str, text: str) -> Draft:
    """An act, a caution, a lamp or a value to note down (one of `ADDED`). Raises BadInput for an empty one."""
    if not text.strip():
        raise BadInput(f"say it in a few words: the {what}")
    base, act = now.base, Precondition(act=text, proof="done")
    changes: dict[str, dict[str, Any]] = {
        ADDED[0]: {"preconditions": [*base.preconditions, act]},
        ADDED[1]: {"preconditions": [*base.preconditions, Precondition(act=text, proof="seen", caution=text)]},
        ADDED[2]: {"lamps": [*base.lamps, Lamp(what=text, means="as it should be", absent="something is wrong")]},
        ADDED[3]: {"note_down": [*base.note_down, text]},
        ADDED[4]: {"afterwards": [*base.afterwards, act]},
    }
    return replace(now, base=msgspec.structs.replace(base, **changes[what]))


def known(now: Draft) -> list[tuple[State, str, str]]:
    """What is known of the device, each with how sure it is: settings, end, words or talk, parts, port, acts."""
    learnt, said = now.learnt, now.kept
    named = [
        part.name
        for one in said
        for part in (one.parts if one.parts is not None else guessed(one.answer, one.words))
        if part.name
    ]
    end = learnt.end.spoken if learnt.end is not None else ""
    heard = bool(learnt.said or learnt.heard)
    acts = len(now.base.preconditions)
    return [
        (State.PROVEN if heard else State.ASSUMED, "settings", learnt.settings.spoken),
        (State.PROVEN if end else State.UNKNOWN, "lines end with", end or "not known"),
        (State.PROVEN if heard else State.UNKNOWN, "speaks", spec_name(learnt.protocol)),
        (State.PROVEN if said else State.UNKNOWN, "first words", ", ".join(one.words for one in said) or "none yet"),
        (State.PROVEN if named else State.UNKNOWN, "told apart by", ", ".join(named) or "nothing named yet"),
        (State.ASSUMED, "port", f"{len(now.base.port.signals)} contacts known"),
        (State.ASSUMED if acts else State.UNKNOWN, "acts before", f"{acts} noted" if acts else "none noted"),
    ]


def spec_name(protocol: str) -> str:
    """What a protocol is called."""
    spec = spec_of_sheet(protocol)
    return spec.name if spec is not None else "lines of text"


def tried(now: Draft, one: Said) -> str:
    """The pattern of an answer, held against all answers to the same words."""
    told = now.answers.get(one.words, (one.answer,))
    return f"{fits(first_words(one).expect, told)} of {len(told)} fit; {why_asks(one)}"


def text_of(now: Draft) -> str:
    """The sheet as text."""
    return as_text(now.sheet())


def parts_of(one: Said) -> tuple[AnswerPart, ...]:
    """The parts of an answer that can be touched."""
    return one.parts if one.parts is not None else tuple(guessed(one.answer, one.words))


def on_the_bench(now: Draft) -> str:
    """Ask the device, simulated from its sheet, as the sheet says, and tell what comes. Raises BadInput."""
    sheet = now.sheet()
    address = str(SimAddress.of_sheet(SimAddress(sheet.id, {"power": "on", "pace": BENCH_PACE}), sheet))
    settings = Settings.parse(sheet.port.settings)
    if not sheet.first_words:
        told = listen(address, settings, LISTENS_S)
        return f"On the bench it says: {told.text.splitlines()[0]}" if told.data else "On the bench it says nothing."
    words = sheet.first_words[0]
    typed = Typed(words.say, Written.PLAIN, Terminator(sheet.end), expect=words.expect)
    answer = say(address, settings, typed, True, ASKS_S)
    if not answer.matched:
        return f"On the bench “{words.say}” is not answered as the sheet says: {answer.text or 'nothing came'}"
    read = ", ".join(f"{words.read.get(key, key)} {value}" for key, value in answer.fields.items())
    return f"On the bench “{words.say}” is answered “{answer.text}”: {read or 'as the sheet says'}"
