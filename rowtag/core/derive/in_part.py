"""Deriving in place for some records only: the others keep their entries, and what these mean."""

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
import pyarrow as pa
import pyarrow.compute as pc

from rowtag.core.column import Column
from rowtag.core.derive.outcome import Outcome
from rowtag.core.errors import BadInput
from rowtag.core.reading import SegmentReading, State, read_texts
from rowtag.core.study import Study
from rowtag.core.tag import NUMBER_TYPES, CodeLine, Tag, lens_of
from rowtag.core.tokens import Texts

_REMEDY = "Derive it into a new variable, which has a list of its own."


def in_marks(column: Column, base: Column, tag: Tag, records: int) -> Column:
    """A column whose numbers are written with the decimal mark of a tag, but for what another one holds already."""
    if tag.type not in NUMBER_TYPES or tag.marks.decimal == "." or not column.token_count:
        return column
    return column.mapped(_spelled(column.texts(), base, tag), records)


def _spelled(texts: Texts, base: Column, tag: Tag) -> Texts:
    """Texts with the decimal mark of a tag, but for those that a column holds already."""
    if tag.type not in NUMBER_TYPES or tag.marks.decimal == "." or not len(texts):
        return texts
    return pc.if_else(pa.array(base.find(texts) < 0), pc.replace_substring(texts, ".", tag.marks.decimal), texts)


def tag_in_part(study: Study, id: str, outcome: Outcome, changed: npt.NDArray[np.int64]) -> Tag:
    """The tag under which entries that changed at some positions read as they were meant, and all others as they did:
    as it was, at most with codes more. Raises BadInput where there is none."""
    tag, base = study.tag(id), study.column(id)
    wanted = Tag.model_validate({**outcome.parts, "name": tag.name})
    fresh = np.unique(outcome.column.tokens_at(changed))
    made = outcome.column.arrow_at(fresh)
    meant = _Read.of(made, wanted, wanted.codes)
    written = _spelled(made, base, tag)
    merged, codes = _with_more(study, id, wanted, meant, _Read.of(written, tag, study.codes(id)))
    now = _Read.of(written, merged, codes)
    for at, text in enumerate(made.to_pylist()):
        if not now.says(at, meant):
            raise BadInput(
                f"{tag.name} would want another list for some of its records: {text or 'blank'} "
                f"{meant.said(at)} there, and {now.said(at)} in the others.",
                remedy=_REMEDY,
            )
    if merged != tag:
        others = np.setdiff1d(np.arange(study.records.arrived), changed)
        texts = base.arrow_at(np.unique(base.tokens_at(others)))
        was, then = _Read.of(texts, tag, study.codes(id)), _Read.of(texts, merged, codes)
        for at, text in enumerate(texts.to_pylist()):
            if not then.says(at, was, strictly=True):
                raise BadInput(
                    f"{tag.name} would want another list for some of its records: {text} {was.said(at)} in the others, "
                    f"and would be otherwise.",
                    remedy=_REMEDY,
                )
    return merged


@dataclass(frozen=True)
class _Read:
    """How some texts read under a tag."""

    reading: SegmentReading
    tag: Tag
    codes: tuple[CodeLine, ...]

    @classmethod
    def of(cls, texts: Texts, tag: Tag, codes: tuple[CodeLine, ...]) -> "_Read":
        """Texts read under a tag with these code lines."""
        return cls(read_texts(texts, lens_of(tag, codes)), tag, codes)

    def state(self, at: int) -> State:
        """How one of them reads; of strays either kind is one."""
        state = State(int(self.reading.states[at]))
        return State.UNREADABLE if state.stray else state

    def label(self, at: int) -> str:
        """The label, or reason, that one of them has."""
        number, state = int(self.reading.lines[at]), self.state(at)
        if number < 0 or state not in (State.VALID, State.MISSING):
            return ""
        return self.codes[number].label if state == State.VALID else self.tag.missing[number].reason

    def says(self, at: int, other: "_Read", *, strictly: bool = False) -> bool:
        """Whether one reads as it does for another, with the same label, if that has one."""
        label = other.label(at)
        return self.state(at) == other.state(at) and (self.label(at) == label or (not strictly and not label))

    def said(self, at: int) -> str:
        """How one reads, in words."""
        state, label = self.state(at), self.label(at)
        word = {State.VALID: "is valid", State.MISSING: "is missing", State.BLANK: "is blank"}.get(state, "is a stray")
        return f"is “{label}”" if state == State.VALID and label else word


def _with_more(study: Study, id: str, wanted: Tag, meant: _Read, now: _Read) -> tuple[Tag, tuple[CodeLine, ...]]:
    """A tag, and its code lines, with those lines more that entries need and that it does not know; a shared list stays
    as it is, and what has no list gets none."""
    tag, codes = study.tag(id), study.codes(id)
    more, missing = list[CodeLine](), []
    for at in range(len(meant.reading.states)):
        number = int(meant.reading.lines[at])
        if number < 0 or now.says(at, meant):
            continue
        if meant.state(at) == State.MISSING and now.state(at) != State.MISSING:
            missing.append(wanted.missing[number])
        elif meant.state(at) == State.VALID and int(now.reading.lines[at]) < 0:
            more.append(wanted.codes[number])
    if (more and (tag.code_list is not None or not codes)) or any(line.code is None for line in more):
        return tag, codes
    if not more and not missing:
        return tag, codes
    codes = (*codes, *dict.fromkeys(more))
    merged = tag.with_parts(missing=(*tag.missing, *dict.fromkeys(missing)), **({"codes": codes} if more else {}))
    return merged, codes
