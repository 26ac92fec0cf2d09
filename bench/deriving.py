"""Measures of deriving: what a look at each way over all records costs, and what is kept costs more."""

import time
from collections.abc import Iterator
from pathlib import Path

from bench.measures import _largest, peak, peak_from_here
from rowtag.core.derive.proposed import proposals
from rowtag.core.study import Study
from rowtag.service.derive import looked
from rowtag.store.workspace import Workspace

GIVEN = {
    "decimal": {
        "group figures": "mean({name}) over {coded}",
        "formula": "round({name} * 2 + 1, 1) only where {name} > 0",
    },
    "integer": {"indicator": "indicator {name} in (1, 2)", "old codes folded": "recode {name}: 1 .. 2 -> 1; else 0"},
}
"""Sentences besides those that are proposed."""


def ways(folder: Path) -> Iterator[tuple[str, str, float, float, float]]:
    """For each way and type of source in the largest study: the way, the type, seconds for a look at all records,
    seconds for keeping it, and the memory that the look took at most, in columns of eight bytes a record."""
    workspace = Workspace(folder)
    file = _largest(workspace)
    study = file.study
    for id in study.order:
        study.fill(id)
    looked(study, "bench_0", "number over all")  # grammars are read once, for whatever is measured
    met: set[tuple[str, str]] = set()
    for id in study.order:
        kind = study.tag(id).type
        for way, text in _sentences(study, id):
            if (way, kind) in met:
                continue
            met.add((way, kind))
            names = "bench_*" if way in ("split", "indicators", "mentions", "by rank") else f"bench_{len(met)}"
            before = peak_from_here()
            begun = time.perf_counter()
            look = looked(study, names, text)
            seen = time.perf_counter() - begun
            columns = _above(before, study)
            before = peak_from_here()
            looked(study, names, text + " ")  # worked out anew; what a process takes once for all is there now
            columns = min(columns, _above(before, study))
            begun = time.perf_counter()
            file.take(look.step, f"bench-derive-{time.monotonic_ns()}", base=file.revision)
            kept = time.perf_counter() - begun
            file.move("undo", expected=file.revision)
            yield way, kind, seen, kept, columns
    workspace.close()


def in_words(folder: Path) -> str:
    """What deriving costs in the largest study, in a sentence."""
    found = list(ways(folder))
    way, kind, seen, *_ = max(found, key=lambda each: each[2])
    kept, columns = (max(each[at] for each in found) for at in (3, 4))
    return (
        f"Deriving, a look over all records takes at most {seen:.2f} s ({way} of {kind}), keeping it {kept:.2f} s "
        f"more, with at most {columns:.1f} columns of eight bytes a record in memory."
    )


def _above(before: int, study: Study) -> float:
    """The most memory held since it was so much, in columns."""
    return (peak() - before) / (8 * study.records.arrived)


def _sentences(study: Study, id: str) -> Iterator[tuple[str, str]]:
    coded = next(each for each in study.order if study.tag(each).type == "integer")
    names = {"name": study.tag(id).name, "coded": study.tag(coded).name}
    for way, (_, text) in proposals(study, id).items():
        yield way, text
    for way, text in GIVEN.get(study.tag(id).type, {}).items():
        yield way, text.format(**names)
