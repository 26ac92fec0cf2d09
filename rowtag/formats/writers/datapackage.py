"""The codebook as a Data Package (Data Package 2.0, Table Schema)."""

from typing import Any, BinaryIO, Literal

import orjson

from rowtag import __version__
from rowtag.core.derive import shown
from rowtag.core.reading import canonical_code
from rowtag.core.study import Study
from rowtag.core.tag import CodeSpan, Tag
from rowtag.core.words import counted
from rowtag.formats.handed import handed_tag, missing_entries
from rowtag.formats.table import Watch
from rowtag.formats.writers.base import MOST_LINES, Handed, Preview, Writer, register
from rowtag.formats.written import Options, leaves_as_labels

_TYPES = {
    "integer": "integer",
    "decimal": "number",
    "text": "string",
    "date": "date",
    "time": "time",
    "datetime": "datetime",
}


@register
class DataPackage(Writer):
    """The codebook."""

    file = "datapackage.json"
    writer: Literal["data package"] = "data package"

    def preview(self, handed: Handed) -> Preview:
        lines = self._text(handed).decode().splitlines()
        return Preview(self.file, "\n".join(lines[:MOST_LINES]), self._notes(handed))

    def write(self, handed: Handed, file: BinaryIO, watch: Watch) -> list[str]:
        file.write(self._text(handed))
        return self._notes(handed)

    def _notes(self, handed: Handed) -> list[str]:
        study = handed.study
        strays = [study.tag(id).name for id in study.order if study.fill(id).stray]
        listed = ", ".join(strays[:6]) + ("…" if len(strays) > 6 else "")
        several = f"{counted(len(strays), 'field')} {'holds' if len(strays) == 1 else 'hold'} strays"
        return [f"{several}, typed string: {listed}"] if strays else []

    def _text(self, handed: Handed) -> bytes:
        return orjson.dumps(datapackage(handed.study, handed.title, self.entries), option=orjson.OPT_INDENT_2)


def datapackage(study: Study, title: str, options: Options, data_path: str = "data.csv") -> dict[str, Any]:
    """The descriptor of a package whose data were written with `options` to `data_path`."""
    return {
        "$schema": "https://datapackage.org/profiles/2.0/datapackage.json",
        "name": "data",
        "title": title,
        "sources": [{"title": source.name} for source in study.shelves["source"].values()],
        "resources": [
            {
                "name": "data",
                "path": data_path,
                "type": "table",
                "format": "csv",
                "mediatype": "text/csv",
                "encoding": "utf-8",
                "schema": {"fields": [field_of(study, id, options) for id in study.order], "missingValues": [""]},
            }
        ],
        "rowtag": {"version": __version__, "values": options.values},
    }


def field_of(study: Study, id: str, options: Options) -> dict[str, Any]:
    """One variable as a Table Schema field. A field that holds strays is a string, and says why."""
    tag, fill = handed_tag(study, id, options), study.fill(id)
    kind = "string" if fill.stray else _TYPES[tag.type]
    field: dict[str, Any] = {"name": tag.name, "type": kind}
    if kind in ("datetime", "time"):
        field["format"] = "any"
    if tag.label:
        field["title"] = tag.label
    if tag.question:
        field["description"] = tag.question
    field["missingValues"] = _missing_values(study, id, options)
    categories = _categories(tag, kind, labels=leaves_as_labels(study, id, options))
    if categories:
        field["categories"] = categories
        field["categoriesOrdered"] = tag.level != "nominal"
    constraints = _constraints(tag, kind)
    if constraints:
        field["constraints"] = constraints
    field["rowtag"] = _own(study, id, tag, kind)
    how = study.variable(id).origin.how
    if how is not None:
        field["rowtag"]["derived"] = shown(how, study)
    return field


def _missing_values(study: Study, id: str, options: Options) -> list[Any]:
    """The blank, and what stands for coded missing: the chosen sign, or each code with its label."""
    if options.missing_sign is not None:
        return ["", options.missing_sign] if options.missing_sign else [""]
    codes = [{"value": line.code, "label": line.label or line.reason} for line in missing_entries(study, id, options)]
    return [{"value": "", "label": "blank"}, *codes] if codes else [""]


def _categories(tag: Tag, kind: str, *, labels: bool) -> list[Any]:
    """The code list, in its order; ranges are no categories."""
    lines = [line for line in tag.codes if line.code is not None]
    if labels:
        return [line.code for line in lines]
    return [{"value": _value(line, tag, kind), "label": line.label} for line in lines]


def _value(line: CodeSpan, tag: Tag, kind: str) -> Any:
    """A code as the field's type has it."""
    assert line.code is not None
    code = canonical_code(line.code, tag.type) or line.code
    if kind == "integer" and canonical_code(code, "integer") and "." not in code:
        return int(code)
    return float(code) if kind == "number" and canonical_code(code, "decimal") else code


def _constraints(tag: Tag, kind: str) -> dict[str, Any]:
    """Limits, where the field's type can carry them."""
    if kind == "string" or tag.type == "text":
        return {}
    ends = {"minimum": tag.limits.low, "maximum": tag.limits.high}
    return {name: _value(CodeSpan(code=end), tag, kind) for name, end in ends.items() if end is not None}


def _own(study: Study, id: str, tag: Tag, kind: str) -> dict[str, Any]:
    """What the standard has no place for: the whole tag, and where the variable stands."""
    own: dict[str, Any] = {"tag": tag.model_dump(exclude_defaults=True, exclude={"name", "label", "question"})}
    for part in ("battery", "section"):
        shelf, place = study.shelves[part], getattr(study.tag(id), part)
        if place in shelf:
            own[part] = shelf[place].title
    fill = study.fill(id)
    if fill.stray and kind != _TYPES[tag.type]:
        own["why"] = f"typed string because {fill.stray:,} entries are strays, written as they were recorded"
    return own
