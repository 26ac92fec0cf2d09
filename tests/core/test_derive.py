"""Deriving held against a plain reading record by record: every way, every record accounted for; and its sentences."""

import json
from collections.abc import Callable
from dataclasses import fields, is_dataclass, replace
from decimal import Decimal, InvalidOperation
from typing import Any, Literal

import pytest
from hypothesis import example, given, settings
from hypothesis import strategies as st

from rowtag.core.checks import findings_on
from rowtag.core.column import column_of_texts
from rowtag.core.derive import derive, derived_from, held, names_for, read, say, shown, sources_of
from rowtag.core.derive import ways as says
from rowtag.core.derive.bands import equal_counts, equal_widths
from rowtag.core.derive.crossed import crossed
from rowtag.core.derive.outcome import Source
from rowtag.core.derive.proposed import proposals
from rowtag.core.derive.ticks import proposed_answers, sign_between
from rowtag.core.errors import BadInput
from rowtag.core.formulas import BadFormula
from rowtag.core.formulas.nodes import Name
from rowtag.core.reading import State
from rowtag.core.remedies import remedies
from rowtag.core.steps import dump, load
from rowtag.core.steps.base import Applied
from rowtag.core.steps.derive import Derive, Into, LetFollow, WorkOutAgain
from rowtag.core.steps.entries import SetEntries
from rowtag.core.steps.groups import Group
from rowtag.core.steps.records import RemoveRecords
from rowtag.core.steps.tags import Define, Rename
from rowtag.core.steps.variables import RemoveVariables
from rowtag.core.study import FOLLOWING, Records, Study, Titled, Variable
from rowtag.core.tag import CodeLine, Limits, MissingLine, Parts, Tag
from tests import generate, reference

REFUSED, UNKNOWN = MissingLine(code="-9", reason="refused"), MissingLine(code="-8", reason="don't know")
HELD = tuple(CodeLine(code=str(code), label=label) for code, label in enumerate(("Own", "Shared", "Waiting list"), 1))
STEPS = tuple(CodeLine(code=str(code), label=label) for code, label in ((1, "Poor"), (5, "Good")))
TAGS = (
    Tag(name="tenure", label="How held", type="integer", codes=HELD, complete=True, missing=(REFUSED, UNKNOWN)),
    Tag(name="hours", type="decimal", level="ratio", missing=(REFUSED,)),
    Tag(name="crop", label="Crop", type="text", missing=(MissingLine(code="n/a"),)),
    Tag(name="tools", label="Tools", type="text", missing=(MissingLine(code="n/a"),)),
    *(Tag(name=f"site_{n}", type="integer", level="ordinal", codes=STEPS, missing=(REFUSED,)) for n in (1, 2, 3)),
    *(
        Tag(name=f"rank_{n}", label=f"Rank: {what}", type="integer")
        for n, what in enumerate(("sun", "soil", "shed"), 1)
    ),
    *(Tag(name=f"has_{n}", label=f"Has: {what}", type="integer") for n, what in enumerate(("tap", "hut", "pond"), 1)),
    Tag(name="opened", type="date"),
)
BY_NAME = {tag.name: tag for tag in TAGS}
ENTRIES = {
    "tenure": ["1", "2", "3", "03", " 2 ", "-9", "-8", "", "7", "x", "1.0"],
    "hours": ["0", "4", "4.5", "5", "14.9", "15", "80", "-9", "", "12 hrs", "4.50", "1e1"],
    "crop": ["Beans", "beans", " Onions", "onion", "Kale", "", "n/a", "Beans and kale", "12"],
    "tools": ["spade", "Spade; fork", "fork;hoe ;spade", "rake", "", "n/a", ";", "hoe;;hoe"],
    **{f"site_{n}": ["1", "2", "3", "4", "5", "05", "", "-9", "x", "9"] for n in (1, 2, 3)},
    **{f"rank_{n}": ["1", "2", "3", "", "4"] for n in (1, 2, 3)},
    **{f"has_{n}": ["0", "1", "", "2"] for n in (1, 2, 3)},
    "opened": ["2026-05-03", "2024-02-29", "", "soon"],
}
Row = dict[str, str]
Plain = Callable[[Row], Any]
"""What one record has in what is derived: the entry, or one for each variable."""


def study_of(rows: list[Row]) -> Study:
    columns = [
        (f"id_{tag.name}", Variable(tag=tag), column_of_texts([row.get(tag.name, "") for row in rows])) for tag in TAGS
    ]
    return Study(records=Records(len(rows))).with_variables(columns)


def derived(study: Study, name: str, text: str, *, at: str | None = None) -> Applied:
    how = held(text, study)
    names = names_for([each.strip() for each in name.split(",")], derive(how, study).outcomes)
    into = {at or f"new_{number}": each for number, each in enumerate(names)}
    return Derive(variables=(Into(how=how, into=into),)).apply(study)


def entries_of(study: Study, id: str) -> list[str]:
    column = study.column(id)
    return column.texts_at(column.indexes(0, study.records.arrived))


rows_of = st.lists(
    st.fixed_dictionaries({name: st.sampled_from(each) for name, each in ENTRIES.items()}), min_size=1, max_size=8
)


# What each way means, said slowly -----------------------------------------------------------------


