"""Whether words only ask, as far as their form tells. Most cannot be known: those count as setting something."""

import re

from humble_courier.exchange.lexicon import lexicon
from humble_courier.exchange.verdict import WordsForm
from humble_courier.protocols.checks import CHECKS

# Function codes of the MODBUS application protocol V1.1b3, 6: those that read, and those that write.
MODBUS_READS, MODBUS_WRITES = frozenset({1, 2, 3, 4, 7, 11, 12, 17, 20, 24, 43}), frozenset({5, 6, 15, 16, 21, 22, 23})
COMMON_QUERY = re.compile(rb"\*[A-Z]{3}\?[\r\n]*")  # IEEE 488.2, 10: common queries change nothing


def form_of(sent: bytes) -> WordsForm:
    """What the form of words tells, as text or as a request of Modbus with its check."""
    function = _modbus_function(sent)
    if function is not None:
        return WordsForm.ASKS if function in MODBUS_READS else WordsForm.SETS
    text = sent.decode("latin-1").strip("\r\n ")
    if not text:
        return WordsForm.ASKS if sent else WordsForm.UNKNOWN
    if not text.isprintable() or bare_number(text):
        return WordsForm.UNKNOWN
    return lexicon().form(text)


def by_protocol(sent: bytes) -> bool:
    """Whether a published protocol says that these words only ask: nothing else is believed without a person."""
    return _modbus_function(sent) in MODBUS_READS or bool(COMMON_QUERY.fullmatch(sent))


def _modbus_function(sent: bytes) -> int | None:
    """The function of a request of Modbus RTU; None where it is none."""
    fits = len(sent) >= 4 and CHECKS["crc16-modbus"].of(sent[:-2]) == sent[-2:]
    return sent[1] if fits and sent[1] in MODBUS_READS | MODBUS_WRITES else None


def bare_number(text: str) -> bool:
    """Whether words are nothing but a number: at some devices that stores it, so it is never kept as words."""
    return bool(re.fullmatch(r"[\s+\-.,\d]*\d[\s+\-.,\d]*", text))
