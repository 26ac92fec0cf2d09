"""The library: code lists kept across the studies of a workspace."""

from collections.abc import Sequence

import orjson
import sqlalchemy as sa

from rowtag.core.errors import NotThere
from rowtag.core.study import CodeList
from rowtag.core.tag import CodeLine
from rowtag.store.database import kept_lists


class Library:
    """Code lists under their names; one name is one list, whatever its capitals."""

    def __init__(self, engine: sa.Engine) -> None:
        self._engine = engine

    def lists(self) -> list[CodeList]:
        """All lists, by name."""
        with self._engine.begin() as connection:
            rows = connection.execute(sa.select(kept_lists).order_by(kept_lists.c.key)).all()
        return [CodeList(name=row.name, lines=orjson.loads(row.lines)) for row in rows]

    def keep(self, name: str, lines: Sequence[CodeLine]) -> None:
        """Keeps a list, in place of the one with this name if there is one."""
        name = name.strip()
        written = orjson.dumps([line.model_dump(exclude_defaults=True) for line in lines])
        with self._engine.begin() as connection:
            connection.execute(kept_lists.delete().where(kept_lists.c.key == name.casefold()))
            connection.execute(kept_lists.insert().values(key=name.casefold(), name=name, lines=written))

    def drop(self, name: str) -> None:
        """Takes a list out of the library; studies that use it keep theirs."""
        with self._engine.begin() as connection:
            gone = connection.execute(kept_lists.delete().where(kept_lists.c.key == name.strip().casefold()))
        if not gone.rowcount:
            raise NotThere(f"The library has no code list called “{name}”.")
