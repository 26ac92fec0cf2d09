"""Questionnaires as respondents saw them become variables."""

from pathlib import Path

import pytest

from rowtag.core.codebook import Described
from rowtag.documents.document import read_codebook, understand
from tools import made


def _codes(each: Described) -> list[tuple[str | None, str]]:
    return [(line.code, line.label) for line in (*each.parts.codes, *each.parts.missing)]


def test_a_questionnaire_becomes_variables(tmp_path: Path) -> None:
    """Options in lists, a grid, tick-all, a ranking, numbers to write in, open answers; thanks are no answer."""
    found = {each.name: each for each in read_codebook(made.questionnaire(tmp_path / "q.docx"), "q.docx").variables}
    assert list(found) == ["Q1", "Q2", "Q3a", "Q3b", "Q4a", "Q4b", "Q4c", "Q5a", "Q5b", "Q6a", "Q6b", "Q7"]
    assert _codes(found["Q1"]) == [("1", "Alone"), ("2", "Shared"), ("3", "Other, please write in")]
    assert [(skip.codes, skip.to, skip.said) for skip in found["Q1"].skips] == [(("1",), "Q3a", "Please go to Q3")]
    assert found["Q1"].parts.question == "How do you hold your plot?"
    assert found["Q2"].parts.limits.high == "60" and not _codes(found["Q2"])
    assert _codes(found["Q3b"]) == [("1", "Poor"), ("2", "Fair"), ("3", "Good"), ("8", "Don’t know")]
    assert (found["Q3b"].parts.label, found["Q3b"].battery) == ("The gates", "How would you rate these?")
    assert _codes(found["Q4c"]) == [("1", ""), ("0", "")] and found["Q4c"].parts.label == "Something else"
    assert _codes(found["Q5a"]) == [("1", "most important"), ("2", "least important")]
    assert found["Q6b"].parts.label == "Water butts" and not _codes(found["Q6b"]) and not _codes(found["Q7"])


def test_names_and_codes_at_the_edge() -> None:
    """Names in square brackets, codes behind tabs or in brackets, several options a line, scales of figures."""
    found = {
        each.name: each
        for each in understand(
            "Q1. How do you hold it? [tenure]\n\n□ alone (1)\t□ shared (2)\n\n□ don’t know (8)\n\n"
            "Q2. What do you grow? Tick all that apply.\n\n☐ Beans\t[beans]\n\n☐ Kale\t[kale]\n\n"
            "Q3. All in all, how content are you? [content]\n\nnot at all  0  1  2  3  4  fully\n\n"
            "Q4. How long is the fence? [fence]\n\n____ metres  ☐ do not know (999)\n"
        ).variables
    }
    assert list(found) == ["tenure", "beans", "kale", "content", "fence"]
    assert (
        _codes(found["tenure"]) == [("1", "alone"), ("2", "shared"), ("8", "don’t know")]
        and found["tenure"].also == "Q1"
    )
    assert found["beans"].battery == "What do you grow?"
    assert _codes(found["content"]) == [("0", "not at all"), ("1", ""), ("2", ""), ("3", ""), ("4", "fully")]
    assert _codes(found["fence"]) == [("999", "do not know")]


def test_names_told_in_a_table_at_the_end() -> None:
    """A table that gives names for the numbers of questions renames them; one named twice is also an open answer."""
    names = ((1, "eau"), (2, "sol"), (3, "abri"), (4, "haie"), (5, "banc"), (5, "banc_txt"))
    text = "".join(f"Q{number}\tQuestion {number} ?\n  - Oui\n  - Non\n\n" for number in range(1, 6))
    text += "| Question | Variable | Remarque |\n|---|---|---|\n"
    text += "".join(f"| Q{number} | {name} | |\n" for number, name in names)
    found = {each.name: each for each in understand(text).variables}
    assert list(found) == ["eau", "sol", "abri", "haie", "banc", "banc_txt"]
    assert _codes(found["abri"]) == [("1", "Oui"), ("2", "Non")] and not _codes(found["banc_txt"])


def test_numbered_prose_is_no_questionnaire() -> None:
    """Numbered remarks without questions or answers make no variables."""
    text = "".join(
        f"{number}. The committee met in the hut and agreed on point {number}.\n\n" for number in range(1, 9)
    )
    assert not understand(text).variables


def test_names_in_round_brackets() -> None:
    """A word in brackets at the end of nearly every question is its name; one may begin within a paragraph."""
    found = understand(
        "Q1. Which gate do you use? (gate)\n1  North\n2  Mill\nQ2. How long is the way? (way)\n___ minutes\n\n"
        "Q3. Do you have a hut? (hut)\n1  Yes\n2  No\n\nQ4. Your year of birth? (born)\n19__ __\n"
    ).variables
    assert [(each.name, each.also) for each in found] == [
        ("gate", "Q1"), ("way", "Q2"), ("hut", "Q3"), ("born", "Q4"),
    ]  # fmt: skip
    assert _codes(found[0]) == [("1", "North"), ("2", "Mill")] and not _codes(found[1])


def test_codes_that_are_not_printed_are_said_to_be_counted() -> None:
    """Options that bear no codes are counted in their order, and the variable says so; printed codes need no word."""
    boxes = "\n".join(
        f"Q{number}\tHow good is part {number}?\n\n- ☐ Bad\n- ☐ Fair\n- ☐ Good\n" for number in range(1, 4)
    )
    printed = "Q4\tHow do you hold it?\n\n  1.\tAlone\n  2.\tShared\n"
    *counted, last = understand(f"{boxes}\n{printed}").variables
    assert [_codes(each) for each in counted] == [[("1", "Bad"), ("2", "Fair"), ("3", "Good")]] * 3
    assert all("none is printed" in each.parts.note for each in counted) and not last.parts.note


@pytest.mark.parametrize(
    ("answers", "codes"),
    [
        (("Very satisfied", "Satisfied", "Dissatisfied", "Don’t know"), "3214"),
        (("Never", "Sometimes", "Always"), "123"),
        (("60 and over", "35 to 59", "under 35"), "321"),
        (("Yes", "No"), "12"),
        (("Good", "Poor", "Fair"), "123"),
        (("Always", "Don’t know", "Never"), "123"),
    ],
)
def test_codes_that_are_not_printed(answers: tuple[str, ...], codes: str) -> None:
    """Counted in the order of the answers, low for low where their words run from high to low; in grids, too."""
    listed = "".join(
        f"{number}. And {number}?\n\n" + "".join(f"- ☐ {each}\n" for each in answers) + "\n" for number in (1, 2, 3)
    )
    head = f"4. And these?\n\n|  | {' | '.join(answers)} |\n|{'---|' * (len(answers) + 1)}\n"
    rows = "".join(f"| The {item} |{' ☐ |' * len(answers)}\n" for item in ("tap", "hut"))
    found = understand(listed + head + rows).variables
    for each in (found[0], found[-1]):
        assert {line.label: line.code for line in (*each.parts.codes, *each.parts.missing)} == dict(
            zip(answers, codes, strict=True)
        )


def test_instructions_are_kept() -> None:
    """What a questionnaire tells about filling in is none of the wording, and kept in the note."""
    text = "1. How is it held? (tick one)\n\n- ☐ Alone\n- ☐ Shared\n\n2. What grows? Tick all that apply.\n\n"
    first, second, *_ = understand(text + "- ☐ Kale\n- ☐ Peas\n\n3. Anything else?\n\n____\n").variables
    assert first.parts.question == "How is it held?" and first.parts.note.startswith("instruction: tick one; ")
    assert (second.battery, second.parts.note) == ("What grows?", "instruction: Tick all that apply.")
