"""What is loaded where: who looks at a text file waits for no library of documents, databases or servers."""

import subprocess
import sys
from pathlib import Path

import pytest

FOR_DOCUMENTS = {"pdfplumber", "lxml", "charset_normalizer", "python_calamine", "xlsxwriter", "pyarrow.parquet"}
FOR_KEEPING = {"sqlalchemy", "alembic"}
FOR_SERVING = {"fastapi", "uvicorn", "starlette"}
FOR_FORMULAS = {"lark"}


def loaded(*code: str) -> set[str]:
    """The modules that are loaded after some code."""
    tell = "import sys; sys.stderr.write(' '.join(sys.modules))"
    done = subprocess.run([sys.executable, "-c", "\n".join([*code, tell])], capture_output=True, text=True, check=True)
    return set(done.stderr.split())


def said(*words: str) -> set[str]:
    """The modules that are loaded by a command."""
    return loaded(
        "import sys; from rowtag import cli",
        f"sys.argv = {['rowtag', *words]!r}",
        "try: cli.main()",
        "except SystemExit: pass",
    )


def test_help_loads_no_work() -> None:
    """The command's own words want neither numbers nor tables."""
    found = said("--help")
    assert not found & {"numpy", "pyarrow", "pydantic", *FOR_DOCUMENTS, *FOR_KEEPING, *FOR_SERVING, *FOR_FORMULAS}
    assert len([each for each in found if each.startswith("rowtag")]) <= 4


@pytest.mark.parametrize("ending", [".csv", ".txt"])
def test_describing_text_loads_what_reads_text(tmp_path: Path, ending: str) -> None:
    """Neither what reads documents and workbooks, nor what keeps studies, nor grammars."""
    file = tmp_path / f"plots{ending}"
    file.write_text("plot,size\n1,4.5\n2,3\n")
    found = said("describe", str(file))
    assert "numpy" in found
    assert not found & (FOR_DOCUMENTS | FOR_KEEPING | FOR_SERVING | FOR_FORMULAS)
    assert len([each for each in found if each.startswith("rowtag")]) <= 60


def test_a_server_that_is_ready_reads_nothing_yet(tmp_path: Path) -> None:
    """Files are read beside it, and studies of today want no migrations."""
    opened = [
        "from pathlib import Path; from rowtag.store.workspace import Workspace; import rowtag.api.server as server",
        f"workspace = Workspace(Path({str(tmp_path)!r}))",
        "server.create_app(workspace); workspace.close()",
    ]
    loaded(*opened)  # the first time its tables are made
    found = loaded(*opened)
    assert "fastapi" in found
    assert not found & (FOR_DOCUMENTS | {"alembic", "mako"})
