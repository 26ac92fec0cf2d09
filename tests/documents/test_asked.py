"""Questionnaires without numbers, with numbers that begin anew, and texts of questions that are none."""

import pytest

from rowtag.core.codebook import Described
from rowtag.documents.document import understand


def _read(text: str, known: tuple[str, ...] = ()) -> dict[str, Described]:
    return {each.name: each for each in understand(text, known).variables}


def _labels(each: Described) -> list[str]:
    return [line.label for line in (*each.parts.codes, *each.parts.missing)]


LINES = """Fennel Row survey

How do you hold your plot?
[ ] Alone
[ ] Shared

How many hours in a usual week do you spend there?
____ hours

What do you grow?
(tick all that apply)
[ ] Beans
[ ] Kale

Gender
1 Female
2 Male
9 Refused

Anything else you want to tell us?
"""
MARKED = """# Fennel Row survey

**How do you hold your plot?**

- ☐ Alone
- ☐ Shared

**In which year did you take it on?**

____

**How satisfied are you with the following?**

| | Very | Not at all |
|---|---|---|
| The water supply | ☐ | ☐ |
| The paths | ☐ | ☐ |
"""
BESIDE = """Plot number: ______

How do you hold it?    ( ) alone   ( ) shared

Do you keep bees?      ( ) yes     ( ) no
"""
TABLE = """| How do you hold your plot? | □ alone □ shared |
|---|---|
| Hours in a usual week? | ____ |
| Do you keep bees? | □ yes □ no |
"""


def test_questions_without_numbers() -> None:
    """What is asked and shows where to answer makes variables, named by key words; one without an answer is open."""
    found = _read(LINES)
    assert list(found) == ["hold_plot", "hours_week", "grow_beans", "grow_kale", "gender", "anything_else"]
    assert _labels(found["hold_plot"]) == ["Alone", "Shared"] and found["hold_plot"].certainty <= 0.8
    assert found["hours_week"].parts.question == "How many hours in a usual week do you spend there?"
    assert (found["grow_kale"].battery, found["grow_kale"].parts.label) == ("What do you grow?", "Kale")
    assert [line.code for line in found["gender"].parts.missing] == ["9"] and not _labels(found["anything_else"])


@pytest.mark.parametrize(
    ("text", "names"),
    [
        (MARKED, ["hold_plot", "year", "satisfied_water", "satisfied_paths"]),
        (BESIDE, ["plot_number", "hold", "keep_bees"]),
        (TABLE, ["hold_plot", "hours_week", "keep_bees"]),
    ],
    ids=["bold, with bullets and a grid", "beside", "in a table"],
)
def test_however_they_are_set(text: str, names: list[str]) -> None:
    """Bold lines, lists of boxes, grids, answers beside the question, tables of questions and answers."""
    found = _read(text)
    assert list(found) == names
    assert all(len(_labels(each)) == 2 for name, each in found.items() if name.startswith(("hold", "sat", "keep")))


def test_numbers_in_a_table() -> None:
    """A table of numbers, questions and answers is a numbered questionnaire."""
    rows = [
        ("1.", "How is it held?", "□ alone | □ shared"),
        ("2.", "Hours?", "____ | "),
        ("3.", "Bees?", "□ yes | □ no"),
    ]
    text = "\n".join(f"| {' | '.join(row)} |" for row in [rows[0], ("---", "---", "--- | ---"), *rows[1:]])
    found = _read(text)
    assert list(found) == ["q1", "q2", "q3"] and _labels(found["q3"]) == ["yes", "no"]


ASKED = "{0}1. How is it held?\n\n[ ] Alone\n\n[ ] Shared\n\n{0}2. Hours a week?\n\n____ hours\n\n"


@pytest.mark.parametrize(
    ("text", "names"),
    [
        ("Section A: Your plot\n\n" + ASKED.format("") + "Section B: Yourself\n\n" + ASKED.format(""),
         ["a1", "a2", "b1", "b2"]),
        ("## Plots\n\n" + ASKED.format("") + "## Hut\n\n" + ASKED.format(""), ["s1q1", "s1q2", "s2q1", "s2q2"]),
        ("".join(ASKED.format(letter) for letter in "ABC"), ["A1", "A2", "B1", "B2", "C1", "C2"]),
    ],
    ids=["lettered sections", "headings", "letters before the numbers"],
)  # fmt: skip
def test_numbers_that_begin_anew(text: str, names: list[str]) -> None:
    """In every section the questions are found, told apart by it, and their answers are their own."""
    found = _read(text)
    assert list(found) == names
    assert [_labels(each) for each in found.values()] == [["Alone", "Shared"], []] * (len(names) // 2)


QUESTIONS = [("How do I get a plot?", "Write to us", "Wait"), ("What is it?", "40 a year", "20 for half"),
             ("Is it open?", "From 6 to 9", "On Sundays"), ("Who decides?", "The wardens", "The meeting")]  # fmt: skip


@pytest.mark.parametrize(
    "text",
    [
        "".join(f"{number}. {said[0]}\n\n- {said[1]}\n- {said[2]}\n\n" for number, said in enumerate(QUESTIONS, 1)),
        "".join(f"**{said[0]}** {said[1]}.\n\n" for said in QUESTIONS),
        "".join(f"**{said[0]}**\n\n- {said[1]}\n- {said[2]}\n\n" for said in QUESTIONS),
        "".join(f"### {said[0]}\n\n{said[1]}, {said[2]}.\n\n" for said in QUESTIONS),
        "".join(f"Around the {said[1]}\n\n- [ ] Mend it\n- [ ] Paint it\n\n" for said in QUESTIONS),
    ],
    ids=["numbered", "bold, run in", "bold, listed", "headings", "things to do"],
)
def test_questions_of_other_people(text: str) -> None:
    """Questions that are answered below, and lists of what is to be done, ask nobody: no variable is made up."""
    assert not _read(text)


def test_names_of_the_study() -> None:
    """A question is what the study calls by its words, and keeps its number beside; where two could be, neither is."""
    found = _read(ASKED.format("") + "3. Which gate do you use?\n\n[ ] North\n\n[ ] Mill\n", ("hours", "gate", "uses"))
    assert [(name, each.also) for name, each in found.items()] == [("q1", ""), ("hours", "q2"), ("gate", "q3")]
    found = _read(ASKED.format("") + "3. Hours in the hut?\n\n____ hours\n", ("hours",))
    assert list(found) == ["q1", "q2", "q3"]
