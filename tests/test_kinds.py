"""A toy of each kind that can be added: one module, registered, and it works wherever kinds work.

Each stands for what CONTRIBUTING says of adding one.
"""

import io
import zipfile
from collections.abc import Iterator
from pathlib import Path
from typing import BinaryIO, Literal

import numpy as np
import pytest
from fastapi.testclient import TestClient
from pydantic import BaseModel

from rowtag.api.app import create_app
from rowtag.core.checks import CHECKS, FAMILIES, Finding, findings_across, records_of, run_checks
from rowtag.core.checks.base import register_across
from rowtag.core.engine import engine
from rowtag.core.frame import Frame
from rowtag.core.refs import NewVariableId, VariableId
from rowtag.core.steps import STEPS, Made, Step, Supplies, dump, load
from rowtag.core.steps.accept import Accept
from rowtag.core.steps.base import register as register_step
from rowtag.core.steps.entries import SetEntries
from rowtag.core.steps.groups import Group
from rowtag.core.steps.tags import Define
from rowtag.core.study import Origin, Study, Variable
from rowtag.core.tag import Parts, Tag
from rowtag.core.views import VIEWS, View, load_view
from rowtag.core.views.base import register as register_view
from rowtag.core.worked_out import entries, reading
from rowtag.formats.table import Watch
from rowtag.formats.writers import WRITERS, Handed, Preview, Writer
from rowtag.formats.writers.base import register as register_writer
from rowtag.service.handover import archive, previews, usual_writers
from rowtag.store.studyfile import StudyFile
from rowtag.store.workspace import Workspace
from tests.conftest import brought_in
from tests.generate import contents
from tests.store.test_studyfile import ids


@pytest.fixture(autouse=True)
def own_kinds() -> Iterator[None]:
    """What is registered here is gone afterwards."""
    kept = [(kinds, dict(kinds)) for kinds in (CHECKS, FAMILIES, STEPS, VIEWS, WRITERS)]
    yield
    for kinds, before in kept:
        kinds.clear()
        kinds.update(before)  # type: ignore[arg-type]


# A check across variables ----------------------------------------------------------------------


def same_all_along(study: Study, found: Finding) -> np.ndarray:
    """Positions of records that hold the same valid number in all variables of a finding."""
    out = [np.empty(0, np.int64)]
    for block in Frame(study).blocks():
        values = np.stack([block.values(id) for id in found.variables])
        out.append(block.positions[(values == values[0]).all(axis=0)])
    return np.concatenate(out)


def straight(study: Study, variables: tuple[str, ...]) -> list[Finding]:
    """Records that answer all items of a battery alike."""
    found = Finding("straight lines", "note", variables[0], "the same answer all the way down", others=variables[1:])
    count = len(same_all_along(study, found))
    return [Finding(**{**vars(found), "count": count})] if count else []


@pytest.fixture
def battery(plots: StudyFile) -> StudyFile:
    """Tenure and hours as whole numbers of one battery."""
    pair = (ids(plots)["tenure"], ids(plots)["hours"])
    plots.take(Define(variables=pair, parts=Parts(type="integer", level="nominal")), "step-int1")
    plots.take(Group(battery="bat1", title="Both", variables=pair), "step-both")
    plots.take(SetEntries(variable=pair[1], entries={1: "1", 6: "2"}), "step-same")
    return plots


