"""Find and replace: whole entries as they are read, parts, patterns, labels, blanks, zeros; what cannot be is said."""

import re

import pytest
from hypothesis import given
from hypothesis import strategies as st

from rowtag.core.column import column_of_texts
from rowtag.core.errors import BadInput
from rowtag.core.steps.replace import ReplaceFound
from rowtag.core.study import Records, Study, Variable
from rowtag.core.tag import CodeLine, MissingLine, Tag
from tests.core.test_answers import entries_of

LINES = (
    CodeLine(code="1", label="Own plot"),
    CodeLine(code="2", label="Shared plot"),
    CodeLine(code="3", label="Lent"),
)


def study_of(entries: list[str], records: int = 0, kind: str = "integer") -> Study:
    tag = Tag(name="v", type=kind, codes=LINES, missing=(MissingLine(code="-9", label="Won’t say"),))
    return Study(records=Records(records or len(entries))).with_variables(
        [("v", Variable(tag=tag), column_of_texts(entries))]
    )


@pytest.mark.parametrize(
    ("before", "step", "after"),
    [
        (["0", "00", "0.0", "10", ""], {"find": "0", "by": "-8"}, ["-8", "-8", "-8", "10", ""]),
        (["1", "", " ", "2"], {"find": "", "by": "-9"}, ["1", "-9", "-9", "2"]),
        (["12 hrs", "3 HRS", "4"], {"find": " hrs", "by": "", "how": "part"}, ["12", "3", "4"]),
        (["12 hrs", "3 HRS"], {"find": " hrs", "by": "", "how": "part", "case": True}, ["12", "3 HRS"]),
        (["1.5", "1x5", "–", "a(b"], {"find": ".", "by": ",", "how": "part"}, ["1,5", "1x5", "–", "a(b"]),
        (["–", "a(b"], {"find": "–", "by": r"\\1", "how": "part"}, [r"\\1", "a(b"]),
        (["07-2026"], {"find": r"(\d+)-(\d+)", "by": r"\2/\1", "how": "pattern"}, ["2026/07"]),
        (["", "1"], {"find": "^$", "by": "-9", "how": "pattern"}, ["-9", "1"]),
        (["1", "2", "x", "-9"], {"find": "own PLOT", "by": "lent", "labels": True}, ["3", "2", "x", "-9"]),
        (["1", "2", "3"], {"find": "Shared", "by": "Own", "how": "part", "labels": True}, ["1", "1", "3"]),
        (["1", "-9"], {"find": "won't say", "by": "Lent", "labels": True}, ["1", "3"]),
        (["1", "2"], {"find": "plot", "by": "bed", "how": "part", "labels": True}, ["Own bed", "Shared bed"]),
    ],
)
def test_what_is_replaced(before: list[str], step: dict[str, object], after: list[str]) -> None:
    """Only what is found is another entry afterwards; where a label becomes another one, its code is put in place."""
    applied = ReplaceFound.model_validate({"variables": ("v",), **step}).apply(study_of(before))
    assert [row[0] for row in entries_of(applied.study)] == after
    changed = sum(old != new for old, new in zip(before, after, strict=True))
    assert applied.made.entries == changed
    assert sum(pair.count for each in applied.made.evidence for pair in each.pairs) == changed


def test_blanks_that_nobody_wrote() -> None:
    """Records added without entries have blanks like any other."""
    applied = ReplaceFound(variables=("v",), find="", by="-9").apply(study_of(["1"], records=4))
    assert [row[0] for row in entries_of(applied.study)] == ["1", "-9", "-9", "-9"]


@pytest.mark.parametrize(
    ("step", "said"),
    [
        ({"find": "(", "by": "", "how": "pattern"}, "The pattern cannot be used: .*missing"),
        ({"find": "(?=a)", "by": "", "how": "pattern"}, "The pattern cannot be used"),
        ({"find": "1", "by": r"\1", "how": "pattern"}, "The pattern cannot be used"),
        ({"find": "", "by": "x", "how": "part"}, "at least one character"),
        ({"find": "77", "by": "x"}, "Nothing is “77” in v"),
        ({"find": "1", "by": "1"}, "Nothing is “1” in v"),
    ],
)
def test_what_cannot_be_is_said(step: dict[str, object], said: str) -> None:
    """Patterns that are none, groups that are not there, and what is not found: a sentence, nothing changed."""
    with pytest.raises(BadInput, match=said):
        ReplaceFound.model_validate({"variables": ("v",), **step}).apply(study_of(["1", "2"]))


def test_no_pattern_takes_long() -> None:
    """What makes other ways of matching hang is done in time with the length of the text."""
    study = study_of(["a" * 5_000 + "b", "1"], kind="text")
    ReplaceFound(variables=("v",), find="^(a+)+b$", by="x", how="pattern").apply(study)


SIGNS = st.text("aB1. (\\\\-", max_size=4)


@given(st.lists(SIGNS, min_size=1, max_size=8), SIGNS.filter(bool), SIGNS, st.booleans())
def test_parts_are_plain_text(before: list[str], find: str, by: str, case: bool) -> None:
    """No sign of a part or of what replaces it means anything but itself."""
    after = [re.sub(re.escape(find), lambda _: by, entry, flags=0 if case else re.I) for entry in before]
    step = ReplaceFound(variables=("v",), find=find, by=by, how="part", case=case)
    study = study_of(before, kind="text")
    if before == after:
        with pytest.raises(BadInput, match="Nothing is"):
            step.apply(study)
    else:
        assert [row[0] for row in entries_of(step.apply(study).study)] == after
