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
from rowtag.core.errors import BadInput
from rowtag.core.reading import Reading, State, canonical_code, read_column, read_texts
from rowtag.core.study import Study
from rowtag.core.tag import NUMBER_TYPES, CodeLine, Lens, MissingLine, Span, Tag, Type, lens_of
from rowtag.core.tokens import Texts, large_texts

MOST_CODES = 1_000
"""Missing codes that are listed in place of a range."""

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

    def became(self, target: Targets, results: Sequence[str], parts: Mapping[str, Any], **more: Any) -> Outcome:
        """The variable, with some parts of a tag, of which each token became one of some texts, or (-1) stayed."""
        texts: Texts = self.column.texts()
        if (target >= 0).any():
            made = pc.take(large_texts(results), pa.array(np.where(target >= 0, target, 0)))
            texts = pc.if_else(pa.array(target >= 0), made, texts)
        return self.with_texts(texts, target < 0, parts, **more)

    def with_texts(self, texts: Texts, stay: Flags, parts: Mapping[str, Any], **more: Any) -> Outcome:
        """The variable, with some parts of a tag, of which each token has a text (n). What is valid or missing and is
        to `stay` so is as it was recorded where that reads the same there, else spelled so that it does: a missing
        answer as its code, which is listed where only a range of the source had it."""
        parts = dict(parts)
        at = np.flatnonzero(stay & (self.reading.states <= State.MISSING))
        if at.size:
            texts, parts["missing"] = self._staying(texts, at, parts)
        return Outcome(self.column.mapped(texts, self.study.records.arrived), parts, **more)

    def _staying(
        self, texts: Texts, at: npt.NDArray[np.int64], parts: Mapping[str, Any]
    ) -> tuple[Texts, tuple[MissingLine, ...]]:
        """The texts of tokens, of which those that stay (`at`) are spelled so that they read as they did; and the
        missing codes that this takes."""
        states, missing = self.reading.states, tuple(parts.get("missing", ()))
        tag = Tag.model_validate({**parts, "name": "x"})
        off = at[read_texts(texts.take(pa.array(at)), lens_of(tag, tag.codes)).states != states[at]]
        if not off.size:
            return texts, missing
        spelled = self._as_codes(off)
        gone = {number for number, line in enumerate(self.tag.missing) if line not in missing}
        fresh: dict[str, MissingLine] = {}
        for token, text in zip(off.tolist(), spelled.to_pylist(), strict=True):
            number = int(self.reading.lines[token])
            if states[token] == State.MISSING and number in gone and self.tag.missing[number].code is None:
                line = self.tag.missing[number]
                fresh.setdefault(text, MissingLine(code=text, reason=line.reason, label=line.label))
        if len(fresh) > MOST_CODES:
            raise BadInput(
                f"{self.tag.name} has {len(fresh):,} different missing codes, which a range stands for.",
                remedy="Recode them to one code first, such as: recode x: missing -> -9 'Refused' missing 'refused'",
            )
        missing = (*missing, *fresh.values())
        tag = tag.with_parts(missing=missing)
        same = read_texts(spelled, lens_of(tag, tag.codes)).states == states[off]
        out = texts.to_numpy(zero_copy_only=False).copy()
        out[off[same]] = spelled.filter(pa.array(same)).to_numpy(zero_copy_only=False)
        return large_texts(out), missing

    def _as_codes(self, tokens: npt.NDArray[np.int64]) -> Texts:
        """Some tokens as they are compared: those that are missing as their code."""
        codes = large_texts([line.code or "" for line in self.tag.missing] or [""])
        listed = self.reading.states[tokens] == State.MISSING
        coded = pc.take(codes, pa.array(np.where(listed, self.reading.lines[tokens], 0)))
        listed &= pc.not_equal(coded, "").to_numpy(zero_copy_only=False)
        return pc.if_else(pa.array(listed), coded, self.reading.canonical(tokens))


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
