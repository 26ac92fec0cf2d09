"""Deriving held against its documentation said a second time; and what holds for every sentence that is kept."""

import random

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from rowtag.core.checks import findings_on
from rowtag.core.derive import held, sources_of
from rowtag.core.errors import BadInput
from rowtag.core.steps.derive import Derive, Into, WorkOutAgain
from rowtag.core.study import Study
from tests import judge, reference


@pytest.mark.parametrize("seed", range(6))
def test_sentences_mean_what_the_documentation_says(seed: int) -> None:
    """Random sentences on messy entries, record by record; `python -m tests.judge 20000` judges many more."""
    chance, refused = random.Random(seed), 0
    for _ in range(150):
        said, here = judge.sentence(chance), judge.world(chance, chance.randint(1, 9))
        found = judge.judged(said, here)
        refused += found.startswith("refused")
        assert not found or found.startswith("refused"), f"{said.text}: {found}"
    assert refused < 30


def test_the_judge_sees_what_is_wrong(monkeypatch: pytest.MonkeyPatch) -> None:
    """Where the plain reading says otherwise it is told: it does judge."""
    here = judge.World(
        tuple({**{name: each[0] for name, each in judge.ENTRIES.items()}, "hours": "0.29"} for _ in "12")
    )
    times = judge.of(judge.variable("hours"))(lambda value: value * 100)
    right = judge.Sentence("floor(hours * 100)", lambda world, at: [("valid", times(world, at))])
    assert judge.judged(right, here) == ""
    wrong = judge.Sentence("floor(hours * 100)", lambda world, at: [("valid", times(world, at) - 1)])
    assert "not valid 28" in judge.judged(wrong, here)
    blank = judge.Sentence("floor(hours * 100)", lambda world, at: [("blank", None)])
    assert "not blank" in judge.judged(blank, here)


def entries_of(study: Study, id: str) -> list[str]:
    column = study.column(id)
    return column.texts_at(column.indexes(0, study.records.arrived))


@settings(max_examples=150, deadline=None)
@given(st.integers(0, 10**9))
def test_working_out_again_changes_nothing(seed: int) -> None:
    """Whatever is derived, one after the other and of one another, holds what comes out of it; spans do, too."""
    chance = random.Random(seed)
    study = judge.world(chance, chance.randint(2, 8)).study()
    made: list[str] = []
    for number in range(chance.randint(2, 5)):
        text = chance.choice(
            [judge.formula(chance).text, judge.turned(chance).text, "mean(site_1..site_3, needs 1)", "count(site_1..w)",
             "sum(site_1..site_2, reverse(site_3, 1, 5))", f"made_{number - 1} & '!'" if number else "count(tenure..w)"]
        )  # fmt: skip
        try:
            into = {f"id_made_{number}": f"made_{number}"}
            study = Derive(variables=(Into(how=held(text, study), into=into),)).apply(study).study
        except BadInput:
            continue
        made += into
    for id in made:
        assert id not in sources_of(study, id)
        told = {each.check for each in findings_on(study, id)}
        assert not told & {"not what comes out", "span means others"}
        with pytest.raises(BadInput, match="all entries are what comes out"):
            WorkOutAgain(variables=(id,)).apply(study)


@settings(max_examples=250, deadline=None)
@given(st.integers(0, 10**9))
def test_in_place_and_in_part_leaves_all_others_as_they_were(seed: int) -> None:
    """Where the condition is not met, a record keeps its entry, how it reads, and its label; or the step is refused."""
    chance = random.Random(seed)
    here = judge.world(chance, chance.randint(2, 9))
    study = here.study()
    make = chance.choice([judge.recoded, judge.turned, judge.bands, judge.coded, judge.converted, judge.formula])
    said, only = make(chance).text, judge.condition(chance, 1)
    name = (
        said.split()[1].rstrip(":") if make is not judge.formula else chance.choice(["hours", "rent", "site_1", "crop"])
    )
    try:
        how = held(f"{said} only where {only.text}", study)
        after = Derive(variables=(Into(how=how, into={f"id_{name}": name}),)).apply(study).study
    except BadInput as error:
        assert error.what
        return
    was, now = (each.tag(f"id_{name}") for each in (study, after))
    both = zip(entries_of(study, f"id_{name}"), entries_of(after, f"id_{name}"), strict=True)
    for at, (before, then) in enumerate(both):
        try:
            met = only.means(here, at)
        except judge.Unsure:
            continue
        if met is not True:
            assert then == before
            assert reference.read(then, now) == reference.read(before, was), (said, only.text)
