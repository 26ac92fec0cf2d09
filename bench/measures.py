"""One function per measure. Each gives seconds (or what it says); none judges."""

import csv
import json
import os
import re
import shutil
import statistics
import subprocess
import sys
import time
import zipfile
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import httpx2
import xlsxwriter
from python_calamine import CalamineWorkbook

from bench.data import KINDS, questionnaire, write
from rowtag.core.checks import findings_across, findings_on, run_checks
from rowtag.core.engine import engine
from rowtag.core.records import page_of, record_numbers
from rowtag.core.steps.entries import SetEntries
from rowtag.core.study import Study
from rowtag.core.tables import frequency, summary
from rowtag.documents.tolerant import read_document
from rowtag.formats.intake import guess
from rowtag.service.intake import bring_in as bring
from rowtag.store.studyfile import StudyFile
from rowtag.store.workspace import Workspace


@dataclass(frozen=True)
class Cost:
    """Seconds (or the ratio to the yardstick), and memory as a multiple of what was read."""

    seconds: float
    memory: float


def yardstick(path: Path) -> float:
    """`csv.reader` turning the file into lists, rows kept."""
    begun = time.perf_counter()
    with path.open(newline="", encoding="utf-8") as file:
        rows = list(csv.reader(file))
    taken = time.perf_counter() - begun
    assert rows
    return taken


def forget() -> None:
    """Makes the next reading start cold."""
    engine.forget()


def bring_in(path: Path, folder: Path, times: int = 9) -> Cost:
    """Brings a file into a fresh workspace, each time beside the yardstick: the medians of the ratio and the memory."""
    runs = []
    for _ in range(times):
        unit = yardstick(path)
        cost = _bring_in_apart(path, folder)
        runs.append((cost.seconds / unit, cost.memory))
    return Cost(statistics.median(run[0] for run in runs), statistics.median(run[1] for run in runs))


def _bring_in_apart(path: Path, folder: Path) -> Cost:
    """In a process of its own, so that memory can be told."""
    shutil.rmtree(folder, ignore_errors=True)
    os.sync()  # what was written to make the file is not part of the measure
    code = f"""
import json
from pathlib import Path
from typing import Any
from bench.measures import brought_in, peak
from rowtag.store.workspace import Workspace
workspace = Workspace(Path({str(folder)!r}))
warm = Path({str(folder)!r}) / "warm.csv"
warm.write_text("a,b\\n1,2.5\\n2,x\\n")
brought_in(workspace, warm)
idle = peak()
print(json.dumps({{"seconds": brought_in(workspace, Path({str(path)!r}))[1], "memory": peak() - idle}}))
workspace.close()
"""
    run = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    measured = json.loads(run.stdout.splitlines()[-1])
    return Cost(measured["seconds"], measured["memory"] / _unpacked(path))


def peak() -> int:
    """The most memory this process has held so far, in bytes."""
    status = Path("/proc/self/status").read_text("ascii")
    found = re.search(r"VmHWM:\s+(\d+) kB", status)
    assert found
    return int(found[1]) * 1024


def peak_from_here() -> int:
    """Has the most memory counted anew; gives what is held now, in bytes."""
    Path("/proc/self/clear_refs").write_text("5", "ascii")
    return peak()


def _unpacked(path: Path) -> int:
    """The size of a file, or of a workbook's unpacked parts."""
    if path.suffix != ".xlsx":
        return path.stat().st_size
    with zipfile.ZipFile(path) as zipped:
        return sum(part.file_size for part in zipped.infolist())


def brought_in(workspace: Workspace, path: Path) -> tuple[str, float]:
    """Brings a file in; gives the study's id and the seconds it took, the hand-in not counted."""
    with path.open("rb") as data:
        upload = workspace.receive(path.name, data)
    entry = workspace.create(path.stem)
    file = workspace.study(entry.id)
    begun = time.perf_counter()
    bring(file, upload, guess(upload.path, path.name), step_id=f"bench-{entry.id}")
    taken = time.perf_counter() - begun
    workspace.discard(upload.id)
    workspace.note_change(entry.id)
    return entry.id, taken


