"""A study as an immutable state: shelves of small frozen values under internal ids, and columns of entries.

Every change gives another `Study` that shares what did not change. Names live only in tags: renaming
breaks no reference. Shelves are stored part by part, so a new shelf needs no change of storage.
"""

from bisect import bisect_left
from collections.abc import Hashable, Iterable, Mapping
from dataclasses import dataclass, field, replace
from functools import cached_property
from types import MappingProxyType
from typing import Annotated, Any, Literal

import numpy as np
import numpy.typing as npt
from pydantic import Field

from rowtag.core.arrangement import RecordView
from rowtag.core.column import EMPTY_COLUMN, Column, with_blanks
from rowtag.core.engine import Same, engine
from rowtag.core.errors import NotThere
from rowtag.core.names import key_of
from rowtag.core.reading import Fill, Reading, State, count_states, distinct, read_column
from rowtag.core.refs import RecordNumber, VariableId
from rowtag.core.rules import CheckSetting, Formula, Rule
from rowtag.core.tag import CodeLine, Frozen, Lens, Tag, lens_of
from rowtag.core.worked_out import entries, reading, worked_out


class Origin(Frozen):
    """Where a variable comes from. For "source": the source's id and its column there with its first name. For
    "derived": how, and which of the variables that this makes it is (from 0)."""

    kind: Literal["source", "typed", "derived"] = "typed"
    source: str | None = None
    column: int | None = None
    name: str = ""
    how: Formula | None = None
    at: int = 0


class Variable(Frozen):
    """A tag, where it comes from, whether anybody has looked at what Row Tag proposed, and its earlier names."""

    tag: Tag
    origin: Origin = Origin()
    proposed: bool = False
    former: tuple[str, ...] = ()


class CodeList(Frozen):
    """Code lines shared by several tags; carries no missing codes."""

    name: str
    lines: tuple[CodeLine, ...] = ()


class Titled(Frozen):
    """A section or battery."""

    title: str


class Otherwise(Frozen):
    """What somebody said of some lines of a document (first and last, from 1) that were understood otherwise.

    They are "codes", not variables; they belong "to" some variables (their `names`, or ranges such as "q1 to q6");
    their table has "names" in a column (from 1); or they name "nothing".
    """

    first: Annotated[int, Field(ge=1)]
    last: Annotated[int, Field(ge=1)]
    are: Literal["codes", "to", "names", "nothing"]
    names: Annotated[
        tuple[Annotated[str, Field(min_length=1, max_length=200, pattern=r"\S")], ...], Field(max_length=1_000)
    ] = ()
    column: Annotated[int, Field(ge=1, le=10_000)] = 1


class Sheet(Frozen):
    """A document kept beside the study: a questionnaire or codebook, as text; and what was said of its lines."""

    name: str
    text: str
    otherwise: tuple[Otherwise, ...] = ()


class Source(Frozen):
    """A file brought in: when, and how it was read. Its bytes are kept under `sha256`."""

    name: str
    size: int
    sha256: str
    kind: str
    records: int
    settings: dict[str, Any] = Field(default_factory=dict)
    brought_at: str = ""
    left_out: tuple[str, ...] = ()
    """Heads of columns that were not taken."""


class Accepted(Frozen):
    """A finding that somebody accepted, and why: an entry of a variable that a check notices no more, or all of it.

    It is quiet for as long as it is as it was then: the entry no oftener than `count` times; or, where `said` tells
    the finding as a whole, that in the same words, so often. Where neither is known, for good.
    """

    check: str
    variable: str
    entry: str = ""
    reason: str = ""
    count: int | None = None
    said: str = ""


class Comment(Frozen):
    """What somebody remarks on a record, or on its entry of a variable: "checked against paper"."""

    record: RecordNumber
    variable: VariableId | None = None
    text: Annotated[str, Field(min_length=1, max_length=4_000, pattern=r"\S")]

    @property
    def title(self) -> str:
        """How it is called where it is named."""
        return self.text[:40]


class Decision(Frozen):
    """Two keyings of an entry differed, and somebody decided: what stood in this study and in the other one, and what
    is kept."""

    record: RecordNumber
    variable: VariableId
    own: str = ""
    other: str = ""
    kept: str = ""


class Habit(Frozen):
    """Something that a study does by itself, because somebody asked for it."""

    title: str


FOLLOWING = "following"
"""The habit that derived variables follow what they are made of."""


def accepted_id(check: str, variable: str, entry: str) -> str:
    """The id under which an acceptance is kept."""
    return f"{check}/{variable}/{entry}"


SHELVES: dict[str, type[Frozen]] = {
    "variable": Variable,
    "list": CodeList,
    "section": Titled,
    "battery": Titled,
    "source": Source,
    "sheet": Sheet,
    "accepted": Accepted,
    "view": RecordView,
    "comment": Comment,
    "decision": Decision,
    "rule": Rule,
    "check": CheckSetting,
    "habit": Habit,
}
"""What a study is made of besides its entries. A shelf that an older file lacks is empty."""

