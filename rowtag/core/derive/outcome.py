"""What a way of deriving makes: a column and what its tag proposes. And how a source is looked at, per token."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from functools import cached_property
from typing import Any

import numpy as np
import numpy.typing as npt
import pyarrow as pa
import pyarrow.compute as pc

from rowtag.core.column import Column
from rowtag.core.reading import Reading, State, canonical_code, read_column
from rowtag.core.study import Study
from rowtag.core.tag import NUMBER_TYPES, CodeLine, Lens, MissingLine, Span, Tag, Type
from rowtag.core.tokens import Texts, large_texts

Flags = npt.NDArray[np.bool_]
Targets = npt.NDArray[np.int64]


@dataclass(frozen=True)
class Outcome:
    """A variable that was derived: its entries, the parts of a tag that go with them, and what is worth saying.

    `called`: what it is called behind a name that stands for several, such as a code. `gone`: positions of records
    (int64) for which nothing comes out although all that it looks at is valid; None where that cannot be.
    """

    column: Column
    parts: Mapping[str, Any] = field(default_factory=dict)
    notes: tuple[str, ...] = ()
    called: str = ""
    gone: npt.NDArray[np.int64] | None = None


@dataclass(frozen=True)
class Source:
    """A variable that something is derived from, looked at per token (n)."""

    study: Study
    id: str

    @property
    def tag(self) -> Tag:
        """Its tag."""
        return self.study.tag(self.id)

    @property
    def column(self) -> Column:
        """Its entries."""
        return self.study.column(self.id)

    @property
    def lines(self) -> tuple[CodeLine, ...]:
        """Its code lines, own or shared."""
        return self.study.codes(self.id)

    @cached_property
    def reading(self) -> Reading:
        """How its tokens read."""
        return self.study.reading(self.id)

    @cached_property
    def counts(self) -> npt.NDArray[np.int64]:
        """How often each token occurs."""
        return self.study.counts(self.id)

    @cached_property
    def valid(self) -> Flags:
        """Which tokens are valid entries."""
        found: Flags = self.reading.states == State.VALID
        return found

    @cached_property
    def stray(self) -> Flags:
        """Which tokens are strays."""
        found: Flags = self.reading.states >= State.UNREADABLE
        return found

    def codes(self, codes: Sequence[str]) -> npt.NDArray[np.int32]:
        """For each token which of some codes it is, compared as entries are read; -1 where none: int32 (n)."""
        return self._met([Span(code, None, None) for code in codes])

    def within(self, low: str | None, high: str | None, *, above: bool = False, below: bool = False) -> Flags:
        """Which tokens lie between two ends, which belong to it unless it is `above` or `below` them (bool, n)."""
        found: Flags = self._met([Span(None, low, high)]) >= 0
        for end, left_out in ((low, above), (high, below)):
            if left_out and end is not None:
                found &= self._met([Span(end, None, None)]) < 0
        found &= self.reading.states != State.MISSING
        return found

    def _met(self, spans: Sequence[Span]) -> npt.NDArray[np.int32]:
        """The first of some codes and ranges that each token is, whatever its code list and missing codes say."""
        lens = Lens(self.tag.type, self.tag.marks, tuple(spans), False, None, None, ())
        return read_column(self.column, lens).lines

    def became(self, target: Targets, results: Sequence[str]) -> Column:
        """The column of which each token became one of some texts, or (-1) stayed as it was recorded."""
        texts: Texts = self.column.texts()
        if (target >= 0).any():
            made = pc.take(large_texts(results), pa.array(np.where(target >= 0, target, 0)))
            texts = pc.if_else(pa.array(target >= 0), made, texts)
        return self.column.mapped(texts, self.study.records.arrived)


def code_type(codes: Sequence[str]) -> Type:
    """The type that fits all of some codes."""
    if all(canonical_code(code, "integer") is not None for code in codes):
        return "integer"
    return "decimal" if all(canonical_code(code, "decimal") is not None for code in codes) else "text"


def in_type(code: str, kind: str) -> str:
    """A code as it is compared under a type."""
    return canonical_code(code, kind) or code


def kept_missing(source: Tag, kind: Type) -> tuple[MissingLine, ...]:
    """The missing codes of a source for a variable of another type: ranges that its type does not know are left out."""
    return tuple(
        line
        for line in source.missing
        if line.code is not None or kind == source.type or {kind, source.type} <= set(NUMBER_TYPES)
    )


def coded_parts(lines: Sequence[CodeLine], missing: Sequence[MissingLine], level: str = "nominal") -> dict[str, Any]:
    """The parts of a tag with a complete code list."""
    codes = [line.code for line in lines if line.code is not None]
    kind = code_type(codes)
    width = max((len(code) for code in [*codes, *(line.code or "" for line in missing)]), default=1)
    return {
        "type": kind,
        "level": level,
        "codes": tuple(lines),
        "complete": True,
        "missing": tuple(missing),
        "width": max(width, 1),
        **({"decimals": max(len(code.partition(".")[2]) for code in codes)} if kind == "decimal" else {}),
    }


YES_NO = (CodeLine(code="1", label="Yes"), CodeLine(code="0", label="No"))
"""The codes of what is so or not."""


def yes_no(missing: Sequence[MissingLine] = ()) -> dict[str, Any]:
    """The parts of a tag of an indicator."""
    return coded_parts(YES_NO, missing)
