"""Who changed a link and who proved it; contents of kept files, for records that lie on a server."""

import sqlalchemy as sa
from alembic import op

revision = "0004"
down_revision = "0003"


def upgrade() -> None:
    for table in ("versions", "proofs"):
        op.add_column(table, sa.Column("who", sa.Text, nullable=False, server_default=""))
    op.create_table(
        "contents",
        sa.Column("id", sa.String(80), primary_key=True),
        sa.Column("data", sa.LargeBinary, nullable=False),
    )