def state(row: Row, name: str) -> str:
    return reference.read(row[name], BY_NAME[name]).state


def worth(row: Row, name: str) -> Decimal | None:
    """The number of a valid entry."""
    return Decimal(reference.canonical(row[name], BY_NAME[name])) if state(row, name) == "valid" else None


def text(row: Row, name: str) -> str | None:
    return reference.canonical(row[name], BY_NAME[name]) if state(row, name) == "valid" else None


def kept(row: Row, name: str) -> str:
    """What is not valid stays what it is."""
    return row[name] if row[name].strip() else ""


def holds(row: Row) -> str:
    return {"1": "1", "2": "1", "3": "0"}.get(text(row, "tenure") or "", kept(row, "tenure"))


def told(row: Row) -> str:
    if state(row, "tenure") == "missing":
        return "-1"
    if state(row, "tenure") in ("unreadable", "unlisted"):
        return ""
    return {"blank": ""}.get(state(row, "tenure"), "1" if text(row, "tenure") == "3" else "2")


def banded(row: Row) -> str:
    hours = worth(row, "hours")
    if hours is None:
        return kept(row, "hours")
    bands = ("1", hours <= 4), ("2", 4 < hours < 15), ("3", 15 <= hours <= 30)
    return next((code for code, met in bands if met), row["hours"])


def cropped(row: Row) -> str:
    crop = text(row, "crop")
    return kept(row, "crop") if crop is None else {"Beans": "1", "Onions": "2", "onion": "2"}.get(crop, "9")


def ranges(row: Row) -> str:
    found = {"unreadable": "", "unlisted": "", "blank": "", "missing": kept(row, "hours")}
    hours = worth(row, "hours")
    return found[state(row, "hours")] if hours is None else "1" if hours < 5 else "2" if hours < 15 else row["hours"]


def turned(row: Row) -> str:
    site = worth(row, "site_1")
    return kept(row, "site_1") if site is None or not 1 <= site <= 5 else str(6 - int(site))


def keen(row: Row) -> str:
    known = [worth(row, "site_1"), worth(row, "hours")]
    if any(
        one is not None and not met for one, met in ((known[0], known[0] in (4, 5)), (known[1], (known[1] or 0) > 4))
    ):
        return "0"
    return "" if None in known else "1"


def each_tenure(row: Row) -> list[str]:
    tenure = text(row, "tenure")
    return [kept(row, "tenure") if tenure is None else str(int(tenure == code)) for code in ("1", "2")]


def parted(row: Row) -> list[str]:
    tools = text(row, "tools")
    if tools is None:
        return [kept(row, "tools")] * 3
    found = {part.strip().casefold() for part in tools.split(";")}
    return [str(int(part in found)) for part in ("spade", "fork", "hoe")]


def named(row: Row) -> list[str]:
    crop = text(row, "crop")
    if crop is None:
        return [kept(row, "crop")] * 2
    words = crop.lower().split()
    return [str(int(any(word.startswith("bean") for word in words))), str(int("kale" in words or crop == "12"))]


def score(row: Row) -> float | str:
    values = [worth(row, f"site_{n}") for n in (1, 2, 3)]
    turned_round = [values[0], None if values[1] is None else 6 - values[1], values[2]]
    known = [float(value) for value in turned_round if value is not None]
    return sum(known) / len(known) if len(known) >= 2 else ""


def joined(row: Row) -> str:
    values = [worth(row, f"has_{n}") for n in (1, 2, 3)]
    found = [what for what, value in zip(("tap", "hut", "pond"), values, strict=True) if value == 1]
    return ", ".join(found) or ("" if None in values else "None")


def only_one(row: Row) -> str:
    return ", ".join(str(n) for n in (1, 2, 3) if worth(row, f"has_{n}") == 1)


def by_rank(row: Row) -> list[str]:
    ranks = [worth(row, f"rank_{n}") for n in (1, 2, 3)]
    return [", ".join(str(at + 1) for at, value in enumerate(ranks) if value == rank) for rank in (1, 2, 3)]


def of_things(row: Row) -> list[str]:
    sites = [worth(row, f"site_{n}") for n in (1, 2, 3)]
    return [", ".join(str(at + 1) for at, value in enumerate(sites) if value == code) for code in (1, 5)]


def as_labels(row: Row) -> str:
    labels = {line.code: line.label for line in HELD}
    return labels.get(text(row, "tenure") or "", kept(row, "tenure"))


def as_text(row: Row) -> str:
    hours = worth(row, "hours")
    return kept(row, "hours") if hours is None else f"{hours:.1f}".rjust(5, "0")


def as_number(row: Row) -> str:
    crop = text(row, "crop")
    return kept(row, "crop") if crop is None else crop if crop == "12" else row["crop"]


def where(row: Row) -> float | str:
    hours = worth(row, "hours")
    return "" if text(row, "tenure") != "1" or hours is None else float(hours * 2)


