"""The job itself: columns, reading, tags, steps, checks, tables. No HTTP, SQL, files or clock."""

import sys
from typing import Any


class _Unused:
    """Answers at once that certain packages are not there.

    Arrow looks for them whenever it is handed a list or a NumPy array. Row Tag uses neither, and searching
    every folder of the path for them takes longer than most of the work that follows.
    """

    names = frozenset({"pandas", "dateutil"})

    @classmethod
    def find_spec(cls, name: str, _path: Any = None, _target: Any = None) -> None:
        """The hook of the import system: None leaves the name to the other finders."""
        if name in cls.names:
            raise ModuleNotFoundError(f"Row Tag works without {name}", name=name)


sys.meta_path.insert(0, _Unused())
