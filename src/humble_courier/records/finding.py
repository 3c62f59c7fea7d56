"""Full text search over all that is kept: names and documents of links, facts, proofs, words that were heard."""

import re
from dataclasses import dataclass
from enum import StrEnum

from sqlalchemy import text
from sqlalchemy.orm import Session

from humble_courier.domain.text import printable

MOST = 200  # hits that are handed over; who wants others says more words


class HitKind(StrEnum):
    """Where words were found; in the order of the index."""

    LINK = "link"
    FACT = "fact"
    PROOF = "proof"
    WORDS = "words"


@dataclass(frozen=True)
class Hit:
    """A row in which all words stand: of which link, what kind, when, and what it says."""

    link_id: str
    kind: HitKind
    at: float
    text: str


_TEXTS = {
    HitKind.LINK: "SELECT name FROM links WHERE rowid = :row",
    HitKind.FACT: "SELECT text FROM facts WHERE id = :row",
    HitKind.PROOF: "SELECT kind || ': ' || reason || ', through ' || chain FROM proofs WHERE id = :row",
    HitKind.WORDS: "SELECT data FROM words WHERE id = :row",
}


def query_of(words: str) -> str:
    """What a person types, as a query: every word, or its beginning, has to be there. Empty where nothing is said."""
    return " ".join(f'"{word}"*' for word in re.findall(r"[^\W_]+", words))


# On a server each text is looked through as it stands, cut into words by the same signs as the index of a file.
_ON_A_SERVER = """
SELECT kind, link_id, at, said FROM (
  SELECT 0 AS kind, id AS link_id, updated AS at, name AS said, name || ' ' || document AS text FROM links
  UNION ALL SELECT 1, link_id, at, text, text || ' ' || source FROM facts
  UNION ALL SELECT 2, link_id, at, kind || ': ' || reason || ', through ' || chain,
    concat_ws(' ', kind, port, adapter, serial, socket, chain, computer_settings, identity, reason) FROM proofs
  UNION ALL SELECT 3, proofs.link_id, words.at, encode(words.data, 'escape'),
    encode(words.data, 'escape') || ' ' || meaning FROM words JOIN proofs ON proofs.id = words.proof_id
) AS everything WHERE at >= :since AND {conditions} ORDER BY at DESC LIMIT :most
"""


def _find_on_a_server(session: Session, words: list[str], since: float, most: int) -> list[Hit]:
    begins = {f"word{n}": f"(^|[^[:alnum:]]){word}" for n, word in enumerate(words)}  # words are letters and digits only
    conditions = " AND ".join(f"text ~* :{name}" for name in begins)
    rows = session.execute(text(_ON_A_SERVER.format(conditions=conditions)), {"since": since, "most": most, **begins})
    kinds = list(HitKind)
    return [Hit(row[1], kinds[row[0]], row[2], str(row[3])) for row in rows]


def find(session: Session, words: str, since: float = 0.0, most: int = MOST) -> list[Hit]:
    """The best hits; of as good ones the newest first. On a server the newest first."""
    query = query_of(words)
    if not query:
        return []
    if session.get_bind().dialect.name != "sqlite":
        return _find_on_a_server(session, re.findall(r"[^\W_]+", words), since, most)
    asked = text(
        "SELECT rowid, link_id, at FROM found WHERE found MATCH :query AND at >= :since ORDER BY rank, at DESC LIMIT :most"
    )
    kinds = list(HitKind)
    found = []
    for row, link_id, at in session.execute(asked, {"query": query, "since": since, "most": most}).all():
        kind = kinds[row % len(kinds)]
        said = session.execute(text(_TEXTS[kind]), {"row": row // len(kinds)}).scalar()
        found.append(Hit(link_id, kind, at, printable(said) if isinstance(said, bytes) else str(said)))
    return found
