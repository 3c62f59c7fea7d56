"""The judge: what came of one question, and what it shows.

Theory of operation. The question is turned round: not "is this a refusal", of which no list is complete, but "does the reply
show something itself". It does where a value has its name beside it, a reading its unit, or where a check came that our own
words carry too. Whatever is left is "it replied", which proves conductors and settings, and is for a person to judge.
In order: a check; garble; then line by line what is our own echo, what the device says by itself, a refusal (which no
later OK undoes), an acknowledgement, a prompt, a pager; the rest is the reply. Pure: bytes with times and doubts in, a
verdict out.
"""

import re
from collections.abc import Sequence

from humble_courier.exchange import garble
from humble_courier.exchange.form import form_of
from humble_courier.exchange.framed import checked_answer, handed_back
from humble_courier.exchange.lexicon import Lexicon, lexicon
from humble_courier.exchange.named_parts import named_parts
from humble_courier.exchange.reply_lines import APART_MS, FRAMING, ReplyLine, lines_of, plain, told
from humble_courier.exchange.verdict import (
    Came,
    ExchangeState,
    ExchangeVerdict,
    NamedPart,
    RoleSpan,
    SpanRole,
    WordsForm,
)

LATE_MS = 5000.0  # what begins later than that may have been said by itself (common practice)
SINGLE = {
    b"\x06": SpanRole.ACK,
    b"\x15": SpanRole.REFUSAL,
    b"\x04": SpanRole.REFUSAL,
    b"\x07": SpanRole.REFUSAL,
}  # ISO/IEC 646
WHY = {
    ExchangeState.ANSWERED: "it names something",
    ExchangeState.REPLIED: "something came; nothing in it tells what it is",
    ExchangeState.ACKNOWLEDGED: "it took the words, and said no more",
    ExchangeState.REFUSED: "it refused the words",
    ExchangeState.PROMPT: "it waits for words",
    ExchangeState.MORE: "it goes on after a key",
    ExchangeState.ECHO: "only our own words came back",
    ExchangeState.SILENT: "nothing came",
    ExchangeState.LATE: "it came so late that it may have been said by itself",
    ExchangeState.ITSELF: "only what it says by itself",
}


def judge(sent: bytes, came: Sequence[Came], at: str = "8N1") -> ExchangeVerdict:
    """What came of `sent`; `came` in the order of time, also of the seconds before. `at`: the frame heard with."""
    form, heard = form_of(sent), [one for one in came if one.data]
    if not heard:
        return ExchangeVerdict(ExchangeState.SILENT, WHY[ExchangeState.SILENT], form=form)
    after = [one for one in heard if one.ms >= 0 or not sent]
    framed = _framed(sent, after, form, before=sum(len(one.data) for one in heard) - sum(len(one.data) for one in after))
    if framed is not None:
        return framed
    if garble.is_garbled(heard) and not (_is_binary(sent) and not any(one.doubts for one in heard)):
        speaks, size = garble.speaks_for(heard, at), sum(len(one.data) for one in heard)
        why = f"it looks like {speaks}" if speaks and speaks != "rate" else "it was sent at other settings"
        return ExchangeVerdict(
            ExchangeState.GARBLED,
            why,
            spans=[RoleSpan(0, size, SpanRole.GARBLED)],
            form=form,
            ms=_begun(after),
            speaks=speaks,
        )
    return _Reading(sent, heard, form, lexicon()).verdict()


