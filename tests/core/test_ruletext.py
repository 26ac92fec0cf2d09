"""Rules as text: read back as they were written, and what is wrong told by its line and character."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from rowtag.core.errors import UnreadableFile
from rowtag.core.rules import MOST_RULES
from rowtag.core.ruletext import WrittenRule, read_rules, write_rules

TEXT = """\
# Rules of the 2026 survey

"Waiting list has no plot"  warning
  # asked in 2026 only
  # and by post
  if tenure is 'Waiting list'
    then plot_size is blank

"Shares are \\"whole\\""
  share_1 + share_2 = 100
hours <= 80
"""
titles = st.text(
    st.characters(exclude_categories=("Cs", "Cc", "Zl", "Zp", "Zs")) | st.just(" "), min_size=1, max_size=30
)
notes = st.lists(st.text(st.characters(exclude_categories=("Cs", "Cc", "Zl", "Zp"))).map(str.strip), max_size=3)


def test_rules_as_people_write_them() -> None:
    first, second, third = read_rules(TEXT)
    condition = "if tenure is 'Waiting list'\nthen plot_size is blank"
    assert first == WrittenRule("Waiting list has no plot", condition, "warning", "asked in 2026 only\nand by post", 3)
    assert second == WrittenRule('Shares are "whole"', "share_1 + share_2 = 100", line=9)
    assert third == WrittenRule("hours <= 80", "hours <= 80", line=11)


@given(
    st.lists(
        st.builds(
            WrittenRule,
            titles.map(lambda text: " ".join(text.split())).filter(bool),
            st.sampled_from(["a > 1", "if a = 1\nthen b is blank", "mean(a..b, needs 2) < 3"]),
            st.sampled_from(["error", "warning", "note"]),
            notes.map(lambda lines: "\n".join(line for line in lines if line)),
        ),
        max_size=4,
        unique_by=lambda rule: rule.title.casefold(),
    )
)
def test_what_is_written_reads_back(rules: list[WrittenRule]) -> None:
    found = read_rules(write_rules(rules))
    assert [(each.title, each.condition, each.severity, each.note) for each in found] == [
        (each.title, each.condition, each.severity, each.note) for each in rules
    ]


@pytest.mark.parametrize(
    ("text", "said", "row", "character"),
    [
        ("  hours > 1\n", "begins at the margin", 1, None),
        ('"Few hours"  serious\n  hours > 1\n', "“serious” is no severity", 1, 1),
        ('"Few hours\n  hours > 1\n', "no title of a rule", 1, None),
        ('"Few hours"\n', "has no condition", 1, None),
        ('"Few hours"\n  # why\n', "has no condition", 1, None),
        ('"Few hours"\n  hours >\n', "The end cannot stand here", 2, 10),
        ('"Few hours"\n  hours > 1\n    annd age > 2\n', "cannot stand here", 3, 5),
        ("hours => 1\n", "written >= here", 1, 7),
        ('"Few"\n  hours > 1\n"few"\n  hours > 2\n', "stands here twice", 3, None),
    ],
)
def test_what_is_wrong_is_told_where(text: str, said: str, row: int, character: int | None) -> None:
    with pytest.raises(UnreadableFile, match=said) as told:
        read_rules(text)
    where = told.value.where
    assert where is not None and (where.row, where.character) == (row, character)


@given(
    st.text(max_size=80)
    | st.lists(st.sampled_from(['"a"', "  ", "\n", "hours", ">", "1", "#", "error", "if"])).map("".join)
)
def test_any_text_is_refused_in_words(text: str) -> None:
    try:
        read_rules(text)
    except UnreadableFile as error:
        assert str(error)


def test_more_rules_than_may_be() -> None:
    """Told at the first one too many, before any of them is read."""
    text = "\n".join(f"hours <= {number}" for number in range(MOST_RULES + 1))
    with pytest.raises(UnreadableFile, match="There are more than 2,000 rules") as refused:
        read_rules(text)
    assert refused.value.where is not None and refused.value.where.row == MOST_RULES + 1
    assert len(read_rules(text.rpartition("\n")[0])) == MOST_RULES
