"""Tags: what a variable is, part by part. Parts are independent: changing one never drops another."""

import math
import re
from dataclasses import dataclass
from functools import cached_property
from typing import Annotated, Any, Literal, Self

from pydantic import AfterValidator, BaseModel, ConfigDict, Field, model_validator

from rowtag.core.refs import BatteryId, ListId, SectionId, VariableId

Type = Literal["integer", "decimal", "text", "date", "time", "datetime"]
Level = Literal["nominal", "ordinal", "interval", "ratio"]
Use = Literal["identifier", "answer", "several answers", "open-ended", "weight", "design", "administrative"]
Reason = Literal["refused", "don't know", "not applicable", "not asked", "no answer", "other"]
DateOrder = Literal["ymd", "dmy", "mdy"]
Pattern = Literal["yyyy-mm-dd", "dd.mm.yyyy", "dd/mm/yyyy", "mm/dd/yyyy"]

NUMBER_TYPES: frozenset[str] = frozenset({"integer", "decimal"})
DATE_TYPES: frozenset[str] = frozenset({"date", "time", "datetime"})
CODED_LEVELS: frozenset[str] = frozenset({"nominal", "ordinal"})
UNLISTABLE_USES: frozenset[str] = frozenset({"identifier", "open-ended", "weight"})

MOST_LABEL, MOST_TEXT = 2_000, 20_000
"""Characters of a label, and of a wording or a note."""
LabelText = Annotated[str, Field(max_length=MOST_LABEL)]
CodeText = Annotated[str, Field(min_length=1, max_length=1_000)]
_END = re.compile(
    r"[+\-\u2212]?(\d+(\.\d*)?|\.\d+)(e[+-]?\d{1,4})?"
    r"|\d{4}-\d{1,2}-\d{1,2}([ T]\d{1,2}:\d\d(:\d\d)?)?|\d{1,2}:\d\d(:\d\d)?",
    re.IGNORECASE | re.ASCII,
)


def can_end(text: str) -> bool:
    """Whether a text can be an end of a range or of limits: a finite number with a point, a date or a time."""
    text = text.strip()
    if not _END.fullmatch(text):
        return False
    return ":" in text or "-" in text[1:] or math.isfinite(float(text.replace("\u2212", "-")))


def _end(text: str) -> str:
    if not can_end(text):
        raise ValueError(f"“{text[:40]}” is no number, date or time (such as 1.5, 2026-05-03, 10:30)")
    return text


EndText = Annotated[str, Field(min_length=1, max_length=1_000), AfterValidator(_end)]
LongText = Annotated[str, Field(max_length=MOST_TEXT)]


class Frozen(BaseModel):
    """A value that never changes and takes no unknown parts."""

    model_config = ConfigDict(frozen=True, extra="forbid")


class CodeSpan(Frozen):
    """One code, or a range of codes with one end possibly open."""

    code: CodeText | None = None
    low: EndText | None = None
    high: EndText | None = None

    @model_validator(mode="after")
    def _one_or_the_other(self) -> Self:
        ranged = self.low is not None or self.high is not None
        if (self.code is None) == (not ranged):
            raise ValueError("a line has either one code, or a range with at least one end")
        return self

    @property
    def shown(self) -> str:
        """The code as written in a list: "3", "35 .. 59", "60 .."."""
        if self.code is not None:
            return self.code
        return f"{self.low or ''} .. {self.high or ''}".strip()


class CodeLine(CodeSpan):
    """A line of a code list: a code or a range, and what it means."""

    label: LabelText = ""


class MissingLine(CodeSpan):
    """A code, range or text that stands for a missing answer, and why it is missing."""

    reason: Reason = "other"
    label: LabelText = ""


class Limits(Frozen):
    """What can be: entries outside are strays. Ends are texts in canonical form; either may be open."""

    low: EndText | None = None
    high: EndText | None = None


class Skip(Frozen):
    """Who gave one of some codes goes on at another variable (None: at the end), and was not asked what stands between.

    `proposed`: a questionnaire tells it and nobody has confirmed it. `said`: the words in which it was told.
    """

    codes: Annotated[tuple[CodeText, ...], Field(min_length=1, max_length=200)]
    to: VariableId | None = None
    proposed: bool = False
    said: LabelText = ""


