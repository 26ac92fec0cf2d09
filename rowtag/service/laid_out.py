"""Views as plain tables: a title, rows of cells with numbers as numbers, and what is said beneath."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from rowtag.core.basis import Basis
from rowtag.core.summary import Summary
from rowtag.core.views.battery import BatteryTable
from rowtag.core.views.crosstab import CrosstabTable
from rowtag.core.views.distribution import VariableTable
from rowtag.core.views.groups import GroupsTable
from rowtag.core.views.several import SeveralTable
from rowtag.core.views.sides import Left, Value, Variable
from rowtag.core.words import counted

Cell = str | int | float | None
FIGURES = {
    "n": "n",
    "weighed": "weighted n",
    "mean": "mean",
    "sd": "sd",
    "variance": "variance",
    "se": "standard error",
    "min": "minimum",
    "q1": "lower quartile",
    "median": "median",
    "q3": "upper quartile",
    "max": "maximum",
    "range": "range",
    "mode": "mode",
    "skewness": "skewness",
    "kurtosis": "kurtosis",
}
"""What figures are called, in the order in which they are told."""


@dataclass(frozen=True)
class Laid:
    """A table: its title, its head, its rows (of as many cells as the head), and sentences beneath."""

    title: str
    head: tuple[str, ...]
    rows: tuple[tuple[Cell, ...], ...]
    notes: tuple[str, ...] = ()


def laid_out(shown: Any) -> list[Laid]:
    """What a view shows, as one table or several."""
    if isinstance(shown, CrosstabTable):
        return _crosstab(shown)
    if isinstance(shown, BatteryTable):
        return [_battery(shown)]
    if isinstance(shown, SeveralTable):
        return [_several(shown)]
    return [_groups(shown) if isinstance(shown, GroupsTable) else _distribution(shown)]


def said_of(basis: Basis, only: str = "") -> list[str]:
    """Of which records views are, in sentences."""
    said = []
    if only:
        told = f"; for {basis.unknown:,} it cannot be told" if basis.unknown else ""
        said.append(f"Of {counted(basis.records, 'record')} {basis.met:,} meet {only}{told}.")
    if basis.weights is not None:
        left = ", ".join(
            f"{count:,} {'weigh nothing' if why == '0' else why}" for why, count in basis.unweighed.items()
        )
        said.append(
            f"Weights from {basis.weights.least:g} to {basis.weights.greatest:g}, together {basis.weights.sum:,.1f}; "
            f"they tell as much as {basis.weights.effective:,.0f} records of equal weight."
            + (f" Left out by their weight: {left}." if left else "")
        )
    return said


def _called(variable: Variable | VariableTable) -> str:
    return f"{variable.label} ({variable.name})" if variable.label else variable.name


def _words(value: Value) -> str:
    if value.reading == "stray":
        return f"{value.code or 'others'} (stray)"
    return " ".join(part for part in (value.code, value.label) if part)


def _accounted(inside: int, left: Sequence[Left]) -> str:
    said = f"{counted(inside, 'record stands', 'records stand')} in the table."
    out = [f"{each.variable} {each.words} {each.records:,}" for each in left]
    return f"{said} Left out: {', '.join(out)}." if out else said


def _distribution(table: VariableTable) -> Laid:
    weighed = table.sums is not None
    valid = f"{table.fill.valid:,} valid, {table.fill.missing:,} coded missing, {table.fill.blank:,} blank, "
    account = f"{valid}{table.fill.stray:,} stray of {counted(table.records, 'record')}."
    if not table.coded:
        if table.span is not None:
            return Laid(
                _called(table), ("figure", "value"), (("first", table.span[0]), ("last", table.span[1])), (account,)
            )
        if table.summary is not None:
            return Laid(_called(table), ("figure", "value"), _figure_rows(table.summary), (account,))
        rows = tuple((each.entry, each.count) for each in table.commonest)
        return Laid(_called(table), ("entry", "count"), rows, (account,))
    ordered = table.level == "ordinal"
    head = ["code", "label", "records" if weighed else "count", *(["weighted"] if weighed else []), "%", "valid %"]
    found: list[tuple[Cell, ...]] = []
    for row in table.rows:
        sums = [row.weighed] if weighed else []
        last = [row.cumulative] if ordered else []
        words = row.label or ("" if row.reading == "valid" else row.reason or "stray")
        found.append((row.code, words, row.count, *sums, row.percent, row.valid_percent, *last))
    return Laid(_called(table), (*head, *(["cumulative %"] if ordered else [])), tuple(found), (account,))


def _figure_rows(figures: Summary) -> tuple[tuple[Cell, ...], ...]:
    return tuple((word, value) for key, word in FIGURES.items() if (value := getattr(figures, key)) is not None)


def _groups(table: GroupsTable) -> Laid:
    keys = [key for key in FIGURES if key != "weighed" or table.weighed]
    rows = tuple(
        ("all together" if each.value is None else _words(each.value), *(getattr(each.figures, key) for key in keys))
        for each in table.groups
    )
    notes = ["Codes are taken for equal steps."] if table.equal_steps else []
    head = (table.by.label or table.by.name, *(FIGURES[key] for key in keys))
    title = f"{_called(table.measured)} by {_called(table.by)}"
    return Laid(title, head, rows, (*notes, _accounted(table.inside, table.left)))


def _battery(table: BatteryTable) -> Laid:
    rows = tuple(
        (
            _called(item.variable) + (", runs against the rest" if item.against else ""),
            item.valid,
            *item.percents,
            item.figures.mean if item.figures else None,
        )
        for item in table.items
    )
    notes = ["Percent of valid answers; for the mean codes are taken for equal steps."]
    if table.alpha is not None:
        notes.append(f"Alpha {table.alpha:.2f} over {counted(table.complete, 'record')} that answered all of them.")
    return Laid("Items", ("item", "n", *(f"{_words(value)} %" for value in table.values), "mean"), rows, tuple(notes))


def _several(table: SeveralTable) -> Laid:
    rows = tuple(
        (
            _called(thing.variable),
            thing.records,
            *([thing.sum] if table.weighed else []),
            thing.of_records,
            thing.of_answers,
        )
        for thing in table.things
    )
    answered = (
        f"{table.answered:,} of {counted(table.records, 'record')} answered, {table.nothing:,} of them with nothing."
    )
    head = ("answer", "records", *(["weighted"] if table.weighed else []), "of records %", "of answers %")
    return Laid("Several answers", head, rows, (answered,))


def _crosstab(table: CrosstabTable) -> list[Laid]:
    columns = [*map(_words, table.column_values), "all"]
    counts = "weighted" if table.weighed else "count"
    head = (table.rows.label or table.rows.name, *(f"{each}: {what}" for each in columns for what in (counts, "%")))
    found = []
    for at, cells in enumerate(table.tables):
        rows: list[tuple[Cell, ...]] = [
            (words, *(part for pair in zip(sums if table.weighed else records, shares, strict=True) for part in pair))
            for words, sums, records, shares in zip(
                [*map(_words, table.row_values), "all"], cells.sums, cells.records, cells.percents, strict=True
            )
        ]
        if table.weighed:
            rows.append(("records", *(part for count in cells.records[-1] for part in (count, None))))
        within = f", {table.within.name} {_words(cells.within)}" if table.within and cells.within else ""
        last = at == len(table.tables) - 1
        notes = (f"Percent of each {table.percent}." if table.percent != "total" else "Percent of all.",)
        title = f"{_called(table.rows)} by {_called(table.columns)}{within}"
        found.append(Laid(title, head, tuple(rows), (*notes, *(_beneath(table) if last else ()))))
    return found


def _beneath(table: CrosstabTable) -> tuple[str, ...]:
    """How both go together, and who is in the table."""
    of, said = table.association, []
    if of.chi_square is not None:
        said.append(f"chi-square {of.chi_square.value:.4g} with {of.chi_square.freedom} df, p = {of.chi_square.p:.4g}")
        if of.chi_square.few > 0.2:
            said.append(f"{of.chi_square.few:.0%} of the cells expect fewer than 5")
    for word, value in (("Cramér's V", of.v), ("gamma", of.gamma), ("tau-b", of.tau_b)):
        said += [] if value is None else [f"{word} {value:.3f}"]
    words = ", ".join(said)
    said_of_all = f"{words[0].upper()}{words[1:]}, of {counted(of.records, 'record')}." if words else ""
    return (*([said_of_all] if words else []), _accounted(table.inside, table.left))
