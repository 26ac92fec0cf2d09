"""Measures of keeping: what steps cost in long and wide studies, and who waits for whom."""

import threading
import time
from collections.abc import Callable
from pathlib import Path

from bench.data import write
from bench.measures import _largest, _percentile, _server, _settled_size, _timed, brought_in, reopen
from rowtag.api.models import strip_of
from rowtag.core.checks import findings_on
from rowtag.core.column import column_of_texts
from rowtag.core.engine import engine
from rowtag.core.records import page_of, record_numbers
from rowtag.core.steps import Made
from rowtag.core.steps.entries import AddBlankRecords, ReplaceEntries, SetEntries
from rowtag.core.steps.tags import Define
from rowtag.core.study import Records, Study, Variable
from rowtag.core.tag import Parts, Tag
from rowtag.store.studyfile import StudyFile
from rowtag.store.workspace import Workspace


def new_records(folder: Path, records: int = 2_000) -> tuple[float, float, float, float]:
    """Records keyed in below 50,000 × 60, entry by entry: bytes an entry in the file, and its 95th percentile in
    seconds among the first and among the last hundred records; and seconds to reopen the study afterwards."""
    path = folder / "keyed.csv"
    write(path, 50_000, 60)
    workspace = Workspace(folder / "keyed-workspace")
    file = workspace.study(brought_in(workspace, path)[0])
    where = Path(str(file._engine.url.database))
    before, taken = _settled_size(file, where), []
    for number in range(records):
        file.take(AddBlankRecords(count=1), f"blank-{number:06}")
        record = file.study.records.arrived
        for at, id in enumerate(file.study.order):
            begun = time.perf_counter()
            file.take(SetEntries(variable=id, entries={record: str((number + at) % 7)}), f"key-{number:06}-{at:02}")
            taken.append(time.perf_counter() - begun)
    grown = _settled_size(file, where) - before
    workspace.close()
    edge = 6_000
    reopened = reopen(folder / "keyed-workspace")
    return grown / len(taken), _percentile(taken[:edge]), _percentile(taken[-edge:]), reopened


def wide(folder: Path, variables: int = 1_000) -> float:
    """95th percentile, in seconds, of an entry and of a label in a study of so many variables, kept and shown."""
    path = folder / "wide.csv"
    write(path, 1_000, variables)
    workspace = Workspace(folder / "wide-workspace")
    brought_in(workspace, path)
    workspace.close()
    with _server(folder / "wide-workspace") as client:
        entry = client.get("/api/studies").json()[0]
        url = f"/api/studies/{entry['id']}"
        shown = client.get(url).json()
        ids, revision, taken = shown["order"], shown["revision"], []
        for number in range(200):
            id = ids[number * 7 % len(ids)]
            typed = {"do": "set entries", "variable": id, "entries": {str(number + 1): "3"}}
            label = {"do": "define", "variables": [id], "parts": {"label": f"Label {number}"}}
            body = {"id": f"bench-wide-{number}", "base": revision, "step": (typed, label)[number % 2]}
            spent = _timed(lambda body=body: client.post(f"{url}/steps", json=body))
            spent += _timed(lambda revision=revision: client.get(url, params={"known": revision}))
            taken.append(spent)
            revision += 1
    return _percentile(taken)


def beside_strays(folder: Path, strays: int = 100_000, edits: int = 60) -> float:
    """MB of memory that so many edits of a variable with as many different strays take, its checks up to date."""
    texts = column_of_texts([f"stray {number}" for number in range(strays)])
    study = Study(records=Records(strays)).with_variables(
        [("v", Variable(tag=Tag(name="hours", type="integer")), texts)]
    )
    file = _planted(folder / "strays.sqlite", study)
    findings_on(file.study, "v")
    before = engine.nbytes
    for number in range(edits):
        file.take(SetEntries(variable="v", entries={number + 1: f"typed {number}"}), f"edit-{number:06}")
        findings_on(file.study, "v")
    grown = engine.nbytes - before
    file.close()
    return grown / 1e6


def _planted(path: Path, study: Study) -> StudyFile:
    """A file whose head is a state."""
    path.unlink(missing_ok=True)

    class Planted(Define):
        def change(self, _study: Study, supplies: object) -> Made:  # type: ignore[override]
            return Made(study, "Planted")

    file = StudyFile(path)
    file.take(Planted(variables=("v",), parts=Parts(label="")), "planted-0")
    return file


def far_back(folder: Path, steps: int = 50) -> tuple[float, float]:
    """Seconds to go so many steps back in the largest study, to where all its tags are shown: in the same process, and
    after a restart."""
    workspace = Workspace(folder)
    file = _largest(workspace)
    ids = file.study.order
    states = [file.head]
    for number in range(steps):
        step = (
            SetEntries(variable=ids[number % len(ids)], entries={number + 1: "4"})
            if number % 2
            else Define(variables=(ids[number % len(ids)],), parts=Parts(label=f"Label {number}"))
        )
        states.append(file.take(step, f"far-{time.monotonic_ns()}").state)
    _all_strips(file.study)
    here = _going_back(file, states[0])
    file.move("go", expected=file.revision, to=states[-1])
    workspace.close()
    engine.forget()
    workspace = Workspace(folder)
    file = _largest(workspace)
    _all_strips(file.study)
    again = _going_back(file, states[0])
    workspace.close()
    return here, again


def _going_back(file: StudyFile, state: int) -> float:
    begun = time.perf_counter()
    file.move("go", expected=file.revision, to=state)
    _all_strips(file.study)
    return time.perf_counter() - begun


def _all_strips(study: Study) -> None:
    for id in study.order:
        strip_of(study, id)


def readers_wait(folder: Path, records: int = 1_000_000, variables: int = 30) -> tuple[float, float]:
    """The longest that somebody waits for a page of records while a step changes entries of all variables, and the
    seconds that the step takes."""
    path = folder / "long.csv"
    write(path, records, variables, only="coded")
    workspace = Workspace(folder / "long-workspace")
    file = workspace.study(brought_in(workspace, path)[0])
    path.unlink()
    study = file.study
    numbers = [id for id in study.order if study.tag(id).type == "integer"]
    step = ReplaceEntries(variables=tuple(numbers), entries=("1",), by="11")
    begun = time.perf_counter()
    writing = threading.Thread(target=file.take, args=(step, "replaced-0001"))
    writing.start()
    waits = [0.0]
    while writing.is_alive():
        waits.append(_seconds(lambda: page_of(file.study, numbers[:10], record_numbers(file.study, 500_000, 500_060))))
    taken = time.perf_counter() - begun
    workspace.close()
    return max(waits), taken


def _seconds(work: Callable[[], object]) -> float:
    begun = time.perf_counter()
    work()
    return time.perf_counter() - begun
