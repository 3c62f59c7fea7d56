"""First tables: links, facts, proofs, words, settings."""

import sqlalchemy as sa
from alembic import op

revision = "0001"
down_revision = None


def upgrade() -> None:
    op.create_table(
        "links",
        sa.Column("id", sa.String(36), primary_key=True),
        sa.Column("name", sa.Text, nullable=False),
        sa.Column("document", sa.Text, nullable=False),
        sa.Column("updated", sa.Float, nullable=False),
    )
    op.create_table(
        "facts",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("link_id", sa.String(36), sa.ForeignKey("links.id", ondelete="CASCADE"), nullable=False),
        sa.Column("subject", sa.Text, nullable=False),
        sa.Column("text", sa.Text, nullable=False),
        sa.Column("provenance", sa.String(16), nullable=False),
        sa.Column("source", sa.Text, nullable=False),
        sa.Column("at", sa.Float, nullable=False),
        sa.Column("holds", sa.Boolean, nullable=False),
    )
    op.create_index("ix_facts_link_id", "facts", ["link_id"])
    op.create_table(
        "proofs",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("link_id", sa.String(36), sa.ForeignKey("links.id", ondelete="CASCADE"), nullable=False),
        sa.Column("at", sa.Float, nullable=False),
        *(
            sa.Column(name, sa.Text, nullable=False)
            for name in ("port", "adapter", "chain", "computer_settings", "device_settings", "identity", "facts")
        ),
    )
    op.create_index("ix_proofs_link_id", "proofs", ["link_id"])
    op.create_table(
        "words",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("proof_id", sa.Integer, sa.ForeignKey("proofs.id", ondelete="CASCADE"), nullable=False),
        sa.Column("at", sa.Float, nullable=False),
        sa.Column("who", sa.String(8), nullable=False),
        sa.Column("data", sa.LargeBinary, nullable=False),
        sa.Column("doubtful", sa.Text, nullable=False),
        sa.Column("meaning", sa.Text, nullable=False),
    )
    op.create_index("ix_words_proof_id", "words", ["proof_id"])
    op.create_table(
        "settings",
        sa.Column("key", sa.String(64), primary_key=True),
        sa.Column("value", sa.Text, nullable=False),
    )


def downgrade() -> None:
    for table in ("settings", "words", "proofs", "facts", "links"):
        op.drop_table(table)
