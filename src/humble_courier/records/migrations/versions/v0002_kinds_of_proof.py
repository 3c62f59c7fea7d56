"""Proofs of four kinds, each with its grade and the reason for it; those that were kept before are answers."""

import sqlalchemy as sa
from alembic import op

revision = "0002"
down_revision = "0001"


def upgrade() -> None:
    for name, before in (("kind", "answered"), ("grade", "strong"), ("reason", "")):
        op.add_column("proofs", sa.Column(name, sa.Text, nullable=False, server_default=before))
