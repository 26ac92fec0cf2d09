"""Steps that make new entries: type some in, replace whole entries."""

from typing import Annotated, Any, Literal

import numpy as np
import numpy.typing as npt
from pydantic import Field

from rowtag.core.errors import BadInput
from rowtag.core.steps.base import Applied, Ids, Place, Step, Supplies, counted, names_of, register
from rowtag.core.study import Study

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
        return {
            ("entry", self.variable, f"record {record}"): text for record, text in zip(present, texts, strict=True)
        }

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
    """Puts one entry in place of others: whole entries, matched to the letter as recorded."""

    do: Literal["replace entries"] = "replace entries"
    variables: Ids
    entries: Annotated[tuple[Entry, ...], Field(min_length=1)]
    by: Entry

    def expects(self, study: Study) -> dict[Place, Any]:
        known = [id for id in self.variables if id in study.variables]
        return {("entries", id): tuple(_occurrences(study, id, self.entries).tolist()) for id in known}

    def change(self, study: Study, supplies: Supplies) -> Applied:
        columns, replaced = {}, 0
        for id in self.variables:
            study.variable(id)
            column = study.column(id)
            tokens = column.find(list(self.entries))
            tokens = tokens[tokens >= 0]
            count = int(_occurrences(study, id, self.entries).sum())
            if count:
                columns[id] = column.with_replaced(tokens, self.by)
                replaced += count
        if not replaced:
            raise BadInput(
                f"None of these entries occurs in {names_of(study, self.variables)}.",
                remedy="Entries are compared whole and to the letter.",
            )
        said = ", ".join(f"“{entry}”" for entry in self.entries[:4])
        by = f"“{self.by}”" if self.by.strip() else "a blank"
        sentence = f"Replaced {said} by {by} in {names_of(study, self.variables)}"
        notes = (counted(replaced, "entry", "entries") + " changed",)
        return Applied(study.with_columns(columns), sentence, self.variables, replaced, notes=notes)


def _occurrences(study: Study, id: str, texts: tuple[str, ...]) -> npt.NDArray[np.int64]:
    """How often each of the texts occurs in a variable, to the letter."""
    tokens = study.column(id).find(texts)
    return np.where(tokens >= 0, study.counts(id)[tokens], 0)
