"""Several variables looked at together: which parts their tags share, and their values side by side."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

from rowtag.core.reading import Fill
from rowtag.core.study import Study
from rowtag.core.tables import Frequency, Row, Shares, frequency
from rowtag.core.tag import Tag


@dataclass(frozen=True)
class Together:
    """Several variables as one.

    `tag` has the parts of the first; those that are not the same in all stand in `differs` ("codes" where the
    lines that count are not the same). `within` says, beside each row of `values`, in how many variables the
    value stands so; the codes of rows whose labels (or reasons) are not the same are `mixed`.
    """

    tag: Tag
    differs: frozenset[str]
    values: Frequency
    within: tuple[int, ...]
    mixed: frozenset[int]
    """Numbers of the rows (from 0) whose labels or reasons differ."""


def differing(study: Study, ids: Sequence[str]) -> frozenset[str]:
    """The parts of tags that are not the same in all of some variables."""
    first, *others = (study.tag(id) for id in ids)
    parts = {
        name
        for name in Tag.model_fields
        if name not in ("name", "codes", "code_list")
        and any(getattr(tag, name) != getattr(first, name) for tag in others)
    }
    if any(study.codes(id) != study.codes(ids[0]) for id in ids[1:]):
        parts.add("codes")
    if any(tag.code_list != first.code_list for tag in others):
        parts.add("code_list")
    return frozenset(parts)


def together(study: Study, ids: Sequence[str]) -> Together:
    """Some variables as one; their values are joined where code and reading are the same."""
    rows: dict[tuple[object, ...], Row] = {}
    within: dict[tuple[object, ...], int] = {}
    mixed: set[tuple[object, ...]] = set()
    fill = Fill()
    for id in ids:
        values = frequency(study, id, unlisted_values=study.tag(id).wants_codes)
        fill += values.fill
        for row in values.rows:
            key = (row.code, row.low, row.high, row.reading, row.listed, row.unreadable)
            known = rows.get(key)
            if known is None:
                rows[key], within[key] = row, 1
                continue
            rows[key] = replace(known, count=known.count + row.count)
            within[key] += 1
            if (known.label, known.reason) != (row.label, row.reason):
                mixed.add(key)
    order = sorted(rows, key=lambda key: _rank(rows[key]))
    joined = Frequency(
        tuple(rows[key] for key in order), fill, all(study.tag(id).level == "ordinal" for id in ids), Shares.of(fill)
    )
    return Together(
        study.tag(ids[0]),
        differing(study, ids),
        joined,
        tuple(within[key] for key in order),
        frozenset(number for number, key in enumerate(order) if key in mixed),
    )


def _rank(row: Row) -> int:
    """Where a row stands: lines first, then other valid values, missing ones, unlisted and unreadable strays."""
    if row.reading == "valid":
        return 0 if row.listed else 1
    return 2 if row.reading == "missing" else 3 + row.unreadable
