"""Where answers lead in a questionnaire, and what interviewers are told between its questions."""

import pytest

from rowtag.documents.document import understand

ASKED = """Section A

Interviewer: read out the introduction.

1. Do you hold a plot at the moment?
   □ Yes
   □ No  → go to question 4

Read out all answers.

2. How many hours a week are you there?
   ____ hours

3. Which beds do you have? Tick all that apply.
   □ Beans
   □ Onions

4. Would you like a plot?
   1 Yes
   2 No, go to section B
   3 Don't know (go to 7)

If "Yes", go to question 6.

5. Why not?
   ______

Section B

INTERVIEWER: SHOW CARD 2

6. How content are you with the site?
   1 Content
   2 Not content   Go to the end
   3 I go to 2 sites

7. Your age?
   ____ years
"""


def test_where_answers_lead() -> None:
    """By number, by section, to the end; told beside an answer or in a line of its own."""
    found = {each.name: each for each in understand(ASKED).variables}
    assert [(skip.codes, skip.to) for skip in found["q1"].skips] == [(("2",), "q4")]
    assert [(skip.codes, skip.to) for skip in found["q4"].skips] == [(("2",), "q6"), (("3",), "q7"), (("1",), "q6")]
    assert [(skip.codes, skip.to) for skip in found["q6"].skips] == [(("2",), "")]
    assert all(skip.proposed and skip.said for each in found.values() for skip in each.skips)
    assert [line.label for line in found["q6"].parts.codes] == ["Content", "Not content", "I go to 2 sites"]
    assert len(found["q4"].parts.codes) + len(found["q4"].parts.missing) == 3


def test_what_interviewers_are_told() -> None:
    """What stands between two questions is told of the one that follows, and is kept in its note."""
    found = {each.name: each.parts.note for each in understand(ASKED).variables}
    assert "read out the introduction" in found["q1"] and "Read out all answers" in found["q2"]
    assert "SHOW CARD 2" in found["q6"] and not found["q4"] and not found["q5"]


@pytest.mark.parametrize(
    ("said", "to"),
    [("→ 3", "q3"), ("-> Q3", "q3"), ("(passez à la question 3)", "q3"), ("; weiter mit Frage 3", "q3"),
     ("\tGO TO 3", "q3"), ("- skip to the end of the form", ""), ("→ go to 1", None), ("→ go to 99", None)],
)  # fmt: skip
def test_ways_of_leading_on(said: str, to: str | None) -> None:
    """Arrows and words of several languages; what leads back or nowhere stays a note."""
    text = f"1. Do you grow beans?\n1  Yes\n2  No {said}\n\n2. How many?\n___ rows\n\n3. Do you water?\n1  Yes\n2  No\n"
    first = understand(text).variables[0]
    assert [line.label for line in first.parts.codes] == ["Yes", "No"]
    assert [skip.to for skip in first.skips] == ([] if to is None else [to])
    assert (to is None) == ("No: " in first.parts.note)