@pytest.mark.parametrize("scope", ["several", "records"])
def test_a_check_across_variables(battery: StudyFile, scope: Literal["several", "records"]) -> None:
    """It is run on each battery (or once on all), finds, leads to its records, is accepted, and looks again only
    where what it looks at has changed."""
    ran = []

    @register_across("straight lines", "records", reading, entries, scope=scope, records=same_all_along)
    def check(study: Study, variables: tuple[str, ...]) -> list[Finding]:
        ran.append(variables)
        return straight(study, tuple(ids(battery).values())[1:])

    engine.forget()
    study = battery.study
    (found,) = findings_across(study)
    assert (found.count, found.variables) == (2, tuple(study.order[1:]))
    assert records_of(study, found) == [1, 6] and records_of(study, found, after=1) == [6]
    assert found in run_checks(study, [found]) and "records" in FAMILIES
    label = Define(variables=(study.order[1],), parts=Parts(label="How held")).apply(study).study
    findings_across(label)
    assert len(ran) == 1, "a label runs no check of entries"
    typed = SetEntries(variable=study.order[2], entries={2: "2"}).apply(study).study
    assert findings_across(typed)[0].count == 3 and len(ran) == 2
    quiet = Accept(check=check.name, variable=study.order[1], reason="a calm lot").apply(study).study
    assert findings_across(quiet) == []


def test_checks_across_come_beside_the_server(workspace: Workspace) -> None:
    """The report says for which revision findings across hold; they come when they have been worked out."""
    study = brought_in(workspace)
    pair = tuple(workspace.study(study).study.order[1:])

    @register_across("always there", "records", reading, entries, scope="records")
    def check(_study: Study, _ids: tuple[str, ...]) -> list[Finding]:
        return [Finding("always there", "warning", pair[0], "is always there", 1, others=pair[1:])]

    with TestClient(create_app(workspace)) as client:
        client.get(f"/api/studies/{study}/checks")
        client.app.state.context.beside.settled()  # type: ignore[attr-defined]
        report = client.get(f"/api/studies/{study}/checks").json()
        assert report["across"] == report["revision"]
        (found,) = [each for each in report["findings"] if each["check"] == check.name]
        assert (found["variable"], found["others"]) == (pair[0], [pair[1]])
        step = {"do": "define", "variables": [pair[0]], "parts": {"label": "How held"}}
        body = {"id": "step-0001", "base": report["revision"], "step": step}
        revision = client.post(f"/api/studies/{study}/steps", json=body).json()["revision"]
        client.app.state.context.beside.settled()  # type: ignore[attr-defined]
        assert client.get(f"/api/studies/{study}/checks").json()["across"] == revision


# A derived column ------------------------------------------------------------------------------


def doubled_class() -> type[Step]:
    @register_step
    class Doubled(Step):
        """A variable that holds twice the numbers of another, made by mapping its tokens."""

        do: Literal["double"] = "double"
        variable: VariableId
        into: NewVariableId

        def change(self, study: Study, supplies: Supplies) -> Made:
            read, name = study.reading(self.variable), f"{study.tag(self.variable).name}_2"
            values = np.where(read.states == 0, read.values if read.values is not None else np.nan, np.nan)
            column = study.column(self.variable).mapped(values * 2, study.records.arrived)
            tag = Tag(name=name, type="decimal", level="ratio")
            made = Variable(tag=tag, origin=Origin(kind="derived", name="twice"))
            return Made(study.with_variables([(self.into, made, column)]), f"Doubled {study.tag(self.variable).name}")

    return Doubled


def test_a_derived_column(battery: StudyFile) -> None:
    """It maps tokens, is kept, replays from what was written, survives a restart, and can be undone."""
    doubled = doubled_class()
    before = contents(battery.study)
    step = doubled(variable=battery.study.order[1], into="twice1")  # type: ignore[call-arg]
    assert load(dump(step)).apply(battery.study).full_sentence == "Doubled tenure."
    battery.take(step, "step-twice")
    column = battery.study.column("twice1")
    assert column.texts_at(column.indexes(0, 6)) == ["2", "4", "16", "-18", "2", "4"]
    assert battery.study.fill("twice1").valid == 6
    path = Path(str(battery._engine.url.database))
    battery.close()
    again = StudyFile(path)
    column = again.study.column("twice1")
    assert column.segments[1].numeric and column.texts_at(column.indexes(0, 6)) == ["2", "4", "16", "-18", "2", "4"]
    again.take(SetEntries(variable="twice1", entries={1: "3", 2: "4"}), "step-over")
    assert again.study.column("twice1").texts_at(again.study.column("twice1").indexes(0, 3)) == ["3", "4", "16"]
    again.move("undo", expected=again.revision)
    again.move("undo", expected=again.revision)
    assert contents(again.study) == before
    again.close()


