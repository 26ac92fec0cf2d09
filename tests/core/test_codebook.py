"""What the codebook needs beside steps: lists that are alike, renaming, suspects, spellings, several tags as one."""

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from rowtag.core.aside import candidates, occurrences
from rowtag.core.codelist import alike_lists
from rowtag.core.column import column_of_texts
from rowtag.core.errors import BadInput
from rowtag.core.propose import read_as
from rowtag.core.renaming import NamePattern, by_pairs, by_pattern, judged
from rowtag.core.spellings import near_duplicates
from rowtag.core.steps.codes import DropCodes, ListCodes, MarkMissing
from rowtag.core.steps.lists import DetachList, NameList, ShareList, UseList
from rowtag.core.steps.tags import Define, Rename
from rowtag.core.study import Records, Study, Variable
from rowtag.core.tables import decimals_found, frequency
from rowtag.core.tag import CodeLine, CodeSpan, MissingLine, Parts, Tag
from rowtag.core.together import differing, together
from rowtag.core.widths import longest_entry, needed_width
from tests import generate

AGREE = tuple(CodeLine(code=str(number), label=label) for number, label in enumerate(("No", "Perhaps", "Yes"), 1))


def study_of(**columns: tuple[list[str], Tag]) -> Study:
    """A study of named columns; a variable's id is its name."""
    size = max(len(entries) for entries, _ in columns.values())
    return Study(records=Records(size)).with_variables(
        (name, Variable(tag=tag.with_parts(name=name)), column_of_texts(entries))
        for name, (entries, tag) in columns.items()
    )


WHOLE = Tag(name="x", type="integer")
SITES = study_of(
    q7_1=(["1", "2", "9"], WHOLE.with_parts(codes=AGREE)),
    q7_2=(["2", "2", "3"], WHOLE.with_parts(codes=AGREE)),
    q7_3=(["3", "4", ""], WHOLE.with_parts(codes=(*AGREE, CodeLine(code="4", label="Other")))),
    notes=(["Tap", "tap ", "Hose"], Tag(name="x", use="open-ended")),
)


# Shared lists -----------------------------------------------------------------------------------


def shared() -> Study:
    """The first two site questions using one list."""
    return ShareList(list="list1", name="agree3", variables=("q7_1", "q7_2")).apply(SITES).study


def test_a_shared_list_changes_for_all() -> None:
    """A line changed through one tag changes for all users, and the step says which."""
    applied = ListCodes(variables=("q7_1",), lines=(CodeLine(code="9", label="Cannot say"),)).apply(shared())
    assert applied.full_sentence == ("Listed 9 “Cannot say” for q7_1; the list “agree3” changed, and q7_2 with it.")
    assert applied.variables == ("q7_1", "q7_2")
    assert [line.code for line in applied.study.codes("q7_2")] == ["1", "2", "3", "9"]
    assert not applied.study.tag("q7_2").codes, "the lines stand in one place"


def test_missing_codes_stay_with_the_tag() -> None:
    """A line that one tag sets aside stays in the shared list for the others, and comes back when taken off."""
    aside = MarkMissing(variables=("q7_1",), lines=(MissingLine(code="2", reason="other"),)).apply(shared()).study
    assert [line.label for line in aside.tag("q7_1").missing] == ["Perhaps"]
    assert not aside.tag("q7_2").missing and len(aside.codes("q7_2")) == 3
    rows = [(row.code, row.reading, row.count) for row in frequency(aside, "q7_1").rows]
    assert rows == [("1", "valid", 1), ("3", "valid", 0), ("9", "valid", 1), ("2", "missing", 1)]
    back = DropCodes(variables=("q7_1",), lines=(CodeSpan(code="2"),)).apply(aside).study
    assert not back.tag("q7_1").missing and back.codes("q7_1") == AGREE


def test_use_detach_and_drop() -> None:
    """A list is used in place of own lines; detached or dropped, its users keep the lines."""
    study = UseList(list="list1", variables=("q7_3",)).apply(shared()).study
    assert study.users_of("list1") == ("q7_1", "q7_2", "q7_3")
    apart = DetachList(variables=("q7_3",)).apply(study).study
    assert apart.tag("q7_3").codes == AGREE and apart.users_of("list1") == ("q7_1", "q7_2")
    with pytest.raises(BadInput, match="has no shared code list"):
        DetachList(variables=("q7_3",)).apply(apart)
    gone = NameList(list="list1", name=None).apply(study)
    assert gone.full_sentence == "Dropped the code list “agree3”; q7_1, q7_2 and q7_3 kept its lines."
    assert not gone.study.shelves["list"] and all(gone.study.codes(f"q7_{n}") == AGREE for n in (1, 2, 3))
    with pytest.raises(BadInput, match="called “Agree3” already"):
        ShareList(list="list2", name="Agree3", lines=AGREE).apply(study)