Shelf = Mapping[str, Any]
_EMPTY: Shelf = MappingProxyType({})


@dataclass(frozen=True, eq=False)
class Records:
    """Which records there are. Record numbers count from 1 in order of arrival and never change."""

    arrived: int = 0
    removed: tuple[int, ...] = ()

    @property
    def gone(self) -> Same:
        """Which records were removed, as a key."""
        return Same(self.removed)

    def grown(self, more: int) -> "Records":
        """The records with so many more behind them."""
        return Records(self.arrived + more, self.removed)

    @cached_property
    def present(self) -> npt.NDArray[np.bool_] | None:
        """Which of the arrived records are there (bool, arrived); None when all are."""
        if not self.removed:
            return None
        mask = np.ones(self.arrived, bool)
        mask[np.array(self.removed, np.int64) - 1] = False
        return mask

    def without(self, numbers: Iterable[int]) -> "Records":
        """The records without some more."""
        return Records(self.arrived, tuple(sorted({*self.removed, *numbers})))

    def with_back(self, numbers: Iterable[int]) -> "Records":
        """The records with some that were removed."""
        return Records(self.arrived, tuple(sorted(set(self.removed).difference(numbers))))

    def has(self, record: int) -> bool:
        """Whether a record of this number is there."""
        at = bisect_left(self.removed, record)
        return 1 <= record <= self.arrived and not (at < len(self.removed) and self.removed[at] == record)

    @property
    def count(self) -> int:
        """How many records there are."""
        return self.arrived - len(self.removed)


