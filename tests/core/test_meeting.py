"""Records of a file met with others: put beside by identifier, or told for the same, as loops over lists do it."""

from collections import defaultdict

import pytest
from hypothesis import given
from hypothesis import strategies as st

from rowtag.core.column import column_of_texts
from rowtag.core.errors import BadInput
from rowtag.core.meeting import Beside, Doubled, identifiers, same_rows
from rowtag.core.steps.beside import PutBeside
from rowtag.core.steps.bring_in import Arrival
from rowtag.core.study import Source
from rowtag.core.tag import Tag
from tests.core.test_more_records import ID, entries_of, plot_of, study_of
from tests.core.test_more_records import identifiers as written
from tests.generate import contents, entries

files = st.lists(st.tuples(written, entries), max_size=9)
DOUBLED: list[Doubled] = ["first", "last", "neither"]


def beside_step(records: int, doubled: Doubled = "first", name: str = "visits") -> PutBeside:
    return PutBeside(
        source_id="s2",
        source=Source(name="visits.csv", size=9, sha256="0", kind="delimited", records=records),
        variables=(Arrival(id="visits", column=2, name="visits", tag=Tag(name=name)),),
        identifier="id",
        column=1,
        head="plot",
        doubled=doubled,
    )


@given(files, files, st.sampled_from(DOUBLED), st.data())
def test_beside_as_a_loop_over_lists_does_it(
    here: list[tuple[str, str]], there: list[tuple[str, str]], doubled: Doubled, data: st.DataObject
) -> None:
    """Every record gets the entry of the row that has its identifier; what has none stays blank; all is counted."""
    gone = data.draw(st.sets(st.integers(1, len(here)))) if here else set()
    study = study_of(here, removed=tuple(sorted(gone)))
    supplies = {"id": column_of_texts([row[0] for row in there]), "visits": column_of_texts([row[1] for row in there])}

    rows = defaultdict(list)
    for number, (plot, _) in enumerate(there):
        if plot_of(plot):
            rows[plot_of(plot)].append(number)
    counting = {plot: (at[-1] if doubled == "last" else at[0]) for plot, at in rows.items()}
    if doubled == "neither":
        counting = {plot: at[0] for plot, at in rows.items() if len(at) == 1}
    own = [None if number in gone else plot_of(plot) for number, (plot, _) in enumerate(here, 1)]
    expected = [there[counting[plot]][1] if plot in counting else "" for plot in own]
    matched = sum(plot in counting for plot in own)

    beside = Beside(study, "id", supplies["id"], len(there), doubled)
    assert beside.rows.tolist() == [counting.get(plot, -1) if plot else -1 for plot in own]
    assert (beside.matched, beside.alone) == (matched, len(here) - len(gone) - matched)
    assert beside.without.tolist() == [
        at for at, (plot, _) in enumerate(there) if plot_of(plot) not in set(own) - {None}
    ]
    names, doubles = beside.doubles
    assert set(names) == {plot for plot, at in rows.items() if len(at) > 1}
    assert doubles == sum(len(at) for at in rows.values() if len(at) > 1)

    before, step = contents(study), beside_step(len(there), doubled)
    if not matched:
        with pytest.raises(BadInput, match="has the plot of a record"):
            step.apply(study, supplies)
    else:
        after = step.apply(study, supplies).study
        assert entries_of(after, "visits") == expected
        assert entries_of(after, "id") == entries_of(study, "id") and after.records == study.records
    assert contents(study) == before


def test_what_was_put_beside_is_told() -> None:
    study = study_of([("1", "a"), ("2", "b"), ("2", "c"), ("3", "d")])
    supplies = {"id": column_of_texts(["2", "9", "1", "1"]), "visits": column_of_texts(["4", "5", "6", "7"])}
    applied = beside_step(4).apply(study, supplies)
    assert entries_of(applied.study, "visits") == ["6", "4", "4", ""]
    assert applied.full_sentence == (
        "Put 1 variable from visits.csv beside 3 records by plot; 1 record without a row there; 1 row without a record "
        "here; 2 rows with 1 identifier more than once: the first counts."
    )
    assert applied.study.variable("visits").origin.source == "s2"


def test_a_name_that_is_taken_is_refused() -> None:
    study = study_of([("1", "a")])
    supplies = {"id": column_of_texts(["1"]), "visits": column_of_texts(["4"])}
    with pytest.raises(BadInput, match="note"):
        beside_step(1, name="note").apply(study, supplies)


@given(st.lists(written, max_size=9), st.lists(written, max_size=9))
def test_the_same_rows_are_told_one_by_one(old: list[str], new: list[str]) -> None:
    """The first of several is the first, the second the second; whatever has no identifier is nobody's."""
    lens = ID.lens
    left = defaultdict(list)
    for at, plot in enumerate(old):
        if plot_of(plot):
            left[plot_of(plot)].append(at)
    expected = [left[plot_of(plot)].pop(0) if plot_of(plot) and left[plot_of(plot)] else -1 for plot in new]
    columns = column_of_texts(old), column_of_texts(new)
    found = same_rows(
        *(identifiers(column, lens, len(texts)) for column, texts in zip(columns, (old, new), strict=True))
    )
    assert found.tolist() == expected
