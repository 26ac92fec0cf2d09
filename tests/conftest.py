"""What tests share: a workspace, a study with data in it, the HTTP interface, the demo's files."""

from collections.abc import Iterator
from pathlib import Path

import pytest
from fastapi.testclient import TestClient
from hypothesis import HealthCheck, settings

from rowtag.api.app import create_app
from rowtag.demo import generator
from rowtag.formats.intake import guess
from rowtag.service.intake import bring_in
from rowtag.store.studyfile import StudyFile
from rowtag.store.workspace import Workspace

settings.register_profile("rowtag", deadline=None, max_examples=60, suppress_health_check=[HealthCheck.too_slow])
settings.load_profile("rowtag")

PLOTS = "plot;tenure;hours\n0007;1;4\n0014;2;12 hrs\n0021;8;9\n0028;-9;\n0035;1;n/a\n0042;2;7\n"
"""Six records: a plot number, a coded variable, a number with strays."""


@pytest.fixture
def workspace(tmp_path: Path) -> Iterator[Workspace]:
    """An empty workspace."""
    opened = Workspace(tmp_path / "workspace")
    yield opened
    opened.close()


def brought_in(workspace: Workspace, text: str = PLOTS, name: str = "plots.csv") -> str:
    """A study that holds a text; gives its id."""
    entry = workspace.create("Plots")
    upload = workspace.receive(name, [text.encode()])
    bring_in(workspace.study(entry.id), upload, guess(upload.path, name), step_id=f"bring-{entry.id}", by="test")
    workspace.note_change(entry.id)
    return entry.id


@pytest.fixture
def plots(workspace: Workspace) -> StudyFile:
    """An open study that holds the six plots."""
    return workspace.study(brought_in(workspace))


@pytest.fixture
def client(workspace: Workspace) -> Iterator[TestClient]:
    """The HTTP interface over the workspace."""
    with TestClient(create_app(workspace), raise_server_exceptions=False) as opened:
        yield opened


@pytest.fixture(scope="session")
def demo_files(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A folder with the demo's data as fennel.csv and fennel.xlsx."""
    folder = tmp_path_factory.mktemp("demo")
    generator.write_csv(folder / "fennel.csv")
    generator.write_workbook(folder / "fennel.xlsx")
    return folder
