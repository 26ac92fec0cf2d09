"""Routines as text: what is written reads back the same, and what is no routine is told at its line."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from rowtag.core.errors import BadInput
from rowtag.formats.routine import Routine, WrittenStep, read, write

AWKWARD = [
    "007", "no", "null", "~", "1.50", "-8", "", " x ", "a: b", "# none", "two\nlines", "x\n", "- y", "2026-05-03", "'",
]  # fmt: skip
texts = st.text(st.characters(exclude_categories=["Cs", "Cc"]), max_size=30) | st.sampled_from(AWKWARD)
keys = texts.filter(bool)
data = st.recursive(
    texts, lambda inner: st.lists(inner, max_size=4) | st.dictionaries(keys, inner, max_size=4), max_leaves=12
)
steps = st.dictionaries(keys.filter(lambda key: key != "do"), data, max_size=4).map(
    lambda parts: {"do": "define", **parts}
)


@given(texts, st.lists(steps, max_size=4), st.dictionaries(keys, st.lists(texts, max_size=3).map(tuple), max_size=3))
def test_what_is_written_reads_back(title: str, says: list[dict], strays: dict[str, tuple[str, ...]]) -> None:
    """Whatever texts a step holds, to the letter: numbers keep their zeros, words stay words."""
    routine = Routine(title, tuple(map(WrittenStep, says)), strays, {"options": {"values": "labels"}})
    back = read(write(routine))
    assert [step.says for step in back.steps] == says
    assert (back.study, back.strays, back.hand_over) == (title, strays, routine.hand_over)
    assert all(step.line > 0 for step in back.steps)


HEAD = "row tag routine: 1\nstudy: Plots\nsteps:\n"


@pytest.mark.parametrize(
    ("text", "message"),
    [
        ("", "no routine"),
        ("just words", "no routine"),
        ("steps: []", "no routine"),
        ("row tag routine: 2\nsteps: []", "row 1, character 18: This routine is of version 2"),
        ("row tag routine: 1\nsteps: 5", "a list of steps"),
        ("row tag routine: 1\nstep: []\nsteps: []", "row 2, character 7: A routine has no part “step”"),
        (HEAD + "- rename: {a: b}", "row 4, character 3: A step says what it does"),
        (HEAD + "- do: rename\n  names: {a: b", "row 5"),
        (HEAD + "- do: rename\n  names: {a: b}\n  names: {c: d}", "row 6, character 3: “names” stands here twice"),
        (HEAD + "- &x {do: rename}\n- *x", "row 4, character 3: Anchors and aliases"),
        (HEAD + "- do: !!python/object:os.system x", "row 4, character 7: Tags"),
        (HEAD + "- do: !!int 5", "Tags"),
        (HEAD + "- do: x\n---\nrow tag routine: 1", "A file holds one routine"),
        (HEAD + "- do: x\n  y: " + "[" * 60 + "]" * 60, "nests too deeply"),
        (HEAD + "- do: \x00", "character that no text has"),
    ],
)
def test_what_is_no_routine_is_told_at_its_line(text: str, message: str) -> None:
    """A clear sentence with line and column; nothing is made of tags, anchors and aliases."""
    with pytest.raises(BadInput) as error:
        read(text)
    assert message in str(error.value)


def test_a_routine_reads_well() -> None:
    """Short things stand in one line, comments are read over, and numbers need no quotes."""
    text = """# what we always do
row tag routine: 1
study: Fennel Row plot holders
strays: {tenure: [8]}
steps:
  - do: rename   # as in the questionnaire
    names: {q7_1: site_1, q7_2: site_2}
  - do: mark missing
    variables: [tenure, hours]
    lines: [{code: -8, reason: don't know}, {code: 007, reason: refused}]
"""
    routine = read(text)
    assert routine.steps[1].says["lines"][1] == {"code": "007", "reason": "refused"}
    assert [step.line for step in routine.steps] == [6, 8]
    written = write(routine)
    assert "names: {q7_1: site_1, q7_2: site_2}" in written and read(written).steps[0].says == routine.steps[0].says
