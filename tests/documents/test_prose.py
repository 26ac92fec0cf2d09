"""Documents as people write them: the corpus, what must never be made up, and lines that stay unplaced."""

import pytest

from rowtag.demo.generator import questionnaire
from rowtag.demo.questions import QUESTIONS
from rowtag.documents.codes import code_line
from rowtag.documents.meaning import read_meaning
from rowtag.documents.reasons import missing_reason
from rowtag.documents.tolerant import read_document
from tools.codebooks import KINDS, REPORT, documents, report, score

LISTS = [
    ("sex (1 = man, 2 = woman)", "sex", [("1", "man"), ("2", "woman")]),
    ("sells (1=food, 2=clothes, 3 = tools; 4: other things", "sells",
     [("1", "food"), ("2", "clothes"), ("3", "tools"), ("4", "other things")]),
    ("a sign outside? 0/1 = no/yes", "a sign outside?", [("0", "no"), ("1", "yes")]),
    ("mood, 1-3: bad, fair, good", "mood", [("1", "bad"), ("2", "fair"), ("3", "good")]),
    ("cards?  1. = yes.  2. = no.", "cards?", [("1", "yes"), ("2", "no")]),
    ("1:YES, 0:NO", "", [("1", "YES"), ("0", "NO")]),
    ("tired (1 = never ... 5 = always)", "tired", [("1", "never"), ("5", "always")]),
    ("rated from 1 (not at all) to 6 (very much)", "rated", [("1", "not at all"), ("6", "very much")]),
    ("very poor (1) to very good (5)", "", [("1", "very poor"), ("5", "very good")]),
    ("Do you smoke? Yes (1), No (2)", "Do you smoke?", [("1", "Yes"), ("2", "No")]),
    ("working? full time = 1, part time = 2", "working?", [("1", "full time"), ("2", "part time")]),
    ("card; E = everyday, S = school", "card", [("E", "everyday"), ("S", "school")]),
    ("house? (\"no\",\"yes\")", "house?", [("no", ""), ("yes", "")]),
    ("mood, a factor with levels bad, good", "mood", [("bad", ""), ("good", "")]),
    ("cups: 0 none, 1 one or two", "cups", [("0", "none"), ("1", "one or two")]),
    ("1 if married, 0 otherwise", "", [("1", "married"), ("0", "otherwise")]),
]  # fmt: skip
NONE_THERE = [
    "born 1950-1960", "ratio 1:2 of sand", "measured at 10:30 in room 4", "wave of the survey, 1 or 2",
    "of these, 120 = 40 % had been there", "BMI = 25", "Width in cm. See page 3.", "the 2nd of 3 visits",
    "used (1) for dances, (2) for meetings", "Note: see below; Source: the committee", "a - b - c",
    "3.5 to 4 km",
]  # fmt: skip


@pytest.mark.parametrize(("text", "rest", "codes"), LISTS)
def test_lists_within_a_text(text: str, rest: str, codes: list[tuple[str, str]]) -> None:
    """Lists are found as people write them, and what stands before them stays."""
    said = read_meaning(text)
    assert ([(each.code, each.label) for each in said.codes], said.rest) == (codes, rest)


@pytest.mark.parametrize("text", NONE_THERE)
def test_no_code_is_made_up(text: str) -> None:
    """Numbers, ratios, times, dates and enumerations in prose are no codes, and the text stays as it was."""
    assert not read_meaning(text).codes


@pytest.mark.parametrize(
    ("text", "expected"),
    [
        ("(0 to 80)", ("0", "80")), ("eggs (min: 0, max: 28)", ("0", "28")), ("range: 1-12", ("1", "12")),
        ("from 1 to 14", ("1", "14")), ("Range 0-10. Missing = -9", ("0", "10")), ("5 to 4", None),
        ("wave 1 or 2", None),
    ],
)  # fmt: skip
def test_limits_said_in_passing(text: str, expected: tuple[str, str] | None) -> None:
    """Bounds are found where they are said to be some."""
    assert read_meaning(text).limits == expected


