"""Skips: who gave some answer was not asked what comes next, and who has entries there all the same."""

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
import pyarrow as pa
import pyarrow.compute as pc

from rowtag.core.frame import Block, Frame
from rowtag.core.reading import State, canonical_code
from rowtag.core.study import Study
from rowtag.core.tag import Skip

Positions = npt.NDArray[np.int64]


@dataclass(frozen=True)
class Kept:
    """How the records keep to a skip: how many take it, and how many of those have a valid entry in between."""

    takes: int
    breaks: int


def passed_by(study: Study, id: str, skip: Skip) -> tuple[str, ...]:
    """The variables that a skip of a variable passes by: those between it and where it leads; none where it leads
    back."""
    return between(study.order, id, skip.to)


def between(order: tuple[str, ...], id: str, to: str | None) -> tuple[str, ...]:
    """What stands between a variable and a later one, or the end, in an order; nothing where it is no later one."""
    end = len(order) if to is None else order.index(to) if to in order else 0
    return order[order.index(id) + 1 : end]


def kept(study: Study, id: str, skip: Skip) -> Kept:
    """How the records keep to a skip."""
    found = _blocks(study, id, skip)
    return Kept(sum(took.size for took, _ in found), sum(broke.size for _, broke in found))


def breaking(study: Study, id: str) -> Positions:
    """Positions (0-based, ascending) of the records that break a skip of a variable that was confirmed."""
    found = [broken_by(study, id, skip) for skip in study.tag(id).skips if not skip.proposed]
    return np.unique(np.concatenate(found)) if found else np.empty(0, np.int64)


def broken_by(study: Study, id: str, skip: Skip) -> Positions:
    """Positions (0-based, ascending) of the records that take a skip of a variable and have valid entries in what it
    passes by."""
    found = [broke for _, broke in _blocks(study, id, skip)]
    return np.concatenate(found) if found else np.empty(0, np.int64)


def _blocks(study: Study, id: str, skip: Skip) -> list[tuple[Positions, Positions]]:
    """Per block of records: where those stand that take a skip, and those of them with a valid entry in between."""
    passed = passed_by(study, id, skip)
    takes = _taking(study, id, skip)
    if not passed or not takes.any():
        return []
    out = []
    for block in Frame(study).blocks():
        took = Block(study, block.positions[takes[block.tokens(id)]])
        broke = np.zeros(took.positions.size, bool)
        for other in passed if broke.size else ():
            broke |= took.states(other) == State.VALID
        out.append((took.positions, took.positions[broke]))
    return out


def _taking(study: Study, id: str, skip: Skip) -> npt.NDArray[np.bool_]:
    """Which tokens of a variable take a skip: those that are one of its codes, whether it is listed or missing."""
    reading, kind = study.reading(id), study.tag(id).type
    codes = {canonical_code(code, kind) or code for code in skip.codes}
    listed = pc.is_in(reading.canonical(), pa.array(sorted(codes), pa.large_string())).to_numpy(zero_copy_only=False)
    takes: npt.NDArray[np.bool_] = listed & ~np.isin(reading.states, (State.BLANK, State.UNREADABLE))
    return takes