WAYS: list[tuple[str, str, Plain]] = [
    ("x", "recode tenure: 1, 2 -> 1 'Holds a plot'; 3 -> 0 'Waiting'", holds),
    ("x", "recode tenure: 'own', 'Shared' -> 1; 'Waiting list' -> 0", holds),
    ("x", "recode tenure: missing -> -1 missing 'no answer'; stray -> blank; 3 -> 1 'Waits'; else 2", told),
    ("x", "recode hours: .. 4.99 -> 1; 5 .. 14.99 -> 2; stray -> blank", ranges),
    ("x", "bands hours: .. 4; above 4 .. below 15 'some'; 15 .. 30", banded),
    ("x", "codes crop: 'Beans' 1; 'Onions', 'onion' 2; else 9 'Other'", cropped),
    ("x", "reverse site_1 from 1 to 5", turned),
    ("x", "indicator site_1 in (4, 5) and hours > 4", keen),
    ("x_*", "indicators tenure except 'Waiting list'", each_tenure),
    ("a, b, c", "split tools by ';': 'spade'; 'fork'; 'hoe', 'Hoe'", parted),
    ("a, b", "mentions crop: 'Beans' where 'bean*'; 'Green' where 'kale', = '12'", named),
    ("x", "mean(site_1, reverse(site_2), site_3, needs 2)", score),
    ("x", "join has_1..has_3 by ', ' else 'None'", joined),
    ("x", "which of has_1..has_3", only_one),
    ("a, b, c", "things by rank rank_1..rank_3", by_rank),
    ("a, b", "ranks of site_1..site_3", of_things),
    ("x", "convert tenure to labels", as_labels),
    ("x", "convert hours to text width 5 decimals 1", as_text),
    ("x", "convert crop to number", as_number),
    ("x", "hours * 2 only where tenure = 1", where),
]


@pytest.mark.parametrize(("name", "sentence", "plain"), WAYS, ids=[sentence[:34] for _, sentence, _ in WAYS])
@settings(max_examples=60, deadline=None)
@given(rows=rows_of, gone=st.booleans())
def test_every_way_is_what_it_says_record_by_record(
    name: str, sentence: str, plain: Plain, rows: list[Row], gone: bool
) -> None:
    """All entries are those that a plain reading gives; all records are accounted for; removed ones count nowhere."""
    rows = [*rows, {**rows[0], "tools": "spade;fork", "crop": "12", "tenure": "1"}]
    study = study_of(rows)
    if gone:
        study = RemoveRecords(records=(1,)).apply(study).study
    there = list(range(int(gone), len(rows)))
    try:
        applied = derived(study, name, sentence)
    except BadInput as error:  # some sentences need something that occurs
        assert str(error)
        return
    ids = [id for id in applied.study.order if id not in study.variables]
    for at, id in enumerate(ids):
        entries, fill = entries_of(applied.study, id), applied.study.fill(id)
        for record in there:
            expected = plain(rows[record])
            wanted = expected[at] if isinstance(expected, list) else expected
            got = entries[record]
            if isinstance(wanted, float):
                assert float(got) == pytest.approx(wanted), (rows[record], sentence)
            else:
                assert got == wanted or (got.strip() == wanted.strip()), (rows[record], sentence)
        assert fill.valid + fill.missing + fill.blank + fill.stray == len(there)
    assert load(json.loads(json.dumps(dump(Derive(variables=(Into(how=held(sentence, study), into={"abcd": "y"}),))))))


@settings(max_examples=80, deadline=None)
@given(rows=rows_of, which=st.sampled_from(WAYS[:11]))
def test_margins_of_old_by_new_are_both_fills(rows: list[Row], which: tuple[str, str, Plain]) -> None:
    """The table's margins are the counts of the source and of what is derived; together they are all records."""
    study = study_of(rows)
    name, sentence, _ = which
    try:
        applied = derived(study, name, sentence)
    except BadInput:
        return
    source = sources_of(applied.study, applied.study.order[1 + [*study.order].index(_first(applied))])[0]
    for id in set(applied.study.order) - set(study.order):
        table = crossed(study, source, applied.study, id)
        assert table.records == len(rows) == sum(ribbon.count for ribbon in table.ribbons)
        for at, side in ((0, table.old), (1, table.new)):
            for number, value in enumerate(side):
                assert value.count == sum(each.count for each in table.ribbons if (each.old, each.new)[at] == number)
        fills = applied.study.fill(id)
        by_reading = {says: sum(each.count for each in table.new if each.reading == says) for says in
                      ("valid", "missing", "blank", "stray")}  # fmt: skip
        assert by_reading == {
            "valid": fills.valid,
            "missing": fills.missing,
            "blank": fills.blank,
            "stray": fills.stray,
        }


def _first(applied: Applied) -> str:
    """The variable that what is derived stands behind."""
    order = applied.study.order
    return next(order[at - 1] for at, id in enumerate(order) if id.startswith("new_"))


# Sentences ----------------------------------------------------------------------------------------

