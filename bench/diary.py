"""Measures of the diary: steps done again, amended, compared, and opened when there are many."""

import secrets
import time
from dataclasses import dataclass
from pathlib import Path

from bench.measures import brought_in
from rowtag.core.comparing import compared
from rowtag.core.replaying import Replay
from rowtag.core.steps import Step
from rowtag.core.steps.entries import SetEntries
from rowtag.core.steps.tags import Define
from rowtag.core.study import Study
from rowtag.core.tag import Parts
from rowtag.formats.intake import read
from rowtag.formats.table import Settings
from rowtag.service.amending import Edit, amended
from rowtag.service.correcting import Correction, corrected
from rowtag.service.editions import name_edition
from rowtag.service.intake import source_of
from rowtag.store.studyfile import StudyFile
from rowtag.store.workspace import Workspace

REPLAYED = 1_000
BACK = 200
MANY = 5_000
EDITIONS = 20


@dataclass(frozen=True)
class Diary:
    """Seconds: so many steps done again; a look at an amendment that far back, and at a corrected file in place of the
    one that was brought in; two editions compared; a study with so many steps and editions opened; and the first page
    of its diary."""

    replayed: float
    amended: float
    corrected: float
    compared: float
    opened: float
    page: float


def measured(data: Path) -> Diary:
    """All of them on a study of a file that has only just come in."""
    folder = data.parent / "diary-workspace"
    workspace = Workspace(folder)
    file = workspace.study(brought_in(workspace, data)[0])
    for id in file.study.order:
        file.study.fill(id)
    steps = list(_steps(file.study, REPLAYED))
    replay = Replay(file.study)
    begun = time.perf_counter()
    for step in steps:
        replay.do(step)
    replayed = time.perf_counter() - begun
    assert all(again.came == "done" for again in replay.done)
    first = name_edition(file, "before")
    kept = [_taken(file, step) for step in steps[: BACK + 1]]
    begun = time.perf_counter()
    look = amended(file, [Edit(kept[0], "out")])
    looked = time.perf_counter() - begun
    assert len(look.lines) == BACK + 1
    correcting = _corrected(workspace, file)
    before, after = file.state(first.state), file.study
    begun = time.perf_counter()
    compared(before, after)
    differing = time.perf_counter() - begun
    for step in _steps(file.study, MANY - BACK - 1):
        _taken(file, step)
    for number in range(EDITIONS - 1):
        name_edition(file, f"edition {number}")
    path = folder / file.name
    del file
    workspace.close()
    begun = time.perf_counter()
    again = StudyFile(path, there=True)
    opened = time.perf_counter() - begun
    begun = time.perf_counter()
    again.diary(100)
    page = time.perf_counter() - begun
    again.close()
    return Diary(replayed, looked, correcting, differing, opened, page)


def _corrected(workspace: Workspace, file: StudyFile) -> float:
    """A look at the file with its records in another order, a hundred of them gone and a thousand entries otherwise."""
    study = file.study
    id, source = next(iter(study.shelves["source"].items()))
    head, *lines = b"".join(file.source_bytes(source.sha256)).splitlines(keepends=True)
    mended = [b"9" + line if at % 100 == 0 else line for at, line in enumerate(lines[100:])]
    upload = workspace.receive("corrected.csv", [head, *reversed(mended)])
    holding = read(upload.path, upload.name, Settings.model_validate(source.settings))
    identifier = next(id for id in study.order if study.tag(id).name.startswith("iden"))
    how = Correction(source=id, identifier=identifier)
    begun = time.perf_counter()
    found = corrected(file, holding, source_of(upload, holding), how)
    taken = time.perf_counter() - begun
    assert found.gone.size == 100 and found.changed
    return taken


def _steps(study: Study, number: int) -> list[Step]:
    """Labels given and entries typed, all over the study."""
    order, records = study.order, study.records.arrived
    return [
        Define(variables=(order[at % len(order)],), parts=Parts(label=f"label {secrets.token_hex(4)}"))
        if at % 2
        else SetEntries(variable=order[at % len(order)], entries={1 + at * 97 % records: secrets.token_hex(2)})
        for at in range(number)
    ]


def _taken(file: StudyFile, step: Step) -> str:
    return file.take(step, secrets.token_hex(8)).step_id
