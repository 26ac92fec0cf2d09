"""Two states compared: what is told is what differs when both are read record by record."""

from hypothesis import given, settings
from hypothesis import strategies as st

from rowtag.core.comparing import compared
from rowtag.core.errors import RowTagError
from rowtag.core.study import Study
from rowtag.core.touched import parts_between
from tests import generate
from tests.generate import contents


def entries_of(study: Study, id: str) -> dict[int, str]:
    texts = study.column(id).texts_at(study.column(id).indexes(0, study.records.arrived))
    return {at + 1: text for at, text in enumerate(texts) if study.records.has(at + 1)}


@settings(deadline=None, max_examples=80)
@given(st.data())
def test_what_differs_is_told_and_nothing_else(data: st.DataObject) -> None:
    """Held against a plain reading of both states, whatever steps lie between them."""
    before = after = data.draw(generate.studies())
    for _ in range(data.draw(st.integers(0, 5))):
        try:
            after = data.draw(generate.steps(after)).apply(after).study
        except RowTagError:
            continue
    found = compared(before, after)
    assert set(found.came) == after.variables.keys() - before.variables.keys()
    assert set(found.gone) == before.variables.keys() - after.variables.keys()
    were = {n for n in range(1, before.records.arrived + 1) if before.records.has(n)}
    are = {n for n in range(1, after.records.arrived + 1) if after.records.has(n)}
    assert (set(found.records_came.tolist()), set(found.records_gone.tolist())) == (are - were, were - are)
    told = {each.id: each for each in found.variables}
    for id in before.variables.keys() & after.variables.keys():
        old, new = entries_of(before, id), entries_of(after, id)
        differ = [number for number in were & are if old[number] != new[number]]
        parts = set(parts_between(before.tag(id), after.tag(id)))
        parts |= {"codes"} if before.codes(id) != after.codes(id) else set()
        each = told.get(id)
        assert (each.entries if each else 0) == len(differ)
        assert {part.part for part in each.parts} == parts if each else not parts
        if each and each.old_by_new:
            assert sum(pair.count for pair in each.old_by_new.pairs) == len(differ)
            assert {(pair.old, pair.new) for pair in each.old_by_new.pairs} == {(old[n], new[n]) for n in differ}
    assert compared(after, after).same
    if contents(before) == contents(after):
        assert found.same
