"""Tables of a file, without a screen."""

import csv
import io
import re
from collections.abc import Sequence
from dataclasses import asdict
from pathlib import Path
from typing import Any

from rowtag.core.basis import basis_of
from rowtag.core.errors import BadInput, NotThere
from rowtag.core.formulas import named
from rowtag.core.keying import is_tick
from rowtag.core.names import key_of
from rowtag.core.study import Study
from rowtag.core.tag import NUMBER_TYPES
from rowtag.core.views import View
from rowtag.core.views.battery import Battery
from rowtag.core.views.crosstab import Crosstab, Percent
from rowtag.core.views.distribution import Distribution
from rowtag.core.views.groups import Groups
from rowtag.core.views.several import Several
from rowtag.service.codebook import under_codebook
from rowtag.service.describe import opened_study
from rowtag.service.laid_out import Cell, laid_out, said_of

_VIEW = re.compile(r"(?P<of>\S+)(?:\s+by\s+(?P<by>\S+)(?:\s+within\s+(?P<within>\S+))?)?(?P<steps>\s+as equal steps)?")


def view_of(study: Study, text: str, by: str | None = None, percent: Percent = "column") -> View:
    """A view that is written as `hours`, `hours by tenure`, `tenure by quarter within site_1`, `rating by tenure as
    equal steps`, or as items of one battery or things to tick: `site_1, site_2`. `by` is taken where it says none.
    Raises BadInput and NotThere."""
    if "," in text:
        ids = tuple(_id(study, name) for name in re.split(r"[,\s]+", text.strip(", ")))
        return Several(things=ids) if all(is_tick(study, id) for id in ids) else Battery(items=ids)
    found = _VIEW.fullmatch(" ".join(text.split()))
    if not found:
        raise BadInput(
            f"“{text}” is no view.", remedy="Such as: tenure, hours by tenure, tenure by quarter within water"
        )
    id, steps = _id(study, found["of"]), bool(found["steps"])
    other = found["by"] or by
    if other is None:
        return Distribution(variable=id)
    tag = study.tag(id)
    if not found["within"] and (steps or (tag.type in NUMBER_TYPES and tag.level in ("interval", "ratio"))):
        return Groups(variable=id, by=_id(study, other), equal_steps=steps)
    within = _id(study, found["within"]) if found["within"] else None
    return Crosstab(rows=id, columns=_id(study, other), within=within, percent=percent)


def _id(study: Study, name: str) -> str:
    id = study.name_keys.get(key_of(name))
    if id is None:
        raise NotThere(f"There is no variable “{name}”.", remedy="rowtag describe tells their names.")
    return id


def tables_of(
    file: Path,
    views: Sequence[str],
    codebook: Path | None = None,
    sheet: str | None = None,
    *,
    weight: str | None = None,
    where: str = "",
    by: str | None = None,
    percent: Percent = "column",
) -> dict[str, Any]:
    """Tables of a file under a codebook, of the records that meet a condition, each with its weight; of every variable
    where no views are named."""
    study = under_codebook(file, codebook, sheet)[0] if codebook else opened_study(file, sheet)
    basis = basis_of(study, named(where, study) if where else None, _id(study, weight) if weight else None)
    wished = [view_of(study, text, by, percent) for text in views] or [
        Distribution(variable=id) for id in study.order if study.tag(id).use != "identifier"
    ]
    shown = [view.look(basis.frame) for view in wished]
    return {
        "basis": said_of(basis, where),
        "tables": [asdict(laid) for each in shown for laid in laid_out(each)],
        "views": [each.model_dump(mode="json") for each in shown],
    }


def in_words(found: dict[str, Any]) -> str:
    """Tables for people, their columns beneath each other."""
    lines = [*found["basis"], *([""] if found["basis"] else [])]
    for table in found["tables"]:
        heads = table["head"]
        rows = [heads, *([_shown(*pair) for pair in zip(heads, row, strict=True)] for row in table["rows"])]
        widths = [max(len(row[at]) for row in rows) for at in range(len(table["head"]))]
        numbers = [all(isinstance(row[at], int | float | None) for row in table["rows"]) for at in range(len(widths))]
        lines += [table["title"]]
        for row in rows:
            cells = [
                cell.rjust(width) if right else cell.ljust(width)
                for cell, width, right in zip(row, widths, numbers, strict=True)
            ]
            lines.append("  ".join(cells).rstrip())
        lines += [*table["notes"], ""]
    return "\n".join(lines)


def as_csv(found: dict[str, Any]) -> str:
    """Tables one beneath the other, with numbers as they are."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    for sentence in found["basis"]:
        writer.writerow([sentence])
    for table in found["tables"]:
        rows = [[_plain(cell) for cell in row] for row in table["rows"]]
        writer.writerows([[table["title"]], table["head"], *rows, *([note] for note in table["notes"]), []])
    return out.getvalue()


def _plain(cell: Cell) -> Cell:
    """A number without the last digits, which sums in another order would have otherwise."""
    return float(f"{cell:.12g}") if isinstance(cell, float) else cell


def _shown(head: str, cell: Cell) -> str:
    if isinstance(cell, float):
        if head.endswith(("%", "weighted", "weighted n")):
            return f"{cell:,.1f}"
        return f"{cell:,.1f}" if abs(cell) >= 1000 else f"{cell:.4g}"
    return "" if cell is None else f"{cell:,}" if isinstance(cell, int) else cell
