"""`learn`: ask a device once, and write its sheet from the answer."""

from dataclasses import dataclass
from pathlib import Path

from humble_courier.app.devices.draft import Learnt, Said, as_text, draft, fields
from humble_courier.app.devices.own_sheets import save
from humble_courier.app.link.keeping import ANSWERS, YOU
from humble_courier.app.talk.one_call import say
from humble_courier.app.talk.typed_words import Typed, Written
from humble_courier.catalog.load import Catalog
from humble_courier.domain.settings import Settings
from humble_courier.domain.text import Terminator, printable
from humble_courier.errors import BadInput
from humble_courier.exchange.form import form_of
from humble_courier.exchange.judge import judge
from humble_courier.exchange.verdict import Came, ExchangeState, WordsForm
from humble_courier.port.authority import Authority
from humble_courier.port.log import LineLog


@dataclass(frozen=True)
class Learned:
    """The file of the sheet, the answer, and what was read out of it. `said_again`: the words are known to ask only."""

    path: Path
    answer: str
    fields: dict[str, str]
    said_again: bool = True


@dataclass(frozen=True)
class Wanted:
    """What is asked at which port, and as what the sheet is kept; `kind`: whose connector and acts it begins with.

    `asks`: the person says that the words only ask.
    """

    address: str
    settings: Settings
    words: str
    end: Terminator
    id: str
    name: str
    kind: str
    asks: bool = False


def learn(
    wanted: Wanted, catalog: Catalog, armed: bool, timeout: float, log: LineLog | None, authority: Authority | None = None
) -> Learned | None:  # fmt: skip
    """Ask, and write; None where nothing came. Raises NotArmed, BadInput for an answer that is no text."""
    base = catalog.device(wanted.kind)
    words = Typed(wanted.words, Written.PLAIN, wanted.end)
    result = say(wanted.address, wanted.settings, words, armed, timeout, log, authority)
    verdict = judge(result.sent, [Came(result.ms, result.received)] if result.received else [], str(wanted.settings.frame))
    if verdict.state in (ExchangeState.SILENT, ExchangeState.ECHO):
        return None
    if verdict.state is ExchangeState.GARBLED:
        raise BadInput(f"the answer is no text: {printable(result.received)}. Look at the settings: {verdict.why}")
    answer = next((line.strip() for line in verdict.answer.splitlines() if line.strip()), "")
    if verdict.state not in ANSWERS or not answer.isascii() or not answer.isprintable():
        came = printable(result.received.strip())
        raise BadInput(f"“{wanted.words}” brought no answer that could be kept: {came} ({verdict.why}). Try other words")
    by_form = form_of(result.sent) is WordsForm.ASKS
    one = Said(wanted.words, answer, result.ms, YOU if wanted.asks else "its form" if by_form else "")
    sheet = draft(wanted.id, wanted.name or wanted.id, base, Learnt(wanted.settings, wanted.end, (one,)))
    return Learned(save(as_text(sheet), catalog), answer, dict(fields(one)), bool(one.asks))
