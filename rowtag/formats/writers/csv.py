"""CSV: the entries, one record a line (RFC 4180, UTF-8)."""

from typing import BinaryIO, Literal

from rowtag.formats.table import Watch, unwatched
from rowtag.formats.writers.base import Handed, Preview, Writer, register
from rowtag.formats.written import csv_blocks

PREVIEW_RECORDS = 6


@register
class Csv(Writer):
    """The data."""

    file = "data.csv"
    writer: Literal["csv"] = "csv"

    def preview(self, handed: Handed) -> Preview:
        head, guarded = b"", 0
        study = handed.study
        for block, here in csv_blocks(study, study.order, self.entries, unwatched, most=PREVIEW_RECORDS):
            head, guarded = head + block, guarded + here
        return Preview(self.file, head.decode(), _notes(guarded))

    def write(self, handed: Handed, file: BinaryIO, watch: Watch) -> list[str]:
        notes: list[str] = []
        for block, guarded in csv_blocks(handed.study, handed.study.order, self.entries, watch):
            file.write(block)
            notes += _notes(guarded)
        return notes


def _notes(guarded: int) -> list[str]:
    if not guarded:
        return []
    return [f"{guarded:,} entries that a spreadsheet would run as formulas were given an apostrophe in front"]
