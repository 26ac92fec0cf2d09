"""Measures the bench file (100,000 records × 60 variables) against `csv.reader`, and writes docs/bench.md.

`--large` also brings in 1,000,000 × 100, 100,000 × 1,000 and 5,000 × 1,500, once each. `--records` makes a smaller
file, for trying things out.
"""

import argparse
import statistics
from pathlib import Path
from tempfile import TemporaryDirectory

from bench import checking, deriving, diary, keeping, measures, starting, viewing
from bench.data import write

REPORT = Path(__file__).parent.parent / "docs" / "bench.md"


def main() -> None:
    """Runs all measures and writes the report."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--records", type=int, default=100_000)
    parser.add_argument("--variables", type=int, default=60)
    parser.add_argument("--edits", type=int, default=20_000)
    parser.add_argument("--large", action="store_true", help="also very long and very wide files")
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
        lines += [
            "",
            "By kind of column, 60 columns of that kind alone. Bring-in and tables are shares of that file's own",
        ]
        lines += ["yardstick, .xlsx (a fifth of the records) of python-calamine reading its rows:", ""]
        lines += ["| kind | bring in | memory | frequencies and summaries | from .xlsx |", "|---|---|---|---|---|"]
        for kind, bring, memory, tables, book in measures.by_kind(Path(folder), asked.records, asked.variables):
            lines.append(f"| {kind} | {bring:.2f} × | {memory:.1f} × | {tables:.2f} × | {book:.2f} × |")
        report(lines, keep=asked.records == 100_000)
        if asked.large:
            lines += ["", "Once each:", ""]
            for records, variables in ((5_000, 1_500), (100_000, 1_000), (1_000_000, 100)):
                lines.append(measures.once(Path(folder), records, variables))
                if records >= 1_000_000:
                    lines[-1] += f" {deriving.in_words(Path(folder) / 'once-workspace')}"
                report(lines, keep=asked.records == 100_000)


def _slowest(ways: list[tuple[str, str, float, float, float]], at: int) -> str:
    """The slowest of some ways of deriving, in words."""
    slowest = max(ways, key=lambda each: each[at])
    return f"{slowest[at] * 1000:.0f} ms ({slowest[0]} of {slowest[1]})"


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
    picture, redrawn = measures.pictures(path, folder)
    sheet_picture, sheet_redrawn = measures.pictures(folder / "bench.xlsx", folder)
    checks, tables = measures.cold(folder / "workspace")
    everything, own, rest, pictured = checking.all_scopes(folder / "workspace")
    derived = list(deriving.ways(folder / "workspace"))  # before entries are edited: strays would have to be named
    page, edit, paste, replaced = measures.over_http(folder / "workspace")
    reopened = measures.reopen(folder / "workspace")
    lines, variables, read = measures.document()
    growth, size, later = measures.many_edits(folder / "workspace", edits)
    back, back_cold = keeping.far_back(folder / "workspace")
    each, first, last, after = keeping.new_records(folder)
    strays = keeping.beside_strays(folder)
    story = diary.measured(path)
    described, answered = starting.measured(folder)
    wait, step = keeping.readers_wait(folder)
    of_many, of_most = (
        "; ".join(f"{seconds * 1000:.0f} ms" for seconds in viewing.views(records)) for records in (100_000, 1_000_000)
    )
    return [
        ("starting: describing a file of two lines, against importing NumPy and PyArrow", f"{described:.1f} ×", "3 ×"),
        ("starting: a server until it answers with data, likewise", f"{answered:.1f} ×", "5 ×"),
        ("bring in delimited text, propose all tags, stored durably", f"{bring.seconds:.2f} ×", "1 ×"),
        ("its memory above the idle process, as a multiple of the file", f"{bring.memory:.1f} ×", "6 ×"),
        ("the same from .xlsx, against python-calamine reading all rows", f"{book / sheet:.2f} ×", "2 ×"),
        ("its memory, as a multiple of the unpacked sheet", f"{sheet_memory:.1f} ×", "6 ×"),
        ("the picture, from handing the file in", f"{picture:.2f} s", "1 s"),
        ("the picture, from handing the .xlsx in", f"{sheet_picture:.2f} s", "1 s"),
        ("the picture, once a setting is changed", f"{max(redrawn, sheet_redrawn) * 1000:.0f} ms", "200 ms"),
        ("all checks within variables, from cold", f"{checks / yardstick:.2f} ×", "0.5 ×"),
        ("all checks of all scopes, from cold", f"{everything / yardstick:.2f} ×", "1 ×"),
        ("the checks of a variable after an edit of it", f"{own * 1000:.0f} ms", "50 ms"),
        ("all others after that, beside the work", f"{rest:.2f} s", "2 s"),
        ("who misses what, for all records and variables", f"{pictured:.2f} s", ""),
        ("a formula of ten operations over 1,000,000 records", f"{checking.formula():.2f} s", "1 s"),
        ("all frequencies and summaries, from cold", f"{tables / yardstick:.2f} ×", "0.2 ×"),
        ("a crosstab; weighed; a measured variable by groups, weighed: 100,000 records", of_many, "100 ms"),
        ("the same of 1,000,000 records", of_most, "1 s"),
        ("a page of 60 records × 30 variables, 95th percentile", f"{page * 1000:.1f} ms", "15 ms"),
        ("one cell edit, kept, with its variable's checks, 95th percentile", f"{edit * 1000:.1f} ms", "25 ms"),
        (
            "deriving: a look over all records, the slowest way and type; and keeping it",
            f"{_slowest(derived, 2)}; {_slowest(derived, 3)}",
            "150 ms",
        ),
        (
            "its memory at most, in columns of eight bytes a record; of figures within groups",
            f"{max(each[4] for each in derived if each[0] != 'group figures'):.1f}; "
            f"{max(each[4] for each in derived if each[0] == 'group figures'):.1f}",
            "3",
        ),
        ("pasting a block of {:,} × {}".format(*measures.PASTED), f"{paste:.2f} s", "2 s"),
        ("replacing a part of entries in all variables, kept", f"{replaced / yardstick:.2f} ×", "1 ×"),
        (f"reading a questionnaire of {lines:,} lines, {variables:,} variables", f"{read:.2f} s", "2 s"),
        ("reopening after a restart, to the first page", f"{reopened:.2f} s", "1 s"),
        (f"the same after {edits:,} edits", f"{later:.2f} s", "1 s"),
        (f"growth of the study's file by {edits:,} edits", f"{growth:.1f} MB on {size:.1f} MB", ""),
        ("an entry in a new record, 2,000 records × 60 below 50,000: in the file", f"{each:.0f} bytes", ""),
        ("reopening after these 2,000 records, to the first page", f"{after:.2f} s", "1 s"),
        (
            "the same: kept, 95th percentile in the first and the last hundred records",
            f"{first * 1000:.1f} ms, {last * 1000:.1f} ms",
            "25 ms",
        ),
        (
            "a step in a study of 1,000 variables, kept and shown, 95th percentile",
            f"{keeping.wide(folder) * 1000:.0f} ms",
            "",
        ),
        (
            f"{diary.REPLAYED:,} steps done again, as a multiple of the bring-in",
            f"{story.replayed / (bring.seconds * yardstick):.2f} ×",
            "5 ×",
        ),
        (f"a look at an amendment {diary.BACK} steps back", f"{story.amended:.2f} s", "2 s"),
        (f"a look at a corrected file, {diary.BACK} steps since", f"{story.corrected:.2f} s", ""),
        ("two editions compared", f"{story.compared / yardstick:.2f} ×", "1 ×"),
        (
            f"opening a study with {diary.MANY:,} steps and {diary.EDITIONS} editions; its diary's page",
            f"{story.opened:.2f} s; {story.page * 1000:.0f} ms",
            "1 s; 100 ms",
        ),
        ("60 edits beside 100,000 different strays, with their checks: memory", f"{strays:.1f} MB", ""),
        (
            "50 steps back, to all tags shown; the same after a restart",
            f"{back * 1000:.0f} ms, {back_cold * 1000:.0f} ms",
            "",
        ),
        ("the longest wait of a reader during a step over 30 × 1,000,000", f"{wait * 1000:.0f} ms of {step:.1f} s", ""),
    ]


if __name__ == "__main__":
    main()
