"""Figures and records that would go wrong without a word: each by an example of its own."""

from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from rowtag.core.column import column_of_texts
from rowtag.core.derive import derive, held
from rowtag.core.errors import BadInput
from rowtag.core.formulas import BadFormula
from rowtag.core.formulas.digits import as_written, summed, without_noise
from rowtag.core.reading import State
from rowtag.core.steps.base import Applied
from rowtag.core.steps.derive import Derive, Into
from rowtag.core.steps.records import RemoveRecords
from rowtag.core.study import CodeList, Records, Study, Variable
from rowtag.core.tag import Limits, Marks, MissingLine, Tag
from rowtag.service.derive import derive_file, spread
from tests.core.test_check_kinds import lines

REFUSED, RANGE = MissingLine(code="-9", reason="refused"), MissingLine(low="97", high="99", reason="other")
WHOLE = Tag(name="x", type="integer", level="ratio")
COMMA = Tag(name="x", type="decimal", level="ratio", marks=Marks(decimal=","), missing=(REFUSED,))
HELD = WHOLE.with_parts(level="nominal", codes=lines("Low", "Mid", "High"), complete=True)


def study_of(**columns: tuple[Tag, list[str]]) -> Study:
    size = max(len(entries) for _, entries in columns.values())
    return Study(records=Records(size)).with_variables(
        (f"id_{name}", Variable(tag=tag.with_parts(name=name)), column_of_texts(entries))
        for name, (tag, entries) in columns.items()
    )


def made(study: Study, text: str, into: str = "new") -> Applied:
    """The step that derives a variable, in place where there is one of that name."""
    return Derive(variables=(Into(how=held(text, study), into={f"id_{into}": into}),)).apply(study)


def entries_of(study: Study, name: str) -> list[str]:
    column = study.column(f"id_{name}")
    return column.texts_at(column.indexes(0, study.records.arrived))


def states_of(study: Study, name: str) -> list[str]:
    found = study.reading(f"id_{name}").states[study.column(f"id_{name}").indexes(0, study.records.arrived)]
    return [State(int(each)).name.lower() for each in found]


def labels_of(study: Study, name: str) -> list[str]:
    reading, lines_ = study.reading(f"id_{name}"), study.codes(f"id_{name}")
    tokens = study.column(f"id_{name}").indexes(0, study.records.arrived)
    return [lines_[at].label if at >= 0 else "" for at in reading.lines[tokens].tolist()]


# In place, in part --------------------------------------------------------------------------------


def test_a_scale_turned_round_in_part_is_refused() -> None:
    """Other records have the codes with their labels: turning some round would turn the meaning of all."""
    study = study_of(s=(HELD, ["1", "1", "2"]), x=(WHOLE, ["1", "2", "1"]))
    with pytest.raises(BadInput, match="s would want another list for some of its records") as refused:
        made(study, "reverse s from 1 to 3 only where x = 1", "s")
    assert "is “Low” there, and is “High” in the others" in str(refused.value) and "new variable" in str(refused.value)
    assert labels_of(made(study, "reverse s from 1 to 3 only where x = 1").study, "new") == ["Low", "", "Mid"]
    plain = study_of(
        s=(WHOLE.with_parts(limits=Limits(low="1", high="3")), ["1", "1", "2"]), x=(WHOLE, ["1", "2", "1"])
    )
    assert entries_of(made(plain, "reverse s from 1 to 3 only where x = 1", "s").study, "s") == ["3", "1", "2"]


def test_codes_that_others_have_stay_in_the_list() -> None:
    """Recoding some records drops no code; a code that the list lacks is added, and harms nobody."""
    study = study_of(s=(HELD, ["1", "1", "2"]), x=(WHOLE, ["1", "2", "1"]))
    done = made(study, "recode s: 1 -> 2 only where x = 1", "s").study
    assert (entries_of(done, "s"), labels_of(done, "s")) == (["2", "1", "2"], ["Mid", "Low", "Mid"])
    assert states_of(done, "s") == ["valid"] * 3 and done.tag("id_s") == study.tag("id_s")
    more = made(study, "recode s: 1 -> 4 'Gone' only where x = 1", "s").study
    assert labels_of(more, "s") == ["Gone", "Low", "Mid"]
    with pytest.raises(BadInput, match="another list"):
        made(study, "recode s: 1 -> 2 'Gone' only where x = 1", "s")
    with pytest.raises(BadInput, match="another list"):
        made(study, "convert s to labels only where x = 1", "s")
    shared = study.put("list", {"list1": CodeList(name="three", lines=HELD.codes)}).with_tags(
        {"id_s": study.tag("id_s").with_parts(codes=(), code_list="list1")}
    )
    with pytest.raises(BadInput, match="another list"):
        made(shared, "recode s: 1 -> 4 'Gone' only where x = 1", "s")