def _framed(sent: bytes, after: list[Came], form: WordsForm, before: int) -> ExchangeVerdict | None:
    """An answer with a check, or a write that was handed back."""
    pieces = [one.data for one in after]
    if not sent or not pieces:
        return None
    answer, whole = checked_answer(sent, pieces), b"".join(pieces)
    if answer is not None:
        refused = _exception(sent, answer)
        start = before + whole.rindex(answer)
        text = answer.decode("latin-1").strip()
        parts = (
            [NamedPart(p.name, p.value, p.start + start, p.end + start) for p in named_parts(text, "")]
            if text.isprintable()
            else []
        )
        spans = [RoleSpan(start, start + len(answer), SpanRole.ANSWER)]
        if start > before:
            role = SpanRole.ECHO if whole.startswith(sent) else SpanRole.ACK
            spans.insert(0, RoleSpan(before, start, role))
        text = text if text.isprintable() else answer.hex(" ").upper()
        if refused:
            spans[-1] = RoleSpan(start, start + len(answer), SpanRole.REFUSAL, refused)
            why = "it refused, with a check that our words carry too"
            return ExchangeVerdict(
                ExchangeState.REFUSED, why, text, spans, (), form, checked=True, ms=_begun(after), refusal=refused
            )
        why = "a check came that our words carry too"
        return ExchangeVerdict(ExchangeState.ANSWERED, why, text, spans, parts, form, checked=True, ms=_begun(after))
    if handed_back(sent, pieces) and form is WordsForm.SETS:
        span = RoleSpan(before, before + len(sent), SpanRole.ACK)
        return ExchangeVerdict(
            ExchangeState.ACKNOWLEDGED, "the write was handed back", spans=[span], form=form, ms=_begun(after)
        )
    return None


def _exception(sent: bytes, answer: bytes) -> str:
    """The kind of refusal that an answer with a check is: an exception of Modbus, or a line of text; else empty."""
    if len(answer) == 5 and answer[0] == sent[0] and answer[1] == sent[1] | 0x80:
        return "bad-value" if answer[2] in (2, 3) else "busy" if answer[2] in (5, 6) else "unknown"
    text = answer.decode("latin-1").strip()
    return lexicon().refusal(text) if text.isprintable() else ""


def _begun(after: Sequence[Came]) -> float | None:
    return max(0.0, after[0].ms) if after else None


def _is_binary(data: bytes) -> bool:
    return bool(data.translate(None, bytes(range(0x20, 0x7F)) + b"\r\n\t\x1b"))


