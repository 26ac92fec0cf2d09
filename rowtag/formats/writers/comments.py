"""Comments: what was remarked on records and entries, a line each (CSV, UTF-8)."""

import csv
import io
from collections.abc import Iterator
from itertools import islice
from typing import BinaryIO, Literal

from rowtag.core.study import Study
from rowtag.core.tokens import large_texts
from rowtag.core.touched import OneEntry
from rowtag.formats.table import Watch
from rowtag.formats.writers.base import Handed, Preview, Writer, register
from rowtag.formats.written import Options, risky_texts

PREVIEW_COMMENTS = 12


@register
class Comments(Writer):
    """The comments, with the records and entries that they are on; only where they are asked for."""

    file = "comments.csv"
    writer: Literal["comments"] = "comments"

    @classmethod
    def wanted(cls, options: Options) -> bool:
        return options.comments

    def preview(self, handed: Handed) -> Preview:
        lines = islice(self._lines(handed.study), PREVIEW_COMMENTS + 1)
        return Preview(self.file, "".join(lines), [])

    def write(self, handed: Handed, file: BinaryIO, watch: Watch) -> list[str]:
        for line in self._lines(handed.study):
            file.write(line.encode())
        return []

    def _lines(self, study: Study) -> Iterator[str]:
        identifier = next((id for id in study.order if study.tag(id).use == "identifier"), None)
        yield _line(["record", "identifier", "variable", "entry", "comment"])
        there = [each for each in study.shelves["comment"].values() if study.records.has(each.record)]
        for each in sorted(there, key=lambda one: (one.record, one.variable or "")):
            name = "" if each.variable is None else study.tag(each.variable).name
            entry = "" if each.variable is None else OneEntry(each.variable, each.record).value(study)
            called = "" if identifier is None else OneEntry(identifier, each.record).value(study)
            texts = [called, name, entry, each.text]
            if self.entries.guard:
                risky = risky_texts(large_texts(texts))
                texts = [f"'{text}" if runs else text for text, runs in zip(texts, risky, strict=True)]
            yield _line([str(each.record), *texts])


def _line(fields: list[str]) -> str:
    out = io.StringIO()
    csv.writer(out, lineterminator="\n").writerow(fields)
    return out.getvalue()