texts = st.text(st.characters(exclude_categories=("Cs", "Cc", "Zl", "Zp", "Zs")), min_size=1, max_size=8)
values = st.integers(-99, 99).map(str) | st.sampled_from(["2.5", "-0.75", "2026-05-03"])
names = st.sampled_from(["tenure", "hours", "missing", "else", "ширина"]).map(lambda name: Name(name, (0, 0)))
becomes = (
    st.builds(says.Becomes, st.just("code"), values, texts | st.just(""), st.just("") | texts)
    | st.sampled_from([says.Becomes("same"), says.Becomes("blank")])
    | st.builds(lambda reason: says.Becomes("missing", reason=reason), texts)
)
matches = (
    st.builds(lambda code: says.Match("code", low=code), values)
    | st.builds(lambda low, high: says.Match("range", low, high), values, st.none() | values)
    | st.builds(lambda high: says.Match("range", None, high), values)
    | st.builds(lambda word: says.Match("text", text=word), texts)
    | st.builds(lambda word: says.Match("missing", text=word), st.none() | texts)
    | st.sampled_from([says.Match("blank"), says.Match("stray")])
)
some = {"min_size": 1, "max_size": 3}
lines = st.builds(says.Line, st.lists(matches, **some).map(tuple), becomes)
bands = st.builds(says.Band, values, values, st.booleans(), st.booleans(), st.none() | texts) | st.builds(
    lambda high, below, label: says.Band(None, high, False, below, label), values, st.booleans(), st.none() | texts
)
items = st.lists(st.tuples(names, st.none() | names), **some).map(tuple)
ways = st.one_of(
    st.builds(says.Recode, names, st.lists(lines, **some).map(tuple), st.none() | becomes),
    st.builds(says.Reverse, names, values, values),
    st.builds(says.Bands, names, st.lists(bands, **some).map(tuple)),
    st.builds(
        says.Codes,
        names,
        st.lists(st.builds(says.Coded, st.lists(texts, **some).map(tuple), values, st.none() | texts), **some).map(
            tuple
        ),
        st.none() | becomes,
    ),
    st.builds(
        says.Mentions,
        names,
        st.lists(st.builds(says.Theme, texts, st.lists(texts, **some).map(tuple)), **some).map(tuple),
    ),
    st.builds(says.Indicators, names, st.none() | values),
    st.builds(says.Split, names, texts, st.lists(st.lists(texts, **some).map(tuple), **some).map(tuple)),
    st.builds(says.Join, items, texts, st.just("") | texts),
    st.builds(says.Which, items),
    st.builds(says.ByRank, items),
    st.builds(says.OfThings, items),
    st.builds(says.Convert, names, st.just("text"), st.integers(0, 99), st.none() | st.integers(0, 9)),
    st.builds(says.Convert, names, st.sampled_from(["number", "labels"])),
)


@settings(max_examples=400, deadline=None)
@given(ways)
def test_what_is_written_is_read_back(way: says.Way) -> None:
    """A way written as a sentence is read as the same way, whatever its names and texts hold."""
    assert _bare(read(say(way)).way) == _bare(way)


def _bare(value: Any) -> Any:
    """A way without the places where its parts stand."""
    if isinstance(value, Name):
        return value.name
    if isinstance(value, tuple):
        return tuple(map(_bare, value))
    if not is_dataclass(value):
        return value
    return type(value), *(_bare(getattr(value, each.name)) for each in fields(value) if each.compare)


@settings(max_examples=300, deadline=None)
@given(st.text(st.sampled_from("recode tnur:->;,'1209.. else blank bands split by mentions where()=*"), max_size=40))
def test_any_text_is_read_or_refused_at_its_characters(written: str) -> None:
    """Whatever is typed is a sentence, or is refused in words at characters that are there."""
    try:
        assert say(read(written).way)
    except BadFormula as error:
        assert str(error) and 0 <= error.span[0] <= error.span[1] <= max(len(written), 4_000)


some_name = st.sampled_from([*BY_NAME, "nobody"]).map(lambda name: Name(name, (0, 0)))


def renamed(value: Any, draw: Callable[[], Name]) -> Any:
    """A way with other names, which mean something."""
    if isinstance(value, Name):
        return draw()
    if isinstance(value, tuple):
        return tuple(renamed(each, draw) for each in value)
    if not is_dataclass(value) or isinstance(value, type):
        return value
    return replace(value, **{each.name: renamed(getattr(value, each.name), draw) for each in fields(value)})


@settings(max_examples=400, deadline=None)
@given(ways, rows_of, st.data())
def test_any_sentence_is_done_or_refused(way: says.Way, rows: list[Row], data: st.DataObject) -> None:
    """Whatever is said of variables of any type is done with every record accounted for, or is refused in words."""
    study = study_of(rows)
    text = say(renamed(way, lambda: data.draw(some_name)))
    only = data.draw(st.sampled_from(["", " only where hours > 4", " only where crop is not stray"]))
    try:
        applied = derived(study, data.draw(st.sampled_from(["x", "x_*"])), text + only)
    except BadInput as error:
        assert str(error).strip()
        return
    for id in set(applied.study.order) - set(study.order):
        fill = applied.study.fill(id)
        assert fill.valid + fill.missing + fill.blank + fill.stray == len(rows)
        findings_on(applied.study, id)


