"""Entries as they leave: codes or labels, a sign for coded missing, strays as recorded, blanks blank."""

import csv
import io
from collections import Counter
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from typing import Annotated, Literal

import numpy as np
import numpy.typing as npt
import pyarrow as pa
import pyarrow.compute as pc
from pydantic import Field

from rowtag.core.chunk import CHUNK
from rowtag.core.errors import BadInput
from rowtag.core.frame import Frame
from rowtag.core.grammar import parse_numbers
from rowtag.core.reading import State, canonical_code
from rowtag.core.study import Study
from rowtag.core.tag import Frozen, Marks
from rowtag.core.tokens import Texts, large_texts
from rowtag.formats.table import Watch

_RISKY = r"(^|[,;|\t\r\n])([=+\-@\x{FF1D}\x{FF0B}\x{FF0D}\x{FF20}]|^[\t\r])"
"""Where a spreadsheet would begin a formula: in front, and behind whatever it may take for a separator."""


class Options(Frozen):
    """How data are handed over. `missing_sign` None keeps the missing codes as they are.

    `guard` puts an apostrophe before text that a spreadsheet would run as a formula. `comments` go along in a file of
    their own.
    """

    values: Literal["codes", "labels"] = "codes"
    missing_sign: Annotated[str, Field(max_length=20)] | None = None
    guard: bool = True
    comments: bool = False


@dataclass(frozen=True)
class Written:
    """The tokens of a variable as they are written (n texts, null for blank), and how many entries were guarded."""

    texts: Texts
    guarded: int


def written(study: Study, id: str, options: Options) -> Written:
    """How each token of a variable is written."""
    reading, counts = study.reading(id), study.counts(id)
    states = reading.states
    stray = states >= State.UNREADABLE
    texts = pc.if_else(pa.array(stray), study.column(id).texts(), reading.canonical())
    if leaves_as_labels(study, id, options):
        texts = _labelled(texts, np.where(states == State.VALID, reading.lines, -1), labels_of(study, id))
    missing = states == State.MISSING
    refuse_sign(study, id, options)
    if missing.any():
        texts = pc.if_else(pa.array(missing), _missing(study, id), texts)
    texts, risky = as_written(texts, options)
    if options.missing_sign is not None and missing.any():
        texts = pc.if_else(pa.array(missing), pa.scalar(options.missing_sign, pa.large_string()), texts)
        risky = risky & ~missing
    guarded = int(counts[risky & (states != State.BLANK)].sum())
    blank = pa.array(states == State.BLANK)
    return Written(pc.if_else(blank, pa.scalar(None, pa.large_string()), texts), guarded)


def as_written(texts: Texts, options: Options) -> tuple[Texts, npt.NDArray[np.bool_]]:
    """Texts as they are written, guarded where that is asked for; and which of them were."""
    risky = risky_texts(texts) if options.guard else np.zeros(len(texts), bool)
    if risky.any():
        texts = pc.if_else(pa.array(risky), pc.replace_substring_regex(texts, _RISKY, r"\1'\2"), texts)
    return texts, risky


def leaves_as_labels(study: Study, id: str, options: Options) -> bool:
    """Whether a variable leaves with labels in place of codes."""
    return options.values == "labels" and any(line.label for line in study.codes(id))


def labels_of(study: Study, id: str) -> list[str]:
    """Per code line its label as it is written, empty where it has none: with its code where it would be taken for
    another one, or for something else that the variable holds."""
    lines, tag = study.codes(id), study.tag(id)
    codes = {each.code for each in (*lines, *tag.missing) if each.code is not None}
    labels = [" ".join(line.label.split()) for line in lines]
    times, held = Counter(labels), _held_otherwise(study, id, labels)
    return [
        f"{label} ({line.shown})" if label and (times[label] > 1 or label in codes or label in held) else label
        for line, label in zip(lines, labels, strict=True)
    ]


def _held_otherwise(study: Study, id: str, labels: Sequence[str]) -> set[str]:
    """Those of some labels that stand in a variable as strays, or as valid entries without a label."""
    reading = study.reading(id)
    named = np.array([bool(label) for label in labels] + [False])
    unnamed = (reading.states == State.VALID) & ~named[np.where(reading.states == State.VALID, reading.lines, -1)]
    at = np.flatnonzero((unnamed | (reading.states >= State.UNREADABLE)) & (study.counts(id) > 0))
    met = pc.is_in(large_texts(labels), reading.canonical(at).unique()) if at.size and labels else []
    return {label for label, here in zip(labels, pa.array(met).to_pylist(), strict=False) if here and label}


