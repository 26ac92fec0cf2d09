"""The layers: arrows run downwards only."""

import subprocess
import sys

import pytest

ALLOWED = {
    "rowtag.core": {"lark", "scipy", "numpy", "pyarrow", "pydantic", "rowtag.core"},
    "rowtag.formats": {
        "charset_normalizer", "numpy", "orjson", "pyarrow", "pydantic", "python_calamine", "rowtag.core",
        "rowtag.formats", "yaml",
    },
    "rowtag.documents": {
        "lxml", "numpy", "orjson", "pdfminer", "pdfplumber", "pyarrow", "pydantic", "rowtag.core", "rowtag.documents",
        "rowtag.formats", "striprtf", "yaml",
    },
    "rowtag.documents.hands": {"rowtag.core", "rowtag.documents"},
    "rowtag.documents.layouts": {"rowtag.core", "rowtag.documents"},
    "rowtag.store": {
        "alembic", "fcntl", "numpy", "orjson", "platformdirs", "pyarrow", "pydantic", "sqlalchemy", "rowtag.core",
        "rowtag.store",
    },
}  # fmt: skip

CODE = """
import ast, pathlib, sys
root = pathlib.Path({root!r}).joinpath(*{package!r}.split("."))
for path in root.rglob("*.py"):
    if "migrations" in path.parts:
        continue
    for node in ast.walk(ast.parse(path.read_text("utf-8"))):
        names = [a.name for a in node.names] if isinstance(node, ast.Import) else []
        names += [node.module or ""] if isinstance(node, ast.ImportFrom) else []
        for name in names:
            top = name.split(".")[0]
            print(".".join(name.split(".")[:2]) if top == "rowtag" else top)
"""


@pytest.mark.parametrize("package", sorted(ALLOWED))
def test_a_layer_imports_only_what_is_below(package: str) -> None:
    """core knows no HTTP, SQL, files or clock; formats and store know core alone."""
    run = subprocess.run(
        [sys.executable, "-c", CODE.format(root=".", package=package)], capture_output=True, text=True, check=True
    )
    outside = set(run.stdout.split()) - set(sys.stdlib_module_names) - {"rowtag"}
    assert outside <= ALLOWED[package]
    if package == "rowtag.core":
        assert not set(run.stdout.split()) & {"os", "pathlib", "time", "datetime", "sqlite3", "socket", "io"}