def workbook(path: Path, folder: Path) -> tuple[float, float, float]:
    """Seconds to bring the same table in from .xlsx, seconds for calamine to read all rows, and memory."""
    book = folder / "bench.xlsx"
    _write_book(path, book)
    cost = _bring_in_apart(book, folder / "book-workspace")
    begun = time.perf_counter()
    rows = CalamineWorkbook.from_path(book).get_sheet_by_index(0).to_python(skip_empty_area=False)
    taken = time.perf_counter() - begun
    assert rows
    return cost.seconds, taken, cost.memory


def _write_book(path: Path, book: Path) -> None:
    with (
        path.open(newline="", encoding="utf-8") as file,
        xlsxwriter.Workbook(str(book), {"constant_memory": True, "strings_to_numbers": True}) as writer,
    ):
        sheet = writer.add_worksheet()
        for number, row in enumerate(csv.reader(file)):
            sheet.write_row(number, 0, row)


def _largest(workspace: Workspace) -> StudyFile:
    """The study with most entries."""
    entry = max(workspace.entries(), key=lambda each: each.records * each.variables)
    return workspace.study(entry.id)


def all_tables(state: Study) -> None:
    """Frequencies of coded variables, summaries of all numbers."""
    for id in state.order:
        if state.tag(id).wants_codes:
            frequency(state, id)
        summary(state, id)


def cold(folder: Path) -> tuple[float, float]:
    """Seconds for all checks, and for all tables, each from cold with the columns in memory."""
    workspace = Workspace(folder)
    state = _largest(workspace).study
    for id in state.order:
        state.fill(id)
    forget()
    begun = time.perf_counter()
    run_checks(state)
    checked = time.perf_counter() - begun
    forget()
    begun = time.perf_counter()
    all_tables(state)
    tabled = time.perf_counter() - begun
    workspace.close()
    return checked, tabled


def document() -> tuple[int, int, float]:
    """Reading a questionnaire of 2,000 variables as people write one: its lines, the variables found, seconds."""
    text = questionnaire([f"item_{number:04}" for number in range(2_000)])
    begun = time.perf_counter()
    found = read_document(text)
    return text.count("\n"), len(found.variables), time.perf_counter() - begun


def reopen(folder: Path) -> float:
    """Seconds from opening a workspace to the first page of 60 records × 30 variables."""
    forget()
    begun = time.perf_counter()
    workspace = Workspace(folder)
    state = _largest(workspace).study
    page_of(state, state.order[:30], record_numbers(state, 0, 60))
    taken = time.perf_counter() - begun
    workspace.close()
    return taken


PASTED = (5_000, 40)
"""Records and variables of a pasted block."""


def over_http(folder: Path, times: int = 200) -> tuple[float, float, float, float]:
    """Over HTTP: the 95th percentiles of a page anywhere in the study and of an edit with what a window asks after it
    (its variable's strip, with its checks up to date); the longest of three pastes of a block, and a part of an entry
    replaced in all variables."""
    with _server(folder) as client:
        entry, url, shown = _opened(client)
        ids = [each["id"] for each in shown["variables"]]
        pages, edits = [], []
        for number in range(times):
            first = number * 7_919 % max(entry["records"] - 60, 1)
            query = {"start": first, "stop": first + 60, "variables": ",".join(ids[number % 30 : number % 30 + 30])}
            pages.append(_timed(lambda query=query: client.get(f"{url}/records", params=query)))
        base = shown["revision"]
        for number in range(times):
            edits.append(_edited(client, url, base, ids[number * 7 % len(ids)], {str(number + 1): str(number)}))
            base += 1
        pastes = []
        for number in range(3):
            records, variables = PASTED
            columns = {id: [str((at + number) % 11) for at in range(records)] for id in ids[:variables]}
            step = {"do": "set block", "records": list(range(1, records + 1)), "entries": columns, "labels": True}
            body = {"id": f"bench-paste-{number}", "base": base, "step": step}
            pastes.append(_timed(lambda body=body: client.post(f"{url}/steps", json=body)))
            base += 1
        step = {"do": "replace found", "variables": ids, "find": "3", "by": "33", "how": "part"}
        body = {"id": "bench-replace", "base": base, "step": step}
        replaced = _timed(lambda: client.post(f"{url}/steps", json=body))
    return _percentile(pages), _percentile(edits), max(pastes), replaced


