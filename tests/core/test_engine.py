"""The engine: what was worked out is remembered, weighed, made once, and let go when room is wanted."""

import gc
import threading
import time
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass

import numpy as np
import pyarrow as pa
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from rowtag.api.models import strip_of
from rowtag.core import checks, study, worked_out
from rowtag.core.aside import suspects
from rowtag.core.checks import CHECKS, findings_across, findings_on
from rowtag.core.engine import Engine, Same, engine, weight
from rowtag.core.errors import RowTagError
from rowtag.core.reading import State
from rowtag.core.steps.entries import AddBlankRecords, SetEntries
from rowtag.core.steps.tags import Define
from rowtag.core.study import Study
from rowtag.core.tables import frequency, summary
from rowtag.core.tag import Parts, Tag
from tests import generate


def test_what_costs_most_to_make_again_stays() -> None:
    """Of results that take the same room those go first that cost least; what is remembered is not made again."""
    now = [0.0]
    memory = Engine(limit=20_000, clock=lambda: now[0])
    made: list[str] = []

    def get(key: str, cost: float) -> None:
        def make() -> np.ndarray:
            made.append(key)
            now[0] += cost
            return np.zeros(500)

        memory.get(key, make)

    get("dear", 10)
    for number in range(12):
        get(f"cheap {number}", 0.001)
    get("dear", 10)
    assert made.count("dear") == 1 and memory.nbytes <= memory.limit
    assert memory.known("cheap 0") is None and memory.known("cheap 11") is not None
    memory.forget()
    get("dear", 10)
    assert made.count("dear") == 2


def test_what_was_dear_once_goes_in_the_end() -> None:
    """A result that nobody asks for any more is let go after enough others came."""
    now = [0.0]
    memory = Engine(limit=20_000, clock=lambda: now[0])

    def make(cost: float) -> np.ndarray:
        now[0] += cost
        return np.zeros(500)

    memory.get("dear", lambda: make(1.0))
    for number in range(400):
        memory.get(number, lambda: make(0.1))
    assert memory.known("dear") is None


