"""Makes the demo's entries, seeded: the same every time, with figures that are known beforehand."""

import csv
import io
import random
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import date, datetime, timedelta
from functools import cache
from pathlib import Path
from typing import Any

import xlsxwriter

from rowtag.demo.questions import QUESTIONS, RATING, TITLE, UNKEYED, Question

RECORDS = 1_204
SEED = 2026

COMMENTS = (
    "The tap by the lower gate freezes every winter.",
    "more compost bays please",
    "too many slugs",
    "we share tools on Sundays",
    "Дуже дякую!",
    "Ωραίος κήπος",
    "Could the gate be locked earlier in winter, and could somebody look at the path along the brook, which has been "
    "under water since the autumn? I have written about it twice. Otherwise I could not be happier with the plot, the "
    "neighbours and the view over the railway.",
    "No complaints",
)


@dataclass(frozen=True)
class DemoColumn:
    """One column: its entries as written, and per record what it reads as under the demo's codebook."""

    question: Question
    entries: list[str]
    kinds: list[str]

    def count(self, kind: str) -> int:
        """Records of a kind: "valid", "missing", "blank" or "stray"."""
        return self.kinds.count(kind)

    def values(self, kind: str = "valid") -> list[str]:
        """The entries of one kind."""
        return [entry for entry, here in zip(self.entries, self.kinds, strict=True) if here == kind]


class _Maker:
    """Makes columns one after another from one stream of random numbers."""

    def __init__(self) -> None:
        self.random = random.Random(SEED)
        self.outlook = [self.random.gauss(0, 1) for _ in range(RECORDS)]

    def plain(self, make: Callable[[int], str]) -> list[str]:
        return [make(record) for record in range(RECORDS)]

    def choice(self, codes: Sequence[str], weights: Sequence[int]) -> list[str]:
        return self.plain(lambda _: self.random.choices(codes, weights)[0])

    def scale(self, steps: int, shift: float, reverse: bool = False, first: int = 1) -> list[str]:
        """Answers on a scale that go along with each record's outlook."""

        def answer(record: int) -> str:
            drawn = self.outlook[record] * 0.8 + self.random.gauss(shift, 0.7)
            step = min(steps, max(1, round((drawn + 2.5) / 5 * (steps - 1)) + 1))
            return str((steps + 1 - step if reverse else step) + first - 1)

        return self.plain(answer)

    def column(
        self, question: Question, entries: list[str], planted: Sequence[tuple[str, int, str]] = ()
    ) -> DemoColumn:
        """A column with entries of other kinds planted at random records: text, how often, kind."""
        kinds = ["valid"] * RECORDS
        free = list(range(RECORDS))
        self.random.shuffle(free)
        for text, times, kind in planted:
            for _ in range(times):
                record = free.pop()
                entries[record], kinds[record] = text, kind
        kinds = ["blank" if entry == "" else kind for entry, kind in zip(entries, kinds, strict=True)]
        return DemoColumn(question, entries, kinds)


def _missing(dont_know: int = 0, refused: int = 0, blank: int = 0) -> list[tuple[str, int, str]]:
    return [("-8", dont_know, "missing"), ("-9", refused, "missing"), ("", blank, "blank")]


@cache
def demo_columns() -> tuple[DemoColumn, ...]:
    """All columns of the demo."""
    maker = _Maker()
    asked = {question.name: question for question in QUESTIONS}
    parts = (_about_the_plot, _opinions, _choices, _household, _paradata)
    made = {column.question.name: column for part in parts for column in part(maker, asked)}
    return tuple(made[question.name] for question in QUESTIONS)


def _about_the_plot(make: _Maker, asked: dict[str, Question]) -> list[DemoColumn]:
    r = make.random
    numbers = [f"{number:04d}" for number in r.sample(range(1, 1_400), RECORDS)]
    numbers[640], numbers[777] = numbers[16], numbers[202]
    size = make.plain(lambda _: f"{min(400.0, max(20.0, r.gauss(140, 50))):.1f}")
    units = [(f"{r.randint(60, 250)} m²", 1, "stray") for _ in range(41)]
    hours = make.plain(lambda _: str(min(76, max(0, round(r.gammavariate(2.4, 7))))))
    not_numbers = [("about 4", 12), ("12 hrs", 9), ("n/a", 8), ("2-3", 5), ("often", 3)]
    hours_strays = [(text, times, "stray") for text, times in not_numbers] + [("99", 11, "stray")]
    rent = make.plain(lambda _: f"£{r.choice((38.5, 41.0, 44.25, 52.0, 57.75)):.2f}")
    return [
        make.column(asked["plot_no"], numbers),
        make.column(asked["quarter"], make.choice("1234", (5, 4, 3, 2))),
        make.column(
            asked["tenure"],
            make.choice("123", (6, 3, 2)),
            [*_missing(22, 38, 10), ("8", 11, "stray"), ("n/a", 3, "stray")],
        ),
        make.column(asked["plot_size"], size, [*units, ("", 72, "blank")]),
        make.column(asked["hours"], hours, [*_missing(31, 23, 52), *hours_strays]),
        make.column(
            asked["rent"], rent, [("-9", 23, "missing"), ("n/a", 6, "stray"), (".", 4, "stray"), ("", 18, "blank")]
        ),
        make.column(
            asked["since"],
            make.plain(lambda _: str(r.choice(range(1962, 2027)))),
            [("-8", 36, "missing"), ("1899", 2, "stray"), ("", 12, "blank")],
        ),
    ]


