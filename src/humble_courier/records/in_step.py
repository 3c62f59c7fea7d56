"""How far records go: rows are only added, so the greatest number of each table says what another copy has seen."""

from msgspec import Struct
from sqlalchemy import func, select
from sqlalchemy.orm import Session

from humble_courier.records.tables import FactRow, ProofRow, VersionRow

IN_STEP = "in-step:"  # with which the settings begin that say how far another copy was taken in


class Marks(Struct, frozen=True):
    """The greatest number of each table."""

    versions: int = 0
    facts: int = 0
    proofs: int = 0


def marks(session: Session) -> Marks:
    """Those of these records."""
    return Marks(*(session.scalar(select(func.max(table.id))) or 0 for table in (VersionRow, FactRow, ProofRow)))


def touched(session: Session, since: Marks) -> list[str]:
    """Ids of links of which there are rows beyond the marks, in a fixed order."""
    found: set[str] = set()
    for table, mark in ((VersionRow, since.versions), (FactRow, since.facts), (ProofRow, since.proofs)):
        found.update(session.scalars(select(table.link_id).where(table.id > mark).distinct()))
    return sorted(found)