def _opened(client: httpx2.Client) -> tuple[dict[str, Any], str, dict[str, Any]]:
    """The largest study as a window has it a moment after opening it: its entry, its address, what it shows."""
    entry = max(client.get("/api/studies").json(), key=lambda each: each["records"] * each["variables"])
    url = f"/api/studies/{entry['id']}"
    shown = client.get(url).json()
    while client.get(f"{url}/checks-working").json()["done"] is not None:
        time.sleep(0.1)
    return entry, url, shown


def _edited(client: httpx2.Client, url: str, base: int, variable: str, entries: dict[str, str]) -> float:
    """Seconds for an edit, and for what a window asks after it: its variable's strip, its checks up to date."""
    step = {"do": "set entries", "variable": variable, "entries": entries}
    body = {"id": f"bench-edit-{base:06}", "base": base, "step": step}
    taken = _timed(lambda: client.post(f"{url}/steps", json=body))
    return taken + _timed(lambda: client.get(url, params={"known": base}))


def _timed(ask) -> float:  # type: ignore[no-untyped-def]
    begun = time.perf_counter()
    reply = ask()
    taken = time.perf_counter() - begun
    assert reply.status_code == 200, reply.text
    return taken


def _percentile(taken: list[float]) -> float:
    return sorted(taken)[int(0.95 * len(taken))]


def client_of(address: str, timeout: float | None = 60) -> httpx2.Client:
    """Somebody's connection to a server on this machine, for which no certificates have to be loaded."""
    return httpx2.Client(base_url=address, timeout=timeout, verify=False)


class _server:  # noqa: N801 - used as a function
    """A server in a process of its own, and a client of it that waits so many seconds for a reply."""

    def __init__(self, folder: Path, timeout: float = 60) -> None:
        command = [sys.executable, "-m", "rowtag.cli", "serve", "--workspace", str(folder), "--port", "0", "--no-token"]
        env = {**os.environ, "PYTHONUNBUFFERED": "1"}
        self.process = subprocess.Popen(command, stdout=subprocess.PIPE, text=True, env=env)
        assert self.process.stdout is not None
        address = re.search(r"http://[\d.]+:\d+", self.process.stdout.readline())
        assert address
        self.client = client_of(address[0], timeout)

    def __enter__(self) -> httpx2.Client:
        return self.client

    def __exit__(self, *_error: object) -> None:
        self.client.close()
        self.process.terminate()
        self.process.communicate()


def many_edits(folder: Path, edits: int) -> tuple[float, float, float]:
    """MB that a study's file grows by single edits, MB before, and seconds to reopen it afterwards."""
    workspace = Workspace(folder)
    file = _largest(workspace)
    path = Path(str(file._engine.url.database))
    size = _settled_size(file, path)
    ids, records = file.study.order, file.study.records.arrived
    for number in range(edits):
        entries = {number * 104_729 % records + 1: str(number % 1_000)}
        file.take(SetEntries(variable=ids[number % len(ids)], entries=entries), f"edit-{number}")
    findings_on(file.study, ids[0])
    after = _settled_size(file, path)
    workspace.close()
    return (after - size) / 1e6, size / 1e6, reopen(folder)


def _settled_size(file: StudyFile, path: Path) -> int:
    """Bytes of a study's file once its log is written back, by whoever has begun to and by ourselves."""
    if file._log._running is not None:
        file._log._running.result()
    with file._engine.connect() as connection:
        connection.exec_driver_sql("COMMIT")
        connection.exec_driver_sql("PRAGMA wal_checkpoint(TRUNCATE)")
        connection.exec_driver_sql("BEGIN")
    return path.stat().st_size