@dataclass(frozen=True, eq=False)
class Study:
    """One state of a study. `order` holds the ids of the variables in codebook order."""

    shelves: Mapping[str, Shelf] = field(default_factory=lambda: dict.fromkeys(SHELVES, _EMPTY))
    order: tuple[str, ...] = ()
    columns: Mapping[str, Column] = field(default_factory=dict)
    records: Records = Records()
    naming: str = "portable"

    # Looking --------------------------------------------------------------------------------

    @property
    def variables(self) -> Mapping[str, Variable]:
        """All variables under their ids, in no particular order."""
        return self.shelves["variable"]

    def variable(self, id: str) -> Variable:
        """One variable; NotThere when there is none with this id."""
        found: Variable | None = self.variables.get(id)
        if found is None:
            raise NotThere("This variable is not in the study any more.", remedy="The diary shows when it was removed.")
        return found

    def tag(self, id: str) -> Tag:
        """The tag of one variable."""
        return self.variable(id).tag

    def column(self, id: str) -> Column:
        """The entries of one variable; all blank where none was ever recorded."""
        return self.columns.get(id, EMPTY_COLUMN)

    def codes(self, id: str) -> tuple[CodeLine, ...]:
        """The code lines that count for a variable: of its shared list, else its own."""
        tag = self.tag(id)
        if tag.code_list is None:
            return tag.codes
        shared: CodeList = self.shelves["list"][tag.code_list]
        return shared.lines

    def lens(self, id: str) -> Lens:
        """How the entries of a variable are read."""
        tag = self.tag(id)
        if tag.code_list is None:
            return tag.lens
        codes = self.codes(id)
        return engine.get(("lens", Same(tag), Same(codes)), lambda: lens_of(tag, codes))

    def reading(self, id: str) -> Reading:
        """How the tokens of a variable read."""
        return read_column(self.column(id), self.lens(id))

    def counts(self, id: str) -> npt.NDArray[np.int64]:
        """How often each token of a variable occurs."""
        return with_blanks(_filled(self, id), self.records.count)

    def values(self, id: str, *states: State) -> tuple[npt.NDArray[Any], npt.NDArray[np.int64]]:
        """The distinct numbers (or days, or seconds) of entries in some states, valid ones unless said otherwise.

        Ascending, with how often each occurs; none of text. float64; int64 where whole numbers are too long for that.
        """
        return _values(self, id, states or (State.VALID,))

    def fill(self, id: str) -> Fill:
        """The four shares of a variable."""
        return _shares(self, id).among(self.records.count)

    @cached_property
    def name_keys(self) -> Mapping[str, str]:
        """Variable ids by the key of their names."""
        return {key_of(variable.tag.name): id for id, variable in self.variables.items()}

    def users_of(self, list_id: str) -> tuple[str, ...]:
        """The variables that use a shared code list, in codebook order."""
        return tuple(id for id in self.order if self.tag(id).code_list == list_id)

    @cached_property
    def shelf_keys(self) -> dict[str, Hashable]:
        """Keys of what stands on the shelves, made when they are first asked for; see `worked_out`."""
        return {}

    @cached_property
    def accepted_on(self) -> Mapping[str, frozenset[Accepted]]:
        """Per variable what was accepted on it."""
        out: dict[str, set[Accepted]] = {}
        for accepted in self.shelves["accepted"].values():
            out.setdefault(accepted.variable, set()).add(accepted)
        return {variable: frozenset(each) for variable, each in out.items()}

    # Changing -------------------------------------------------------------------------------

    def put(self, shelf: str, values: Mapping[str, Frozen | None]) -> "Study":
        """The study with values put on a shelf; None takes the value under that id away."""
        kept = dict(self.shelves[shelf])
        for id, value in values.items():
            if value is None:
                kept.pop(id, None)
            else:
                kept[id] = value
        return replace(self, shelves={**self.shelves, shelf: kept})

    def with_tags(self, tags: Mapping[str, Tag]) -> "Study":
        """The study with other tags on some variables, which thereby count as looked at."""
        changed = {id: self.variable(id).model_copy(update={"tag": tag, "proposed": False}) for id, tag in tags.items()}
        return self.put("variable", changed)

    def with_names(self, names: Mapping[str, str]) -> "Study":
        """The study with other names on some variables; the earlier ones are remembered, newest last."""
        changed = {}
        for id, name in names.items():
            variable = self.variable(id)
            before = tuple(each for each in (*variable.former, variable.tag.name) if each != name)
            tag = variable.tag.with_parts(name=name)
            changed[id] = variable.model_copy(
                update={"tag": tag, "proposed": False, "former": tuple(dict.fromkeys(before))}
            )
        return self.put("variable", changed)

    def with_columns(self, columns: Mapping[str, Column]) -> "Study":
        """The study with other entries in some variables."""
        return replace(self, columns={**self.columns, **columns})

    def with_variables(self, variables: Iterable[tuple[str, Variable, Column]], before: str | None = None) -> "Study":
        """The study with more variables, before another one or at the end of its codebook."""
        added = list(variables)
        grown = self.put("variable", {id: variable for id, variable, _ in added})
        at = len(self.order) if before is None else self.order.index(before)
        return replace(
            grown,
            order=(*self.order[:at], *(id for id, _, _ in added), *self.order[at:]),
            columns={**self.columns, **{id: column for id, _, column in added}},
        )

    def without_variables(self, ids: Iterable[str]) -> "Study":
        """The study without some variables, their entries, and what was accepted, remarked and decided on them. Skips
        that went on at one of them go on at the next that stays."""
        gone = set(ids)
        left = self.put("variable", dict.fromkeys(gone) | self._led_on(gone))
        for shelf in ("accepted", "comment", "decision"):
            of_them = [id for id, each in self.shelves[shelf].items() if each.variable in gone]
            left = left.put(shelf, dict.fromkeys(of_them)) if of_them else left
        return replace(
            left,
            order=tuple(id for id in self.order if id not in gone),
            columns={id: column for id, column in self.columns.items() if id not in gone},
        )

    def _led_on(self, gone: set[str]) -> dict[str, Variable]:
        """The variables that stay whose skips led to one that goes, with skips that lead further."""
        behind: dict[str, str | None] = {}
        stays: str | None = None
        for id in reversed(self.order):
            behind[id], stays = stays, stays if id in gone else id
        out = {}
        for id in self.order:
            skips = self.tag(id).skips
            if id not in gone and any(skip.to in gone for skip in skips):
                led = tuple(
                    skip.model_copy(update={"to": behind[skip.to]}) if skip.to in gone else skip for skip in skips
                )
                out[id] = self.variable(id).model_copy(update={"tag": self.tag(id).with_parts(skips=led)})
        return out

    def arranged(self, ids: Iterable[str], before: str | None = None) -> "Study":
        """The study with some variables moved, in the order given, before another one or to the end."""
        moved = tuple(ids)
        rest = [id for id in self.order if id not in set(moved)]
        at = len(rest) if before is None else rest.index(before)
        return replace(self, order=(*rest[:at], *moved, *rest[at:]))


# Worked out of a study, once -------------------------------------------------------------------


def _filled(study: Study, id: str) -> npt.NDArray[np.int64]:
    """How often each token but the blank occurs; told from the column that it was edited from where that is known."""
    column, records = study.column(id), study.records

    def count() -> npt.NDArray[np.int64]:
        earlier = column.came() if column.came is not None else None
        before = None if earlier is None else ("filled", Same(earlier), records.gone)
        known = None if before is None else engine.known(before)
        told = None if known is None or earlier is None else column.counts_after(earlier, known, records.present)
        if told is None:
            return column.counts_filled(records.present)
        engine.drop(before)  # of a column that is edited again and again only the newest counts are kept
        return told

    return engine.get(("filled", Same(column), records.gone), count)


@worked_out(reading, entries)
def _shares(study: Study, id: str) -> Fill:
    """The shares of a variable, blanks aside: of whatever longer a study is, they stay."""
    return count_states(study.reading(id).states, _filled(study, id))


@worked_out(reading, entries)
def _values(study: Study, id: str, states: tuple[State, ...]) -> tuple[npt.NDArray[Any], npt.NDArray[np.int64]]:
    """The distinct values in some states, and how often each occurs."""
    found, counts = study.reading(id), _filled(study, id)
    if found.values is None:
        return np.empty(0), np.empty(0, np.int64)
    chosen = np.flatnonzero(np.isin(found.states, states) & (counts > 0))
    return distinct(found.exact(chosen), counts[chosen])
