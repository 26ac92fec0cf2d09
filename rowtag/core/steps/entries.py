"""Steps that make new entries: type some in, replace whole entries."""

from typing import Annotated, Any, Literal

import numpy as np
import numpy.typing as npt
import pyarrow.compute as pc
from pydantic import Field

from rowtag.core.errors import BadInput
from rowtag.core.reading import canonical_code, tidy_one
from rowtag.core.steps.base import Applied, Ids, Place, Step, Supplies, names_of, register
from rowtag.core.study import Study
from rowtag.core.tokens import large_texts
from rowtag.core.words import counted

Entry = Annotated[str, Field(max_length=10_000_000)]


@register
class SetEntries(Step):
    """Types entries of one variable in: record number (from 1) → entry."""

    do: Literal["set entries"] = "set entries"
    variable: str
    entries: Annotated[dict[int, Entry], Field(min_length=1)]

    def expects(self, study: Study) -> dict[Place, Any]:
        if self.variable not in study.variables:
            return {}
        column = study.column(self.variable)
        present = [record for record in sorted(self.entries) if 1 <= record <= study.records.arrived]
        tokens = np.array([column.indexes(record - 1, record)[0] for record in present], np.int64)
        texts = column.texts_at(tokens)
        return {("entry", self.variable, f"record {record}"): text for record, text in zip(present, texts, strict=True)}

    def change(self, study: Study, supplies: Supplies) -> Applied:
        tag = study.tag(self.variable)
        removed = set(study.records.removed)
        for record in self.entries:
            if not 1 <= record <= study.records.arrived or record in removed:
                raise BadInput(f"There is no record {record:,}.", remedy=f"Records go to {study.records.arrived:,}.")
        column = study.column(self.variable)
        new = column.with_entries({record - 1: text for record, text in self.entries.items()})
        if len(self.entries) == 1:
            ((record, text),) = self.entries.items()
            shown = f"“{text}”" if text.strip() else "a blank"
            sentence = f"Typed {shown} into {tag.name} of record {record:,}"
        else:
            sentence = f"Typed {counted(len(self.entries), 'entry', 'entries')} into {tag.name}"
        return Applied(study.with_columns({self.variable: new}), sentence, (self.variable,), len(self.entries))


@register
class ReplaceEntries(Step):
    """Puts one entry in place of others: whole entries, compared as they are read.

    Spaces at the ends do not count, and under a number type 8, 08 and 8.0 are the same entry.
    """

    do: Literal["replace entries"] = "replace entries"
    variables: Ids
    entries: Annotated[tuple[Entry, ...], Field(min_length=1)]
    by: Entry

    def expects(self, study: Study) -> dict[Place, Any]:
        known = [id for id in self.variables if id in study.variables]
        return {("entries", id): _occurrences(study, id, _matching(study, id, self.entries)) for id in known}

    def change(self, study: Study, supplies: Supplies) -> Applied:
        columns, replaced = {}, 0
        for id in self.variables:
            study.variable(id)
            tokens = _matching(study, id, self.entries)
            count = _occurrences(study, id, tokens)
            if count:
                columns[id] = study.column(id).with_replaced(tokens, self.by)
                replaced += count
        if not replaced:
            raise BadInput(
                f"None of these entries occurs in {names_of(study, self.variables)}.",
                remedy="Only whole entries are replaced.",
            )
        said = ", ".join(f"“{entry}”" for entry in self.entries[:4])
        by = f"“{self.by}”" if self.by.strip() else "a blank"
        sentence = f"Replaced {said} by {by} in {names_of(study, self.variables)}"
        notes = (counted(replaced, "entry", "entries") + " changed",)
        return Applied(study.with_columns(columns), sentence, self.variables, replaced, notes=notes)


def _matching(study: Study, id: str, entries: tuple[str, ...]) -> npt.NDArray[np.int64]:
    """Tokens of a variable that read as one of some entries."""
    kind = study.tag(id).type
    wanted = large_texts(canonical_code(entry, kind) or tidy_one(entry) for entry in entries)
    return np.flatnonzero(pc.is_in(study.reading(id).canonical(), wanted).to_numpy(zero_copy_only=False))


def _occurrences(study: Study, id: str, tokens: npt.NDArray[np.int64]) -> int:
    """How often some tokens of a variable occur."""
    return int(study.counts(id)[tokens].sum())
