"""Every version of a link is kept; proofs know the adapter's serial number and its socket; full text search.

The index holds what can be found: links, facts, proofs and words. Triggers keep it in step, so that no writer can forget it.
Its row is four times the row that it stands for, and the kind of that row.
"""

import sqlalchemy as sa
from alembic import op

revision = "0003"
down_revision = "0002"

PROOF = " || ' ' || ".join(
    f"{{0}}.{column}"
    for column in ("kind", "port", "adapter", "serial", "socket", "chain", "computer_settings", "identity", "reason")
)
INDEXED = (  # table, kind, row, link, time, text
    ("links", 0, "{0}.rowid", "{0}.id", "{0}.updated", "{0}.name || ' ' || {0}.document"),
    ("facts", 1, "{0}.id", "{0}.link_id", "{0}.at", "{0}.text || ' ' || {0}.source"),
    ("proofs", 2, "{0}.id", "{0}.link_id", "{0}.at", PROOF),
    (
        "words", 3, "{0}.id", "(SELECT link_id FROM proofs WHERE proofs.id = {0}.proof_id)", "{0}.at",
        "CAST({0}.data AS TEXT) || ' ' || {0}.meaning",
    ),
)  # fmt: skip


def upgrade() -> None:
    op.create_table(
        "versions",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("link_id", sa.String(36), sa.ForeignKey("links.id", ondelete="CASCADE"), nullable=False),
        sa.Column("name", sa.Text, nullable=False),
        sa.Column("document", sa.Text, nullable=False),
        sa.Column("updated", sa.Float, nullable=False),
    )
    op.create_index("ix_versions_link_id", "versions", ["link_id"])
    op.execute("INSERT INTO versions (link_id, name, document, updated) SELECT id, name, document, updated FROM links")
    for name in ("serial", "socket"):
        op.add_column("proofs", sa.Column(name, sa.Text, nullable=False, server_default=""))
    if op.get_bind().dialect.name != "sqlite":
        return  # a server searches by its own means (`finding`)
    op.execute('CREATE VIRTUAL TABLE found USING fts5(text, link_id UNINDEXED, at UNINDEXED, tokenize = "unicode61")')
    for table, kind, row, link, at, text in INDEXED:
        values = f"{row} * 4 + {kind}, {text}, {link}, {at}"
        op.execute(f"INSERT INTO found (rowid, text, link_id, at) SELECT {values.format(table)} FROM {table}")
        new = f"INSERT INTO found (rowid, text, link_id, at) VALUES ({values.format('new')})"
        gone = f"DELETE FROM found WHERE rowid = {row.format('old')} * 4 + {kind}"
        op.execute(f"CREATE TRIGGER {table}_found_new AFTER INSERT ON {table} BEGIN {new}; END")
        op.execute(f"CREATE TRIGGER {table}_found_gone AFTER DELETE ON {table} BEGIN {gone}; END")
        op.execute(f"CREATE TRIGGER {table}_found_other AFTER UPDATE ON {table} BEGIN {gone}; {new}; END")
