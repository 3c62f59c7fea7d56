"""`learn`: ask a device once, and write its sheet from the answer."""

from dataclasses import dataclass
from pathlib import Path

from humble_courier.app.devices.draft import Learnt, Said, as_text, draft, fields
from humble_courier.app.devices.own_sheets import save
from humble_courier.app.talk.one_call import say
from humble_courier.app.talk.typed_words import Typed, Written
from humble_courier.catalog.load import Catalog
from humble_courier.domain.settings import Settings
from humble_courier.domain.text import Terminator, printable
from humble_courier.errors import BadInput
from humble_courier.port.authority import Authority
from humble_courier.port.log import LineLog


@dataclass(frozen=True)
class Learned:
    """The file of the sheet, the answer, and what was read out of it."""

    path: Path
    answer: str
    fields: dict[str, str]


@dataclass(frozen=True)
class Wanted:
    """What is asked at which port, and as what the sheet is kept; `kind`: whose connector and acts it begins with."""

    address: str
    settings: Settings
    words: str
    end: Terminator
    id: str
    name: str
    kind: str


def learn(
    wanted: Wanted, catalog: Catalog, armed: bool, timeout: float, log: LineLog | None, authority: Authority | None = None
) -> Learned | None:  # fmt: skip
    """Ask, and write; None where nothing came. Raises NotArmed, BadInput for an answer that is no text."""
    base = catalog.device(wanted.kind)
    words = Typed(wanted.words, Written.PLAIN, wanted.end)
    result = say(wanted.address, wanted.settings, words, armed, timeout, log, authority)
    lines = [line for line in result.received.replace(b"\r", b"\n").split(b"\n") if line.strip()]
    told = [line for line in lines if line.strip() != wanted.words.encode("latin-1")]  # without an echo of ours
    if not told:
        return None
    answer = told[0].decode("latin-1").strip()
    if not answer.isascii() or not answer.isprintable():
        raise BadInput(f"the answer is no text: {printable(told[0])}. Look at the settings, or begin from a kind of device")
    one = Said(wanted.words, answer, result.ms)
    sheet = draft(wanted.id, wanted.name or wanted.id, base, Learnt(wanted.settings, wanted.end, (one,)))
    return Learned(save(as_text(sheet), catalog), answer, dict(fields(one)))
