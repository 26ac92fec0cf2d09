"""Where the head of a study was led: what undo and redo would do, and from where to where the diary was amended."""

from typing import Any

import sqlalchemy as sa

from rowtag.core.words import counted
from rowtag.store.codec import decode
from rowtag.store.database import moves, states, steps

AMENDED = "amended from "
"""What a move is called that ends an amended way; behind it stands the state where the head was."""
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
    origin, onward = amended_from(connection, head), amended_to(connection, head)
    return (
        undo if origin is None else _said_amended(connection, origin, head),
        redo if onward is None else _said_amended(connection, head, onward),
    )


def _said_amended(connection: sa.Connection, origin: int, head: int) -> str:
    """What was amended on the way to a state from that where the head was before, and how much was done again."""
    before, after = (set(connection.scalars(ancestry(each, 1))) for each in (origin, head))
    later = sa.select(steps.c.state, steps.c.sentence, steps.c.body).where(
        steps.c.state > max(before & after, default=0)
    )
    new = [row for row in connection.execute(later.order_by(steps.c.state)) if row.state in after]
    bodies = [decode(row.body) for row in new]
    fresh = [row.sentence for row, body in zip(new, bodies, strict=True) if "again" not in body]
    again = len(new) - len(fresh)
    left = len(before - after) - again - sum("instead" in body for body in bodies)
    said = [f"Amended the diary: {fresh[0].removesuffix('.')}" if fresh else "Amended the diary"]
    if len(fresh) > 1:
        said.append(f"{counted(len(fresh) - 1, 'other step')} amended")
    if left:
        said.append(f"{counted(left, 'step')} left out")
    if again:
        said.append(f"{counted(again, 'later step')} done again")
    return "; ".join(said) + "."


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
