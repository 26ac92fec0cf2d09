"""Two states compared: what is told is what differs when both are read record by record."""

from hypothesis import given, settings
from hypothesis import strategies as st

from rowtag.core.column import column_of_texts
from rowtag.core.comparing import codebooks_compared, compared
from rowtag.core.errors import RowTagError
from rowtag.core.study import Records, Study, Titled, Variable
from rowtag.core.tag import CodeLine, Tag
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


def test_codebooks_meet_by_name() -> None:
    """Two studies of other ids: what came, what went, and part by part what is otherwise, in words where ids differ."""

    def study(tags: dict[str, Tag], battery: str, title: str) -> Study:
        variables = [(id, Variable(tag=tag), column_of_texts(["1"])) for id, tag in tags.items()]
        return Study(records=Records(1)).put("battery", {battery: Titled(title=title)}).with_variables(variables)

    own = (CodeLine(code="1", label="Own"),)
    here = study({"v1": Tag(name="tenure", codes=own, battery="b1"), "v2": Tag(name="letter")}, "b1", "The plot")
    tenure = Tag(name="Tenure", codes=(*own, CodeLine(code="4", label="Lent")), battery="x9")
    there = study({"w1": Tag(name="shed"), "w2": tenure}, "x9", "The plot")
    found = codebooks_compared(here, there)
    assert (found.came, found.gone) == (("shed",), ("letter",))
    parts = {part.part: (part.was, part.now) for part in found.parts["Tenure"]}
    assert parts == {"name": ("tenure", "Tenure"), "codes": (own, tenure.codes)}
    assert codebooks_compared(here, here).parts == {}
