"""Remedies: each puts right what was found, and is known by its effect."""

from typing import Any

import pytest

from rowtag.core.remedies import remedies
from tests.core.test_check_kinds import CASES, HOURS, RATIO, found, lines, one, study_of

WHOLE: dict[str, Any] = {"type": "integer", "codes": lines("Yes", "No"), "complete": True}


@pytest.mark.parametrize(
    ("check", "columns", "word", "left"),
    [
        ("undeclared missing", one(RATIO, [*HOURS, "999"]), "set aside as missing", 0),
        ("unlisted codes", one(WHOLE, ["1", "2", "7"]), "list them", 0),
        ("unlisted codes", one(WHOLE, ["1", "2", "7"]), "set aside as missing", 0),
        ("unreadable entries", one(RATIO, ["1", "n/a"]), "set aside as missing", 0),
        ("one answer in several spellings", one({}, ["Bus", "Bus", "bus"]), "spell all of them “Bus”", 0),
        ("kept as text", one({}, [*HOURS[:40], "about 30"]), "read them as whole numbers", 0),
        ("identifier as a measure", one(RATIO, [str(n) for n in range(100, 140)]), "make it an identifier", 0),
        ("longer than the width", one({"width": 2, "use": "open-ended"}, ["abc"]), "make it as wide as needed", 0),
        ("zeros apart", one(RATIO, [*HOURS, "0"]), "set aside as missing", 0),
    ],
)
def test_what_is_found_is_gone(check: str, columns: Any, word: str, left: int) -> None:
    """After the step the finding is gone, and every entry is still there."""
    study = study_of(*columns)
    (finding,) = found(study, check)
    step = next(each.step for each in remedies(study, finding) if each.word == word)
    after = step.apply(study).study
    assert len(found(after, check)) == left
    assert after.records.count == study.records.count and after.fill("v").blank == study.fill("v").blank


def test_a_skip_becomes_a_rule() -> None:
    """What the data show is a rule of the filter from then on, and its exceptions are checked by that."""
    study = study_of(*next(columns for name, columns, says in CASES if name == "a skip nobody told" and says))
    (finding,) = found(study, "a skip nobody told")
    (remedy,) = remedies(study, finding)
    after = remedy.step.apply(study).study
    assert [(skip.codes, skip.to) for skip in after.tag("holds").skips] == [(("2",), None)]
    assert not found(after, "a skip nobody told") and found(after, "answered though skipped")[0].count == 1


def test_where_somebody_has_to_look_first() -> None:
    """Many different entries are set aside by nobody at one go; a label is written by somebody."""
    study = study_of(*one(RATIO, [*HOURS, *(f"about {n}" for n in range(30))]))
    (finding,) = found(study, "unreadable entries")
    assert remedies(study, finding) == ()
    bare = study_of(*one({"label": ""}, ["x"]))
    assert remedies(bare, found(bare, "label wanted")[0]) == ()