WRONG = [
    ("recode tenure: 1 => 2", "“=>” is written -> here.", (17, 19)),
    ("recode tenur: 1 -> 2", "There is no variable “tenur”.", (7, 12)),
    ("recode tenure: 1 -> 2; 01 -> 3", "01 stands in two lines.", (23, 25)),
    ("recode tenure: 'Oun' -> 2", "No code of tenure has the label “Oun”.", (15, 20)),
    ("recode tenure: missing 'refusd' -> 4", "“refusd” is no reason for a missing answer.", (15, 22)),
    ("recode tenure: 1 -> missing 'not asked'", "tenure has no code for “not asked”.", (28, 39)),
    ("recode tenure: 1 -> -9 'Gone'", "-9 is a missing code of tenure (refused).", (0, 0)),
    ("recode crop: 1 .. 3 -> 2", "crop is text: 1 bounds nothing there.", (13, 19)),
    ("bands crop: 1 .. 3", "crop is text: it has no bands.", (6, 10)),
    ("bands hours: 0 .. 5; 5 .. 9", "This band and “0 to 5” meet: 5 lies in both.", (21, 27)),
    ("bands opened: .. 2026-05-03; .. 2026-06-01", "This band and “up to 2026-05-03” meet: 2026-05-03 lies in both.",
     (32, 42)),
    ("bands hours: 9 .. 5", "No value can lie in this band.", (13, 19)),
    ("codes crop: 'Beans' 1; 'Beans' 2", "“Beans” stands in two lines.", (31, 32)),
    ("split tools by '+': 'spade'", "“+” stands in no entry of tools.", (6, 11)),
    ("indicators hours", "hours has no code list.", (11, 16)),
    ("indicators tenure except 8", "8 is no code of tenure.", (25, 26)),
    ("indicator hours + 1", "This is no condition.", (10, 19)),
    ("which of crop, tools", "crop holds no numbers.", (9, 13)),
    ("which of has_1", "This takes two variables or more, each once.", (9, 14)),
    ("crop + 1", "“+” takes a number; this is text.", (0, 4)),
    ("hours * 2 only where hours", "This is no condition.", (21, 26)),
    ("convert hours to number", "hours holds numbers already.", (0, 0)),
    ("convert hours to labels", "hours has no labels.", (8, 13)),
    ("reverse site_1 from 5 to 1", "The first end is not below the second.", (20, 26)),
    ("", "This does not say yet how it is derived.", (0, 0)),
]  # fmt: skip


@pytest.mark.parametrize(
    ("sentence", "message", "span"), WRONG, ids=[sentence or "nothing" for sentence, _, _ in WRONG]
)
def test_what_is_wrong_is_told_at_its_characters(sentence: str, message: str, span: tuple[int, int]) -> None:
    """A sentence that cannot be done is refused in words, and nothing is changed."""
    study = study_of([{name: each[0] for name, each in ENTRIES.items()}, {"tools": "spade;fork", "tenure": "2"}])
    with pytest.raises(BadFormula) as refused:
        derived(study, "x", sentence)
    assert message in str(refused.value)
    assert refused.value.span == span


def test_what_stays_a_stray_never_becomes_valid_unsaid() -> None:
    """A stray that stays as recorded and would be a new code is refused until somebody says what becomes of it."""
    study = study_of([{"tenure": "1"}, {"tenure": "7"}])
    with pytest.raises(BadInput, match="“7” is a stray of tenure and would count as something else"):
        derived(study, "x", "recode tenure: 1 -> 7 'Own'")
    applied = derived(study, "x", "recode tenure: 1 -> 7 'Own'; stray -> blank")
    assert entries_of(applied.study, "new_0") == ["7", ""]
    limited = Define(variables=("id_hours",), parts=Parts(limits=Limits(low="3"))).apply(
        study_of([{"hours": "2"}, {"hours": "4"}])
    )
    with pytest.raises(BadInput, match="Leave it out: only where hours is not stray"):
        derived(limited.study, "x", "bands hours: .. 4; 5 ..")
    bands = derived(limited.study, "x", "bands hours: .. 4; 5 .. only where hours is not stray")
    assert entries_of(bands.study, "new_0") == ["", "1"]


# With a study ------------------------------------------------------------------------------------


ROWS: list[Row] = [
    {"tenure": "1", "hours": "4", "crop": "Beans", "site_1": "5", "has_1": "1"},
    {"tenure": "3", "hours": "12", "crop": "Kale", "site_1": "2", "has_1": "0"},
    {"tenure": "-9", "hours": "", "crop": "", "site_1": "", "has_1": ""},
]


def test_derived_variables_know_their_sources() -> None:
    """It stands behind its source, says how it was made with the names of now, and is found to be behind the times."""
    study = derived(study_of(ROWS), "holds", "recode tenure: 1, 2 -> 1 'Holds'; 3 -> 0 'Waits'", at="holds").study
    assert study.order[:2] == ("id_tenure", "holds")
    study = derived(study, "late", "indicator holds = 0 and hours > 5", at="late").study
    assert sources_of(study, "late") == ("holds", "id_hours")
    assert derived_from(study, ["id_tenure"]) == ["holds"]
    renamed = Rename(names={"id_tenure": "held_as"}).apply(study).study
    how = renamed.variable("holds").origin.how
    assert how is not None
    assert shown(how, renamed) == "recode held_as: 1, 2 -> 1 'Holds'; 3 -> 0 'Waits'"
    assert not _behind(renamed, "holds")
    edited = SetEntries(variable="id_tenure", entries={2: "1"}).apply(renamed)
    assert "holds" in edited.touched.variables, "windows hear that it is to be looked at again"
    (found,) = _behind(edited.study, "holds")
    assert found.message.startswith("1 entry is not what comes out now")
    (remedy,) = remedies(edited.study, found)
    again = remedy.step.apply(edited.study)
    assert again.full_sentence == "Recalculated holds; 1 entry changed."
    assert not _behind(again.study, "holds")
    assert [found.count for found in _behind(again.study, "late")] == [1], "and then what was derived from that"
    both = WorkOutAgain(variables=("late", "holds")).apply(edited.study)
    assert both.full_sentence == "Recalculated late and holds; 2 entries changed.", "sources first, whatever the order"
    assert not _behind(both.study, "late")
    with pytest.raises(BadInput, match="all entries are what comes out"):
        WorkOutAgain(variables=("holds",)).apply(again.study)