def test_a_decimal_comma_in_place() -> None:
    """What is worked out in place is written as the variable is."""
    study = study_of(x=(COMMA, ["1,5", "2,5", "-9,0"]), y=(WHOLE, ["1", "2", "1"]))
    whole = made(study, "x * 1.5", "x").study
    assert (entries_of(whole, "x"), states_of(whole, "x")) == (["2,25", "3,75", ""], ["valid", "valid", "blank"])
    part = made(study, "recode x: 2 .. -> 7.25 only where y = 2", "x").study
    assert (entries_of(part, "x"), states_of(part, "x")) == (["1,5", "7,25", "-9,0"], ["valid", "valid", "missing"])


# Missing stays missing ----------------------------------------------------------------------------


@pytest.mark.parametrize("text", ["convert x to text", "convert x to text width 3", "convert x to labels"])
def test_missing_stays_missing_however_it_is_written(text: str) -> None:
    """9.0 and 09 are missing where 9 is, as text too; of a range every code that occurs is listed."""
    tag = WHOLE.with_parts(codes=lines("Low", "Mid"), missing=(MissingLine(code="9", reason="refused"), RANGE))
    study = study_of(x=(tag, ["1", "9.0", "09", "98", "99.0", "", "2"]))
    applied = made(study, text)
    assert states_of(applied.study, "new") == ["valid", "missing", "missing", "missing", "missing", "blank", "valid"]
    assert entries_of(applied.study, "new")[1:5] == ["9", "9", "98", "99"]
    reasons = {line.code: line.reason for line in applied.study.tag("id_new").missing}
    assert reasons == {"9": "refused", "98": "other", "99": "other"}


@pytest.mark.parametrize("text", ["bands x: .. 2; above 2 ..", "recode x: 1.5 -> 1; else 2", "indicator x is missing"])
def test_missing_with_a_decimal_comma(text: str) -> None:
    """-9,0 is the missing code -9 whatever becomes of the rest."""
    study = study_of(x=(COMMA, ["1,5", "2,5", "-9,0"]))
    done = made(study, text).study
    assert states_of(done, "new")[2] == ("missing" if "indicator" not in text else "valid")


def test_what_becomes_a_missing_code_by_being_written_otherwise_is_told() -> None:
    study = study_of(x=(Tag(name="x", missing=(MissingLine(code="9"),)), ["09", "9", "5"]))
    note = made(study, "convert x to number").full_sentence
    assert "1 entry reads as missing there, being written otherwise (“09”)" in note


# Recoding -----------------------------------------------------------------------------------------


def test_what_same_keeps_stays_valid() -> None:
    """Top coding: the values below stay what they are, and measured."""
    study = study_of(hours=(WHOLE, ["5", "61", "60", "12"]))
    done = made(study, "recode hours: .. 60 -> same; else 60 'top'").study
    assert entries_of(done, "new") == ["5", "60", "60", "12"] and states_of(done, "new") == ["valid"] * 4
    assert done.tag("id_new").level == "ratio" and not done.tag("id_new").complete


def test_ranges_name_valid_entries() -> None:
    """A stray is named as one, or by itself; a range never takes it."""
    study = study_of(x=(WHOLE.with_parts(limits=Limits(low="0", high="80")), ["50", "999", "10"]))
    done = made(study, "recode x: 40 .. -> 2; else 1").study
    assert (entries_of(done, "new"), states_of(done, "new")) == (["2", "999", "1"], ["valid", "unlisted", "valid"])
    done = made(study, "recode x: 40 .. -> 2; stray -> blank; else 1").study
    assert entries_of(done, "new") == ["2", "", "1"]
    assert entries_of(made(study, "recode x: 999 -> 3; 40 .. -> 2; else 1").study, "new") == ["2", "3", "1"]


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("recode x: 10 .. 5 -> 1", "Nothing lies from 10 to 5"),
        ("recode x: 1 -> 2; 1 -> 3", "1 stands in two lines"),
        ("which of has_1, x", "x holds 5, which is neither 0 nor 1"),
        ("join has_1, x by ';'", "x holds 5, which is neither 0 nor 1"),
        ("x / 0", "Nothing can be divided by zero"),
        ("mean(has_1, crop)", "Mean takes a number; this is text"),
        ("sum(has_1, weighted by x)", "goes with what looks down the records"),
        ("median(x, weighted by has_1) over all", "median takes no “weighted by”"),
        ("mean(x, in order of has_1) over all", "mean takes no “in order of”"),
        ("quantile(x, 2.5) over all", "a whole number from 2 to 100"),
        ("share(x) over all", "Share takes a condition"),
        ("when - begun", "takes a number"),
        ("2026-02-30 < when", "There is no such day"),
        ("25:00 < begun", "There is no such time"),
    ],
)
def test_what_cannot_be_meant_is_refused(text: str, said: str) -> None:
    """In a sentence, at its characters."""
    study = study_of(
        x=(WHOLE, ["5", "7"]), has_1=(WHOLE, ["1", "0"]), crop=(Tag(name="x"), ["a", "b"]),
        when=(Tag(name="x", type="date"), ["2026-05-03", ""]), begun=(Tag(name="x", type="time"), ["10:00", ""]),
    )  # fmt: skip
    with pytest.raises(BadInput) as refused:
        derive(held(text, study), study)
    assert said in str(refused.value)
    assert isinstance(refused.value, BadFormula)


