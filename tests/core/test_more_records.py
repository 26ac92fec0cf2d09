"""More records: added, skipped or replaced by identifier, exactly as a slow reference over lists does it."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from rowtag.core import column as columns
from rowtag.core.column import Column, column_of_texts
from rowtag.core.errors import BadInput
from rowtag.core.steps.bring_in import AddRecords, Arrival, Known
from rowtag.core.study import Records, Source, Study, Variable
from rowtag.core.tag import MissingLine, Tag
from tests.generate import contents, entries

ID = Tag(name="plot", type="integer", missing=(MissingLine(code="-9"),))
RULES: list[Known] = ["keep both", "skip", "replace"]
identifiers = st.sampled_from(["1", "01", "2", " 2 ", "3", "", "-9", "x"])
tables = st.lists(st.tuples(identifiers, entries), max_size=8)


def study_of(rows: list[tuple[str, str]], *, removed: tuple[int, ...] = ()) -> Study:
    """A study of plot and note, whose last blank entries are not stored."""
    notes = [note for _, note in rows]
    while notes and not notes[-1]:
        notes.pop()
    variables = [
        ("id", Variable(tag=ID), column_of_texts([plot for plot, _ in rows])),
        ("note", Variable(tag=Tag(name="note")), column_of_texts(notes)),
    ]
    return Study(records=Records(len(rows), removed)).with_variables(variables)


def step_of(records: int, known: Known = "keep both", identifier: str | None = None, **more: object) -> AddRecords:
    source = Source(name="b.csv", size=9, sha256="0", kind="delimited", records=records)
    given = {"source_id": "s2", "source": source, "matched": {"id": 1, "note": 2}, **more}
    return AddRecords.model_validate({**given, "known": known, "identifier": identifier})


def entries_of(study: Study, id: str) -> list[str]:
    column = study.column(id)
    return column.texts_at(column.indexes(0, study.records.arrived))


def plot_of(entry: str) -> str | None:
    """The identifier that an entry of these tests is, if it is one."""
    return entry.strip().lstrip("0") if entry.strip() in ("1", "01", "2", "3") else None


@given(tables, tables, st.sampled_from(RULES), st.data())
def test_as_the_reference_does_it(
    old: list[tuple[str, str]], new: list[tuple[str, str]], known: Known, data: st.DataObject
) -> None:
    """Entries, counts and record numbers come out as a loop over lists makes them; the state before stays."""
    gone = data.draw(st.sets(st.integers(1, len(old)))) if old else set()
    study = study_of(old, removed=tuple(sorted(gone)))
    supplies = {"id": column_of_texts([row[0] for row in new]), "note": column_of_texts([row[1] for row in new])}
    before = contents(study)
    applied = step_of(len(new), known, "id").apply(study, supplies)

    rows, added, replaced, skipped = list(old), 0, 0, 0
    first = {plot_of(row[0]): at for at, row in reversed(list(enumerate(old))) if at + 1 not in gone}
    for row in new:
        twin = first.get(plot_of(row[0])) if plot_of(row[0]) else None
        if twin is None or known == "keep both":
            rows.append(row)
            added += 1
        elif known == "skip":
            skipped += 1
        else:
            rows[twin] = row
            replaced += 1
    assert list(zip(entries_of(applied.study, "id"), entries_of(applied.study, "note"), strict=True)) == rows
    assert applied.study.records.removed == study.records.removed
    assert applied.made.sentence == f"Added {added} record{'' if added == 1 else 's'} from b.csv"
    assert [note for note in applied.made.notes if "replaced" in note or "skipped" in note] == [
        f"{count} record{'' if count == 1 else 's'} {word}"
        for count, word in ((replaced, "replaced"), (skipped, "skipped"))
        if count
    ]
    assert contents(study) == before


def test_new_and_absent_columns() -> None:
    """A column without a variable becomes a new one, blank before; a variable without a column stays blank."""
    study = study_of([("1", "wet"), ("2", "dry")])
    arrival = Arrival(id="shed", column=2, name="shed", tag=Tag(name="shed"))
    step = step_of(1, matched={"id": 1}, variables=(arrival,))
    applied = step.apply(study, {"id": column_of_texts(["3"]), "shed": column_of_texts(["yes"])})
    assert [entries_of(applied.study, id) for id in applied.study.order] == [
        ["1", "2", "3"],
        ["wet", "dry", ""],
        ["", "", "yes"],
    ]
    assert applied.study.variable("shed").proposed and applied.study.variable("shed").origin.source == "s2"
    assert applied.full_sentence == "Added 1 record from b.csv; valid 2 → 4; 1 new variable."


@pytest.mark.parametrize(
    ("more", "sentence"),
    [({"matched": {}}, "None of the file's columns"), ({"matched": {"note": 2}, "identifier": "id"}, "The identifier")],
)
def test_what_cannot_be_added(more: dict[str, object], sentence: str) -> None:
    """A file of which nothing is taken, or without the identifier, is refused."""
    source = {"name": "b.csv", "size": 9, "sha256": "0", "kind": "delimited", "records": 1}
    step = AddRecords.model_validate({"source_id": "s2", "source": source, **more})
    with pytest.raises(BadInput, match=sentence):
        step.apply(study_of([("1", "wet")]), {"note": column_of_texts(["x"])})


@given(st.lists(entries, max_size=9), st.lists(entries, max_size=9), st.integers(0, 4), st.integers(1, 5))
def test_columns_joined(old: list[str], new: list[str], beyond: int, chunk: int) -> None:
    """A column takes another behind it, across the borders of chunks, and leaves blanks in between."""
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(columns, "CHUNK", chunk)
        joined: Column = column_of_texts(old).appended(column_of_texts(new), len(old) + beyond)
        size = len(old) + beyond + len(new)
        assert joined.texts_at(joined.indexes(0, size)) == [*old, *[""] * beyond, *new]
        assert all(piece.reach <= chunk for piece in joined.chunks)
        kept = joined.kept(joined.indexes(0, size) != 0, size)
        assert kept.texts_at(kept.indexes(0, kept.length)) == [text for text in [*old, *new] if text]
