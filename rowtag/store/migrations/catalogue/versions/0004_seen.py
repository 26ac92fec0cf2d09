"""What was seen of a study when somebody looked at it last."""

import sqlalchemy as sa
from alembic import op

revision = "0004"
down_revision = "0003"


def upgrade() -> None:
    op.add_column("study", sa.Column("seen", sa.String))
