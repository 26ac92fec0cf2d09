"""What is wrong with something given is said in our own words, whatever checks it."""

import pytest
from pydantic import ValidationError

from rowtag.core.problems import problems
from rowtag.core.steps.entries import AddBlankRecords, SetEntries
from rowtag.core.steps.tags import Define
from rowtag.core.tag import CodeLine, Frozen, Limits, Marks, Parts, Tag

GIVEN: list[tuple[type[Frozen], object, str]] = [
    (Tag, {}, "name is wanted"),
    (Tag, {"name": "x", "colour": "red"}, "colour is not known here"),
    (Tag, {"name": 7}, "name must be text"),
    (Tag, {"name": ""}, "name needs at least 1"),
    (Tag, {"name": "x" * 65}, "name has more than the 64 allowed"),
    (Tag, {"name": "x", "width": "wide"}, "width must be a whole number"),
    (Tag, {"name": "x", "width": 0}, "width must be at least 1"),
    (Tag, {"name": "x", "decimals": 19}, "decimals must be at most 18"),
    (Tag, {"name": "x", "complete": "perhaps"}, "complete must be true or false"),
    (Tag, {"name": "x", "level": "high"}, "level must be one of 'nominal', 'ordinal', 'interval', 'ratio'"),
    (Marks, {"decimal": ",", "thousands": ","},
     "what was given cannot be used: decimal mark and thousands mark must differ"),
    (Limits, "low", "what was given must hold parts with their values"),
    (Define, {"variables": [], "parts": {}}, "variables needs at least 1"),
    (Define, {"variables": "v1", "parts": {}}, "variables must be a list"),
    (SetEntries, {"variable": "v", "entries": {"one": "x"}}, "entries one must be a whole number"),
    (SetEntries, {"variable": "v", "entries": []}, "entries must hold names with their values"),
    (AddBlankRecords, {"count": 2_000_000}, "count must be at most 1,000,000"),
    (Parts, {"codes": [{"code": "1", "low": "2"}]},
     "codes 1 cannot be used: a line has either one code, or a range with at least one end"),
]  # fmt: skip


@pytest.mark.parametrize(("kind", "given", "said"), GIVEN, ids=[said for _, _, said in GIVEN])
def test_problems_are_said_in_our_words(kind: type[Frozen], given: object, said: str) -> None:
    """Each kind of problem, with its place, and nothing of a library's wording."""
    with pytest.raises(ValidationError) as refused:
        kind.model_validate(given)
    assert problems(refused.value) == said


def test_many_problems_are_said_once_each() -> None:
    """All of them, in one line."""
    with pytest.raises(ValidationError) as refused:
        CodeLine.model_validate({"code": "", "label": "l" * 3_000, "sign": 1})
    assert problems(refused.value) == (
        "code needs at least 1; label has more than the 2,000 allowed; sign is not known here"
    )
