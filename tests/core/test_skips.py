"""Skips: what they pass by, who breaks them, and what becomes of them when variables go or move."""

from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from rowtag.core.checks import findings_across, records_of
from rowtag.core.codebook import read_notation
from rowtag.core.codebook.telling import changed
from rowtag.core.codebook.whole import edited
from rowtag.core.column import column_of_texts
from rowtag.core.errors import BadInput, UnreadableFile
from rowtag.core.skips import breaking, kept, passed_by
from rowtag.core.steps.entries import SetEntries
from rowtag.core.steps.skips import SetSkips
from rowtag.core.steps.variables import Arrange, RemoveVariables
from rowtag.core.study import Records, Study, Variable
from rowtag.core.tag import MissingLine, Skip, Tag

NAMES = ("holds", "hours", "crop", "keen", "age")
BLANK_TOO = st.sampled_from(["", "1", "2", "02", "-9", "x"])


def asked(*rows: tuple[str, ...], skip: Skip | None = None) -> Study:
    """Records of five questions whole numbers each, of which -9 is missing; the first may have a skip."""

    def tag(name: str, **more: Any) -> Tag:
        return Tag(name=name, type="integer", missing=(MissingLine(code="-9"),), **more)

    variables = [
        (
            name,
            Variable(tag=tag(name, skips=(skip,) if skip and name == "holds" else ())),
            column_of_texts(list(column)),
        )
        for name, column in zip(NAMES, zip(*rows, strict=True) if rows else [()] * 5, strict=True)
    ]
    return Study(records=Records(len(rows))).with_variables(variables)


TO_KEEN = Skip(codes=("2",), to="keen")


@given(st.lists(st.tuples(*[BLANK_TOO] * 5), max_size=12))
def test_who_breaks_a_skip(rows: list[tuple[str, ...]]) -> None:
    """Who gave the code, however it is spelt, and has a valid entry in between: as told record by record."""
    study = asked(*rows, skip=TO_KEEN)
    taken = [row for row in rows if row[0] in ("2", "02")]
    broken = [at for at, row in enumerate(rows) if row in taken and {"1", "2", "02"} & {row[1], row[2]}]
    found = kept(study, "holds", TO_KEEN)
    assert (found.takes, found.breaks) == (len(taken), len(broken))
    assert breaking(study, "holds").tolist() == broken


def test_what_is_confirmed_is_checked() -> None:
    """A proposed skip is no rule yet; once confirmed its exceptions are a finding that leads to their records."""
    rows = [("1", "4", "1", "5", "40"), ("2", "", "-9", "4", "50"), ("2", "3", "", "1", "30")]
    study = asked(*rows, skip=TO_KEEN.model_copy(update={"proposed": True}))
    assert not findings_across(study)
    study = SetSkips(variable="holds", skips=(TO_KEEN,)).apply(study).study
    (finding,) = findings_across(study)
    assert finding.variables == ("holds", "hours", "crop") and finding.message.startswith("1 record skips")
    assert records_of(study, finding) == [3]
    mended = SetEntries(variable="hours", entries={3: ""}).apply(study).study
    assert not findings_across(mended)


def test_where_a_skip_may_lead() -> None:
    """Further on, or to the end; a skip that passes nothing by is refused."""
    study = asked()
    assert passed_by(study, "crop", Skip(codes=("1",))) == ("keen", "age")
    for variable, to in (("holds", "hours"), ("keen", "crop"), ("crop", "crop"), ("age", None)):
        with pytest.raises(BadInput, match="nothing to be skipped"):
            SetSkips(variable=variable, skips=(Skip(codes=("2",), to=to),)).apply(study)


def test_variables_that_go_or_move() -> None:
    """A skip to a variable that is removed goes on at the next one; one whose target moves ahead passes nothing by."""
    study = asked(skip=TO_KEEN)
    assert RemoveVariables(variables=("keen",)).apply(study).study.tag("holds").skips[0].to == "age"
    assert RemoveVariables(variables=("keen", "age")).apply(study).study.tag("holds").skips[0].to is None
    moved = Arrange(variables=("keen",), before="holds").apply(study).study
    assert passed_by(moved, "holds", TO_KEEN) == () and kept(moved, "holds", TO_KEEN).takes == 0
    assert np.array_equal(breaking(moved, "holds"), [])


def test_skips_as_text() -> None:
    """Codebook text sets skips by name, also to variables it brings; what it leaves out is taken away."""
    study = asked(skip=TO_KEEN)
    text = "holds  integer\n  skip: 2, 3 -> keen\n  proposed skip: 4 -> end\nkeen  integer\nlast  integer\n"
    step = edited(study, read_notation(text), ["holds"], iter(["fresh1"]).__next__, whole=True).step
    assert step
    after = step.apply(study).study
    assert after.tag("holds").skips == (Skip(codes=("2", "3"), to="keen"), Skip(codes=("4",), proposed=True))
    assert [(each.sheet, each.study) for each in changed(study, after, "holds") if each.part == "skip"] == [
        ("none", "2 → keen"), ("2, 3 → keen", "none"), ("4 → the end", "none"),
    ]  # fmt: skip
    bare = edited(after, read_notation("holds  integer\n"), ["holds"], str, whole=True).step
    assert bare and bare.apply(after).study.tag("holds").skips == ()
    with pytest.raises(BadInput, match="no variable is called so"):
        edited(study, read_notation("holds\n  skip: 2 -> shed\n"), ["holds"], str, whole=True)
    with pytest.raises(UnreadableFile, match="which codes lead where"):
        read_notation("holds\n  skip: 2 keen\n")