def _behind(study: Study, id: str) -> list[Any]:
    return [each for each in findings_on(study, id) if each.check == "not what comes out"]


def test_derived_variables_follow_where_they_are_let() -> None:
    """After any step they hold what comes out, sources first, and the step says so; what was typed over one stays, and
    what cannot be worked out any more."""
    study = derived(study_of(ROWS), "holds", "recode tenure: 1, 2 -> 1 'Holds'; 3 -> 0 'Waits'", at="holds").study
    study = derived(study, "late", "indicator holds = 0 and hours > 5", at="late").study
    stays = SetEntries(variable="id_tenure", entries={2: "1"}).apply(study).study
    assert _behind(stays, "holds"), "without being let they stay"
    study = LetFollow(on=True).apply(study).study
    edited = SetEntries(variable="id_tenure", entries={2: "1"}).apply(study)
    assert edited.full_sentence.endswith("holds followed in 1 entry; late followed in 1 entry.")
    assert [each.variable for each in edited.made.evidence] == ["holds", "late"]
    assert edited.touched.entries == {"id_tenure", "holds", "late"} and edited.made.entries == 3
    again = WorkOutAgain(variables=("late", "holds")).apply(stays).study
    for id in ("holds", "late"):
        assert entries_of(edited.study, id) == entries_of(again, id)
        assert not _behind(edited.study, id)
    by_hand = SetEntries(variable="holds", entries={2: "1"}).apply(study)
    assert "late followed" in by_hand.full_sentence and "holds followed" not in by_hand.full_sentence
    after = SetEntries(variable="id_tenure", entries={2: "-9"}).apply(by_hand.study).study
    assert entries_of(after, "holds") == entries_of(by_hand.study, "holds"), "what was typed is not lost"
    without = RemoveVariables(variables=("id_tenure",)).apply(study)
    assert "holds cannot follow" in without.full_sentence
    assert entries_of(without.study, "holds") == entries_of(study, "holds")
    with pytest.raises(BadInput, match="already"):
        LetFollow(on=True).apply(study)


@settings(max_examples=60, deadline=None)
@given(st.data())
def test_following_leaves_nothing_behind(data: st.DataObject) -> None:
    """After any steps on a study whose derived variables follow, each of them holds what comes out, or cannot."""
    rows = data.draw(rows_of)
    study = derived(study_of(rows), "holds", "recode tenure: 1, 2 -> 1; 3 -> 0; else 9", at="holds").study
    study = derived(study, "much", "mean(hours) over holds", at="much").study
    study, by_hand = LetFollow(on=True).apply(study).study, set[str]()
    for _ in range(3):
        step = data.draw(generate.steps(study))
        before = study
        try:
            study = step.apply(study).study
        except BadInput:
            continue
        if FOLLOWING not in study.shelves["habit"]:
            return
        for id in {"holds", "much"} & {id for id in study.order if study.variable(id).origin.how is not None}:
            if [each for each in _behind(study, id) if each.count]:
                by_hand |= {id} if study.column(id) is not before.column(id) else set()
                assert id in by_hand, (step, id)


def test_strays_of_a_source_are_told_once() -> None:
    """A stray that stays in what is derived is found on its source alone; one of its own is told."""
    study = study_of([{"tenure": "1"}, {"tenure": "7"}, {"tenure": "2"}])
    study = derived(study, "holds", "recode tenure: 1, 2 -> 1", at="holds").study
    assert [each.check for each in findings_on(study, "id_tenure") if each.count] == ["unlisted codes"]
    assert [each.check for each in findings_on(study, "holds") if each.severity == "error"] == []
    mended = SetEntries(variable="id_tenure", entries={2: "3"}).apply(study).study
    assert "unlisted codes" in [each.check for each in findings_on(mended, "holds")]


def test_what_is_made_of_a_battery_stands_behind_it() -> None:
    """Items stay together in the codebook; what is derived from them follows in their order."""
    study = study_of(ROWS).put("battery", {"bat1": Titled(title="The site")})
    study = (
        Group(battery="bat1", title="The site", variables=("id_site_1", "id_site_2", "id_site_3")).apply(study).study
    )
    for n in (1, 2):
        study = derived(study, f"site_{n}r", f"reverse site_{n} from 1 to 5", at=f"made{n}").study
    at = study.order.index("id_site_1")
    assert study.order[at : at + 5] == ("id_site_1", "id_site_2", "id_site_3", "made1", "made2")


def test_removing_a_source_says_what_depends_on_it() -> None:
    """What was derived is kept, and cannot be recalculated."""
    study = derived(study_of(ROWS), "holds", "recode tenure: 1, 2 -> 1; 3 -> 0", at="holds").study
    applied = RemoveVariables(variables=("id_tenure",)).apply(study)
    assert "holds, which cannot be recalculated without, is kept" in applied.full_sentence
    (found,) = _behind(applied.study, "holds")
    assert "cannot be worked out any more: There is no variable “tenure”" in found.message.replace("character 8: ", "")


