"""The catalogue of studies."""

import sqlalchemy as sa
from alembic import op

revision = "0001"
down_revision = None


def upgrade() -> None:
    op.create_table(
        "study",
        sa.Column("id", sa.String, primary_key=True),
        sa.Column("title", sa.String, nullable=False),
        sa.Column("created_at", sa.String, nullable=False),
        sa.Column("changed_at", sa.String, nullable=False),
        sa.Column("removed_at", sa.String),
        sa.Column("records", sa.Integer, nullable=False, server_default="0"),
        sa.Column("variables", sa.Integer, nullable=False, server_default="0"),
    )
