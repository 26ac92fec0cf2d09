"""Where the head of a study was led: what undo and redo would do, and from where to where the diary was amended."""

from typing import Any

import sqlalchemy as sa

from rowtag.store.database import moves, states, steps

AMENDED = "amended from "
"""What a move is called that ends an amended way; behind it stands the state where the head was."""
SAID_AMENDED = "Amended the diary."
Around = tuple[str | None, str | None]
"""What undo and redo would do: the sentences of their steps."""


def led_on(head: int) -> sa.Select[Any]:
    """The state after another where the head was last."""
    query = sa.select(moves.c.head).join(states, states.c.id == moves.c.head).where(states.c.parent == head)
    return query.order_by(moves.c.revision.desc()).limit(1)


def around_head(connection: sa.Connection, head: int) -> Around:
    """The sentences of the step that made a state, and of the one that redo would do there."""
    said = sa.select(steps.c.sentence)
    undo = connection.scalar(said.where(steps.c.state == head))
    redo = connection.scalar(said.where(steps.c.state == led_on(head).scalar_subquery()))
    return (
        undo if amended_from(connection, head) is None else SAID_AMENDED,
        redo if amended_to(connection, head) is None else SAID_AMENDED,
    )


def amended_from(connection: sa.Connection, head: int) -> int | None:
    """The state from which the diary was amended to a state, if it was."""
    query = sa.select(moves.c.kind).where(moves.c.head == head, moves.c.kind.startswith(AMENDED, autoescape=True))
    found: str | None = connection.scalar(query.order_by(moves.c.revision.desc()).limit(1))
    return None if found is None else int(found.removeprefix(AMENDED))


def amended_to(connection: sa.Connection, origin: int) -> int | None:
    """The state to which the diary was amended from a state, if nothing was done on that one since."""
    query = sa.select(moves.c.head, moves.c.revision).where(moves.c.kind == f"{AMENDED}{origin}")
    found = connection.execute(query.order_by(moves.c.revision.desc()).limit(1)).first()
    if found is None:
        return None
    on = sa.select(steps.c.revision).join(states, states.c.id == steps.c.state).where(states.c.parent == origin)
    later = connection.scalar(on.where(steps.c.revision > found.revision).limit(1))
    return None if later is not None else int(found.head)


def ancestry(head: int, lowest: int) -> sa.Select[Any]:
    """The states on the way from the head up, not below an id."""
    up = sa.select(states.c.id, states.c.parent).where(states.c.id == head).cte(recursive=True)
    above = sa.select(states.c.id, states.c.parent)
    up = up.union_all(above.where(states.c.id == up.c.parent, states.c.id < up.c.id, states.c.id >= lowest))
    return sa.select(up.c.id)
