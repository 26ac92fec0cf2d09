"""Formulas as a way of deriving: whatever they give for a record becomes its entry."""

from typing import Any

import numpy as np
import numpy.typing as npt
import pyarrow as pa
import pyarrow.compute as pc

from rowtag.core import gathering
from rowtag.core.derive.outcome import Outcome, yes_no
from rowtag.core.formulas.digits import as_written
from rowtag.core.formulas.errors import BadFormula
from rowtag.core.formulas.held import Meant
from rowtag.core.grammar import canonical_dates
from rowtag.core.reading import State
from rowtag.core.tokens import LONGEST_ENTRY, Segment
from rowtag.core.words import megabytes

MOST_TEXT = 2 << 30
"""Bytes of all the texts of a variable that is derived; no file that is handed in has more."""
MOMENTS = ("date", "time", "datetime")


def express(meant: Meant) -> Outcome:
    """Numbers, texts, dates as they come out, conditions as 0 and 1; what is unknown is blank. `gone` are records for
    which nothing comes out although all that the formula looks at is valid there, as when it divides by zero."""
    gone = [np.empty(0, np.int64)]
    records, is_text = meant.study.records.arrived, meant.kind == "text"
    spelled = _moments(meant.kind) if meant.kind in MOMENTS else Segment.of_numbers
    gathered: gathering.Gathered[Any] = gathering.texts(records) if is_text else gathering.numbers(records, spelled)
    for block, value in meant.blocks():
        known = value.known
        valid = np.ones(block.positions.size, bool)
        for id in meant.variables:
            valid &= block.states(id) == State.VALID
        gone.append(block.positions[valid & ~known])
        if is_text:
            said = value.data.cast(pa.large_string())
            known = known & pc.not_equal(said, "").fill_null(False).to_numpy(zero_copy_only=False)
            said = said.filter(pa.array(known))
            _refuse_long(said, gathered.size)
            gathered.add(block.positions[known], said)
        else:
            known = known & np.isfinite(value.data)
            numbers = value.data[known].astype(np.float64)
            computed = meant.meaning.computed and meant.kind == "number"
            gathered.add(block.positions[known], as_written(numbers) if computed else numbers)
    column, different = gathered.column()
    return Outcome(column, _parts(meant, different), gone=np.concatenate(gone))


def _refuse_long(said: Any, so_far: int) -> None:
    """Raises BadFormula where an entry would be longer than any may be, or all of them together."""
    if said.nbytes > LONGEST_ENTRY and (longest := pc.max(pc.utf8_length(said)).as_py() or 0) > LONGEST_ENTRY:
        raise BadFormula(f"A text of {longest:,} characters comes out; an entry has at most {LONGEST_ENTRY:,}.")
    if so_far + said.nbytes > MOST_TEXT:
        raise BadFormula(f"The texts that come out would have more than {megabytes(MOST_TEXT)}.")


def _moments(kind: str) -> Any:
    return lambda different: Segment.of(canonical_dates(different, kind))


def _parts(meant: Meant, different: npt.NDArray[np.float64] | None) -> dict[str, Any]:
    """What the tag says of what comes out."""
    if meant.kind == "text":
        return {"type": "text", "level": "nominal"}
    if meant.kind == "truth":
        return yes_no()
    if meant.kind in MOMENTS:
        return {"type": meant.kind, "level": "interval"}
    whole = different is None or bool(((different == np.floor(different)) & (np.abs(different) < 1e15)).all())
    steps = any(meant.study.tag(id).level in ("ordinal", "interval") for id in meant.variables)
    return {"type": "integer" if whole else "decimal", "level": "interval" if steps else "ratio"}
