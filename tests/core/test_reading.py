"""Reading: the order that is law, the matching rules, and everything that reads against the slow reference."""

import statistics
import unicodedata
from collections import Counter
from decimal import Decimal

import pytest
from hypothesis import given
from hypothesis import strategies as st

from rowtag.core.checks import findings_on
from rowtag.core.column import column_of_texts
from rowtag.core.reading import State, read_texts, tidy
from rowtag.core.records import page_of, record_numbers
from rowtag.core.study import Records, Study, Variable
from rowtag.core.tables import frequency, summary
from rowtag.core.tag import NUMBER_TYPES, CodeLine, Limits, Marks, MissingLine, Tag, lens_of
from rowtag.core.tokens import is_ascii, large_texts, lengths_of
from rowtag.formats.table import unwatched
from rowtag.formats.written import Options, csv_blocks, written
from tests import generate, reference

NAMES = {State.VALID: "valid", State.MISSING: "missing", State.BLANK: "blank", State.UNREADABLE: "unreadable",
         State.UNLISTED: "unlisted"}  # fmt: skip
RATING = tuple(CodeLine(code=str(code)) for code in range(1, 6))
REFUSED = (MissingLine(code="-9", reason="refused"), MissingLine(code="n/a", reason="other"))

CASES = [
    # type, entry, the rest of the tag, what it reads as
    ("integer", "", {}, "blank"),
    ("integer", " \t\u00a0", {}, "blank"),
    ("integer", "7", {}, "valid"),
    ("integer", "12 hrs", {}, "unreadable"),
    ("integer", "2.0", {}, "valid"),
    ("integer", "2.5", {}, "unreadable"),
    ("integer", "1e5", {}, "unreadable"),
    ("integer", "1_000", {}, "unreadable"),
    ("integer", "١", {}, "unreadable"),
    ("integer", "999999999999999999", {}, "valid"),
    ("integer", "9999999999999999999", {}, "unreadable"),
    ("integer", "000000000000000000000007", {}, "valid"),
    ("decimal", ".5", {}, "valid"),
    ("decimal", "5.", {}, "unreadable"),
    ("decimal", "nan", {}, "unreadable"),
    ("decimal", "inf", {}, "unreadable"),
    ("decimal", "1,5", {}, "unreadable"),
    ("decimal", "1,5", {"marks": Marks(decimal=",")}, "valid"),
    ("decimal", "1.234,5", {"marks": Marks(decimal=",", thousands=".")}, "valid"),
    ("decimal", "1.23,5", {"marks": Marks(decimal=",", thousands=".")}, "unreadable"),
    ("decimal", "£ 38.50", {"marks": Marks(sign="£")}, "valid"),
    ("decimal", "-£5", {"marks": Marks(sign="£")}, "valid"),
    ("integer", "-9", {"missing": REFUSED}, "missing"),
    ("integer", "\u22129", {"missing": REFUSED}, "missing"),
    ("integer", "-9.0", {"missing": REFUSED}, "missing"),
    ("integer", "n/a", {"missing": REFUSED}, "missing"),
    ("date", "-9", {"missing": REFUSED}, "missing"),
    ("date", "n/a", {"missing": REFUSED}, "missing"),
    ("integer", "-9", {"missing": REFUSED, "codes": (CodeLine(code="-9"),)}, "missing"),
    ("text", "09", {"missing": (MissingLine(code="9"),)}, "valid"),
    ("integer", "-77", {"missing": (MissingLine(low="-99", high="-1"),)}, "missing"),
    ("text", "-77", {"missing": (MissingLine(low="-99", high="-1"),)}, "missing"),
    ("integer", "8", {"codes": RATING, "complete": True}, "unlisted"),
    ("integer", "8", {"codes": RATING}, "valid"),
    ("integer", "05", {"codes": RATING, "complete": True}, "valid"),
    ("integer", "8", {"complete": True}, "valid"),
    ("integer", "99", {"limits": Limits(low="0", high="80")}, "unlisted"),
    ("integer", "80", {"limits": Limits(low="0", high="80")}, "valid"),
    ("decimal", "0.100000000000000005", {"limits": Limits(high="0.1")}, "unlisted"),
    ("decimal", "100000000000000001", {"limits": Limits(low="100000000000000002")}, "unlisted"),
    ("text", "8", {"limits": Limits(low="0", high="5")}, "valid"),
    ("text", "y", {"codes": (CodeLine(code="Y"),), "complete": True}, "unlisted"),
    ("text", "e\u0301", {"codes": (CodeLine(code="\u00e9"),), "complete": True}, "valid"),
    ("integer", "40", {"codes": (CodeLine(low="35", high="59"),), "complete": True}, "valid"),
    ("date", "2026-05-03", {"codes": (CodeLine(low="0", high="1"),), "complete": True}, "unlisted"),
    ("integer", "8", {"missing": (MissingLine(low="2026-01-01"),)}, "valid"),
    ("date", "2026-02-30", {}, "unreadable"),
    ("date", "2024-02-29", {}, "valid"),
    ("date", "3.5.2026", {}, "unreadable"),
    ("date", "3.5.2026", {"marks": Marks(date_order="dmy")}, "valid"),
    ("date", "2026-05-03", {"marks": Marks(date_order="dmy")}, "valid"),
    ("date", "2026-05/03", {}, "unreadable"),
    ("date", "2026-05-03", {"limits": Limits(high="2026-05-02")}, "unlisted"),
    ("time", "24:00", {}, "unreadable"),
    ("time", "9:05", {}, "valid"),
    ("datetime", "2026-05-03T10:30:15", {}, "valid"),
]  # fmt: skip


