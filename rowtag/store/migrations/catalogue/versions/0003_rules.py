"""The library of rules."""

import sqlalchemy as sa
from alembic import op

revision = "0003"
down_revision = "0002"


def upgrade() -> None:
    op.create_table(
        "rule",
        sa.Column("key", sa.String, primary_key=True),
        sa.Column("text", sa.String, nullable=False),
    )
