"""Every row carries a sum, and a study's own file says its title."""

import sqlalchemy as sa
from alembic import op

revision = "0003"
down_revision = "0002"

COLUMNS = {
    "state": ("parent", "whole", "weight", "parts"),
    "step": ("id", "state", "revision", "body", "account", "sentence", "at", "by"),
    "move": ("revision", "head", "kind", "at", "by"),
    "piece": ("source", "number", "blob"),
}


def upgrade() -> None:
    from rowtag.store.sums import sum_of

    connection = op.get_bind()
    op.create_table(
        "about",
        sa.Column("key", sa.String, primary_key=True),
        sa.Column("value", sa.String, nullable=False),
        sa.Column("sum", sa.LargeBinary),
    )
    for table, columns in COLUMNS.items():
        op.add_column(table, sa.Column("sum", sa.LargeBinary))
        listed = ", ".join(f'"{column}"' for column in columns)
        rows = connection.execute(sa.text(f'SELECT rowid, {listed} FROM "{table}"')).all()
        if rows:
            connection.execute(
                sa.text(f'UPDATE "{table}" SET sum = :sum WHERE rowid = :row'),
                [{"row": row[0], "sum": sum_of(row[1:])} for row in rows],
            )
