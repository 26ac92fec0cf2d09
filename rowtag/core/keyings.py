"""Two keyings of the same questionnaires: how far they agree, and where they differ."""

from dataclasses import dataclass
from functools import cached_property
from itertools import islice
from typing import Any

import numpy as np
import numpy.typing as npt
import pyarrow as pa
import pyarrow.compute as pc

from rowtag.core.column import Column
from rowtag.core.errors import BadInput
from rowtag.core.names import key_of
from rowtag.core.reading import State, canonical_code, read_column
from rowtag.core.steps.decide import decision_id
from rowtag.core.study import Decision, Study

Positions = npt.NDArray[np.int64]
MOST_CATEGORIES = 1_000
"""Categories of a coded variable up to which kappa is told."""


@dataclass(frozen=True)
class Agreement:
    """How far two keyings agree in a variable: in how many of the compared records, and Cohen's kappa (None where it
    is no coded variable, or where chance alone would agree in all)."""

    variable: str
    compared: int
    agree: int
    kappa: float | None


@dataclass(frozen=True)
class KeyedTwice:
    """An entry that two keyings have differently; `decided` says what was decided on just these two."""

    record: int
    identifier: str
    variable: str
    own: str
    other: str
    own_label: str = ""
    other_label: str = ""
    decided: Decision | None = None


def kappa(table: npt.NDArray[Any]) -> float | None:
    """Agreement beyond chance of a square table of counts, rows by columns (Cohen 1960, Educational and Psychological
    Measurement 20, 37-46); None where chance alone would agree in all, or nothing was counted."""
    total = float(table.sum())
    if not total:
        return None
    observed = float(np.trace(table)) / total
    chance = float(table.sum(axis=0) @ table.sum(axis=1)) / total**2
    return None if np.isclose(chance, 1) else (observed - chance) / (1 - chance)


