"""More variables: what a file would put beside a study's records, told before; and what a file seems to be."""

from pathlib import Path

import pytest

from rowtag.core.errors import BadInput
from rowtag.core.steps.records import RemoveRecords
from rowtag.core.steps.tags import Define
from rowtag.core.tag import Parts
from rowtag.formats.intake import Holding, read
from rowtag.formats.routine import read as read_routine
from rowtag.formats.routine import write
from rowtag.formats.table import Settings
from rowtag.service.coming import File
from rowtag.service.more import More, joining
from rowtag.service.more_variables import MoreVariables, more_variables, standing_beside
from rowtag.service.routines import run, saved
from rowtag.store.studyfile import StudyFile
from rowtag.store.workspace import Upload, Workspace
from tests.conftest import PLOTS
from tests.store.test_studyfile import ids

READ = Settings(separator=",", data_row=2)
VISITS = "plot,hours,visits\n0014,9,2\n0007,8,1\n0099,7,4\n0014,6,3\n,5,5\n"


@pytest.fixture
def identified(plots: StudyFile) -> StudyFile:
    """The six plots, whose numbers identify them."""
    plots.take(Define(variables=(ids(plots)["plot"],), parts=Parts(use="identifier")), "identified")
    return plots


def handed_in(workspace: Workspace, text: str, name: str = "visits.csv") -> tuple[Upload, Holding]:
    upload = workspace.receive(name, [text.encode()])
    return upload, read(upload.path, upload.name, READ)


def test_it_is_told_before_anything_is_kept(identified: StudyFile, workspace: Workspace) -> None:
    """The study's identifier and its column are found; what the study has by name is left; all are accounted for."""
    upload, holding = handed_in(workspace, VISITS)
    found = standing_beside(identified.study, holding, MoreVariables())
    assert (found.identifier, found.column) == (ids(identified)["plot"], 1)
    assert [(each.head, each.taken, each.name) for each in found.columns] == [
        ("hours", False, "hours"),
        ("visits", True, "visits"),
    ]
    assert (found.matched, found.alone, found.without, found.doubled) == (2, 4, 2, 2)
    assert (found.unmatched, found.unknown, found.doubles) == (["0021", "0028", "0035", "0042"], ["0099", ""], ["0014"])
    both = standing_beside(identified.study, holding, MoreVariables(taken={2: True}))
    assert [each.name for each in both.columns] == ["hours_2", "visits"]
    identified.take(RemoveRecords(records=(2,)), "removed-01")
    fewer = standing_beside(identified.study, holding, MoreVariables())
    assert (fewer.matched, fewer.alone, fewer.unknown) == (1, 4, ["0014", "0099", "0014", ""])
    more_variables(identified, upload, READ, MoreVariables(taken={2: True}), step_id="beside-01")
    own, study = ids(identified), identified.study
    texts = {
        name: study.column(own[name]).texts_at(study.column(own[name]).indexes(0, 6)) for name in ("hours_2", "visits")
    }
    assert texts == {"hours_2": ["8", "", "", "", "", ""], "visits": ["1", "", "", "", "", ""]}


@pytest.mark.parametrize(
    ("text", "column"),
    [
        ("visits,no,code\n2,0014,0007\n1,0007,0007\n3,0021,0014\n4,0099,0014\n", 2),
        ("visits,no\n2,0014\n1,0007\n3,0099\n4,0098\n", None),
        ('visits,""\n2,0014\n1,0007\n3,28\n4,0021\n', 2),
    ],
    ids=["its entries differ, most are known", "too few are known", "without a head"],
)
def test_the_column_is_found_by_its_entries(
    identified: StudyFile, workspace: Workspace, text: str, column: int | None
) -> None:
    """Where no column bears the identifier's name, the one that holds what the study's records are told by is meant."""
    _, holding = handed_in(workspace, text)
    assert standing_beside(identified.study, holding, MoreVariables()).column == column


@pytest.mark.parametrize(
    ("text", "more", "what"),
    [
        ("number,visits\n0007,1\n", MoreVariables(), "not said by what the records are told"),
        ("plot,visits\n0007,1\n", MoreVariables(column=9), "The file has no column 9"),
        ("plot,visits\n0999,1\n", MoreVariables(), "has the plot of a record in this study"),
        ("plot,hours\n0007,1\n", MoreVariables(), "None of the file's columns was taken"),
    ],
)
def test_what_cannot_be_is_refused(
    identified: StudyFile, workspace: Workspace, text: str, more: MoreVariables, what: str
) -> None:
    upload, _ = handed_in(workspace, text)
    revision = identified.revision
    with pytest.raises(BadInput, match=what):
        more_variables(identified, upload, READ, more, step_id="beside-01")
    assert identified.revision == revision


@pytest.mark.parametrize(
    ("text", "likely"),
    [
        ("plot,tenure,hours\n0007,1,4\n0014,2,12\n0021,8,9\n", "corrected"),
        ("plot,soil,shed\n0007,clay,1\n0014,loam,0\n0021,sand,1\n", "more variables"),
        ("plot,tenure,hours\n0107,1,4\n0114,2,12\n0021,8,9\n", "more records"),
        ("tenure,hours\n1,4\n2,12\n8,9\n", "more records"),
    ],
)
def test_what_a_file_seems_to_be(identified: StudyFile, workspace: Workspace, text: str, likely: str) -> None:
    _, holding = handed_in(workspace, text)
    found = joining(identified.study, holding, More())
    assert found.likely == likely
    assert found.source == next(iter(identified.study.shelves["source"]))


def test_a_routine_puts_it_beside_again(identified: StudyFile, workspace: Workspace, tmp_path: Path) -> None:
    """Saved as text and run where both files lie, it gives the same entries; without the second file it says so."""
    upload, _ = handed_in(workspace, VISITS)
    more_variables(identified, upload, READ, MoreVariables(doubled="last"), step_id="beside-01")
    text = write(saved(identified, "Plots"))
    assert "do: put beside" in text and "column: plot" in text and "doubled: last" in text
    (tmp_path / "plots.csv").write_text(PLOTS, "utf-8")
    alone = run(read_routine(text), "x.yaml", file=File.at(tmp_path / "plots.csv"))
    assert [line.again.came for line in alone.lines] == ["done", "done", "not possible"]
    (tmp_path / "visits.csv").write_text(VISITS, "utf-8")
    ran = run(read_routine(text), "x.yaml", file=File.at(tmp_path / "plots.csv"))
    assert ran.whole and len(ran.lines) == 3 and not ran.new
    assert [each.tag.name for each in ran.study.variables.values()] == ["plot", "tenure", "hours", "visits"]
    own = ran.study.name_keys
    for study, id in ((ran.study, own["visits"]), (identified.study, ids(identified)["visits"])):
        assert study.column(id).texts_at(study.column(id).indexes(0, 6)) == ["1", "3", "", "", "", ""]
