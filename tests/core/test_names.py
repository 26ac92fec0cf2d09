"""Names: what is refused, and that every suggestion works."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from rowtag.core.errors import BadName
from rowtag.core.names import RULES, check_name, key_of, suggest, working_names

CASES = [
    ("portable", "my name", "“my name” cannot be a name: a letter first, then letters a–z, digits and _."),
    ("portable", "7_1", "“7_1” cannot be a name: a letter first, then letters a–z, digits and _."),
    ("portable", "Größe", "“Größe” cannot be a name: a letter first, then letters a–z, digits and _."),
    ("portable", "TENURE", "Another variable is called “TENURE” already."),
    ("portable", "a" * 33, f"“{'a' * 33}” has 33 characters; a name has at most 32."),
    ("portable", " ", "A variable needs a name."),
    ("short", "a" * 13, f"“{'a' * 13}” has 13 characters; a name has at most 12."),
    ("open", "_x", "“_x” cannot be a name: a letter first, then letters of any script, digits and _."),
]


@pytest.mark.parametrize(("naming", "name", "sentence"), CASES)
def test_refusals_say_why_and_what_works(naming: str, name: str, sentence: str) -> None:
    """A refusal is a sentence, and its suggestion is accepted."""
    with pytest.raises(BadName) as refused:
        check_name(name, {"tenure"}, naming)
    assert refused.value.what == sentence
    check_name(refused.value.suggestion or "", {"tenure"}, naming)


@given(st.text(max_size=50), st.sets(st.text(max_size=5).map(key_of)), st.sampled_from(sorted(RULES)))
def test_every_suggestion_works(name: str, taken: set[str], naming: str) -> None:
    """Whatever was typed, what is suggested keeps the rules and is free."""
    check_name(suggest(name, taken, naming), taken, naming)


@given(st.lists(st.sampled_from(["", "a", "A", "q 1", "q_1", "1", "é", "a_2"]) | st.text(max_size=8), max_size=12))
def test_working_names_are_names_and_differ(heads: list[str]) -> None:
    """Every column gets a working name of its own; a head that can stay stays."""
    names = working_names(heads)
    assert len({key_of(name) for name in names}) == len(heads)
    for head, name in zip(heads, names, strict=True):
        check_name(name, ())
        if RULES["portable"].pattern.fullmatch(head) and len(head) <= 32 and heads.count(head) == 1:
            assert name == head or key_of(head) in {key_of(other) for other in heads if other != head}


def test_unfit_heads() -> None:
    """Blank, repeated and unfit heads get names that tell what they were."""
    assert working_names(["q1", "", "q1", "How old?", "9b"]) == ["q1", "column_2", "q1_2", "How_old", "v9b"]