def refuse_sign(study: Study, id: str, options: Options) -> None:
    """Raises BadInput where the sign for missing answers stands in a variable for something else, too."""
    sign, tag, reading = (options.missing_sign or "").strip(), study.tag(id), study.reading(id)
    if not sign or not tag.missing:
        return
    others = ~np.isin(reading.states, (State.MISSING, State.BLANK)) & (study.counts(id) > 0)
    spelled = pa.array([sign, canonical_code(sign, tag.type) or sign], pa.large_string())
    held = pc.any(pc.is_in(reading.canonical(np.flatnonzero(others)), spelled), min_count=0).as_py()
    if held or (leaves_as_labels(study, id, options) and sign in labels_of(study, id)):
        raise BadInput(
            f"“{sign}” stands in {tag.name} otherwise, and cannot stand for missing answers.",
            remedy="Choose another sign, or keep the codes.",
        )


def _missing(study: Study, id: str) -> Texts:
    """Per token the text of a missing one: its code as it is listed, where it has one."""
    reading, tag = study.reading(id), study.tag(id)
    codes = [canonical_code(line.code, tag.type) or line.code.strip() if line.code else None for line in tag.missing]
    listed = pa.array([*codes, None], pa.large_string())
    lines = np.where(reading.states == State.MISSING, reading.lines, len(codes))
    return pc.coalesce(pc.take(listed, pa.array(lines)), reading.canonical())


def risky_texts(texts: Texts) -> npt.NDArray[np.bool_]:
    """Which texts a spreadsheet would take for formulas; numbers are spared."""
    risky = pc.fill_null(pc.match_substring_regex(texts, _RISKY), False).to_numpy(zero_copy_only=False)
    if not risky.any():
        return np.asarray(risky)
    where = np.flatnonzero(risky)
    out = np.array(risky)
    out[where] = ~parse_numbers(pc.take(texts, pa.array(where)), Marks()).fits
    return out


def _labelled(texts: Texts, lines: npt.NDArray[np.int32], labels: Sequence[str]) -> Texts:
    """Labels in place of codes that have one; `lines` are those of valid codes, -1 where there is none."""
    named = np.array([bool(label) for label in labels] + [False])
    shown = pc.take(large_texts([*labels, ""]), pa.array(np.where(lines < 0, len(labels), lines)))
    return pc.if_else(pa.array(named[lines]), shown, texts)


def csv_blocks(
    study: Study, ids: Sequence[str], options: Options, watch: Watch, most: int | None = None
) -> Iterator[tuple[bytes, int]]:
    """The data as CSV (RFC 4180, UTF-8, line feeds) in blocks, each with how many entries were guarded in it.

    The count of guarded entries comes with the first block.
    """
    columns = {id: written(study, id, options) for id in ids}
    header = io.StringIO()
    csv.writer(header, lineterminator="\n").writerow([study.tag(id).name for id in ids])
    yield header.getvalue().encode(), sum(column.guarded for column in columns.values())
    quoted = {id: _quoted(column.texts, alone=len(ids) == 1) for id, column in columns.items()}
    left = study.records.count if most is None else min(most, study.records.count)
    total = max(left, 1)
    for block in Frame(study).blocks(size=CHUNK if most is None else most):
        rows = replace(block, positions=block.positions[:left])
        if not rows.positions.size:
            continue
        arrays = [pc.take(quoted[id], pa.array(rows.tokens(id))) for id in ids]
        lines = pc.binary_join_element_wise(*arrays, _COMMA)
        lines = pc.binary_join_element_wise(lines, _NOTHING, _NEWLINE)
        left -= rows.positions.size
        watch(1 - left / total, "writing data")
        size = pc.sum(pc.binary_length(lines)).as_py()
        yield lines.buffers()[2].slice(0, size).to_pybytes(), 0  # the texts of an array lie one behind the other
        if not left:
            break


def _quoted(texts: Texts, *, alone: bool) -> Texts:
    """Texts as CSV fields, once per token: quoted where a comma, quote or line break asks for it.

    An empty field that stands `alone` on its line is quoted, since an empty line would be no record.
    """
    texts = pc.fill_null(texts, "")
    unsafe = pc.match_substring_regex(texts, '[",\r\n]')
    if alone:
        unsafe = pc.or_(unsafe, pc.equal(texts, ""))
    if not pc.any(unsafe, min_count=0).as_py():
        return texts
    doubled = pc.replace_substring(texts, '"', '""')
    return pc.if_else(unsafe, pc.binary_join_element_wise(_DOUBLE, doubled, _DOUBLE, _NOTHING), texts)


_DOUBLE, _COMMA, _NEWLINE, _NOTHING = (pa.scalar(text, pa.large_string()) for text in ('"', ",", "\n", ""))