# A view ----------------------------------------------------------------------------------------


class Size(BaseModel):
    """How many of some records hold a valid entry."""

    view: Literal["size"] = "size"
    valid: int


def test_a_view(battery: StudyFile) -> None:
    """It is read by its name, looks at a frame (some records too), and bad ones get a sentence."""

    @register_view
    class Sized(View):
        """How many records hold a valid entry of a variable."""

        view: Literal["size"] = "size"
        variable: VariableId

        def look(self, frame: Frame) -> Size:
            return Size(valid=sum(int((block.states(self.variable) == 0).sum()) for block in frame.blocks()))

    tenure = battery.study.order[1]
    view = load_view({"view": "size", "variable": tenure})
    assert isinstance(view, Sized) and view.look(Frame(battery.study)) == Size(valid=6)
    chosen = np.array([True, False, False, True, False, False])
    assert view.look(Frame(battery.study, chosen)) == Size(valid=2)
    table = load_view({"view": "distribution", "variable": tenure}).look(Frame(battery.study, chosen))
    assert [(row.code, row.count) for row in table.rows if row.count] == [("-9", 1), ("1", 1)]  # type: ignore[attr-defined]
    assert table.fill.valid == 2 and table.records == 2  # type: ignore[attr-defined]
    with pytest.raises(Exception, match="There is no view called “pie”"):
        load_view({"view": "pie"})
    with pytest.raises(Exception, match="variable is wanted"):
        load_view({"view": "size"})


# A writer --------------------------------------------------------------------------------------


def test_a_writer(battery: StudyFile, tmp_path: Path) -> None:
    """It stands in every archive, previews what it writes, and what it notes is told in the README."""

    @register_writer
    class Names(Writer):
        """The names of all variables, a line each."""

        file = "names.txt"
        writer: Literal["names"] = "names"

        def preview(self, handed: Handed) -> Preview:
            out = io.BytesIO()
            return Preview(self.file, out.getvalue().decode(), self.write(handed, out, lambda *_: None))

        def write(self, handed: Handed, file: BinaryIO, watch: Watch) -> list[str]:
            file.write("\n".join(handed.study.tag(id).name for id in handed.study.order).encode())
            return ["names stand in names.txt"]

    writers = usual_writers(WRITERS["csv"]().entries)
    assert [type(each) for each in writers][-1] is Names
    notes = archive(battery.study, "Plots", [writers[-1], *writers[:-1]], tmp_path / "a.zip")
    with zipfile.ZipFile(tmp_path / "a.zip") as zipped:
        assert zipped.namelist() == ["names.txt", "data.csv", "datapackage.json", "README.txt"]
        assert zipped.read("names.txt").decode().splitlines() == ["plot", "tenure", "hours"]
        assert "names stand in names.txt" in zipped.read("README.txt").decode()
    assert notes[0] == "names stand in names.txt"
    assert [each.name for each in previews(battery.study, "Plots", writers)][-1] == "names.txt"
    with pytest.raises(Exception, match=r"Two files of the archive are called names\.txt"):
        archive(battery.study, "Plots", [writers[-1]] * 2, tmp_path / "b.zip")


def test_what_is_registered_is_offered() -> None:
    """The HTTP interface describes every step that needs nothing else, every view and every writer."""
    schemas = create_app(None).openapi()["components"]["schemas"]
    offered = {
        part["const"]
        for schema in schemas.values()
        for name in ("do", "view", "writer")
        if "const" in (part := schema.get("properties", {}).get(name, {}))
    }
    assert offered >= {name for name, kind in STEPS.items() if not kind.needs_supplies} | set(VIEWS) | set(WRITERS)
