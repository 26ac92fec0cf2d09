"""Remedies: each puts right what was found, and is known by its effect."""

from collections.abc import Iterator
from contextlib import suppress
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from rowtag.core.checks import records_of
from rowtag.core.column import column_of_texts
from rowtag.core.errors import BadInput, RowTagError
from rowtag.core.remedies import remedies
from rowtag.core.steps.turn import TurnRound
from rowtag.core.study import Records, Study
from rowtag.core.tag import CodeLine, MissingLine, Tag
from rowtag.core.words import shortened
from tests.core.test_check_kinds import CASES, HOURS, RATIO, found, lines, one, study_of

DATE: dict[str, Any] = {"type": "date", "level": "interval"}
DECIMAL: dict[str, Any] = {"type": "decimal", "level": "ratio"}
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
        ("unreadable entries", one(DATE, ["1980-05-01", "1.1.1980", "31.12.1979"]), "read 2 entries as dates", 0),
        ("unreadable entries", one(DATE, ["1980-05-01", "5/13/1980"]), "read 1 entry as a date", 0),
        ("unreadable entries", one(DATE, ["1980-05-01", "1.1.1980", "spring"]), "read 1 entry as a date", 1),
        (
            "label beside the wording",
            [(n, {"label": "", "question": "How held?"}, ["1"]) for n in "ab"],
            "take the wording, shortened",
            0,
        ),
        ("identifier as a measure", one(RATIO, [str(n) for n in range(100, 140)]), "make it an identifier", 0),
        ("longer than the width", one({"width": 2, "use": "open-ended"}, ["abc"]), "make it as wide as needed", 0),
        ("zeros apart", one(RATIO, [*HOURS, "0"]), "set aside as missing", 0),
        ("unreadable entries", one(DECIMAL, ["0.5", "0,985", "1,25"]), "read 2 entries with a comma as decimals", 0),
        (
            "a battery nobody told",
            [(f"care_{n}", {**WHOLE, "complete": False}, ["1", "2"] * 9) for n in (1, 2, 3)],
            "make them a battery",
            0,
        ),
    ],
)
def test_what_is_found_is_gone(check: str, columns: Any, word: str, left: int) -> None:
    """After the step the finding is gone, and every entry is still there."""
    study = study_of(*columns)
    (finding,) = found(study, check)
    step = next(each.step for each in remedies(study, finding) if each.word == word)
    after = step.apply(study).study
    assert len(found(after, check)) == left
    assert after.records.count == study.records.count
    assert [after.fill(id).blank for id in study.order] == [study.fill(id).blank for id in study.order]


def test_a_skip_becomes_a_rule() -> None:
    """What the data show is a rule of the filter from then on, and its exceptions are checked by that."""
    study = study_of(*next(columns for name, columns, says in CASES if name == "a skip nobody told" and says))
    (finding,) = found(study, "a skip nobody told")
    (remedy,) = remedies(study, finding)
    after = remedy.step.apply(study).study
    assert [(skip.codes, skip.to) for skip in after.tag("holds").skips] == [(("2",), None)]
    assert not found(after, "a skip nobody told") and found(after, "answered though skipped")[0].count == 1


def as_it_may_be_since(study: Study) -> Iterator[Study]:
    """The study as others may have left it meanwhile: everything that a finding can lean on is gone in one of them."""
    size = study.records.arrived
    bare = {id: Tag(name=study.tag(id).name, type=study.tag(id).type) for id in study.order}
    yield study.with_tags(bare)
    yield study.with_tags({id: Tag(name=study.tag(id).name) for id in study.order})
    for text in ("", "1", "nothing like it"):
        yield study.with_columns({id: column_of_texts([text] * size) for id in study.order})
    yield Study(study.shelves, study.order[::-1], study.columns, study.records, study.naming)
    yield Study(study.shelves, study.order, study.columns, Records(size, tuple(range(1, size + 1))), study.naming)
    yield study.put("battery", dict.fromkeys(study.shelves["battery"]))


@pytest.mark.parametrize(("check", "columns"), [(check, columns) for check, columns, says in CASES if says])
def test_of_a_study_that_has_changed_since(check: str, columns: Any) -> None:
    """What is found across variables is found a moment later: its remedies and records are asked for all the same."""
    study = study_of(*columns)
    for finding in found(study, check):
        for since in as_it_may_be_since(study):
            for remedy in remedies(since, finding):
                with suppress(RowTagError):
                    remedy.step.apply(since)
            assert all(1 <= record <= study.records.arrived for record in records_of(since, finding))


def test_where_somebody_has_to_look_first() -> None:
    """Many different entries are set aside by nobody at one go; a label is written by somebody."""
    study = study_of(*one(RATIO, [*HOURS, *(f"about {n}" for n in range(30))]))
    (finding,) = found(study, "unreadable entries")
    assert remedies(study, finding) == ()
    bare = study_of(*one({"label": ""}, ["x"]))
    assert remedies(bare, found(bare, "label wanted")[0]) == ()


@given(st.lists(st.sampled_from(["1", "2", "3", "5", "05", "-9", "", "x", "7"]), min_size=1, max_size=12))
def test_turned_round_twice_is_as_it_was(entries: list[str]) -> None:
    """Each code becomes the one as far from the other end; all else stays, and twice is not at all."""
    lines = tuple(CodeLine(code=code, label=f"Step {code}") for code in ("1", "2", "3", "5"))
    study = study_of(("a", {**WHOLE, "codes": lines, "complete": True, "missing": (MissingLine(code="-9"),)}, entries))
    step = TurnRound(variables=study.order)
    turned = {"1": "5", "2": "3", "3": "2", "5": "1", "05": "1"}
    expected = [turned.get(entry, entry) for entry in entries]
    try:
        once = step.apply(study)
    except BadInput:
        assert expected == entries
        return
    (id,) = study.order
    column = once.study.column(id)
    assert column.texts_at(column.indexes(0, len(entries))) == expected
    assert once.made.entries == sum(one != other for one, other in zip(entries, expected, strict=True))
    assert once.before == once.after, "nothing reads otherwise"
    back = step.apply(once.study).study.column(id)
    assert back.texts_at(back.indexes(0, len(entries))) == [entry.replace("05", "5") for entry in entries]


def test_an_item_is_turned_round() -> None:
    """The finding is gone with its remedy."""
    study = study_of(*next(columns for name, columns, says in CASES if name == "item against the rest" and says))
    (finding,) = found(study, "item against the rest")
    ways = remedies(study, finding)
    assert [each.word for each in ways] == ["turn its codes round"]
    assert not found(ways[0].step.apply(study).study, "item against the rest")


def test_two_ways_of_reading_a_date_are_nobodys_to_choose() -> None:
    """5/6/1980 may be in May or in June: it is not read as a date for somebody."""
    study = study_of(*one(DATE, ["1980-05-01", "5/6/1980"]))
    (finding,) = found(study, "unreadable entries")
    assert [each.word for each in remedies(study, finding)] == ["set aside as missing"]


@given(st.text(max_size=200))
def test_a_wording_made_short_is_its_beginning(wording: str) -> None:
    """One line of at most sixty characters, whose words are those of the wording, in their order."""
    short, words = shortened(wording), " ".join(wording.split())
    assert len(short) <= 60 and words.startswith(short)
    assert bool(short) or not words.strip(" ,;:–-.")
    assert shortened("How do you hold your plot? Please tick one.") == "How do you hold your plot?"