class Marks(Frozen):
    """How entries are written: decimal mark, thousands mark, a sign before or after, order of dates."""

    decimal: Literal[".", ","] = "."
    thousands: Literal["", ",", ".", " ", "'", "’", "\u00a0", "\u202f"] = ""
    sign: Annotated[str, Field(max_length=8)] = ""
    date_order: DateOrder = "ymd"

    @model_validator(mode="after")
    def _marks_differ(self) -> Self:
        if self.decimal == self.thousands:
            raise ValueError("decimal mark and thousands mark must differ")
        return self


class Parts(Frozen):
    """The parts of a tag that several tags can have in common, each independent of the others.

    `codes` are the variable's own lines. `complete` says that codes beyond the list are strays. `missing` is
    the only place that says which entries stand for a missing answer. `pattern` is how dates are shown.
    """

    label: LabelText = ""
    question: LongText = ""
    type: Type = "text"
    level: Level = "nominal"
    use: Use = "answer"
    width: Annotated[int, Field(ge=1, le=32_767)] | None = None
    decimals: Annotated[int, Field(ge=0, le=18)] | None = None
    marks: Marks = Marks()
    pattern: Pattern = "yyyy-mm-dd"
    codes: tuple[CodeLine, ...] = ()
    complete: bool = False
    limits: Limits = Limits()
    missing: tuple[MissingLine, ...] = ()
    note: LongText = ""

    def given(self) -> dict[str, Any]:
        """The parts that were given, the others having been left out; in the order in which they are defined."""
        return {part: getattr(self, part) for part in Parts.model_fields if part in self.model_fields_set}


class Tag(Parts):
    """A variable's definition. Where `code_list` names a shared list, that one counts, not its own codes."""

    name: Annotated[str, Field(min_length=1, max_length=64)]
    code_list: ListId | None = None
    section: SectionId | None = None
    battery: BatteryId | None = None
    skips: tuple[Skip, ...] = ()

    def with_parts(self, **parts: Any) -> "Tag":
        """This tag with some parts changed, checked like any other."""
        return Tag.model_validate({**{name: getattr(self, name) for name in Tag.model_fields}, **parts})

    def redefined(self, parts: Parts) -> "Tag":
        """This tag with the parts that were given; code lines of its own take the place of a shared list."""
        given = parts.given()
        return self.with_parts(**given, **({"code_list": None} if "codes" in given else {}))

    @cached_property
    def lens(self) -> "Lens":
        """How entries are read by its own code lines."""
        return lens_of(self, self.codes)

    @property
    def wants_codes(self) -> bool:
        """Whether level and use call for a code list."""
        return self.level in CODED_LEVELS and self.use not in UNLISTABLE_USES and self.type not in DATE_TYPES


@dataclass(frozen=True)
class Span:
    """A `CodeSpan` as the reading needs it: no label, hashable, cheap."""

    code: str | None
    low: str | None
    high: str | None


@dataclass(frozen=True, eq=False)
class Lens:
    """The parts of a tag that decide how entries are read, and nothing else. Hashable: a cache key, whose hash is
    worked out once, since code lists can be long."""

    type: Type
    marks: Marks
    codes: tuple[Span, ...]
    complete: bool
    low: str | None
    high: str | None
    missing: tuple[Span, ...]

    @cached_property
    def _hash(self) -> int:
        return hash((self.type, self.marks, self.codes, self.complete, self.low, self.high, self.missing))

    def __hash__(self) -> int:
        return self._hash

    def __eq__(self, other: object) -> bool:
        if self is other:
            return True
        return isinstance(other, Lens) and self._hash == other._hash and self._parts == other._parts

    @property
    def _parts(self) -> tuple[Any, ...]:
        return self.type, self.marks, self.complete, self.low, self.high, self.missing, self.codes


def lens_of(tag: Tag, codes: tuple[CodeLine, ...]) -> Lens:
    """The lens of a tag whose code lines, own or shared, are `codes`."""
    return Lens(
        type=tag.type,
        marks=tag.marks,
        codes=tuple(Span(line.code, line.low, line.high) for line in codes),
        complete=tag.complete and bool(codes),
        low=tag.limits.low,
        high=tag.limits.high,
        missing=tuple(Span(line.code, line.low, line.high) for line in tag.missing),
    )