def _opinions(make: _Maker, asked: dict[str, Question]) -> list[DemoColumn]:
    shifts = (0.9, 0.3, 1.1, -0.2, 0.6, 0.2)
    made = []
    for number, shift in enumerate(shifts, 1):
        wild = [("6", 4, "stray")] if number == 2 else []
        entries = make.scale(len(RATING), shift, reverse=number == 4)
        made.append(make.column(asked[f"site_{number}"], entries, [*_missing(40 + 7 * number, 12, 14), *wild]))
    for number in range(1, 6):
        planted = [*_missing(18, 9, 20), ("99", 5, "valid")] if number == 3 else _missing(18, 9, 20)
        made.append(make.column(asked[f"bel_{number}"], make.scale(7, 0.4), planted))
    for number, shift in enumerate((0.8, -0.9, 0.7, -0.1, -1.4), 1):
        entries = make.scale(4, shift, reverse=True, first=0)
        made.append(make.column(asked[f"worry_{number}"], entries, _missing(15, 6, 11)))
    made.append(make.column(asked["content"], make.scale(11, 1.2, first=0), [("-9", 14, "missing"), ("", 9, "blank")]))
    return made


def _choices(make: _Maker, asked: dict[str, Question]) -> list[DemoColumn]:
    r = make.random
    ticks = [make.choice("01", (4, share)) for share in (5, 4, 3, 3, 2)]
    none = ["0" if any(column[record] == "1" for column in ticks) else "1" for record in range(RECORDS)]
    none[99] = none[450] = "1"
    wishes = ("seeds", "tools", "advice")
    several = make.plain(lambda _: "; ".join(wish for wish in wishes if r.random() < 0.45))
    ranks = [r.sample("12345", 5) for _ in range(RECORDS)]
    for record in r.sample(range(RECORDS), 31):
        ranks[record][ranks[record].index("2")] = "1"
    names = ("food", "ease", "folk", "wild", "save")
    return [
        *[make.column(asked[f"crop_{number}"], list(entries)) for number, entries in enumerate([*ticks, none], 1)],
        make.column(asked["wishes"], several),
        *[make.column(asked[f"rank_{name}"], [row[at] for row in ranks]) for at, name in enumerate(names)],
        make.column(asked["letter"], make.choice("YN", (3, 2)), [("yes", 27, "stray"), ("", 8, "blank")]),
        make.column(asked["compost"], make.choice("12", (3, 1)), _missing(19, 0, 6)),
        make.column(asked["watering"], make.choice("12345", (1, 2, 4, 5, 3)), _missing(11, 0, 7)),
        make.column(asked["advise"], make.choice("10", (6, 1)), _missing(44, 0, 5)),
    ]


def _household(make: _Maker, asked: dict[str, Question]) -> list[DemoColumn]:
    r = make.random
    joined = make.plain(lambda _: (date(1995, 1, 1) + timedelta(days=r.randrange(11_300))).isoformat())
    impossible = [("2019-02-30", 2, "stray"), ("2021-13-04", 1, "stray"), ("2020-00-10", 1, "stray")]
    waiting = make.plain(lambda _: str(r.randint(1, 60)))
    return [
        make.column(
            asked["age_band"],
            make.choice(("Under 35", "35 to 59", "60 and over"), (2, 4, 5)),
            [("n/a", 13, "stray"), ("", 21, "blank")],
        ),
        make.column(
            asked["people"], make.choice("123456", (5, 6, 3, 3, 1, 1)), [("-9", 17, "missing"), ("0", 3, "stray")]
        ),
        make.column(asked["children"], make.choice("0123", (7, 2, 2, 1)), [("", 30, "blank")]),
        make.column(asked["distance"], make.plain(lambda _: f"{r.gammavariate(2, 0.9):.2f}"), [("", 25, "blank")]),
        make.column(asked["travel"], make.choice("12345", (6, 3, 2, 4, 1)), [*_missing(8, 0, 4), ("7", 6, "stray")]),
        make.column(asked["joined"], joined, [*impossible, ("", 40, "blank")]),
        make.column(asked["wait"], waiting, [("-7", 996, "missing"), ("-8", 9, "missing")]),
    ]