def test_a_circle_is_refused() -> None:
    """Nothing is derived from what is derived from it."""
    study = derived(study_of(ROWS), "double", "hours * 2", at="double").study
    study = derived(study, "again", "double + 1", at="again").study
    with pytest.raises(BadInput, match="double would be derived from itself"):
        derived(study, "double", "again / 2", at="double")


def test_in_place_entries_change_and_are_told() -> None:
    """A formula on an own variable changes entries alone; a recoding brings its codes, labels that were there stay."""
    study = study_of(ROWS)
    applied = derived(study, "hours", "hours * 60 only where hours < 10", at="id_hours")
    assert entries_of(applied.study, "id_hours") == ["240", "12", ""]
    assert applied.full_sentence.endswith("in place; 1 entry changed.")
    assert applied.study.tag("id_hours") == study.tag("id_hours")
    recoded = derived(study, "tenure", "recode tenure: 2 -> 1", at="id_tenure").study
    assert [(line.code, line.label) for line in recoded.codes("id_tenure")] == [("1", "Own"), ("3", "Waiting list")]
    assert recoded.variable("id_tenure").origin.how is None, "it is not made from itself"


def test_several_sentences_are_one_step() -> None:
    """Six items are recoded at once, each from the state before; a name that is taken refuses all of it."""
    study = study_of(ROWS)
    each = [Into(how=held(f"reverse site_{n} from 1 to 5", study), into={f"new_{n}": f"site_{n}r"}) for n in (1, 2, 3)]
    applied = Derive(variables=tuple(each)).apply(study)
    assert [study.tag(id).name for study in (applied.study,) for id in study.order if id.startswith("new_")] == [
        "site_1r", "site_2r", "site_3r"
    ]  # fmt: skip
    assert [(line.code, line.label) for line in applied.study.codes("new_1")] == [("1", "Good"), ("5", "Poor")]
    with pytest.raises(BadInput):
        Derive(variables=(*each, Into(how=each[0].how, into={"new_9": "tenure"}))).apply(study)


def test_proposed_tags_follow_the_way() -> None:
    """Level, type, labels and missing codes come with the way."""
    study = study_of(ROWS)
    bands = derived(study, "x", "bands hours: .. 4; above 4 .. below 10; 10 ..").study.tag("new_0")
    assert (bands.level, bands.type, bands.complete) == ("ordinal", "integer", True)
    assert [line.label for line in bands.codes] == ["up to 4", "over 4 to under 10", "10 and over"]
    assert bands.missing == (REFUSED,)
    group = derived(study, "x", "mean(hours) over tenure").study
    assert entries_of(group, "new_0") == ["4", "12", ""]
    assert group.tag("new_0").level == "ratio"
    dated = derived(study, "x", "date(2026, site_1, 3)").study
    assert (dated.tag("new_0").type, entries_of(dated, "new_0")) == ("date", ["2026-05-03", "2026-02-03", ""])


def _number(entry: str, mark: str) -> str | None:
    """How a number is spelled that somebody wrote, None where it is none."""
    try:
        number = Decimal(entry.replace(mark, ".")) if "." not in entry.replace(mark, "", 1) else None
    except InvalidOperation:
        return None
    return None if number is None else f"{number.normalize() + 0:f}"


WRITTEN = [
    "7",
    "07",
    "7.0",
    "-9",
    "-9.0",
    "-0",
    "+5",
    "1e3",
    "0.10",
    "5e-3",
    "12345678901234567",
    "0.12345678901234567",
]


@settings(max_examples=150, deadline=None)
@given(st.lists(st.sampled_from([*WRITTEN, "", "n/a", "x", " 8 ", "1,5", "x 7"]), min_size=1, max_size=9))
@example(["-9", "-9.0", "7", "7.0"])
def test_texts_become_the_numbers_that_they_spell(entries: list[str]) -> None:
    """However many digits they have; missing codes and what is no number stay to the letter, blanks blank, and no text
    stands for two tokens."""
    tag = Tag(name="plots", type="text", missing=(MissingLine(code="-9"), MissingLine(code="7.0")))
    column = column_of_texts(entries)
    study = Study(records=Records(len(entries))).with_variables([("plots", Variable(tag=tag), column)])
    valid = [each.strip() for each in entries if each.strip() not in ("", "-9", "7.0")]
    mark = max(".,", key=lambda mark: sum(_number(each, mark) is not None for each in valid))
    if not any(_number(each, mark) for each in valid):
        with pytest.raises(BadFormula):
            derived(study, "x", "convert plots to number")
        return
    after = derived(study, "x", "convert plots to number").study
    expected = [(each.strip() in valid and _number(each.strip(), mark)) or each for each in entries]
    assert [each.strip() for each in entries_of(after, "new_0")] == [each.strip() for each in expected]
    texts = after.column("new_0").texts().to_pylist()
    assert len(set(texts)) == len(texts)


def test_what_nothing_comes_out_for_is_told_with_its_records() -> None:
    """Division by zero leaves blanks, which are told with their records."""
    applied = derived(study_of(ROWS), "x", "hours / has_1")
    assert "nothing comes out for 1 record whose answers are valid (2)" in applied.full_sentence


