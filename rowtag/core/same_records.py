"""Which records of two states of a study are the same where a corrected file came between them, which numbers its
records anew: told by what identifies them, else by what they hold and by their order."""

from dataclasses import replace

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from rowtag.core.comparing import Compared, compared
from rowtag.core.meeting import Rows, identifiers_of, same_rows
from rowtag.core.renumbering import Renumbering
from rowtag.core.study import Study
from rowtag.core.tokens import Texts

_PARTED = pa.scalar("\x1f", pa.large_string())
"""Stands between entries, and in none."""


def compared_by_record(before: Study, after: Study) -> Compared:
    """What differs between two states of one study, record by record; records that came and went by the numbers that
    they have in the state that has them."""
    numbers = renumbered(before, after)
    if numbers is None or numbers.unchanged:
        return compared(before, after)
    found = compared(numbers.realigned(before, after.records.arrived), after)
    present = before.records.present
    lost = (numbers.at < 0) if present is None else (numbers.at < 0) & present
    back = np.full(after.records.arrived, -1, np.int64)
    kept = np.flatnonzero(numbers.at >= 0)
    back[numbers.at[kept]] = kept
    went = np.sort(np.concatenate([np.flatnonzero(lost), back[found.records_gone - 1]])) + 1
    return replace(found, records_gone=went)


def renumbered(before: Study, after: Study) -> Renumbering | None:
    """Where each record of one state stands in another; None where their numbers tell it, since no file that brought
    records is another one."""
    was, now = before.shelves["source"], after.shelves["source"]
    if not any(now[id].sha256 != source.sha256 for id, source in was.items() if id in now):
        return None
    same = same_rows(*_telling(before, after))
    at = np.full(before.records.arrived, -1, np.int64)
    new = np.flatnonzero(same >= 0)
    at[same[new]] = new
    return Renumbering(_with_neighbours(at, after.records.arrived))


def _telling(before: Study, after: Study) -> tuple[Texts, Texts]:
    """What tells the records of two states: the identifier that both have, else all that their files brought."""
    common = [id for id in after.order if id in before.variables]
    identifier = next((id for id in common if all(each.tag(id).use == "identifier" for each in (before, after))), None)
    if identifier is not None:
        return identifiers_of(before, identifier), identifiers_of(after, identifier)
    ids = [id for id in common if after.variable(id).origin.kind == "source"]
    return _whole(before, ids), _whole(after, ids)


def _whole(study: Study, ids: list[str]) -> Texts:
    """All that each record holds in some variables as one text; null where it is not there any more."""
    arrived = np.arange(study.records.arrived)
    columns = [pc.take(study.column(id).texts(), pa.array(study.column(id).tokens_at(arrived))) for id in ids]
    if not columns:
        return pa.nulls(arrived.size, pa.large_string())
    texts = pc.binary_join_element_wise(*columns, _PARTED)
    present = study.records.present
    return texts if present is None else pc.if_else(pa.array(present), texts, None)


def _with_neighbours(at: Rows, arrived: int) -> Rows:
    """Places of records, with those that are told by nothing but their neighbours: what stands behind the same record
    in both, and is none of the others, is one record with other entries."""
    free = np.ones(arrived + 1, bool)
    free[at[at >= 0]] = False
    free[arrived] = False
    for position in np.flatnonzero(at < 0).tolist():
        behind = int(at[position - 1]) + 1 if position else 0
        if (position == 0 or behind > 0) and free[behind]:
            at[position], free[behind] = behind, False
    return at
