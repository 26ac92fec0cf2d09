"""Codebook text: what is written reads back to the same thing; errors name line, character and what was expected."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from rowtag.core.codebook import Described, read_notation, write_notation
from rowtag.core.codebook.described import Onward
from rowtag.core.errors import UnreadableFile
from rowtag.core.tag import CodeLine, CodeSpan, Limits, MissingLine, Parts
from tests import generate

EXAMPLE = """\
tenure  nominal  integer 2
  "How the plot is held"
  ? How do you hold your plot at the moment?
   1  In my own name
   2  Shared with another household
   3  Waiting list
  -8  Don't know  missing: don't know
  -9  Refused     missing: refused

hours  ratio  decimal 5.1
  "Hours on the plot in a usual week"
  use answer
  limits 0 .. 80
  list partial

age  interval  integer 3
     .. 34  Under 35
  35 .. 59  35 to 59
     60 ..  60 and over
"""

awkward = st.sampled_from(
    ["", " ", "a b", "Waiting | list", 'He said "no"', "missing: refused", "x missing: refused", "..", ".. 3", "limits",
     "list: x", "back\\slash", "two\nlines", "tab\there", "# hash", "? what", " ends ", "ordinal", "é", "1", "3 .. 4"]
) | st.text(max_size=8)  # fmt: skip
names = st.sampled_from(["x", "site_1", "ordinal", "list", "größe", "a.b", "two words"])
ends = st.none() | st.sampled_from(["0", "-5", "+2.5", ".5", "1e-05", "2026-05-03", "2026-05-03 10:30", "10:30", " 7 "])
spans = st.one_of(
    awkward.filter(bool).map(lambda code: {"code": code}),
    st.tuples(ends, ends).filter(any).map(lambda both: {"low": both[0], "high": both[1]}),
)
lines = st.lists(st.builds(lambda span, label: CodeLine(**span, label=label), spans, awkward), max_size=4).map(tuple)
missing = st.lists(
    st.builds(lambda span, label, reason: MissingLine(**span, label=label, reason=reason), spans, awkward,
              generate.reasons), max_size=3).map(tuple)  # fmt: skip
SOME = {
    "label": awkward, "question": awkward, "note": awkward, "type": generate.types, "level": generate.levels,
    "use": st.sampled_from(["several answers", "open-ended", "weight"]), "width": st.integers(1, 300),
    "decimals": st.integers(0, 9), "marks": generate.marks, "pattern": st.sampled_from(["dd.mm.yyyy", "mm/dd/yyyy"]),
    "complete": st.booleans(), "limits": st.tuples(ends, ends).filter(any).map(lambda b: Limits(low=b[0], high=b[1])),
    "codes": lines, "missing": missing,
}  # fmt: skip
parts = st.fixed_dictionaries({}, optional=SOME).map(
    lambda given: Parts(**({"type": "text"} | given if {"width", "decimals"} & given.keys() else given))
)
titles = st.none() | awkward
codes = st.lists(awkward.filter(bool), min_size=1, max_size=3).map(tuple)
onward = st.builds(Onward, codes, st.sampled_from(["", "end", "hours", "two words", "a->b"]), st.booleans())
skips = st.lists(onward, max_size=2).map(tuple)
described = st.builds(Described, names, parts, titles, titles, titles, skips=skips)


@given(st.lists(described, max_size=4), st.dictionaries(awkward, lines.filter(bool), max_size=2))
def test_what_is_written_reads_back(tags: list[Described], lists: dict[str, tuple[CodeLine, ...]]) -> None:
    """Every part of every tag comes back to the letter, and writing it again gives the same text."""
    text = write_notation(tags, lists)
    back = read_notation(text)
    assert [each.name for each in back.variables] == [each.name for each in tags]
    for one, other in zip(back.variables, tags, strict=True):
        assert one.parts.model_dump() == other.parts.model_dump(), text
        assert (one.battery, one.section, one.code_list) == (other.battery, other.section, other.code_list)
    assert dict(back.lists) == lists
    assert write_notation(back.variables, back.lists) == text


def test_the_example_stands_as_it_is_written() -> None:
    """The canonical form is the one that people are shown; several tags and several lines may share one."""
    assert write_notation(read_notation(EXAMPLE).variables) == EXAMPLE
    together = read_notation(
        "a, b  ordinal  integer 1  battery: The site\r\n    1 Poor | 2 Good | 9 missing: refused\n"
    )
    assert [(each.name, each.battery, each.lines) for each in together.variables] == [
        ("a", "The site", (1, 2)),
        ("b", "The site", (1, 2)),
    ]
    assert [line.shown for line in together.variables[1].parts.codes] == ["1", "2"]
    assert together.variables[1].parts.missing == (MissingLine(code="9", reason="refused"),)
    assert isinstance(together.variables[0].parts.codes[0], CodeSpan)
    assert read_notation("").variables == () == read_notation("\n \n").variables


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("a nominal foo\n", "row 1, character 11: “foo” cannot stand here. Expected: a level"),
        ("a\n  1 x  missing: gone\n", "row 2, character 17: “gone” cannot stand here. Expected: a reason"),
        ("a\n  limits 3\n", "character 10: “3” cannot stand here. Expected: a range such as 0 .. 80"),
        ('a\n  "open\n', "row 2, character 3:"),
        ("a b\n", "“b” cannot stand here"),
        ("a\n  use nothing\n", "“nothing” cannot stand here. Expected: a use"),
        ("a\n  marks decimal x\n", "row 1: a cannot be so: marks"),
        ("list: l\n  1 x\nlist: l\n  2 y\n", "The list “l” stands here twice"),
    ],
)
def test_errors_say_where_and_what_was_expected(text: str, said: str) -> None:
    """Line, character and what could stand there."""
    with pytest.raises(UnreadableFile) as refused:
        read_notation(text)
    assert said in str(refused.value)
