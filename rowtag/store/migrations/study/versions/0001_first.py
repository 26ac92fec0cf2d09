"""A study: blobs, the tree of states, steps, moves of the head, sources."""

import sqlalchemy as sa
from alembic import op

revision = "0001"
down_revision = None


def upgrade() -> None:
    op.create_table(
        "blob",
        sa.Column("key", sa.String, primary_key=True),
        sa.Column("data", sa.LargeBinary, nullable=False),
    )
    op.create_table(
        "state",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("parent", sa.Integer),
        sa.Column("whole", sa.Boolean, nullable=False),
        sa.Column("weight", sa.Integer, nullable=False),
        sa.Column("parts", sa.LargeBinary, nullable=False),
    )
    op.create_index("ix_state_parent", "state", ["parent"])
    op.create_table(
        "step",
        sa.Column("id", sa.String, primary_key=True),
        sa.Column("state", sa.Integer, nullable=False, unique=True),
        sa.Column("revision", sa.Integer, nullable=False),
        sa.Column("body", sa.LargeBinary, nullable=False),
        sa.Column("account", sa.LargeBinary, nullable=False),
        sa.Column("sentence", sa.String, nullable=False),
        sa.Column("at", sa.String, nullable=False),
        sa.Column("by", sa.String, nullable=False),
    )
    op.create_table(
        "move",
        sa.Column("revision", sa.Integer, primary_key=True),
        sa.Column("head", sa.Integer, nullable=False),
        sa.Column("kind", sa.String, nullable=False),
        sa.Column("at", sa.String, nullable=False),
        sa.Column("by", sa.String, nullable=False),
    )
    op.create_index("ix_move_head", "move", ["head"])
    op.create_table(
        "piece",
        sa.Column("source", sa.String, primary_key=True),
        sa.Column("number", sa.Integer, primary_key=True),
        sa.Column("blob", sa.String, nullable=False),
    )