def _paradata(make: _Maker, asked: dict[str, Question]) -> list[DemoColumn]:
    r = make.random
    comments = make.plain(lambda _: r.choice(COMMENTS) if r.random() < 0.35 else "")
    for record in range(0, RECORDS, 5):
        if comments[record]:
            comments[record] += f" (plot {r.randint(1, 1399)}, row {r.randint(1, 40)})"
    starts = [
        datetime(2026, 5, 1, 9) + timedelta(days=r.randrange(31), minutes=r.randrange(600)) for _ in range(RECORDS)
    ]
    ends = [start + timedelta(minutes=max(4, round(r.gauss(14, 4)))) for start in starts]
    ends[310] = starts[310] - timedelta(minutes=9)

    def stamp(moment: datetime) -> str:
        return moment.strftime("%Y-%m-%d %H:%M")

    return [
        make.column(asked["comment"], comments),
        make.column(
            asked["interviewer"], make.choice([f"I{number:02d}" for number in range(1, 8)], (5, 4, 4, 3, 3, 2, 1))
        ),
        make.column(asked["mode"], make.choice(("online", "paper"), (3, 2))),
        make.column(asked["visit"], [start.date().isoformat() for start in starts]),
        make.column(asked["started"], [stamp(start) for start in starts]),
        make.column(asked["ended"], [stamp(end) for end in ends]),
        make.column(asked["weight"], make.plain(lambda _: f"{min(4.0, max(0.2, r.gauss(1, 0.3))):.3f}")),
    ]


def rows() -> list[tuple[str, ...]]:
    """The demo as rows, heads first."""
    columns = demo_columns()
    heads = tuple(column.question.head for column in columns)
    return [heads, *zip(*(column.entries for column in columns), strict=True)]


NEXT_YEAR = {
    "renamed": {"q4": "q4_size_m2", "q19": "q19_km", "q21": "q21_since"},
    "gone": "q12",
    "new code": ("q3", "4", 37),
}
"""What the file of the year after has otherwise: heads of three columns, one that is not there any more, and a code
that so many records have."""


def next_year_rows() -> list[tuple[str, ...]]:
    """The survey of the year after: the same plots in another order, with what `NEXT_YEAR` says otherwise."""
    renamed, gone, (coded, code, times) = NEXT_YEAR["renamed"], NEXT_YEAR["gone"], NEXT_YEAR["new code"]
    heads, *records = rows()
    random.Random(SEED + 1).shuffle(records)
    kept = [at for at, head in enumerate(heads) if head != gone]
    at = heads.index(str(coded))
    changed = [(*row[:at], code, *row[at + 1 :]) if number < int(times) else row for number, row in enumerate(records)]
    assert isinstance(renamed, dict)
    return [
        tuple(renamed.get(heads[at], heads[at]) for at in kept),
        *(tuple(str(row[at]) for at in kept) for row in changed),
    ]


CORRECTED = {"gone": (40, 700), "hours": {12: "6", 55: "11", 310: "", 901: "8"}, "new": 3}
"""What a corrected version of the demo's file has otherwise: records (by their place) that are gone, entries of hours
that were keyed anew, and how many records came in late."""


def corrected_rows() -> list[tuple[str, ...]]:
    """The demo's file as it was sent once more: with what `CORRECTED` says otherwise."""
    heads, *records = rows()
    at, plot = heads.index("q5"), heads.index("q1")
    hours: dict[int, str] = CORRECTED["hours"]  # type: ignore[assignment]
    changed = [(*row[:at], hours.get(number, row[at]), *row[at + 1 :]) for number, row in enumerate(records)]
    late = [(*row[:plot], str(1500 + number), *row[plot + 1 :]) for number, row in enumerate(records[100:103])]
    gone = CORRECTED["gone"]
    assert isinstance(gone, tuple)
    return [heads, *(row for number, row in enumerate(changed) if number not in gone), *late]


