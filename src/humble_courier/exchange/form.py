"""Whether words only ask, as far as their form tells. Most cannot be known: those count as setting something."""

import re

from humble_courier.exchange.verdict import WordsForm

# Signs of a question that are agreed on: IEEE 488.2 ends each query with ?, and shells list and show (common practice).
ASKS = re.compile(
    r"(\?|help|ls|pwd|date|uname( -\w+)?|id|who|whoami|uptime|(sh|show|display|get|print|list|dir|read|cat|log|query|stat(us)?|info)\b[^=]*"
    r"|\w+ get( .*)?|! ?\w* ?getvar .*|[^=\s]*\?( [^=]*)?)",
    re.IGNORECASE,
)
MODEM_QUESTION = re.compile(r"at[+&\w]*\?", re.IGNORECASE)
# A value beside a name, a word that sets, stores, moves or starts again.
SETS = re.compile(
    r"(.*=[^?].*|(set|write|save|store|clear|clr|reset|reboot|restart|erase|delete|del|remove|rm|format|load|loaddef|factory|default|enable|"
    r"disable|configure|config|conf|calibrate|cal|zero|tare|start|stop|run|go|open|close|on|off|send|put|kill|halt|shutdown|mount|flash|update|"
    r"upgrade|program|prog|learn|pair|join|reload|exit|quit|logout|login|passwd|rename|move|mv|cp|echo|export|setenv|saveenv)([ _:].*)?"
    r"|set\w+( .*)?|\w+ (set|setvar|save|reset|write|clear|delete) .*|! ?\w* ?setvar .*|at&[wf]\d*|ats\d+=.*|.* (on|off)"
    r"|\w+ +-?\d{1,3}(\.\d{1,3}){3}.*|[a-z]{4,} -?\d+([.,]\d+)?)",
    re.IGNORECASE,
)
MODBUS_READS, MODBUS_WRITES = frozenset({1, 2, 3, 4, 7, 11, 12, 17, 20, 24, 43}), frozenset({5, 6, 15, 16, 21, 22, 23})


def form_of(sent: bytes) -> WordsForm:
    """What the form of words tells, as text or as a request of Modbus with its check."""
    from humble_courier.protocols.checks import CHECKS

    if len(sent) >= 4 and CHECKS["crc16-modbus"].of(sent[:-2]) == sent[-2:]:
        function = sent[1]
        return WordsForm.ASKS if function in MODBUS_READS else WordsForm.SETS if function in MODBUS_WRITES else WordsForm.UNKNOWN
    text = sent.decode("latin-1").strip("\r\n ")
    if not text or text == "?":
        return WordsForm.ASKS if sent else WordsForm.UNKNOWN
    if not text.isprintable() or text.isdigit():
        return WordsForm.UNKNOWN
    if SETS.fullmatch(text):
        return WordsForm.SETS
    return WordsForm.ASKS if ASKS.fullmatch(text) or MODEM_QUESTION.fullmatch(text) else WordsForm.UNKNOWN


def bare_number(text: str) -> bool:
    """Whether words are nothing but a number: at some devices that stores it, so it is never kept as words."""
    return bool(re.fullmatch(r"[\s+\-.,\d]*\d[\s+\-.,\d]*", text))