def test_cut_points_part_all_values() -> None:
    """Bands of equal counts and of equal widths lie side by side and hold every valid entry."""
    study = study_of(
        [{"hours": str(number), "site_1": str(number % 7)} for number in (1, 2, 2, 3, 5, 8, 13, 21, 34, 55)]
    )
    for id in ("id_hours", "id_site_1"):
        for cut in (equal_counts, equal_widths):
            for number in (2, 3, 4):
                way = says.Bands(Name(study.tag(id).name, (0, 0)), tuple(cut(study, id, number)))
                applied = derived(study, "x", say(way))
                assert applied.study.fill("new_0").valid == study.fill(id).valid == 10
    counts = derived(study, "x", say(says.Bands(Name("hours", (0, 0)), tuple(equal_counts(study, "id_hours", 2)))))
    assert sorted(entries_of(counts.study, "new_0")) == ["1"] * 5 + ["2"] * 5


def test_what_stands_between_answers_is_guessed() -> None:
    """The sign is that whose parts repeat themselves; spellings of one answer are one family, the commonest first."""
    study = study_of([{"tools": text} for text in ("Spade; fork", "spade;Fork", "hoe", "fork ;hoe, large", "spade")])
    source = Source(study, "id_tools")
    assert sign_between(source) == ";"
    assert proposed_answers(source, ";")[0] == ("spade", "Spade")
    assert sign_between(Source(study_of(ROWS), "id_crop")) is None


def test_proposals_spare_strays_that_would_count() -> None:
    """Where a stray reads as a new code the proposed sentence leaves strays out, and can be done as it stands."""
    lines = tuple(CodeLine(code=str(code), label=f"Way {code}") for code in (2, 3, 4))
    tag = Tag(name="way", type="integer", codes=lines, complete=True)
    hours = Tag(name="hours", type="integer", level="ratio", limits=Limits(low="3"))
    columns = [("id_way", Variable(tag=tag), column_of_texts(["2", "1", "4", "03"])),
               ("id_hours", Variable(tag=hours), column_of_texts(["2", "4", "9", "12"]))]  # fmt: skip
    study = Study(records=Records(4)).with_variables(columns)
    name, sentence = proposals(study, "id_way")["indicators"]
    assert sentence == "indicators way only where way is not stray"
    assert entries_of(derived(study, name, sentence).study, "new_0") == ["1", "", "0", "0"]
    name, sentence = proposals(study, "id_hours")["bands"]
    assert sentence.endswith("only where hours is not stray")
    assert derived(study, name, sentence).study.fill("new_0").valid == 3


def test_times_are_derived_from_as_dates_are() -> None:
    """Whatever is proposed for them can be done; codes, ranges and bands of them stand without quotes."""
    columns = {
        "begun": ["18:00", "18:30", "", "19:00:30", "18:00"],
        "ended": ["2026-05-03T18:00", "2026-05-03 18:30", "", "2026-05-04T07:05", "2026-05-04 07:05:00"],
    }
    kinds: dict[str, Literal["time", "datetime"]] = {"begun": "time", "ended": "datetime"}
    study = Study(records=Records(5)).with_variables(
        [(id, Variable(tag=Tag(name=id, type=kinds[id])), column_of_texts(texts)) for id, texts in columns.items()]
    )
    for id in study.order:
        for _, sentence in proposals(study, id).values():
            assert derived(study, "x", sentence).study.fill("new_0").valid == 4, sentence
    early = derived(study, "x", "recode begun: .. 18:15 -> 1 'early'; 18:30 .. -> 2").study
    assert entries_of(early, "new_0") == ["1", "2", "", "2", "1"]
    days = derived(study, "x", "bands ended: .. below 2026-05-04 00:00; 2026-05-04 00:00 ..").study
    assert entries_of(days, "new_0") == ["1", "1", "", "2", "2"]


def test_measured_sources_are_told_by_their_ends() -> None:
    """Of many old values the lowest and highest that became each new one are told."""
    study = study_of([{"hours": str(number)} for number in range(1, 101)])
    applied = derived(study, "x", "bands hours: .. 34; 35 .. 59; 60 ..")
    table = crossed(study, "id_hours", applied.study, "new_0")
    assert [(ribbon.low, ribbon.high, ribbon.count) for ribbon in table.ribbons] == [
        ("1", "34", 34), ("35", "59", 25), ("60", "100", 41)
    ]  # fmt: skip
    assert table.old[0].different == 100


def test_an_empty_study_derives_nothing_and_breaks_nothing() -> None:
    """Without records everything is blank."""
    study = study_of([])
    assert derived(study, "x", "recode tenure: 1 -> 2").study.fill("new_0").valid == 0
    assert derived(study, "x", "mean(hours) over all").study.fill("new_0").valid == 0


def test_labels_of_a_state_are_followed() -> None:
    """A sentence by labels goes by the labels of now."""
    study = study_of(ROWS)
    lines = tuple(line.model_copy(update={"label": "Mine"}) if line.code == "1" else line for line in HELD)
    told = Define(variables=("id_tenure",), parts=Parts(codes=lines)).apply(study).study
    assert entries_of(derived(told, "x", "recode tenure: 'Mine' -> 5; else 6").study, "new_0") == ["5", "6", "-9"]
    assert State.VALID == 0