def test_two_who_ask_at_once_get_what_is_made_once() -> None:
    """Who asks for what another is making waits for it; when that fails, the next one tries."""
    memory, made = Engine(), []
    begin = threading.Barrier(4)

    def ask(_: int) -> int:
        def make() -> int:
            made.append(1)
            time.sleep(0.05)
            return 7

        begin.wait()
        return memory.get("key", make)

    with ThreadPoolExecutor(4) as pool:
        assert list(pool.map(ask, range(4))) == [7] * 4
    assert made == [1]
    with pytest.raises(ZeroDivisionError):
        memory.get("broken", lambda: 1 // 0)
    assert memory.get("broken", lambda: 1) == 1


@dataclass(frozen=True)
class _Pair:
    left: np.ndarray
    right: tuple[str, ...]


def test_weights_are_true() -> None:
    """Arrays, texts and what holds them weigh what they take."""
    assert weight(np.zeros(1_000)) == 8_000
    assert weight(pa.array(["ab"] * 1_000, pa.large_string())) >= 2_000
    assert weight(_Pair(np.zeros(1_000), ("x" * 5_000,))) > 13_000
    assert weight(Tag(name="x", note="n" * 9_000)) > 9_000
    assert Same(made := (1, 2)) == Same(made)
    assert Same(thing := _Thing()) == Same(thing) != Same(_Thing())


class _Thing:
    """Something that can be named without being held."""


def test_what_was_made_from_something_gone_goes_with_it() -> None:
    """A result does not hold what it was made from, and is let go of once nobody can ask for it."""
    memory, thing = Engine(), _Thing()
    for number in range(50):
        memory.get(("of", (number, Same(thing))), lambda: bytes(100_000))
    memory.get(("of", (0, Same(other := _Thing()))), lambda: 5)
    assert memory.nbytes > 5_000_000
    del thing
    gc.collect()
    for number in range(2_000):
        memory.get(number, lambda: 1)
    assert memory.nbytes < 4_000_000
    assert memory.known(("of", (0, Same(other)))) == 5


DERIVED = {
    "findings": lambda study, id: findings_on(study, id),
    "across": lambda study, id: tuple(findings_across(study)),
    "suspects": lambda study, id: suspects(study, id),
    "strip": lambda study, id: strip_of(study, id),
    "fill": lambda study, id: study.fill(id),
    "counts": lambda study, id: study.counts(id).tolist(),
    "values": lambda study, id: [each.tolist() for each in study.values(id, State.VALID, State.UNLISTED)],
    "frequency": lambda study, id: frequency(study, id),
    "summary": lambda study, id: summary(study, id),
}
"""What is worked out of one variable, by any way that is remembered."""


@settings(max_examples=60)
@given(st.data())
def test_what_is_remembered_is_what_would_be_worked_out(data: st.DataObject) -> None:
    """After any steps what is remembered equals what is worked out from cold: nobody looks at more than they say."""
    here = data.draw(generate.studies())
    for _ in range(data.draw(st.integers(1, 5))):
        warm = {name: {id: find(here, id) for id in here.order} for name, find in DERIVED.items()}
        engine.forget()
        for name, find in DERIVED.items():
            assert {id: find(here, id) for id in here.order} == warm[name], name
        try:
            here = data.draw(generate.steps(here)).apply(here).study
        except RowTagError:
            continue


def plots() -> Study:
    tag = Tag(name="hours", type="integer")
    return study.Study(records=study.Records(3)).with_variables(
        [("v1", study.Variable(tag=tag), generate.column_of_texts(["1", "x", "3"]))]
    )


def test_a_label_runs_no_check_of_entries(monkeypatch: pytest.MonkeyPatch) -> None:
    """Each check is run again only where what it looks at has changed."""
    ran: list[str] = []
    for name, check in CHECKS.items():

        def find(here: Study, id: str, name: str = name, check: checks.base.Check = check):  # type: ignore[no-untyped-def]
            ran.append(name)
            return check.find(here, id)

        counted = checks.base.Check(**{**vars(check), "find": find})
        monkeypatch.setitem(CHECKS, name, counted)
    here = plots()
    findings_on(here, "v1")
    assert set(ran) == {name for name, check in CHECKS.items() if check.scope == "variable"}
    ran.clear()
    here = Define(variables=("v1",), parts=Parts(label="Hours")).apply(here).study
    assert [each.check for each in findings_on(here, "v1")] == ["unreadable entries", "code list wanted"]
    entry_checks = {name for name, check in CHECKS.items() if worked_out.words not in check.looks_at}
    assert not set(ran) & entry_checks and "label wanted" in ran
    ran.clear()
    findings_on(AddBlankRecords(count=5).apply(here).study, "v1")
    assert ran == ["nearly empty"], "a blank record spoils nothing else"
    findings_on(SetEntries(variable="v1", entries={1: "5"}).apply(here).study, "v1")
    assert "label wanted" not in ran and "unreadable entries" in ran


def test_many_strays_cost_no_finding(monkeypatch: pytest.MonkeyPatch) -> None:
    """A finding keeps the first entries and how many there are, not every stray."""
    texts = [f"stray {number}" for number in range(5_000)]
    here = study.Study(records=study.Records(5_000)).with_variables(
        [("v1", study.Variable(tag=Tag(name="hours", type="integer", label="Hours")), generate.column_of_texts(texts))]
    )
    found = findings_on(here, "v1")[0]
    assert (found.count, found.different, len(found.evidence)) == (5_000, 5_000, checks.base.FEW)
    assert weight(found) < 20_000
    assert checks.records_of(here, found, most=3, after=10) == [11, 12, 13]
    assert checks.records_of(here, found, ["stray 4999"]) == [5_000]


def test_findings_look_at_whatever_any_check_looks_at() -> None:
    """What is remembered of findings goes with all that any check looks at: three blank records more
    are three identifiers that are wanted."""
    here = study.Study(records=study.Records(2)).with_variables(
        [("v1", study.Variable(tag=Tag(name="plot", use="identifier")), generate.column_of_texts(["A1", "A2"]))]
    )
    assert not [each for each in findings_on(here, "v1") if each.check == "identifier blank"]
    grown = AddBlankRecords(count=3).apply(here).study
    assert [each.count for each in findings_on(grown, "v1") if each.check == "identifier blank"] == [3]