class _Reading:
    """One exchange of text, line by line."""

    def __init__(self, sent: bytes, came: list[Came], form: WordsForm, words: Lexicon) -> None:
        self._sent, self._came, self._form, self._words = sent, came, form, words
        self._said = sent.decode("latin-1").strip("\r\n")
        self._data = b"".join(one.data for one in came)
        self._plain, self._lines = plain(self._data), lines_of(came)
        before = {_shape(line.text) for line in self._lines if line.ms < 0}
        late = [line for line in self._lines if line.ms >= 0]
        self._talks = before | self._evenly(late)
        self.spans: list[RoleSpan] = []

    def _evenly(self, lines: list[ReplyLine]) -> set[str]:
        """Shapes of lines that come again and again, a while apart."""
        times: dict[str, list[float]] = {}
        for line in lines:
            times.setdefault(_shape(line.text), []).append(line.ms)
        return {shape for shape, at in times.items() if len(at) > 1 and at[-1] - at[0] >= APART_MS * 2 and at[-1] > 900}

    def verdict(self) -> ExchangeVerdict:
        """All of it together."""
        after = b"".join(one.data for one in self._came if one.ms >= 0)
        strange = _is_binary(self._sent) and _is_binary(after.strip(FRAMING + b"\r\n"))
        if not self._lines or after.strip(b"\r\n") in SINGLE or strange:
            return self._without_lines()
        self._read()
        replies = [one for one in self.spans if one.role in (SpanRole.ANSWER, SpanRole.UNKNOWN)]
        roles = {one.role for one in self.spans}
        answer = " ".join(self._text(one) for one in replies)
        parts = self._parts(replies)
        begun = min(
            (self._time(one.start) for one in self.spans if one.role not in (SpanRole.ITSELF, SpanRole.ECHO)), default=None
        )
        state = self._state(roles, bool(parts), bool(replies), begun)
        refused = next((one.kind for one in self.spans if one.role is SpanRole.REFUSAL), "")
        said = [self._text(one) for one in self.spans if one.role is SpanRole.ITSELF]
        why = f"{WHY[state]} ({refused.replace('-', ' ')})" if state is ExchangeState.REFUSED else WHY[state]
        parts = parts if state in (ExchangeState.ANSWERED, ExchangeState.LATE) else []
        secret = self._words.asks_secret(self._lines[-1].text)
        return ExchangeVerdict(
            state, why, answer, self.spans, parts, self._form, ms=begun, refusal=refused,
            pages=SpanRole.PAGER in roles, told=self._told(), secret=secret, itself=said,
        )  # fmt: skip

    def _told(self) -> str:
        """All that came in reply, as text."""
        own = (SpanRole.ECHO, SpanRole.ITSELF)
        return " ".join(text for one in self.spans if one.role not in own and (text := self._text(one)))

    def _state(self, roles: set[SpanRole], named: bool, replied: bool, begun: float | None) -> ExchangeState:
        if SpanRole.REFUSAL in roles and not named:
            return ExchangeState.REFUSED
        if SpanRole.PROMPT in roles and not named and self._words.asks_who(self._lines[-1].text):
            return ExchangeState.PROMPT  # what stands before it is a banner
        if replied and begun is not None and begun > LATE_MS:
            return ExchangeState.LATE
        if replied:
            return ExchangeState.ANSWERED if named else ExchangeState.REPLIED
        for role, state in (
            (SpanRole.REFUSAL, ExchangeState.REFUSED), (SpanRole.PAGER, ExchangeState.MORE),
            (SpanRole.ACK, ExchangeState.ACKNOWLEDGED), (SpanRole.PROMPT, ExchangeState.PROMPT),
            (SpanRole.ITSELF, ExchangeState.ITSELF), (SpanRole.ECHO, ExchangeState.ECHO),
        ):  # fmt: skip
            if role in roles:
                return state
        return ExchangeState.REPLIED

    def _without_lines(self) -> ExchangeVerdict:
        """Bytes that are no text: single control characters, or a frame of which nobody knows the check."""
        after = [one for one in self._came if one.ms >= 0]
        data = b"".join(one.data for one in after)
        role = SINGLE.get(data.strip(b"\r\n"))
        if not data.strip(b"\x00\r\n"):
            spans, state = [RoleSpan(0, len(self._data), SpanRole.ITSELF)], ExchangeState.ITSELF
        elif role is not None:
            kind = "nak" if data[:1] == b"\x15" else "unknown" if data[:1] == b"\x07" else "bad-value"
            spans = [RoleSpan(len(self._data) - len(data), len(self._data), role, kind if role is SpanRole.REFUSAL else "")]
            state = ExchangeState.REFUSED if role is SpanRole.REFUSAL else ExchangeState.ACKNOWLEDGED
        else:
            spans, state = [RoleSpan(len(self._data) - len(data), len(self._data), SpanRole.UNKNOWN)], ExchangeState.REPLIED
        refusal = next((one.kind for one in spans if one.role is SpanRole.REFUSAL), "")
        answer = data.hex(" ").upper() if state is ExchangeState.REPLIED else ""
        return ExchangeVerdict(state, WHY[state], answer, spans, form=self._form, ms=_begun(after), refusal=refusal)

    # Line by line

    def _read(self) -> None:
        over, last = False, 0.0
        for i, line in enumerate(self._lines):
            is_last = i == len(self._lines) - 1
            for span in self._of_line(line, is_last, over and line.ms - last > APART_MS):
                self.spans.append(span)
                if span.role in (SpanRole.ACK, SpanRole.PROMPT, SpanRole.REFUSAL, SpanRole.ANSWER, SpanRole.UNKNOWN):
                    over = span.role in (SpanRole.ACK, SpanRole.PROMPT, SpanRole.REFUSAL)
                    last = line.ms

    def _of_line(self, line: ReplyLine, is_last: bool, after_the_end: bool) -> list[RoleSpan]:
        if not self._sent or line.ms < 0 or self._by_itself(line, after_the_end):
            return [RoleSpan(line.start, line.end, SpanRole.ITSELF)]
        if self._words.pages(line.text):
            return [RoleSpan(line.start, line.end, SpanRole.PAGER)]
        rest = self._echo(line)
        if rest is not None:
            spans = [RoleSpan(line.start, rest, SpanRole.ECHO)]
            left = self._text(RoleSpan(rest, line.end, SpanRole.UNKNOWN))
            return spans + (self._role(ReplyLine(rest, line.end, left, line.ms, line.ended), is_last) if left else [])
        return self._role(line, is_last)

    def _role(self, line: ReplyLine, is_last: bool) -> list[RoleSpan]:
        text, words = line.text, self._words
        if not line.ended and is_last and words.prompts(text) and not (self._named(text) or words.refusal(text)):
            return [RoleSpan(line.start, line.end, SpanRole.PROMPT)]
        if kind := words.refusal(text):
            return [RoleSpan(line.start, line.end, SpanRole.REFUSAL, kind)]
        if words.acknowledges(text) or self._hands_back(text):
            return [RoleSpan(line.start, line.end, SpanRole.ACK)]
        return [RoleSpan(line.start, line.end, SpanRole.UNKNOWN)]

    def _named(self, text: str) -> bool:
        return bool(named_parts(text, self._said))

    def _hands_back(self, text: str) -> bool:
        """Whether a setting word is answered with its own value and no more."""
        values = re.findall(r"\d[\d.]*", self._said)
        return self._form is WordsForm.SETS and bool(values) and re.findall(r"\d[\d.]*", text) == values

    def _by_itself(self, line: ReplyLine, after_the_end: bool) -> bool:
        shape = _shape(line.text)
        key = _sentence(line.text)
        if key and key.upper() in self._said.upper():
            return False  # the question names this sentence
        asked_for_sentence = bool(_sentence(self._said))
        if shape in self._talks or (key and asked_for_sentence):
            return True
        if after_the_end:
            return not self._words.refusal(line.text)  # what was taken first may fail later
        return self._words.by_itself(line.text)

    def _echo(self, line: ReplyLine) -> int | None:
        """Where our own words end that stand at the beginning of a line; None where they do not stand there."""
        said, text = self._said.strip(), line.text
        if len(said) < 1:
            return None
        lead = re.match(r"[>#$:*=\] ]{0,3}", text)
        body = text[lead.end() :] if lead is not None and not said.startswith(text[:1]) else text
        if body.casefold() == said.casefold() or _nearly(body, said):
            return line.end
        if body.startswith(said) and not said[-1:].isalnum() and not said[-1:].isspace():
            at = self._data.find(said.encode("latin-1", "replace"), line.start, line.end)
            return at + len(said) if at >= 0 else None
        return None

    # Values

    def _text(self, span: RoleSpan) -> str:
        return told(self._plain[span.start : span.end])

    def _time(self, at: int) -> float:
        place = 0
        for one in self._came:
            if place <= at < place + len(one.data):
                return one.ms
            place += len(one.data)
        return 0.0

    def _parts(self, replies: list[RoleSpan]) -> list[NamedPart]:
        found = []
        for span in replies:
            text = self._plain[span.start : span.end].decode("latin-1")
            found += [
                NamedPart(p.name, p.value, p.start + span.start, p.end + span.start) for p in named_parts(text, self._said)
            ]
        return [one for one in found if one.value.casefold() not in self._said.casefold()]


def _shape(text: str) -> str:
    """A line with its numbers taken out: what is said again and again looks alike."""
    return _sentence(text) or re.sub(r"\d+", "0", text)


def _sentence(text: str) -> str:
    """The formatter of a sentence that begins with $ or !, as in `$GPGGA`."""
    found = re.match(r"[$!]\w{3,6}(?=[,*])", text)
    return found[0] if found is not None else ""


def _nearly(came: str, said: str) -> bool:
    """Our own words with one sign damaged."""
    return len(came) == len(said) >= 4 and sum(a != b for a, b in zip(came.casefold(), said.casefold(), strict=True)) == 1