def pictures(path: Path, folder: Path) -> tuple[float, float]:
    """Seconds from handing a file in to its picture, and the longest until another setting is shown, over HTTP."""
    with _server(folder / "picture-workspace") as client:
        warm = client.post("/api/intake", files={"file": ("warm.csv", b"a,b\n1,2\n")})
        assert warm.status_code == 201
        with path.open("rb") as data:
            begun = time.perf_counter()
            seen = client.post("/api/intake", files={"file": (path.name, data)}).json()
            first = time.perf_counter() - begun
        changes = [{"names_row": None, "data_row": 1}, {"names_row": 2, "data_row": 3}, {"blank_rows": "keep"}]
        if seen["settings"]["kind"] == "delimited":
            changes += [{"separator": ";"}, {"encoding": "cp1252"}, {"quote": ""}]
        else:
            changes += [{"range": "A1:F500"}]
        url = f"/api/intake/{seen['id']}/picture"
        redrawn = [
            _timed(lambda change=change: client.post(url, json={"settings": seen["settings"] | change}))
            for change in changes
        ]
    return first, max(redrawn)


def by_kind(folder: Path, records: int, variables: int) -> Iterator[tuple[str, float, float, float, float]]:
    """Per kind of column: bring-in, its memory, and tables of a file of that kind alone, as shares of its own
    yardstick; and bring-in of a fifth of it from .xlsx, as a share of calamine's reading."""
    for kind in KINDS:
        path = folder / f"{kind}.csv"
        write(path, records, variables, only=kind)
        cost = bring_in(path, folder / f"{kind}-workspace", times=1)
        unit = yardstick(path)
        workspace = Workspace(folder / f"{kind}-workspace")
        state = _largest(workspace).study
        all_tables(state)
        forget()
        begun = time.perf_counter()
        all_tables(state)
        tabled = time.perf_counter() - begun
        workspace.close()
        write(path, records // 5, variables, only=kind)
        book, sheet, _ = workbook(path, folder)
        yield kind, cost.seconds, cost.memory, tabled / unit, book / sheet


def once(folder: Path, records: int, variables: int) -> str:
    """One run of a very large or very wide file, in a sentence."""
    path = folder / "once.csv"
    write(path, records, variables)
    unit = yardstick(path)
    cost = _bring_in_apart(path, folder / "once-workspace")
    opened = reopen(folder / "once-workspace")
    told = f" {codebook_of(folder / 'once-workspace', unit)}" if variables == 1_000 else ""
    told += f" {records_of(folder / 'once-workspace')}" if records >= 100_000 else ""
    told += f" {checks_of(folder / 'once-workspace', unit)}" if records >= 1_000_000 else ""
    size = f"{records:,} × {variables:,} ({path.stat().st_size / 1e6:.0f} MB)"
    each = cost.seconds / records / variables * 1e9
    return (
        f"- {size} is brought in in {cost.seconds / unit:.2f} × its own yardstick, {each:.0f} ns a cell, "
        f"with {cost.memory:.1f} × the file in memory; reopened to the first page in {opened:.2f} s."
        f"{told}"
    )


def checks_of(folder: Path, unit: float) -> str:
    """All checks of the largest study from cold, in a sentence."""
    workspace = Workspace(folder)
    study = _largest(workspace).study
    for id in study.order:
        study.fill(id)
    forget()
    begun = time.perf_counter()
    run_checks(study, findings_across(study))
    taken = time.perf_counter() - begun
    workspace.close()
    return f"All checks of all scopes take {taken:.1f} s ({taken / unit:.2f} × its yardstick)."


def records_of(folder: Path, times: int = 60) -> str:
    """The records of the largest study over HTTP, in a sentence: pages, edits, arrangements, and pages of these."""
    with _server(folder) as client:
        entry, url, shown = _opened(client)
        ids, base = shown["order"], shown["revision"]
        kinds = {
            kind: next(each["id"] for each in shown["variables"] if each["type"] == kind)
            for kind in ("integer", "decimal", "text")
        }
        coded = kinds["integer"]

        def paged(number: int, rows: dict[str, object]) -> float:
            first = number * 7_919_777 % max(entry["records"] // 10, 1)
            query = {
                "start": first,
                "stop": first + 60,
                "variables": ",".join(ids[number % 60 : number % 60 + 30]),
                **rows,
            }
            return _timed(lambda: client.get(f"{url}/records", params=query))

        pages = [paged(number, {}) for number in range(times)]
        edits = []
        for number in range(times):
            edits.append(_edited(client, url, base, ids[number % len(ids)], {str(number * 99 + 1): "2"}))
            base += 1
        arranging, arranged = [], []
        for kind, id in kinds.items():
            conditions = [{"variable": coded, "readings": ["blank", "missing"], "other": True}]
            asked = {"conditions": conditions, "sort": [{"variable": id, "down": True}, {"variable": coded}]}
            arranging.append(
                (kind, _timed(lambda asked=asked: client.post(f"{url}/arranged", json={"arrangement": asked})))
            )
            rows = {"arrangement": json.dumps(asked), "seen": base}
            arranged += [paged(number, rows) for number in range(times // 3)]
    sorted_by = ", ".join(f"{kind} {taken:.2f} s" for kind, taken in arranging)
    return (
        f"A page of 60 × 30 comes within {_percentile(pages) * 1000:.0f} ms (95th percentile), an edit is kept with "
        f"its variable's checks within {_percentile(edits) * 1000:.0f} ms; filtered and sorted by a variable of type "
        f"{sorted_by}; a page of those rows within {_percentile(arranged) * 1000:.0f} ms."
    )


def codebook_of(folder: Path, unit: float) -> str:
    """The codebook of the largest study over HTTP, in a sentence: a tag's page, a label, a change of 200 tags."""
    with _server(folder) as client:
        entry = max(client.get("/api/studies").json(), key=lambda each: each["records"] * each["variables"])
        url = f"/api/studies/{entry['id']}"
        shown = client.get(url).json()
        ids, revision = shown["order"], shown["revision"]

        def change(step: dict[str, object]) -> float:
            nonlocal revision
            body = {"id": f"bench-codebook-{revision}", "base": revision, "step": step}
            taken = _timed(lambda: client.post(f"{url}/steps", json=body))
            taken += _timed(lambda: client.get(url, params={"known": revision}))
            revision += 1
            return taken

        pages = [_timed(lambda id=id: client.get(f"{url}/variables/{id}")) for id in ids[:: max(1, len(ids) // 200)]]
        label = {"do": "define", "variables": ids[:1], "parts": {"label": "A label"}}
        labels = [change({**label, "variables": [id]}) for id in ids[:50]]
        marked = {"do": "mark missing", "variables": ids[:200], "lines": [{"code": "-8", "reason": "refused"}]}
        many = change(marked)
        suspects = _timed(lambda: client.post(f"{url}/missing/candidates", json={}))
        names = [each["name"] for each in shown["variables"]]
        change({"do": "keep sheet", "sheet": "bench", "name": "Questionnaire", "text": questionnaire(names)})
        client.get(f"{url}/sheets/bench")
        compared = _timed(lambda: client.post(f"{url}/sheets/bench/differences", json={}))
    return (
        f"There a tag's page comes within {_percentile(pages) * 1000:.0f} ms (95th percentile), a label is kept and "
        f"shown within {_percentile(labels) * 1000:.0f} ms, missing codes for 200 tags in {many:.2f} s "
        f"({many / unit:.3f} × its yardstick), suspects over all tags are found in {suspects:.1f} s, "
        f"a questionnaire of all of them is compared in {compared:.2f} s."
    )