def test_own_lines_take_the_place_of_a_shared_list() -> None:
    """Lines set as a whole are the tag's own."""
    study = Define(variables=("q7_1",), parts=Parts(codes=AGREE[:2])).apply(shared()).study
    assert study.codes("q7_1") == AGREE[:2] and study.codes("q7_2") == AGREE


def test_lists_that_are_alike() -> None:
    """Equal lists, and nearly equal ones with the codes that differ; capitals in labels do not count."""
    loud = tuple(CodeLine(code=line.code, label=line.label.upper()) for line in AGREE)
    study = Define(variables=("q7_2",), parts=Parts(codes=loud)).apply(SITES).study
    equal, nearly = alike_lists(study)
    assert (equal.how, equal.variables) == ("equal", ("q7_1", "q7_2"))
    assert (nearly.how, nearly.variables, nearly.differing) == ("nearly equal", ("q7_1", "q7_2", "q7_3"), ("4",))
    assert alike_lists(study_of(a=(["1"], WHOLE.with_parts(codes=AGREE)))) == []


# Renaming ---------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("pattern", "expected"),
    [
        ({"old": "q7_{n}", "new": "site_{n}"}, {"q7_1": "site_1", "q7_2": "site_2", "q7_3": "site_3"}),
        ({"old": "q7_{n}", "new": "site_{n}", "start": 9, "digits": 3},
         {"q7_1": "site_009", "q7_2": "site_010", "q7_3": "site_011"}),
        ({"strip": "q7_", "new": "s{x}"}, {"q7_1": "s1", "q7_2": "s2", "q7_3": "s3", "notes": "snotes"}),
        ({"case": "upper"}, {"q7_1": "Q7_1", "q7_2": "Q7_2", "q7_3": "Q7_3", "notes": "NOTES"}),
        ({"old": "{x}_{n}", "new": "{n}{x}"}, {"q7_1": "1q7", "q7_2": "2q7", "q7_3": "3q7"}),
        ({"old": "none", "new": "b"}, {}),
    ],
)  # fmt: skip
def test_names_by_pattern(pattern: dict[str, object], expected: dict[str, str]) -> None:
    """Numbers found or counted, padded; any text; prefix and case."""
    assert by_pattern(SITES, SITES.order, NamePattern.model_validate(pattern)) == expected


def test_names_by_pairs_and_what_is_wrong_with_them() -> None:
    """Two columns as they are pasted; earlier names are known; each fault is said with a name that works."""
    study = Rename(names={"notes": "remarks"}).apply(SITES).study
    assert study.variable("notes").former == ("notes",)
    names, unknown = by_pairs(study, "Q7_1\tsite 1\nq7_2 -> remarks\nnotes, comment\nq99\tx\nq7_3")
    assert names == {"q7_1": "site 1", "q7_2": "remarks", "notes": "comment"}
    assert unknown == ["q99\tx", "q7_3"]
    assert [(each.old, each.new, each.suggestion) for each in judged(study, names)] == [
        ("q7_1", "site 1", "site_1"), ("q7_2", "remarks", ""), ("remarks", "comment", "")
    ]  # fmt: skip
    twice = judged(study, {"q7_1": "a", "q7_2": "A"})
    assert twice[1].problem == "Another variable is called “A” already." and twice[1].suggestion == "A_2"
    with pytest.raises(BadInput, match="stands twice"):
        by_pattern(study, study.order, NamePattern(old="{n}_{n}"))


def test_earlier_names_are_remembered_once() -> None:
    """There and back leaves only what the name is not."""
    study = Rename(names={"notes": "b"}).apply(SITES).study
    study = Rename(names={"notes": "c"}).apply(study).study
    assert study.variable("notes").former == ("notes", "b")
    assert Rename(names={"notes": "notes"}).apply(study).study.variable("notes").former == ("b", "c")


@settings(deadline=None)
@given(generate.studies(), st.sampled_from(["{x}", "a{x}", "v{n}", "{x}_{n}"]), st.integers(0, 99))
def test_what_is_judged_good_can_be_renamed(study: Study, new: str, start: int) -> None:
    """Where no name has a problem the step goes through; where one has, it is refused."""
    names = by_pattern(study, study.order, NamePattern(new=new, start=start))
    if not names:
        return
    if any(each.problem for each in judged(study, names)):
        with pytest.raises(BadInput):
            Rename(names=names).apply(study)
    else:
        renamed = Rename(names=names).apply(study).study
        assert {id: renamed.tag(id).name for id in names} == names


# Missing ----------------------------------------------------------------------------------------