@pytest.mark.parametrize(
    ("line", "code", "label"),
    [
        ("1  Daily", "1", "Daily"), ("(1) Yes", "1", "Yes"), ("1. Yes", "1", "Yes"), ("1) Yes", "1", "Yes"),
        ("Yes (1)", "1", "Yes"), ("Yes = 1", "1", "Yes"), ("[ ] 1 Yes", "1", "Yes"), ("-9 refused", "-9", "refused"),
        ("2 no   -> go to Q3", "2", "no"), ("a: excellent", "a", "excellent"), ("19__ __", None, None),
    ],
)  # fmt: skip
def test_a_line_with_one_code(line: str, code: str | None, label: str | None) -> None:
    """One code a line, whatever stands between; where to go on is no part of a label."""
    found = code_line(line)
    assert (found and found[0].code, found and found[0].label) == (code, label)


@pytest.mark.parametrize(
    ("label", "reason", "sure"),
    [
        ("Refused", "refused", True), ("Don’t know", "don't know", False), ("n/a", "not applicable", True),
        ("no answer", "no answer", True), ("missing", "other", True), ("could not see (missing)", "other", True),
        ("does not apply at all", None, False), ("No", None, False), ("not at all", None, False),
    ],
)  # fmt: skip
def test_reasons_for_missing(label: str, reason: str | None, sure: bool) -> None:
    """Labels that say that an answer is missing, and those that only sound alike."""
    assert missing_reason(label)[:2] == (reason, sure)


def test_the_corpus_is_read() -> None:
    """At least 25 codebooks; of those to learn from at least 95 % of each kind of fact, and no code made up."""
    assert len(documents("known")) + len(documents("apart")) >= 25
    found = score("known")
    for kind in KINDS:
        assert found.recall(kind) >= 0.95, kind
    assert not found.invented["codes"] and not found.invented["missing codes"]


def test_the_figures_in_the_docs_are_these() -> None:
    """docs/corpus.md is what `make corpus` writes now."""
    assert REPORT.read_text("utf-8") == report()


def test_prose_says_nothing_of_variables() -> None:
    """A report, a letter and nothing at all describe no variable; every line stays unplaced."""
    text = "Dear Ruth,\n\nthank you for it. Costs: about 4000. See page 3 - it is short.\n\n1. Introduction\n2. End\n"
    found = read_document(text)
    assert found.variables == () and found.unplaced == (1, 3, 5, 6)
    assert read_document("").variables == ()


def test_names_of_the_study_make_sure() -> None:
    """A line that could be prose is a variable where the study has its name."""
    text = "Rent: paid in spring.\n"
    assert not read_document(text).variables
    assert [each.name for each in read_document(text, {"Rent"}).variables] == ["Rent"]


def test_one_variable_described_twice_is_less_sure() -> None:
    """The same name with other codes: one description, its certainty halved, and the lines named."""
    text = "hut - first (1 = a, 2 = b)\nbed - other (1 = a, 2 = b)\nhut - second (1 = c, 2 = d)\n"
    found = {each.name: each for each in read_document(text).variables}
    assert found["hut"].certainty <= 0.5 < found["bed"].certainty
    assert "lines 1 and 3 both describe it, with other codes" in found["hut"].reason


def test_the_demo_questionnaire() -> None:
    """The demo's questionnaire gives at least nine in ten of its code lists, to the letter."""
    found = {each.name: each for each in read_document(questionnaire()).variables}
    wanted = [each for each in QUESTIONS if each.codes and any(each.codes.values())]
    right = [
        each
        for each in wanted
        if each.name in found
        and {line.code: line.label for line in found[each.name].parts.codes} == each.codes
        and {line.code for line in found[each.name].parts.missing} == {code for code, _ in each.missing}
    ]
    assert len(right) >= 0.9 * len(wanted)


def test_lists_that_wrap_and_lists_told_elsewhere() -> None:
    """A list in running text goes on where its line ends; "same as" brings another variable's codes."""
    found = read_document(
        "hut     : Kind of hut, 1 = of wood, 2 = of bricks or\n          stone, 3 = a tent,\n"
        "          4 = none, 5 = other\nhut_old : The hut before. Same as hut.\nbeds    : number of beds\n"
    ).variables
    assert [each.name for each in found] == ["hut", "hut_old", "beds"]
    labels = ["of wood", "of bricks or stone", "a tent", "none", "other"]
    assert [[line.label for line in each.parts.codes] for each in found] == [labels, labels, []]
    assert [each.parts.label for each in found] == ["Kind of hut", "The hut before", "number of beds"]
