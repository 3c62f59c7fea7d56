"""Exchanges out of what was said and heard, each with its verdict: of a live session, and of the log of any day."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from humble_courier.app.settings.inferring import read_file
from humble_courier.domain.utterance import Utterance, Who
from humble_courier.errors import BadInput
from humble_courier.exchange.judge import judge
from humble_courier.exchange.proof import worth_of
from humble_courier.exchange.verdict import Came, ExchangeVerdict
from humble_courier.port.log import Piece, is_log, log_settings, read_log

BEFORE_S = 3.0  # what was heard so long before our words tells what is said by itself
ANSWERS_S = 1.5  # so soon after other words of ours it may have been their answer
LONGEST_S = 30.0  # after our words: what comes later belongs to no question


@dataclass(frozen=True)
class JudgedExchange:
    """Our words, when they went (seconds since the epoch) and how it ended."""

    sent: bytes
    at: float
    verdict: ExchangeVerdict


@dataclass(frozen=True)
class _Bit:
    """A run of bytes of one side: `start` and `end` in seconds since the epoch."""

    ours: bool
    start: float
    end: float
    data: bytes
    doubts: frozenset[int]


def of_session(utterances: Sequence[Utterance], frame: str) -> list[JudgedExchange]:
    """Each question of ours with what came of it; `frame` as in `8N1`."""
    bits = [_Bit(u.who is Who.WE, u.start, u.end, u.data, frozenset(u.doubts)) for u in utterances if u.said]
    return _judged(bits, frame)


def newest_of(utterances: Sequence[Utterance], frame: str) -> JudgedExchange | None:
    """The last question alone."""
    at = next((i for i in range(len(utterances) - 1, -1, -1) if utterances[i].who is Who.WE and utterances[i].said), None)
    if at is None:
        return None
    return of_session(utterances[max(0, at - 20) :], frame)[-1]


def of_pieces(pieces: Iterable[Piece], frame: str) -> list[JudgedExchange]:
    """The same for the pieces of a log; what did not leave was not asked."""
    bits: list[_Bit] = []
    for piece in pieces:
        if piece.who == "we" and piece.unsent and bits and bits[-1].ours:
            bits[-1] = _Bit(True, bits[-1].start, bits[-1].end, bits[-1].data[: -piece.unsent], frozenset())
        elif piece.data:
            bits.append(_Bit(piece.who == "we", piece.t, piece.t, piece.data, frozenset(piece.places)))
    return _judged([bit for bit in bits if bit.data], frame)


def _judged(bits: Sequence[_Bit], frame: str) -> list[JudgedExchange]:
    asked = [i for i, bit in enumerate(bits) if bit.ours]
    found = []
    for at, after in zip(asked, [*asked, len(bits)][1:], strict=True):
        question = bits[at]
        before = [bit for bit in bits[max(0, at - 50) : at] if not bit.ours and question.start - bit.end < BEFORE_S]
        since = max((bit.end for bit in bits[:at] if bit.ours), default=-ANSWERS_S) + ANSWERS_S
        came = [_came(bit, question, earlier=True) for bit in before if bit.start > since]
        came += [
            _came(bit, question, earlier=False)
            for bit in bits[at + 1 : after]
            if not bit.ours and bit.start - question.end < LONGEST_S
        ]
        found.append(JudgedExchange(question.data, question.start, judge(question.data, came, frame)))
    return found


def _came(bit: _Bit, question: _Bit, earlier: bool) -> Came:
    ms = (bit.start - question.start) * 1000 if earlier else max(0.0, (bit.start - question.end) * 1000)
    return Came(min(ms, -1.0) if earlier else ms, bit.data, bit.doubts)


# The document of the command


def of_logs(paths: Sequence[Path]) -> list[dict[str, Any]]:
    """Each log with its exchanges. Raises BadInput for a file that is no log."""
    return [_of_log(path) for path in paths]


def _of_log(path: Path) -> dict[str, Any]:
    data, _ = read_file(path)
    if not is_log(data):
        raise BadInput("expected a log of this program (.jsonl), as listen and say name it", file=path)
    log, settings = read_log(data), log_settings(data)
    exchanges = of_pieces(log.pieces, str(settings.frame))
    itself = [] if exchanges else _lines(log.pieces)
    worth = worth_of([(one.sent, one.verdict) for one in exchanges])
    return {
        "log": str(path),
        "exchanges": [_document(one) for one in exchanges],
        "itself": itself + [line for one in exchanges for line in one.verdict.itself],
        "proof": None if worth is None else {"grade": worth.grade.value, "reason": worth.reason},
    }


def _lines(pieces: Iterable[Piece]) -> list[str]:
    whole = b"".join(piece.data for piece in pieces if piece.who == "they")
    return [line.decode("latin-1") for line in whole.splitlines() if line.strip()][:20]


def _document(one: JudgedExchange) -> dict[str, Any]:
    verdict, body = one.verdict, one.sent.rstrip(b"\r\n")
    end = {b"\r": "cr", b"\n": "lf", b"\r\n": "crlf", b"\n\r": "lfcr"}.get(one.sent[len(body) :], "none")
    return {
        "sent": body.decode("latin-1"), "sent_hex": one.sent.hex(), "end": end,
        "state": verdict.state.value, "why": verdict.why, "answer": verdict.answer or None,
        "parts": [{"name": p.name, "value": p.value, "from": p.start, "to": p.end} for p in verdict.parts],
        "words": verdict.form.value, "checked": verdict.checked,
        "ms": None if verdict.ms is None else round(verdict.ms, 1),
    }  # fmt: skip
