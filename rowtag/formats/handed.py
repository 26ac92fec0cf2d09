"""The tag under which entries read as they do here when they have been written: what goes with the data, and agrees
with them to the letter, whatever was chosen: labels in place of codes, a sign for missing, guarded formulas."""

from typing import TypeVar

import numpy as np

from rowtag.core.reading import State, canonical_code
from rowtag.core.study import Study
from rowtag.core.tag import CodeLine, Limits, Marks, MissingLine, Tag
from rowtag.core.tokens import large_texts
from rowtag.formats.written import Options, as_written, labels_of, leaves_as_labels, refuse_sign

Line = TypeVar("Line", CodeLine, MissingLine)

MOST_LISTED = 1_000
"""Different entries that are listed so that nothing else counts as valid, or in place of a range of missing codes."""


def handed_tag(study: Study, id: str, options: Options) -> Tag:
    """A variable's tag for its entries as they are written with some options; names of lists, batteries and sections of
    this study are none of it. Raises BadInput where the sign for missing is an answer, too."""
    tag = study.tag(id)
    plain = tag.with_parts(marks=Marks(), code_list=None, section=None, battery=None, skips=())
    if leaves_as_labels(study, id, options):
        plain = _labelled(study, id, options, plain)
    else:
        codes = tuple(_spelled(line, tag, options) for line in study.codes(id))
        plain = plain.with_parts(codes=codes)
    return plain.with_parts(missing=_missing(study, id, options))


def missing_entries(study: Study, id: str, options: Options) -> list[MissingLine]:
    """Each entry that stands for a missing answer as it is written: codes, and of ranges those that occur."""
    tag, reading = study.tag(id), study.reading(id)
    out = {line.code: line for line in tag.missing if line.code is not None}
    lines = {as_code(line.code or "", tag, options): line for line in out.values()}
    tokens = np.flatnonzero((reading.states == State.MISSING) & (study.counts(id) > 0))
    met = as_written(reading.canonical(tokens), options)[0].to_pylist()
    for number, text in zip(reading.lines[tokens].tolist(), met, strict=True):
        lines.setdefault(str(text), tag.missing[number])
    return [MissingLine(code=code, reason=line.reason, label=line.label) for code, line in lines.items()]


def as_code(code: str, tag: Tag, options: Options) -> str:
    """A code as it is written."""
    canonical = canonical_code(code, tag.type)
    (text,) = as_written(large_texts([code.strip() if canonical is None else canonical]), options)[0].to_pylist()
    return str(text)


def _spelled(line: Line, tag: Tag, options: Options) -> Line:
    return line if line.code is None else line.model_copy(update={"code": as_code(line.code, tag, options)})


def _missing(study: Study, id: str, options: Options) -> tuple[MissingLine, ...]:
    """The missing codes in their order, of which the first that is met counts; ranges are of numbers under any type."""
    tag, sign = study.tag(id), options.missing_sign
    refuse_sign(study, id, options)
    if sign is None:
        return tuple(_spelled(line, tag, options) for line in tag.missing)
    if not sign.strip() or not tag.missing:
        return ()
    (said, *others) = {line.reason for line in tag.missing}
    return (MissingLine(code=sign.strip(), reason="other" if others else said),)


def _labelled(study: Study, id: str, options: Options, plain: Tag) -> Tag:
    """The tag of texts in place of codes. Where not everything is allowed, all that occurs is listed."""
    tag = study.tag(id)
    labels = as_written(large_texts(labels_of(study, id)), options)[0].to_pylist()
    lines = {label: CodeLine(code=label) for label in labels if label}
    strict = (tag.complete and study.codes(id)) or tag.limits != Limits()
    reading = study.reading(id)
    tokens = np.flatnonzero((reading.states == State.VALID) & (study.counts(id) > 0))
    named = np.array([bool(label) for label in labels] + [False])
    left = tokens[~named[reading.lines[tokens]]]
    complete = bool(strict) and left.size <= MOST_LISTED
    if complete:
        texts = as_written(reading.canonical(left), options)[0].to_pylist()
        lines |= {text: CodeLine(code=text) for text in texts}
    width = max([*map(len, lines), plain.width or 1])
    return plain.with_parts(
        type="text", codes=tuple(lines.values()), complete=complete, limits=Limits(), decimals=None, width=width
    )