ANSWERS = study_of(
    a=(["1", "2", "3", "4", "5", "-9", "n/a"], WHOLE),
    b=(["1", "2", "3", "99", "99", "-9"], WHOLE.with_parts(missing=(MissingLine(code="-9"),))),
    c=(["1", "2", "9"], WHOLE.with_parts(codes=(CodeLine(code="9", label="Nine or more"),))),
    d=(["N/A", "Own", " "], Tag(name="x")),
)


def test_candidates_over_the_study() -> None:
    """What may stand for missing, where and how often; what is set aside or has a label is not."""
    found = [(each.entry, each.counts) for each in candidates(ANSWERS, ANSWERS.order)]
    assert found == [("99", {"b": 2}), ("-9", {"a": 1}), ("N/A", {"d": 1}), ("n/a", {"a": 1})]
    assert not candidates(ANSWERS, ["c"])


@settings(deadline=None)
@given(generate.studies(), generate.missing_lines)
def test_occurrences_are_what_becomes_missing(study: Study, line: MissingLine) -> None:
    """The counts shown beforehand are the entries that read as missing once that line is the only one."""
    id = study.order[0]
    bare = Define(variables=(id,), parts=Parts(missing=())).apply(study).study
    marked = MarkMissing(variables=(id,), lines=(line,)).apply(bare).study
    assert occurrences(study, [id], [line])[id] == [marked.fill(id).missing]


# Texts, numbers, widths -------------------------------------------------------------------------


def test_spellings() -> None:
    """Texts that differ in capitals, blanks and signs at their ends; the commonest first."""
    study = study_of(a=(["Shared", "shared ", "SHARED.", "Shared", "Own", "two  plots", "Two plots"], Tag(name="x")))
    found = [(each.entries, each.counts) for each in near_duplicates(study, "a")]
    assert found == [(("Shared", "shared", "SHARED."), (2, 1, 1)), (("two  plots", "Two plots"), (1, 1))]
    assert not near_duplicates(ANSWERS, "a")


def test_two_readings_side_by_side() -> None:
    """How a variable would read under another type, written as fits best, its missing codes as they are."""
    study = study_of(a=(["1,5", "2,25", "12 hrs", "-9"], Tag(name="x", missing=(MissingLine(code="-9"),))))
    decimal = read_as(study, "a", "decimal")
    assert (decimal.marks.decimal, decimal.fill.valid, decimal.fill.missing, decimal.unreadable) == (
        ",", 2, 1, ("12 hrs",)
    )  # fmt: skip
    assert read_as(study, "a", "integer").fill.unreadable == 3
    assert read_as(study, "a", "text").fill.valid == 3


def test_widths_and_decimals_as_found() -> None:
    """The longest entry without spaces at its ends, used entries only; digits behind the mark."""
    study = study_of(a=(["1.50", " 12.125  ", "x"], WHOLE.with_parts(type="decimal")), b=([""], WHOLE))
    assert (needed_width(study, "a"), longest_entry(study, "a").strip(), decimals_found(study, "a")) == (6, "12.125", 3)
    assert (needed_width(study, "b"), decimals_found(study, "b")) == (1, None)


# Several tags as one ----------------------------------------------------------------------------


def test_several_tags_as_one() -> None:
    """What differs is named; values are joined, with the number of variables in which they stand so."""
    study = Define(variables=("q7_2",), parts=Parts(level="ordinal", label="Shade")).apply(SITES).study
    assert differing(study, ["q7_1", "q7_2", "q7_3"]) == {"level", "label", "codes"}
    joined = together(study, ["q7_1", "q7_2", "q7_3"])
    rows = [
        (row.code, row.count, row.listed, within) for row, within in zip(joined.values.rows, joined.within, strict=True)
    ]
    assert rows == [
        ("1", 1, True, 3), ("2", 3, True, 3), ("3", 2, True, 3), ("4", 1, True, 1), ("9", 1, False, 1)
    ]  # fmt: skip
    other = ListCodes(variables=("q7_1",), lines=(CodeLine(code="1", label="Never"),)).apply(study).study
    assert together(other, ["q7_1", "q7_2"]).mixed == {0}
    assert not differing(study, ["q7_1"]) and not together(study, ["q7_1"]).mixed


@settings(deadline=None)
@given(generate.studies())
def test_together_counts_every_entry_once(study: Study) -> None:
    """The fill of several is the sum of theirs, and coded variables' rows add up to what is not blank."""
    joined = together(study, study.order)
    fill = joined.values.fill
    assert fill.valid + fill.missing + fill.blank + fill.stray == study.records.count * len(study.order)
    if all(study.tag(id).wants_codes for id in study.order):
        assert sum(row.count for row in joined.values.rows) == fill.valid + fill.missing + fill.stray
