"""A merge taken back: what it has added goes, and each link is again what it was; what came since then stays."""

from sqlalchemy import delete, select
from sqlalchemy.orm import Session

from humble_courier.records.in_step import Marks
from humble_courier.records.tables import FactRow, LinkRow, ProofRow, VersionRow


def take_back(session: Session, before: Marks, after: Marks) -> int:
    """Rows that were added between two marks go; returns how many. A link of which nothing is left goes as well.

    The version of a link that holds is the newest of those that are left.
    """
    gone = 0
    changed: set[str] = set()
    for table, low, high in (
        (VersionRow, before.versions, after.versions), (FactRow, before.facts, after.facts),
        (ProofRow, before.proofs, after.proofs),
    ):  # fmt: skip
        between = (table.id > low, table.id <= high)
        if table is VersionRow:
            changed.update(session.scalars(select(VersionRow.link_id).where(*between)))
        rows = session.execute(delete(table).where(*between))
        gone += int(getattr(rows, "rowcount", 0))
    for link_id in sorted(changed):
        left = select(VersionRow).where(VersionRow.link_id == link_id)
        newest = session.scalars(
            left.order_by(VersionRow.updated.desc(), VersionRow.name.desc(), VersionRow.document.desc()).limit(1)
        ).first()
        row = session.get(LinkRow, link_id)
        if newest is None:
            session.execute(delete(LinkRow).where(LinkRow.id == link_id))
        elif row is not None:
            row.name, row.document, row.updated = newest.name, newest.document, newest.updated
    return gone
