"""The judge on exchanges in styles that nobody described beforehand, and on whatever bytes may come."""

from collections import Counter

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from humble_courier.exchange.form import bare_number, by_protocol, form_of
from humble_courier.exchange.judge import judge
from humble_courier.exchange.verdict import Came, ExchangeState, ExchangeVerdict, WordsForm
from humble_courier.protocols.checks import with_check
from tests.exchange.examples import EXAMPLES

REPLIES = (ExchangeState.ANSWERED, ExchangeState.REPLIED, ExchangeState.MORE)


def judged(sent: str, came: str) -> ExchangeVerdict:
    return judge(sent.encode("latin-1"), [Came(40, came.encode("latin-1"))] if came else [])


def test_what_is_no_answer_is_not_called_one_and_answers_are_not_lost() -> None:
    """Aims: at most 15 % of no-answers called answered, at least 93 % of true answers seen, no setting word said to ask."""
    counts: Counter[str] = Counter()
    for sent, came, truth, _, does in EXAMPLES:
        verdict, answer = judged(sent, came), truth == "answered"
        counts["answers"] += answer
        counts["seen"] += answer and verdict.state in REPLIES
        counts["others"] += not answer
        counts["believed"] += not answer and verdict.state is ExchangeState.ANSWERED
        assert not (does == "s" and verdict.form is WordsForm.ASKS), sent
    assert counts["seen"] >= 0.93 * counts["answers"] and counts["believed"] <= 0.15 * counts["others"], counts


@pytest.mark.parametrize(("sent", "came", "parts"), [(s, c, p) for s, c, _, p, _ in EXAMPLES if p])
def test_a_value_counts_where_its_name_stands_beside_it(sent: str, came: str, parts: dict[str, str]) -> None:
    found = {(part.name, part.value) for part in judged(sent, came).parts}
    assert set(parts.items()) <= found


TABLE = [
    ("VER?\r", "VER?FM-7 VER 1.04\r\n", "answered", "an echo takes no letters of the answer"),
    ("VER?\r", "ERROR\r\nOK\r\n", "refused", "no later OK undoes a refusal"),
    ("R\r", "READY\r\n", "replied", "an answer that begins with our words is no echo"),
    ("VER?\r", "VER?\r\nPassword: ", "prompt", "a secret is asked for"),
    ("show run\r", "show run\r\nhostname yard\r\n --More-- ", "replied", "a pager goes on"),
    ("413008\r", "ACCEPTED\r\n", "acknowledged", "a number may set something"),
    ("VER?\r", "\xc6\xcd\xad\xb2\xb2\xb0\xa0\xd6\xc5\xd2\xa0\xb1\xae\xb0\xb4\x8d\x8a", "garbled", "seven bits and a mark"),
]


@pytest.mark.parametrize(("sent", "came", "state", "why"), TABLE, ids=[row[3] for row in TABLE])
def test_exchanges_of_the_trade(sent: str, came: str, state: str, why: str) -> None:
    assert judged(sent, came).state == state, why


def test_a_check_that_our_words_carry_too_is_an_answer_and_an_exception_a_refusal_with_a_check() -> None:
    """MODBUS over serial line V1.02, 2.5.1.2: the CRC at the end of each frame, its low byte first."""
    asked = with_check(b"\x07\x03\x00\x00\x00\x01", "crc16-modbus")
    answer, refusal = with_check(b"\x07\x03\x02\x01\x2c", "crc16-modbus"), with_check(b"\x07\x83\x02", "crc16-modbus")
    for came in (answer, asked + answer):
        verdict = judge(asked, [Came(20, came)])
        assert verdict.state is ExchangeState.ANSWERED and verdict.checked and verdict.form is WordsForm.ASKS
    verdict = judge(asked, [Came(20, refusal)])
    assert verdict.state is ExchangeState.REFUSED and verdict.checked
    write = with_check(b"\x07\x06\x00\x01\x00\x03", "crc16-modbus")
    assert judge(write, [Came(20, write)]).state is ExchangeState.ACKNOWLEDGED and form_of(write) is WordsForm.SETS
    assert not judge(b"\x01\x02\x03", [Came(20, answer)]).checked, "a check that our words do not carry says nothing"


def test_what_came_before_and_comes_evenly_is_said_by_itself() -> None:
    came = [Came(-1000, b"T=21.4\r\n"), Came(-1, b"T=21.4\r\n"), Came(120, b"LG-3 V2.0\r\n"), Came(1000, b"T=21.5\r\n")]
    verdict = judge(b"ID?\r", came)
    assert verdict.answer == "LG-3 V2.0" and len(verdict.itself) == 3
    assert judge(b"", came).state is ExchangeState.ITSELF
    assert judge(b"VER?\r", [Came(6000, b"V1.2\r\n")]).state is ExchangeState.LATE


@pytest.mark.parametrize(
    ("words", "form"),
    [("*IDN?", "asks"), ("show version", "asks"), ("IP 192.168.0.77", "sets"), ("SETBAND EU", "sets"), ("413008", "unknown"),
     ("AT&W", "sets"), ("ID", "unknown"), ("X=5", "sets"), ("sys get ver", "asks"), ("reboot", "sets")],
)  # fmt: skip
def test_what_words_do_is_not_guessed(words: str, form: str) -> None:
    """IEEE 488.2, 10: common queries change nothing; hardly anything else can be known from its form."""
    assert form_of(words.encode() + b"\r") == form
    assert by_protocol(words.encode() + b"\r") is (words == "*IDN?") and bare_number(words) is words.isdigit()


@settings(max_examples=300)
@given(
    st.binary(max_size=24),
    st.lists(st.tuples(st.floats(-3000, 9000), st.binary(max_size=60), st.sets(st.integers(0, 59), max_size=4)), max_size=6),
)
def test_whatever_comes_is_judged_and_its_spans_lie_within_it(sent: bytes, raw: list[tuple[float, bytes, set[int]]]) -> None:
    came = [
        Came(ms, data, frozenset(i for i in doubts if i < len(data))) for ms, data, doubts in sorted(raw, key=lambda r: r[0])
    ]
    verdict, size = judge(sent, came), sum(len(one.data) for one in came)
    assert all(0 <= span.start <= span.end <= size for span in verdict.spans)
    assert all(0 <= part.start < part.end <= size for part in verdict.parts)
    assert (verdict.state is ExchangeState.SILENT) == (size == 0)
