"""Which records and variables somebody looks at, and in which order: it changes nothing of a study."""

from typing import Annotated, Literal

from pydantic import Field

from rowtag.core.refs import VariableId
from rowtag.core.tag import EndText, Frozen, LabelText

ReadAs = Literal["valid", "missing", "blank", "unreadable", "unlisted"]


class Condition(Frozen):
    """Entries of a variable that are one of some `codes`, or read as one of some `readings`, or hold a `text`
    (whatever its case), or whose value lies between `low` and `high`; with `other`, all but these.
    """

    variable: VariableId
    codes: Annotated[tuple[LabelText, ...], Field(max_length=2_000)] = ()
    readings: tuple[ReadAs, ...] = ()
    text: Annotated[str, Field(max_length=1_000)] = ""
    low: EndText | None = None
    high: EndText | None = None
    other: bool = False


class SortKey(Frozen):
    """Order by a variable: by value, by the order of its code list, or by letter; what is not valid stands behind."""

    variable: VariableId
    down: bool = False


class Arrangement(Frozen):
    """Records that meet all conditions, in an order. `alike`: only records that have the same entries in all of these
    variables as others have, which stand together. `remarked`: only records with a comment."""

    conditions: Annotated[tuple[Condition, ...], Field(max_length=50)] = ()
    sort: Annotated[tuple[SortKey, ...], Field(max_length=10)] = ()
    alike: Annotated[tuple[VariableId, ...], Field(max_length=100)] = ()
    remarked: bool = False

    @property
    def variables(self) -> tuple[str, ...]:
        """Every variable that it looks at, each once."""
        conditions, sort = (each.variable for each in self.conditions), (each.variable for each in self.sort)
        return tuple(dict.fromkeys([*conditions, *sort, *self.alike]))


ALL = Arrangement()


class RecordView(Frozen):
    """A named way of looking at the records: which variables in which order (all where none is named), widths of
    columns in pixels, which records; for the grid, or for keying records in."""

    name: Annotated[str, Field(min_length=1, max_length=80, pattern=r"\S")]
    purpose: Literal["grid", "keying"] = "grid"
    variables: Annotated[tuple[VariableId, ...], Field(max_length=20_000)] = ()
    widths: dict[VariableId, Annotated[int, Field(ge=40, le=2_000)]] = Field(default_factory=dict)
    arrangement: Arrangement = ALL
