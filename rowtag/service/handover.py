"""Handover: what leaves, as one archive."""

import zipfile
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

import orjson

from rowtag.core.checks import run_checks
from rowtag.core.study import Study
from rowtag.formats.datapackage import datapackage
from rowtag.formats.table import Watch, unwatched
from rowtag.formats.written import Options, csv_blocks

PREVIEW_RECORDS = 6


@dataclass(frozen=True)
class FilePreview:
    """A file of the archive: its name, its first lines, and what is worth knowing about it."""

    name: str
    head: str
    notes: list[str]


def archive(study: Study, title: str, options: Options, path: Path, watch: Watch = unwatched) -> list[str]:
    """Writes one zip with data.csv, datapackage.json and a short README; gives notes. A stopped one leaves nothing."""
    notes: list[str] = []
    try:
        with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED, compresslevel=4) as zipped:
            with zipped.open("data.csv", "w", force_zip64=True) as data:
                for block, guarded in csv_blocks(study, study.order, options, watch):
                    data.write(block)
                    notes += _guard_notes(guarded)
            zipped.writestr("datapackage.json", _json(study, title, options))
            zipped.writestr("README.txt", _readme(study, title, options, notes))
    except BaseException:
        path.unlink(missing_ok=True)
        raise
    return notes


def previews(study: Study, title: str, options: Options) -> Iterator[FilePreview]:
    """The first lines of each file of the archive."""
    head, guarded = b"", 0
    for block, here in csv_blocks(study, study.order, options, unwatched, most=PREVIEW_RECORDS):
        head, guarded = head + block, guarded + here
    yield FilePreview("data.csv", head.decode(), _guard_notes(guarded))
    strays = [study.tag(id).name for id in study.order if study.fill(id).stray]
    listed = ", ".join(strays[:6]) + ("…" if len(strays) > 6 else "")
    said = [f"{len(strays):,} fields hold strays and are typed string: {listed}"]
    lines = _json(study, title, options).decode().splitlines()
    yield FilePreview("datapackage.json", "\n".join(lines[:40]), said if strays else [])
    yield FilePreview("README.txt", _readme(study, title, options, _guard_notes(guarded)), [])


def _guard_notes(guarded: int) -> list[str]:
    if not guarded:
        return []
    return [f"{guarded:,} entries that a spreadsheet would run as formulas were given an apostrophe in front"]


def _json(study: Study, title: str, options: Options) -> bytes:
    return orjson.dumps(datapackage(study, title, options), option=orjson.OPT_INDENT_2)


def _readme(study: Study, title: str, options: Options, notes: list[str]) -> str:
    """What the archive holds, in a few lines for whoever receives it."""
    open_findings = len(run_checks(study))
    missing = "as their codes" if options.missing_sign is None else f"as “{options.missing_sign}”"
    lines = [
        title,
        "",
        f"data.csv: {study.records.count:,} records, {len(study.order):,} variables; UTF-8, comma-separated;",
        f"  valid entries as {options.values}, coded missing {missing}, strays as recorded, blanks empty.",
        "datapackage.json: the codebook (Data Package 2.0): labels, question wordings, categories, missing values.",
        f"Open findings when this was written: {open_findings:,}.",
        *notes,
    ]
    return "\n".join(lines) + "\n"