def test_a_split_counts_no_record_that_is_gone() -> None:
    """Answers of removed records are not told as left over."""
    study = study_of(x=(Tag(name="x"), ["a;b", "c;d", "a"]))
    (outcome, *_) = derive(held("split x by ';': 'a'; 'b'", study), study).outcomes
    assert outcome.notes == ("2 answers in 1 record are in none",)
    left = RemoveRecords(records=(2,)).apply(study).study
    (outcome, *_) = derive(held("split x by ';': 'a'; 'b'", left), left).outcomes
    assert outcome.notes == ()


# Fractions ----------------------------------------------------------------------------------------

FRACTIONS = [
    ("floor(0.29 * 100)", "29"), ("ceiling(7 * 1.1 * 10)", "77"), ("x * 3", "0.3"), ("x * 3 <= 0.3", "1"),
    ("x * 3 - 0.3", "0"), ("mod(0.3, x)", "0"), ("round(x * 26.75, 2)", "2.68"), ("mod(-1, 7)", "6"), ("-2 ^ 2", "-4"),
    ("2 ^ 3 ^ 2", "512"), ("sum(x, x, x, x, x, x, x, x, x, x) = 1", "1"), ("sd(x, x, x)", "0"),
]  # fmt: skip


@pytest.mark.parametrize(("text", "entry"), FRACTIONS)
def test_fractions_are_what_is_written(text: str, entry: str) -> None:
    """Decimals of at most 15 digits behave as they are written, when they are kept, compared or cut."""
    study = study_of(x=(Tag(name="x", type="decimal"), ["0.1"]))
    assert entries_of(made(study, text).study, "new") == [entry]


def test_fractions_in_two_sentences_and_down_many_records() -> None:
    """What is kept is compared as it is written; a hundred thousand tenths are ten thousand."""
    study = study_of(x=(Tag(name="x", type="decimal"), ["0.1"]))
    study = made(study, "x * 3", "a").study
    assert entries_of(made(study, "a <= 0.3").study, "new") == ["1"]
    many = study_of(x=(Tag(name="x", type="decimal"), ["0.1"] * 100_000))
    assert set(entries_of(made(many, "sum(x) over all").study, "new")) == {"10000"}
    assert set(entries_of(made(many, "sd(x) over all").study, "new")) == {"0"}
    assert set(entries_of(made(many, "z(x) over all").study, "new")) == {""}


@given(st.lists(st.floats(allow_nan=False, allow_infinity=False), min_size=1, max_size=30))
def test_fifteen_digits(values: list[float]) -> None:
    """Rounded as Python writes 15 significant digits; whole numbers stay as they are."""
    expected = [value if value == np.floor(value) else float(f"{value:.15g}") for value in values]
    assert as_written(values).tolist() == expected


@given(st.lists(st.decimals(-999, 999, places=3, allow_nan=False), min_size=2, max_size=40))
def test_sums_of_decimals(numbers: list[object]) -> None:
    """Sums and differences of written decimals are the written sum."""
    floats = np.array([float(str(each)) for each in numbers])
    exact = float(sum(numbers))  # type: ignore[call-overload]
    assert as_written(summed(floats[:, None])).tolist() == [exact]
    first, last = float(str(numbers[0])), float(str(numbers[1]))
    found = without_noise(np.array([first - last]), np.array([first]), np.array([last]))
    assert as_written(found).tolist() == [float(numbers[0] - numbers[1])]  # type: ignore[operator]


# Words of sentences -------------------------------------------------------------------------------

MOMENTS = study_of(
    d=(Tag(name="x", type="date"), ["2026-05-04", "2026-05-02"]), t=(Tag(name="x", type="time"), ["18:31", "9:00"]),
    begun=(Tag(name="x", type="datetime"), ["2026-05-03 23:00", "2026-05-03 10:00"]),
    ended=(Tag(name="x", type="datetime"), ["2026-05-04 01:30", "2026-05-03 10:00:30"]),
    a=(WHOLE, ["4", "1"]), b=(WHOLE, ["2", "2"]), indicator=(WHOLE, ["1", "0"]), crop=(Tag(name="x"), ["Kale", ""]),
    number=(Tag(name="x", type="integer"), ["007", "12"]),
)  # fmt: skip