def register_rows() -> list[tuple[str, ...]]:
    """The allotments' register of plots: one row a plot, some of which nobody answered for, and some twice."""
    heads, *records = rows()
    at = heads.index("q1")
    r = random.Random(SEED + 2)
    plots = list(dict.fromkeys(row[at] for row in records if row[at].isdigit()))
    kept = [*plots[: len(plots) - 25], *(str(1600 + number) for number in range(12)), *plots[5:8]]
    out: list[tuple[str, ...]] = [("plot_no", "soil", "shed", "last_visit")]
    for plot in kept:
        soil = r.choice(("clay", "loam", "sand"))
        out.append((plot, soil, str(r.randrange(2)), f"2026-{r.randrange(3, 10):02}-{r.randrange(1, 29):02}"))
    return out


def csv_text(of: Sequence[tuple[str, ...]] | None = None) -> str:
    """The demo's data as CSV, or other rows."""
    written = io.StringIO(newline="")
    csv.writer(written).writerows(rows() if of is None else of)
    return written.getvalue()


def write_csv(path: Path) -> None:
    """Writes the demo's data as CSV."""
    path.write_text(csv_text(), encoding="utf-8", newline="")


def write_workbook(path: Path) -> None:
    """The demo's data as a workbook: numbers and dates as such where every entry of a cell allows it."""
    with xlsxwriter.Workbook(str(path), {"strings_to_urls": False, "strings_to_formulas": False}) as book:
        sheet = book.add_worksheet("Answers")
        kinds = {
            "date": book.add_format({"num_format": "yyyy-mm-dd"}),
            "datetime": book.add_format({"num_format": "yyyy-mm-dd hh:mm"}),
        }
        for number, column in enumerate(demo_columns()):
            sheet.write_string(0, number, column.question.head)
            for row, entry in enumerate(column.entries, 1):
                _write_cell(sheet, row, number, entry, column.question.type, kinds)


def _write_cell(
    sheet: xlsxwriter.worksheet.Worksheet, row: int, column: int, entry: str, kind: str, formats: dict[str, Any]
) -> None:
    """One entry as a person would have typed it into a sheet."""
    if entry == "":
        return
    if kind in ("integer", "decimal"):
        try:
            sheet.write_number(row, column, float(entry))
            return
        except ValueError:
            pass
    if kind in formats:
        try:
            sheet.write_datetime(row, column, datetime.fromisoformat(entry), formats[kind])
            return
        except ValueError:
            pass
    sheet.write_string(row, column, entry)


def questionnaire() -> str:
    """The demo's questionnaire as plain text: what was printed, with the notes of those who keyed it in."""
    asked = [each for each in QUESTIONS if each.question] + UNKEYED
    lines = [TITLE, "Questionnaire, with names and codes for keying", "", *_INTRODUCTION]
    battery = ""
    for at, question in enumerate(asked):
        if question.battery != battery:
            battery = question.battery
            lines += ["", battery] if battery else []
        if at and at % 12 == 0:
            lines += ["", f"Please turn over{'':>20}- {at // 12 + 1} -"]
        lines += ["", *_printed(question)]
    return "\n".join([*lines, "", "Thank you for your help. The results will hang in the tool shed."]) + "\n"


_INTRODUCTION = [
    "Please answer for the plot that you have now. If you share it, one of you answers",
    "for all. Your answers are put together with those of the others.",
]


def _printed(question: Question) -> list[str]:
    limits = f" ({question.limits[0]} to {question.limits[1]})" if question.limits else ""
    lines = [f"{question.name} ({question.head})  {question.label}{limits}"]
    if question.question.endswith("?"):
        lines.append(f"    {question.question}")
    lines += [f"    {code}  {label}".rstrip() for code, label in {**question.codes, **question.printed}.items()]
    return lines + [f"   {code}  {reason}" for code, reason in question.missing]


def write_codebook(path: Path) -> None:
    """The demo's codebook as a small workbook: one row per variable, codes in one cell."""
    heads = ("name", "label", "question", "type", "level", "codes", "missing", "minimum", "maximum")
    with xlsxwriter.Workbook(str(path)) as book:
        sheet = book.add_worksheet("Codebook")
        sheet.write_row(0, 0, heads)
        for row, question in enumerate(QUESTIONS, 1):
            codes = "; ".join(f"{code} = {label}" if label else code for code, label in question.codes.items())
            missing = "; ".join(f"{code} = {reason}" for code, reason in question.missing)
            low, high = question.limits or ("", "")
            cells = (question.name, question.label, question.question, question.type, question.level)
            sheet.write_row(row, 0, [*cells, codes, missing, low, high])
