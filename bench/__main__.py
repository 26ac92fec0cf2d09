"""Measures the bench file (100,000 records × 60 variables) against `csv.reader`, and writes docs/bench.md.

`--wide` also brings in 100,000 × 1,000 once. `--records` makes a smaller file, for trying things out.
"""

import argparse
import statistics
from pathlib import Path
from tempfile import TemporaryDirectory

from bench import measures
from bench.data import write

REPORT = Path(__file__).parent.parent / "docs" / "bench.md"


def main() -> None:
    """Runs all measures and writes the report."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--records", type=int, default=100_000)
    parser.add_argument("--variables", type=int, default=60)
    parser.add_argument("--edits", type=int, default=20_000)
    parser.add_argument("--wide", action="store_true", help="also 100,000 × 1,000")
    asked = parser.parse_args()
    with TemporaryDirectory() as folder:
        path = Path(folder) / "bench.csv"
        write(path, asked.records, asked.variables)
        yardstick = statistics.median(measures.yardstick(path) for _ in range(3))
        lines = [
            f"The file: {asked.records:,} records × {asked.variables} variables, {path.stat().st_size / 1e6:.0f} MB. "
            f"The yardstick, `csv.reader` turning it into lists: {yardstick:.2f} s on the machine of this run.",
            "",
            "| work | measured | at most |",
            "|---|---|---|",
        ]
        lines += [f"| {what} | {value} | {limit} |" for what, value, limit in rows(path, yardstick, asked.edits)]
        lines += ["", "By kind of column, share of the yardstick for 60 columns of that kind:", ""]
        lines += ["| kind | bring in | frequencies and summaries |", "|---|---|---|"]
        for kind, bring, tables in measures.by_kind(Path(folder), asked.records, asked.variables):
            lines.append(f"| {kind} | {bring:.2f} × | {tables:.2f} × |")
        report(lines, keep=asked.records == 100_000)
        if asked.wide:
            lines += ["", measures.wide(Path(folder), 100_000, 1_000)]
            report(lines, keep=asked.records == 100_000)


def report(lines: list[str], *, keep: bool) -> None:
    """Prints the report, and keeps it where it is one of the fixed file."""
    text = "\n".join(["# How fast it is", "", HEAD, "", *lines, ""])
    print(text, flush=True)
    if keep:
        REPORT.write_text(text, encoding="utf-8")


HEAD = "Written by `make bench`. Ratios are within one run; absolute times are of whatever machine it ran on."


def rows(path: Path, yardstick: float, edits: int) -> list[tuple[str, str, str]]:
    """The table: what was done, what it took, what it may take."""
    folder = path.parent
    bring = measures.bring_in(path, folder / "workspace")
    book, sheet, sheet_memory = measures.workbook(path, folder)
    checks, tables = measures.cold(folder / "workspace")
    page, edit = measures.over_http(folder / "workspace")
    reopened = measures.reopen(folder / "workspace")
    growth, size, later = measures.many_edits(folder / "workspace", edits)
    return [
        ("bring in delimited text, propose all tags, stored durably", f"{bring.seconds:.2f} ×", "1 ×"),
        ("its memory above the idle process, as a multiple of the file", f"{bring.memory:.1f} ×", "6 ×"),
        ("the same from .xlsx, against python-calamine reading all rows", f"{book / sheet:.2f} ×", "2 ×"),
        ("its memory, as a multiple of the unpacked sheet", f"{sheet_memory:.1f} ×", "6 ×"),
        ("all checks within variables, from cold", f"{checks / yardstick:.2f} ×", "0.5 ×"),
        ("all frequencies and summaries, from cold", f"{tables / yardstick:.2f} ×", "0.2 ×"),
        ("a page of 60 records × 30 variables, 95th percentile", f"{page * 1000:.1f} ms", "20 ms"),
        ("one cell edit, kept, with its variable's checks, 95th percentile", f"{edit * 1000:.1f} ms", "50 ms"),
        ("reopening after a restart, to the first page", f"{reopened:.2f} s", "1 s"),
        (f"the same after {edits:,} edits", f"{later:.2f} s", "1 s"),
        (f"growth of the study's file by {edits:,} edits", f"{growth:.1f} MB on {size:.1f} MB", ""),
    ]


if __name__ == "__main__":
    main()
