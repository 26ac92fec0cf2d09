"""Describe: what a file holds, by the same path as the intake; a contract in JSON, or words."""

from pathlib import Path
from typing import Any

from rowtag.core.study import Study
from rowtag.core.tables import frequency, summary
from rowtag.formats import intake

FIGURES = ("n", "mean", "sd", "min", "q1", "median", "q3", "max")
"""Figures of a number that are told; `rowtag table` tells more."""


def describe_file(path: Path, sheet: str | None = None) -> dict[str, Any]:
    """What a delimited text or a workbook holds. Records count from 1, the header not among them."""
    return described(opened_study(path, sheet))


def opened_study(path: Path, sheet: str | None = None) -> Study:
    """A file as a study, as it was proposed."""
    with intake.opened(path, path.name) as file:
        settings = file.guess()
        if sheet is not None:
            settings = file.heads(settings.model_copy(update={"sheet": sheet}))
        return file.read(settings).study


def described(study: Study) -> dict[str, Any]:
    """All records and variables of a study."""
    return {"records": study.records.count, "variables": [describe_variable(study, id) for id in study.order]}


def describe_variable(study: Study, id: str) -> dict[str, Any]:
    """One variable: tag, fill, counts of coded ones, figures of numbers."""
    tag, fill = study.tag(id), study.fill(id)
    counted = tag.wants_codes
    figures = summary(study, id)
    return {
        "name": tag.name,
        "label": tag.label,
        "type": tag.type,
        "level": tag.level,
        "use": tag.use,
        "fill": {"valid": fill.valid, "missing": fill.missing, "blank": fill.blank, "stray": fill.stray},
        "counts": [
            {"code": row.code, "label": row.label or None, "count": row.count, "reading": row.reading}
            for row in frequency(study, id).rows
        ]
        if counted
        else None,
        "summary": {name: getattr(figures, name) for name in FIGURES} if figures else None,
    }


def in_words(description: dict[str, Any]) -> str:
    """The description as a table for people."""
    lines = [f"{description['records']:,} records, {len(description['variables']):,} variables", ""]
    width = max((len(each["name"]) for each in description["variables"]), default=4)
    for each in description["variables"]:
        fill = each["fill"]
        said = f"{each['name']:<{width}}  {each['type']:<8}  {each['level']:<8}  {each['use']:<15}"
        lines.append(f"{said}  {fill['valid']:>7,} valid  {fill['blank']:>6,} blank  {fill['stray']:>5,} stray")
        if each["counts"]:
            shown = ", ".join(f"{row['code']} ×{row['count']:,}" for row in each["counts"][:8])
            lines.append(f"{'':<{width}}    {shown}{' …' if len(each['counts']) > 8 else ''}")
        elif each["summary"] and each["summary"]["n"]:
            figures = each["summary"]
            mean, sd = (f"{figures[key]:.4g}" if figures[key] is not None else "none" for key in ("mean", "sd"))
            spread = f"{figures['min']:g} to {figures['max']:g}, median {figures['median']:g}"
            lines.append(f"{'':<{width}}    mean {mean}, sd {sd}, {spread}")
    return "\n".join(lines)