def study_of(entries: list[str], tag: Tag, records: int | None = None) -> Study:
    size = len(entries) if records is None else records
    return Study(records=Records(size)).with_variables([("v", Variable(tag=tag), column_of_texts(entries))])


@pytest.mark.parametrize(("kind", "entry", "parts", "expected"), CASES)
def test_each_rule(kind: str, entry: str, parts: dict[str, object], expected: str) -> None:
    """Each rule of reading holds, here and in the reference."""
    tag = Tag(name="x", type=kind).with_parts(**parts)
    reading = read_texts(large_texts([entry]), lens_of(tag, tag.codes))
    assert NAMES[State(int(reading.states[0]))] == expected
    assert reference.read(entry, tag).state == expected


@given(st.lists(generate.entries, max_size=12), generate.tags)
def test_reading_agrees_with_the_reference(entries: list[str], tag: Tag) -> None:
    """State, line and canonical text of every token are what the slow reference says."""
    reading = read_texts(large_texts(entries), lens_of(tag, tag.codes))
    shown = reading.canonical().to_pylist()
    for entry, state, line, text in zip(entries, reading.states, reading.lines, shown, strict=True):
        expected = reference.read(entry, tag)
        assert (NAMES[State(int(state))], text) == (expected.state, expected.canonical), entry
        if state == State.VALID and line >= 0:
            assert tag.codes[line].label == expected.label


@given(st.lists(generate.entries, min_size=1, max_size=30), generate.tags, st.integers(0, 3))
def test_everything_that_reads_agrees(entries: list[str], tag: Tag, beyond: int) -> None:
    """Fill, frequencies, summary, checks, record pages and export say what the reference says, record by record."""
    study = study_of(entries, tag, len(entries) + beyond)
    all_entries = entries + [""] * beyond
    read = [reference.read(entry, tag) for entry in all_entries]
    states = Counter(each.state for each in read)
    fill = study.fill("v")
    assert (fill.valid, fill.missing, fill.blank, fill.unreadable, fill.unlisted) == tuple(
        states[name] for name in ("valid", "missing", "blank", "unreadable", "unlisted")
    )
    assert fill.valid + fill.missing + fill.blank + fill.stray == study.records.count

    table = frequency(study, "v")
    for kind in ("valid", "missing", "stray"):
        assert sum(row.count for row in table.rows if row.reading == kind) == getattr(fill, kind)
    found = {each.check: {one.entry: one.count for one in each.evidence} for each in findings_on(study, "v")}
    marked = tag.marks.decimal if tag.type in NUMBER_TYPES else "."
    for state, check, mark in (
        (State.UNREADABLE, "unreadable entries", "."),
        (State.UNLISTED, "unlisted codes", marked),
    ):
        told = (each.canonical.replace(".", mark) for each in read if each.state == NAMES[state])
        assert found.get(check, {}) == Counter(told)

    numbers = record_numbers(study, 0, len(all_entries)).tolist()
    (column,) = page_of(study, ["v"], record_numbers(study, 0, len(all_entries)))
    assert numbers == list(range(1, len(all_entries) + 1))
    assert [column.texts[at] for at in column.index] == all_entries
    assert [NAMES[State(column.states[at])] for at in column.index] == [each.state for each in read]

    out = written(study, "v", Options(guard=False)).texts.to_pylist()
    indexes = study.column("v").indexes(0, len(all_entries))
    for entry, each, token in zip(all_entries, read, indexes.tolist(), strict=True):
        raw = entry if each.state in ("unreadable", "unlisted") else each.canonical
        assert out[token] == (None if each.state == "blank" else raw)
    assert sum(1 for _ in csv_blocks(study, ["v"], Options(), unwatched)) >= 1


@given(st.lists(generate.entries, min_size=1, max_size=30), generate.tags)
def test_summaries_agree_with_statistics(entries: list[str], tag: Tag) -> None:
    """n, mean, sd, minimum and maximum are those of the valid numbers, computed exactly."""
    study = study_of(entries, tag)
    figures = summary(study, "v")
    if tag.type not in reference.NUMBERS:
        assert figures is None
        return
    valid = [Decimal(reference.canonical(e, tag)) for e in entries if reference.read(e, tag).state == "valid"]
    assert figures is not None and figures.n == len(valid)
    if valid:
        assert figures.mean == pytest.approx(float(statistics.mean(valid)), rel=1e-9, abs=1e-9)
        for found, exact in ((figures.min, min(valid)), (figures.max, max(valid))):
            assert found == (int(exact) if isinstance(found, int) else float(exact)), "whole numbers stay exact"
    if len(valid) > 1:
        exact = statistics.quantiles(valid, n=4, method="inclusive")
        assert [figures.q1, figures.median, figures.q3] == pytest.approx([float(each) for each in exact], rel=1e-9)
        scale = max(abs(float(each)) for each in valid)
        assert figures.sd == pytest.approx(float(statistics.stdev(valid)), rel=1e-7, abs=1e-9 * scale)


@given(st.lists(st.text(alphabet=" \t\u00a0\u2003\u0301aé7.-\u2212", max_size=6), max_size=8))
def test_texts_are_tidied_whatever_they_hold(texts: list[str]) -> None:
    """Spaces of any kind go from the ends, letters are composed, and lengths are in characters."""
    tidied = tidy(large_texts(texts))
    assert tidied.to_pylist() == [unicodedata.normalize("NFC", text.strip()) for text in texts]
    assert lengths_of(tidied).tolist() == [len(text) for text in tidied.to_pylist()]
    some = tidied[1:]  # arrays may be parts of others
    assert lengths_of(some).tolist() == [len(text) for text in some.to_pylist()]
    assert is_ascii(some) == all(text.isascii() for text in some.to_pylist())