@pytest.mark.parametrize(
    ("text", "expected"),
    [
        ("d > 2026-05-03", ["1", "0"]),
        ("d - 2026-05-03", ["1", "-1"]),
        ("t > 18:30", ["1", "0"]),
        ("d between 2026-05-03 and 2026-05-31", ["1", "0"]),
        ("begun >= 2026-05-03 23:00", ["1", "0"]),
        ("if d > 2026-05-03 then 2026 - 5 - 3 else 0", ["2018", "0"]),
        ("hours(begun, ended)", ["2.5", "0.00833333333333333"]),
        ("seconds(begun, ended)", ["9000", "30"]),
        ("indicator (a > 3 or b = 1) and t > 18:30", ["1", "0"]),
        ("indicator 3 < a", ["1", "0"]),
        ("indicator not a = 1", ["1", "0"]),
        ("indicator is valid", ["1", "1"]),
        ("indicator in (1, 2)", ["1", "0"]),
        ("count(d..crop)", ["8", "7"]),
        ("crop & ' - ' & number", ["Kale - 007", ""]),
        ("number & '/' & a + b", ["007/6", "12/3"]),
    ],
)
def test_what_is_written_is_read(text: str, expected: list[str]) -> None:
    """Dates and times without quotes, conditions of any shape behind “indicator”, counts of any kind, joined texts."""
    assert entries_of(made(MOMENTS, text).study, "new") == expected


def test_words_are_met_as_a_whole() -> None:
    """Whatever case and accents; a star stands for what goes on."""
    study = study_of(x=(Tag(name="x"), ["The Path", "pathway", "footpath", "Épath, path!", "pat"]))
    found = derive(
        held("mentions x: 'a' where 'path'; 'b' where 'path*'; 'c' where '*path'; 'd' where '*pa*'", study), study
    )
    rows = [each.column.texts_at(each.column.indexes(0, 5)) for each in found.outcomes]
    assert rows == [
        ["1", "0", "0", "1", "0"], ["1", "1", "0", "1", "0"], ["1", "0", "1", "1", "0"], ["1"] * 5,
    ]  # fmt: skip
    accents = derive(held("mentions x: 'a' where 'epath'", study), study).outcomes[0].column
    assert accents.texts_at(accents.indexes(0, 5)) == ["0", "0", "0", "1", "0"]


# Without a screen ---------------------------------------------------------------------------------


def test_one_sentence_for_many_variables(tmp_path: Path) -> None:
    """A star on both sides; in place where there is one of that name."""
    path = tmp_path / "a.csv"
    path.write_text("site_1,site_2,w\n1,5,2\n2,4,3\n5,1,4\n")
    out = tmp_path / "out.csv"
    found = derive_file(path, ["*_r = reverse site_* from 1 to 5", "w = w * 2"], out=out, in_place=True)
    assert [each["names"] for each in found["derived"]] == ["site_1_r", "site_2_r", "w"]
    assert out.read_text() == "site_1,site_1_r,site_2,site_2_r,w\n1,5,5,1,4\n2,4,4,2,6\n5,1,1,5,8\n"
    study = study_of(site_1=(WHOLE, ["1"]), site_2=(WHOLE, ["2"]), other=(WHOLE, ["3"]))
    assert spread(study, "*_r", "reverse site_* from 1 to 5") == [
        ("site_1_r", "reverse site_1 from 1 to 5"), ("site_2_r", "reverse site_2 from 1 to 5"),
    ]  # fmt: skip
    assert spread(study, "*_z", "z(site_*) over all")[1] == ("site_2_z", "z(site_2) over all")
    assert spread(study, "a", "site_1 *2") == [("a", "site_1 *2")]
    assert spread(study, "t_*", "split other by ';': 'a*'; 'b'") == [("t_*", "split other by ';': 'a*'; 'b'")]
    with pytest.raises(BadInput, match="No variable is called like plot_"):
        spread(study, "*_r", "reverse plot_* from 1 to 5")
    with pytest.raises(BadInput, match="derivation 1"):
        derive_file(path, ["w = w * 2"])


@pytest.mark.parametrize("amount", ["width 0.5", "width -1", "width 99999999999", "decimals -1", "decimals 0.5"])
def test_amounts_that_are_none(amount: str) -> None:
    """A width or decimals that cannot be are told at their character."""
    study = study_of(hours=(WHOLE, ["1"]))
    with pytest.raises(BadFormula, match="This is a whole number") as refused:
        held(f"convert hours to text {amount}", study)
    assert refused.value.span[0] == len("convert hours to text ") + amount.index(" ") + 1
    with pytest.raises(BadFormula, match="A width goes to 200"):
        derive(held("convert hours to text width 1000", study), study)
