"""Deriving in place for some records only: the others keep their entries, and what these mean."""

from dataclasses import dataclass
from functools import cached_property

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
    for at in np.flatnonzero(~now.says(meant))[:1].tolist():
        raise BadInput(
            f"{tag.name} would want another list for some of its records: {made[at].as_py() or 'blank'} "
            f"{meant.said(at)} there, and {now.said(at)} in the others.",
            remedy=_REMEDY,
        )
    if merged != tag:
        others = np.setdiff1d(np.arange(study.records.arrived), changed)
        texts = base.arrow_at(np.unique(base.tokens_at(others)))
        was, then = _Read.of(texts, tag, study.codes(id)), _Read.of(texts, merged, codes)
        for at in np.flatnonzero(~then.says(was, strictly=True))[:1].tolist():
            raise BadInput(
                f"{tag.name} would want another list for some of its records: {texts[at].as_py()} {was.said(at)} in "
                f"the others, and would be otherwise.",
                remedy=_REMEDY,
            )
    return merged


@dataclass(frozen=True, eq=False)
class _Read:
    """How some texts read under a tag."""

    reading: SegmentReading
    tag: Tag
    codes: tuple[CodeLine, ...]

    @classmethod
    def of(cls, texts: Texts, tag: Tag, codes: tuple[CodeLine, ...]) -> "_Read":
        """Texts read under a tag with these code lines."""
        return cls(read_texts(texts, lens_of(tag, codes)), tag, codes)

    @cached_property
    def states(self) -> npt.NDArray[np.uint8]:
        """How each reads; of strays either kind is one."""
        states = self.reading.states
        return np.where(np.isin(states, (State.UNREADABLE, State.UNLISTED)), State.UNREADABLE, states).astype(np.uint8)

    @cached_property
    def labels(self) -> npt.NDArray[np.object_]:
        """The label, or reason, that each has; nothing where it has none."""
        codes = np.array([*(line.label for line in self.codes), ""], object)
        reasons = np.array([*(line.reason for line in self.tag.missing), ""], object)
        valid = codes[np.where(self.states == State.VALID, self.reading.lines, -1)]
        missing = reasons[np.where(self.states == State.MISSING, self.reading.lines, -1)]
        return np.where(self.states == State.VALID, valid, missing)

    def says(self, other: "_Read", *, strictly: bool = False) -> npt.NDArray[np.bool_]:
        """Whether each reads as it does for another, with the same label, if that has one."""
        same = self.labels == other.labels
        found: npt.NDArray[np.bool_] = (self.states == other.states) & (
            same if strictly else same | (other.labels == "")
        )
        return found

    def said(self, at: int) -> str:
        """How one reads, in words."""
        state, label = State(int(self.states[at])), self.labels[at]
        word = {State.VALID: "is valid", State.MISSING: "is missing", State.BLANK: "is blank"}.get(state, "is a stray")
        return f"is “{label}”" if state == State.VALID and label else word


def _with_more(study: Study, id: str, wanted: Tag, meant: _Read, now: _Read) -> tuple[Tag, tuple[CodeLine, ...]]:
    """A tag, and its code lines, with those lines more that entries need and that it does not know; a shared list stays
    as it is, and what has no list gets none."""
    tag, codes = study.tag(id), study.codes(id)
    lines = meant.reading.lines
    wanting = (lines >= 0) & ~now.says(meant)
    met = wanting & (meant.states == State.MISSING) & (now.states != State.MISSING)
    missing = [wanted.missing[number] for number in dict.fromkeys(lines[met].tolist())]
    met = wanting & (meant.states == State.VALID) & (now.reading.lines < 0)
    more = [wanted.codes[number] for number in dict.fromkeys(lines[met].tolist())]
    if (more and (tag.code_list is not None or not codes)) or any(line.code is None for line in more):
        return tag, codes
    if not more and not missing:
        return tag, codes
    codes = (*codes, *dict.fromkeys(more))
    merged = tag.with_parts(missing=(*tag.missing, *dict.fromkeys(missing)), **({"codes": codes} if more else {}))
    return merged, codes
