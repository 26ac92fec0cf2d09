"""Every expression of the package, found by itself: those of its modules, and those of its grammars."""

import ast
import importlib
import inspect
import pkgutil
import re
from collections.abc import Iterator
from contextlib import suppress
from functools import cache
from pathlib import Path
from types import ModuleType

import rowtag

USES = {f"re.{use}" for use in ("compile", "search", "match", "fullmatch", "split", "sub", "findall", "finditer")}
PACKAGE = Path(rowtag.__file__).parent


@cache
def modules() -> list[ModuleType]:
    """All modules, but migrations, which only run within a database."""
    names = [each.name for each in pkgutil.walk_packages(rowtag.__path__, "rowtag.")]
    return [importlib.import_module(name) for name in names if ".migrations." not in name and "__main__" not in name]


def expressions_of(module: ModuleType) -> dict[str, re.Pattern[str]]:
    """The expressions in a module, under where they stand."""
    found = {}
    for name, value in vars(module).items():
        if isinstance(value, re.Pattern) and isinstance(value.pattern, str):
            found[f"{module.__name__}.{name}"] = value
    for call in ast.walk(ast.parse(inspect.getsource(module))):
        if isinstance(call, ast.Call) and ast.unparse(call.func) in USES:
            with suppress(NameError):  # one made of what a function is given
                text = eval(compile(ast.Expression(call.args[0]), module.__name__, "eval"), dict(vars(module)))
                if isinstance(text, str):
                    found[f"{module.__name__}:{call.lineno}"] = re.compile(text)
    return found


def terminals() -> Iterator[tuple[str, str]]:
    """The expressions in grammars, with where they stand."""
    for path in sorted(PACKAGE.rglob("*.lark")):
        for number, line in enumerate(path.read_text().split("\n"), 1):
            if (match := re.fullmatch(r"(?:\w+(?:\.\d+)?: |%ignore )/(.+)/i?", line)) is not None:
                yield f"{path.name}:{number}", match[1]
            else:
                assert not re.search(r": /|ignore /", line), "a terminal in a form that is not looked at"