class Keyings:
    """A study beside another one in which the same records were keyed; they are met by an identifier.

    Entries agree where they read alike under the tags of this study; what was decided is put back to how it was keyed.
    Raises BadInput where nothing tells which records are the same.
    """

    def __init__(self, own: Study, other: Study, by: str | None = None) -> None:
        self.own, self.other = own, other
        self.by = by or next((id for id in own.order if own.tag(id).use == "identifier"), None)
        theirs = None if self.by is None else other.name_keys.get(key_of(own.tag(self.by).name))
        if self.by is None or theirs is None:
            raise BadInput(
                "Nothing tells which records of the two keyings belong together.",
                remedy="Give a variable that both have the use identifier.",
            )
        mine, yours = _Called(own, self.by), _Called(other, theirs)
        self.repeated = len(pc.unique(pa.concat_arrays([mine.repeated, yours.repeated])))
        at = pc.index_in(mine.names, yours.names)
        met = pc.is_valid(at).to_numpy(zero_copy_only=False)
        self._mine = mine.positions[met]
        self._yours = yours.positions[at.drop_null().to_numpy(zero_copy_only=False)]
        self._names = mine.names.filter(pa.array(met))
        self.met = int(met.sum())
        self.only_own, self.only_other = mine.not_in(yours), yours.not_in(mine)

    @cached_property
    def variables(self) -> dict[str, str]:
        """The variables that both have, but for the identifier: this study's id and the other's."""
        named = {id: self.other.name_keys.get(key_of(self.own.tag(id).name)) for id in self.own.order}
        return {id: theirs for id, theirs in named.items() if theirs is not None and id != self.by}

    @cached_property
    def agreements(self) -> list[Agreement]:
        """Per variable that both have, in codebook order."""
        return [self._agreement(id) for id in self.variables]

    @property
    def differing(self) -> int:
        """How many entries differ, decided or not."""
        return sum(each.compared - each.agree for each in self.agreements)

    @cached_property
    def decided(self) -> int:
        """How many of the entries that differ are decided."""
        known = {(record, id) for id, found in self._decisions.items() for record in found}
        cells = [cell for cell in self._cells if (int(self._mine[cell[1]]) + 1, cell[0]) in known] if known else []
        return sum(self._told(at, id).decided is not None for id, at in cells)

    def differences(self, most: int = 2_000) -> list[KeyedTwice]:
        """The first entries that differ, in the order of the records and then of the variables."""
        return [self._told(at, id) for id, at in islice(self._cells, most)]

    @cached_property
    def _cells(self) -> list[tuple[str, int]]:
        """The variables and places among the records that are met at which the keyings differ."""
        order = list(self.variables)
        found = [np.flatnonzero(mine != yours) for mine, yours in self._codes.values()]
        places = np.concatenate(
            [np.stack([at, np.full(at.size, n)]) for n, at in enumerate(found)] or [_NOWHERE], axis=1
        )
        return [(order[number], at) for at, number in places[:, np.lexsort(places[::-1])].T.tolist()]

    @cached_property
    def _decisions(self) -> dict[str, dict[int, Decision]]:
        out: dict[str, dict[int, Decision]] = {}
        for each in self.own.shelves["decision"].values():
            out.setdefault(each.variable, {})[each.record] = each
        return out

    @cached_property
    def _keyed(self) -> dict[str, Column]:
        """The columns of this study as they were keyed, before anything was decided."""
        return {
            id: self.own.column(id).with_entries({each.record - 1: each.own for each in known.values()})
            if (known := self._decisions.get(id))
            else self.own.column(id)
            for id in self.variables
        }

    @cached_property
    def _codes(self) -> dict[str, tuple[Positions, Positions]]:
        """Per variable what the two keyings have in each record that is met, as numbers that are the same for entries
        that read alike."""
        out = {}
        for id, theirs in self.variables.items():
            mine, yours = self._keyed[id], self.other.column(theirs)
            lens = self.own.lens(id)
            read = [_whole(read_column(column, lens).canonical()) for column in (mine, yours)]
            joined = pc.dictionary_encode(pa.concat_arrays(read))
            codes = joined.indices.to_numpy(zero_copy_only=False).astype(np.int64)
            first = len(read[0])
            out[id] = (codes[:first][mine.tokens_at(self._mine)], codes[first:][yours.tokens_in(self._yours)])
        return out

    def _agreement(self, id: str) -> Agreement:
        mine, yours = self._codes[id]
        found = None
        if self.own.tag(id).wants_codes:
            used, both = np.unique(np.concatenate([mine, yours]), return_inverse=True)
            if used.size <= MOST_CATEGORIES:
                pairs = both[: mine.size] * used.size + both[mine.size :]
                found = kappa(np.bincount(pairs, minlength=used.size**2).reshape(used.size, used.size))
        return Agreement(id, mine.size, int(np.count_nonzero(mine == yours)), found)

    def _told(self, at: int, id: str) -> KeyedTwice:
        record = int(self._mine[at]) + 1
        own = _entry(self._keyed[id], int(self._mine[at]))
        other = _entry(self.other.column(self.variables[id]), int(self._yours[at]))
        known: Decision | None = self.own.shelves["decision"].get(decision_id(record, id))
        holds = known is not None and known.other == other and known.kept == _entry(self.own.column(id), record - 1)
        kind, labels = self.own.tag(id).type, self._labels[id]
        own_label, other_label = (labels.get(canonical_code(entry, kind) or "", "") for entry in (own, other))
        name = self._names[at].as_py()
        return KeyedTwice(record, name, id, own, other, own_label, other_label, known if holds else None)

    @cached_property
    def _labels(self) -> dict[str, dict[str, str]]:
        """The labels of the codes of each variable."""
        out = {}
        for id in self.variables:
            tag = self.own.tag(id)
            lines = [(line.code, line.label) for line in self.own.codes(id)]
            lines += [(line.code, line.label) for line in tag.missing]
            out[id] = {canonical_code(code, tag.type) or code: label for code, label in lines if code is not None}
        return out


_NOWHERE = np.empty((2, 0), np.int64)


class _Called:
    """The records of a study by an identifier: those with a valid one that no other has."""

    def __init__(self, study: Study, id: str) -> None:
        reading, column, present = study.reading(id), study.column(id), study.records.present
        positions = np.arange(study.records.arrived) if present is None else np.flatnonzero(present)
        tokens = column.tokens_at(positions)
        encoded = pc.dictionary_encode(_whole(reading.canonical()))
        codes = encoded.indices.to_numpy(zero_copy_only=False)[tokens]
        valid = reading.states[tokens] == State.VALID
        counts = np.bincount(codes[valid], minlength=len(encoded.dictionary))
        once = valid & (counts[codes] == 1)
        self.repeated = encoded.dictionary.filter(pa.array(counts > 1))
        self.positions: Positions = positions[once]
        self.names = encoded.dictionary.take(pa.array(codes[once]))

    def not_in(self, other: "_Called") -> int:
        """How many of them another study does not have at all."""
        known = pa.concat_arrays([other.names, other.repeated])
        return int(pc.sum(pc.invert(pc.is_in(self.names, known))).as_py() or 0)


def _whole(texts: Any) -> pa.Array:
    return texts.combine_chunks() if isinstance(texts, pa.ChunkedArray) else texts


def _entry(column: Column, position: int) -> str:
    return column.texts_at(column.tokens_at(np.array([position])))[0]
