"""Tags: what they refuse, what they keep, and which of their parts decide a reading."""

from typing import Any

import pytest
from hypothesis import given
from pydantic import ValidationError

from rowtag.core.tag import CodeLine, Limits, Marks, MissingLine, Tag, lens_of
from tests import generate

REFUSED: list[tuple[type[Any], dict[str, Any], str]] = [
    (CodeLine, {"label": "nothing"}, "either one code, or a range"),
    (CodeLine, {"code": "1", "high": "5"}, "either one code, or a range"),
    (CodeLine, {"code": ""}, "at least 1 character"),
    (MissingLine, {"code": "-9", "reason": "forgot"}, "Input should be 'refused'"),
    (Marks, {"decimal": ",", "thousands": ","}, "must differ"),
    (Tag, {"name": ""}, "at least 1 character"),
    (Tag, {"name": "x", "type": "number"}, "Input should be 'integer'"),
    (Tag, {"name": "x", "width": 0}, "greater than or equal to 1"),
    (Tag, {"name": "x", "decimals": 19}, "less than or equal to 18"),
    (Tag, {"name": "x", "colour": "red"}, "Extra inputs are not permitted"),
    (Tag, {"name": "x", "label": "l" * 2_001}, "at most 2000 characters"),
]


@pytest.mark.parametrize(("kind", "parts", "said"), REFUSED)
def test_what_cannot_be_is_refused(kind: type[Any], parts: dict[str, Any], said: str) -> None:
    """Parts are checked strictly, each for itself."""
    with pytest.raises(ValidationError, match=said):
        kind.model_validate(parts)


def test_changed_parts_are_checked_too() -> None:
    """Changing a tag goes through the same checks as making one, and the old one stays."""
    tag = Tag(name="x", label="Old")
    with pytest.raises(ValidationError):
        tag.with_parts(level="absolute")
    assert tag.with_parts(label="New").label == "New" and tag.label == "Old"
    with pytest.raises(ValidationError, match="frozen"):
        tag.label = "New"


@given(generate.tags)
def test_only_some_parts_decide_a_reading(tag: Tag) -> None:
    """Label, wording, level, use, width, decimals and note leave the lens as it is; it is a cache's key."""
    other = tag.with_parts(
        label="Other", question="Other?", level="ratio", use="design", width=9, decimals=2, note="n", battery="b1"
    )
    relabelled = tag.with_parts(codes=tuple(line.model_copy(update={"label": "Other"}) for line in tag.codes))
    lens = lens_of(tag, tag.codes)
    assert lens == lens_of(other, other.codes) == lens_of(relabelled, relabelled.codes)
    assert hash(lens) == hash(lens_of(other, other.codes))
    if tag.limits != Limits(low="17"):
        assert lens != lens_of(tag.with_parts(limits=Limits(low="17")), tag.codes)


@given(generate.tags)
def test_tags_read_back(tag: Tag) -> None:
    """A tag is written to JSON and read back the same, also without what is default."""
    assert Tag.model_validate_json(tag.model_dump_json()) == tag
    assert Tag.model_validate(tag.model_dump(exclude_defaults=True)) == tag


@pytest.mark.parametrize(
    ("parts", "wanted"),
    [
        ({"level": "nominal", "type": "integer"}, True),
        ({"level": "ordinal", "type": "text"}, True),
        ({"level": "ratio", "type": "integer"}, False),
        ({"level": "nominal", "use": "identifier"}, False),
        ({"level": "nominal", "use": "open-ended"}, False),
        ({"level": "nominal", "type": "date"}, False),
    ],
)
def test_who_wants_a_code_list(parts: dict[str, Any], wanted: bool) -> None:
    """A code list is wanted where level, type and use call for one."""
    assert Tag(name="x").with_parts(**parts).wants_codes is wanted


def test_a_line_is_shown_as_it_is_written() -> None:
    """Codes and ranges, open at either end."""
    lines = [CodeLine(code="3"), CodeLine(low="35", high="59"), CodeLine(high="34"), CodeLine(low="60")]
    assert [line.shown for line in lines] == ["3", "35 .. 59", ".. 34", "60 .."]
