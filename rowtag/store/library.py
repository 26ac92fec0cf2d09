"""The library: code lists and rules kept across the studies of a workspace."""

from collections.abc import Sequence

import orjson
import sqlalchemy as sa

from rowtag.core.errors import NotThere
from rowtag.core.ruletext import WrittenRule, read_rules, write_rules
from rowtag.core.study import CodeList
from rowtag.core.tag import CodeLine
from rowtag.store.database import kept_lists, kept_rules


class Library:
    """Code lists under their names and rules under their titles; one name is one list, whatever its capitals."""

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

    def rules(self) -> list[WrittenRule]:
        """All rules, by title."""
        with self._engine.begin() as connection:
            texts = connection.scalars(sa.select(kept_rules.c.text).order_by(kept_rules.c.key)).all()
        return [rule for text in texts for rule in read_rules(text)]

    def keep_rule(self, rule: WrittenRule) -> None:
        """Keeps a rule, in place of the one with this title if there is one."""
        key = rule.title.casefold()
        with self._engine.begin() as connection:
            connection.execute(kept_rules.delete().where(kept_rules.c.key == key))
            connection.execute(kept_rules.insert().values(key=key, text=write_rules([rule])))

    def drop_rule(self, title: str) -> None:
        """Takes a rule out of the library; studies that hold to it keep theirs."""
        with self._engine.begin() as connection:
            gone = connection.execute(kept_rules.delete().where(kept_rules.c.key == title.strip().casefold()))
        if not gone.rowcount:
            raise NotThere(f"The library has no rule called “{title}”.")
