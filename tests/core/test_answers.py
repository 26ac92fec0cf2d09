"""Labels typed where codes belong become their codes; blocks are set as they stand, as many typed entries would be."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from rowtag.core.answers import in_codes
from rowtag.core.column import column_of_texts
from rowtag.core.errors import BadInput
from rowtag.core.records import page_of, record_numbers
from rowtag.core.steps.entries import AddBlankRecords, SetBlock, SetEntries
from rowtag.core.study import CodeList, Records, Study, Variable
from rowtag.core.tag import CodeLine, MissingLine, Tag
from tests import generate
from tests.generate import contents

LINES = (
    CodeLine(code="1", label="Own"), CodeLine(code="02", label="Café, shared"), CodeLine(code="3", label="Lent"),
    CodeLine(code="4", label="lent"), CodeLine(code="5", label="1"), CodeLine(low="6", high="9", label="Other"),
)  # fmt: skip
MISSING = (MissingLine(code="-9", reason="refused", label="Won’t say"),)


def study_of(**parts: object) -> Study:
    tag = Tag(name="tenure", type="integer", codes=LINES, missing=MISSING, complete=True).with_parts(**parts)
    study = Study(records=Records(3)).put("list", {"held": CodeList(name="held", lines=LINES)})
    return study.with_variables(
        [
            ("v", Variable(tag=tag), column_of_texts(["1", "x"])),
            ("w", Variable(tag=Tag(name="note")), column_of_texts([])),
        ]
    )


def entries_of(study: Study) -> list[list[str]]:
    columns = page_of(study, study.order, record_numbers(study, 0, 100))
    return [[column.texts[column.index[row]] for column in columns] for row in range(study.records.count)]


@pytest.mark.parametrize(
    ("typed", "code"),
    [
        ("own", "1"), (" OWN ", "1"), ("cafe, shared", "02"), ("CAFÉ,  SHARED", "02"), ("won't say", "-9"),
        ("1", None), ("02", None), ("2", None), ("2.0", None), ("lent", None), ("Other", None), ("", None), ("x", None),
    ],
)  # fmt: skip
def test_labels_are_codes(typed: str, code: str | None) -> None:
    """Case, accents and blanks do not matter; codes stay, and so do labels of several codes or of ranges."""
    assert in_codes(study_of(), "v", [typed]) == ({} if code is None else {typed: code})
    assert in_codes(study_of(codes=(), code_list="held"), "v", [typed]) == ({} if code is None else {typed: code})
    study = SetEntries(variable="v", entries={2: typed}, labels=True).apply(study_of()).study
    assert entries_of(study)[1][0] == (code or typed)
    assert entries_of(SetEntries(variable="v", entries={2: typed}).apply(study_of()).study)[1][0] == typed


def test_a_block_runs_past_the_end() -> None:
    """Records are added for what does not find one; records that are gone, and blocks that do not fit, are refused."""
    block = SetBlock(records=(3,), more=2, entries={"v": ("own", "7", "12 hrs"), "w": ("a", "b\nc", "")}, labels=True)
    applied = block.apply(study_of())
    assert entries_of(applied.study) == [["1", ""], ["x", ""], ["1", "a"], ["7", "b\nc"], ["12 hrs", ""]]
    assert "1 label became its code; 2 records added" in applied.full_sentence
    for wrong, said in [
        ({"records": (9,), "entries": {"v": ("1",)}}, "There is no record 9"),
        ({"records": (1, 2), "entries": {"v": ("1",)}}, "1 entries for tenure, and 2 records"),
        ({"records": (1, 1), "entries": {"v": ("1", "2")}}, "each once"),
        ({"entries": {"v": ()}}, "needs records"),
    ]:
        with pytest.raises(BadInput, match=said):
            SetBlock.model_validate(wrong).apply(study_of())


@given(st.data())
def test_a_block_is_its_entries(data: st.DataObject) -> None:
    """A block does what typing all of it would do, labels or not."""
    study = data.draw(generate.studies())
    ids = data.draw(st.lists(st.sampled_from(study.order), min_size=1, unique=True)) if study.order else []
    numbers = record_numbers(study, 0, 100).tolist()
    if not ids or not numbers:
        return
    records = tuple(data.draw(st.lists(st.sampled_from(numbers), min_size=1, unique=True)))
    more, labels = data.draw(st.integers(0, 2)), data.draw(st.booleans())
    text = st.sampled_from(["1", "2", "-9", "x", "", "Own", "no"])
    size = len(records) + more
    entries = {id: tuple(data.draw(st.lists(text, min_size=size, max_size=size))) for id in ids}
    block = SetBlock(records=records, more=more, entries=entries, labels=labels).apply(study).study
    arrived = study.records.arrived
    typed = AddBlankRecords(count=more).apply(study).study if more else study
    for id, texts in entries.items():
        for record, entry in zip([*records, *range(arrived + 1, arrived + more + 1)], texts, strict=True):
            typed = SetEntries(variable=id, entries={record: entry}, labels=labels).apply(typed).study
    assert contents(block) == contents(typed)
