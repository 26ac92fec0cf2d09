"""What lasts: giants handed in, a thousand studies opened in turn, and hours of mixed work. Writes docs/lasting.md.

python -m bench.lasting --minutes 20 --studies 1000
"""

import argparse
import gzip
import random
import resource
import shutil
import statistics
import threading
import time
import zipfile
from collections.abc import Callable, Iterator
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any

import httpx2
import xlsxwriter

from bench.data import questionnaire, write
from bench.measures import _percentile, _server, brought_in
from rowtag.core.errors import RowTagError
from rowtag.documents.document import as_document, understand
from rowtag.formats.intake import opened
from rowtag.service.apart import Apart
from rowtag.store.workspace import Workspace

REPORT = Path(__file__).parent.parent / "docs" / "lasting.md"
HEAD = """# What lasts

Written by `make lasting`. Files that are made to take their reader down, each in a reader of its own; studies opened
one after the other; and many people at work on one server for a long time. Memory is what the system counts as held."""
ODS_TABLE = (
    '<office:document-content xmlns:office="urn:oasis:names:tc:opendocument:xmlns:office:1.0" '
    'xmlns:table="urn:oasis:names:tc:opendocument:xmlns:table:1.0" '
    'xmlns:text="urn:oasis:names:tc:opendocument:xmlns:text:1.0"><office:body><office:spreadsheet>'
    '<table:table table:name="S">{rows}</table:table></office:spreadsheet></office:body></office:document-content>'
)
ODS_MANIFEST = (
    '<manifest:manifest xmlns:manifest="urn:oasis:names:tc:opendocument:xmlns:manifest:1.0">'
    '<manifest:file-entry manifest:full-path="/" manifest:media-type="{kind}"/></manifest:manifest>'
)
ODS_CELL = '<table:table-cell office:value-type="string"><text:p>x</text:p></table:table-cell>'


# Giants --------------------------------------------------------------------------------------------


def giants(folder: Path) -> Iterator[tuple[str, Path]]:
    """Files, small as they come, that would be more than any machine holds; and documents that would take hours."""
    path = folder / "far.xlsx"
    with xlsxwriter.Workbook(str(path)) as book:
        sheet = book.add_worksheet()
        for row in range(300):
            sheet.write_row(row, 0, [row, row % 7])
        sheet.write(1_048_575, 16_383, "x")
    yield "a workbook of 300 rows and a cell in XFD1048576", path
    yield "the same packed with 20 blank foreign parts of 230 MB", _stuffed(path, folder / "stuffed.xlsx")
    path = folder / "far.ods"
    blank = '<table:table-cell table:number-columns-repeated="2000000000"/>'
    rows = f"<table:table-row>{ODS_CELL * 3}</table:table-row>" * 300
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as archive:
        kind = "application/vnd.oasis.opendocument.spreadsheet"
        archive.writestr("mimetype", kind)
        archive.writestr("META-INF/manifest.xml", ODS_MANIFEST.format(kind=kind))
        text = ODS_TABLE.format(rows=f"{rows}<table:table-row>{blank}{ODS_CELL}</table:table-row>")
        archive.writestr("content.xml", text)
    yield "an .ods of 300 rows and a cell behind 2·10⁹ blank ones", path
    path = folder / "columns.csv"
    path.write_text(",".join(f"v{n}" for n in range(1_000_000)) + "\n" + ",".join("1" * 1_000_000) + "\n")
    yield "a million columns of text", path
    path = folder / "name.csv"
    path.write_text(",".join(["x"] * 4_000) + "\n" + ",".join("1" * 4_000) + "\n")
    yield "4,000 columns of one name", path
    path = folder / "line.csv"
    path.write_bytes(b"plot,said\n1," + b"word " * 1_600_000 + b"\n")
    yield "8 MB in one line", path
    path = folder / "codebook.txt.gz"
    path.write_bytes(gzip.compress(b"q1 How held 1 own 2 shared\n" * 1_500_000))
    yield "a packed codebook of 150 kB that unpacks to 40 MB", path
    path = folder / "codebook-line.txt"
    path.write_text("q1 How held " + "1 and " * 1_300_000)
    yield "a document of 8 MB in one line", path
    path = folder / "codebook-counts.txt"
    counts = "  ".join(str(17 * n) for n in range(60))
    path.write_text("tenure  How held\n" + "".join(f"{n}  Label {n}  {counts}  see note\n" for n in range(1, 200)))
    yield "a cross table of 60 columns of counts", path
    path = folder / "codebook-codes.txt"
    path.write_text("q1 How held\n" + "".join(f"{n} = Label {n}\n" for n in range(10_000)))
    yield "10,000 codes of one variable", path
    path = folder / "codebook-tags.txt"
    path.write_text("".join(f"v{n}  integer\n" for n in range(300_000)))
    yield "300,000 tags of codebook text", path


def _stuffed(book: Path, path: Path) -> Path:
    shutil.copyfile(book, path)
    with zipfile.ZipFile(path, "a", zipfile.ZIP_DEFLATED, compresslevel=1) as archive:
        for number in range(20):
            with archive.open(f"xl/media/blank{number}.bin", "w") as part:
                for _ in range(230):
                    part.write(bytes(1 << 20))
    return path


def looked_at(path: Path) -> tuple[str, int]:
    """What is made of a file, in a reader's process, and the memory (bytes) that it took at most."""
    try:
        if path.name.startswith("codebook"):
            found = f"{len(understand(as_document(path, path.name).text).variables):,} variables"
        else:
            with opened(path, path.name) as file:
                table = file.read(file.guess()).table
                found = f"{table.records:,} × {len(table.columns):,}" + "".join(
                    f"; {note}" for note in table.notes if "far away" in note
                )
    except RowTagError as error:
        found = f"“{error.what}”"
    return found, resource.getrusage(resource.RUSAGE_SELF).ru_maxrss << 10


def giants_told(folder: Path) -> list[str]:
    """A line of a table for each giant."""
    out = []
    for what, path in giants(folder):
        reader = Apart(readers=1)
        begun = time.perf_counter()
        try:
            found, memory = reader.read(path.name, looked_at, path)
        except RowTagError as error:
            found, memory = f"BROKE ITS READER: {error}", 0
        taken = time.perf_counter() - begun
        reader.close()
        out.append(f"| {what} | {path.stat().st_size / 1e3:,.0f} kB | {taken:.1f} s | {memory >> 20} MB | {found} |")
    return out


# Many studies --------------------------------------------------------------------------------------


def held(process: int) -> int:
    """Bytes of memory that a process holds."""
    status = Path(f"/proc/{process}/status").read_text()
    return int(status.split("VmRSS:")[1].split()[0]) << 10


def handles(process: int) -> int:
    """Files that a process has open."""
    return len(list(Path(f"/proc/{process}/fd").iterdir()))


def opened_in_turn(folder: Path, count: int) -> list[str]:
    """Opens many studies one after the other; what that takes, and what the server holds afterwards."""
    write(folder / "small.csv", 300, 20)
    workspace = Workspace(folder / "many")
    study, _ = brought_in(workspace, folder / "small.csv")
    path = workspace.path(study)
    workspace.close()
    for number in range(count - 1):
        shutil.copyfile(path, path.with_name(f"{number:012x}.sqlite"))
    out = []
    server = _server(folder / "many")
    with server as client:
        ids = [each["id"] for each in client.get("/api/studies").json()]
        taken: list[float] = []
        for number, id in enumerate(ids, 1):
            begun = time.perf_counter()
            assert client.get(f"/api/studies/{id}").status_code == 200
            taken.append(time.perf_counter() - begun)
            if number in (10, 100, len(ids)):
                process = server.process.pid
                listed = _seconds(lambda: client.get("/api/studies"))
                out.append(
                    f"| {number:,} | {_percentile(taken) * 1000:.0f} ms | {held(process) >> 20} MB | "
                    f"{handles(process)} | {listed * 1000:.0f} ms |"
                )
    return out


def _seconds(work: Callable[[], Any]) -> float:
    begun = time.perf_counter()
    work()
    return time.perf_counter() - begun


# Mixed work ----------------------------------------------------------------------------------------


class Work:
    """What somebody at work asks of the server, again and again, until told to stop."""

    def __init__(self, address: str, data: Path, number: int, stop: threading.Event) -> None:
        self._client = httpx2.Client(base_url=address, timeout=120)
        self._data = data.read_bytes()
        self._sheet = questionnaire([f"v{n}" for n in range(60)]).encode()
        self._chance = random.Random(number)
        self._stop = stop
        self.taken: dict[str, list[float]] = {}
        self.refused: list[str] = []

    def run(self, number: int) -> None:
        """Works until told to stop; every tenth piece of work brings a file into a study and takes that off again."""
        done = 0
        while not self._stop.is_set():
            studies = [each["id"] for each in self._asked("list", "get", "/api/studies") if not each["removed_at"]]
            study = self._chance.choice(studies)
            done += 1
            if done % 10 == 0:
                self._bring_in(f"{number}-{done:06}")
                continue
            shown = self._asked("overview", "get", f"/api/studies/{study}")
            if shown["variables"]:
                self._look(study, shown)
                self._edit(study, shown, f"{number}-{done:06}")

    def _look(self, study: str, shown: Any) -> None:
        ids = [each["id"] for each in shown["variables"]]
        first = self._chance.randrange(max(shown["records"] - 60, 1))
        query = f"?start={first}&stop={first + 60}&variables={','.join(ids[:30])}"
        self._asked("page", "get", f"/api/studies/{study}/records{query}")
        self._asked("tag", "get", f"/api/studies/{study}/variables/{self._chance.choice(ids)}")
        self._asked("checks", "get", f"/api/studies/{study}/checks")
        if self._chance.random() < 0.2:
            self._asked("document", "post", "/api/sheets/text", files={"file": ("questionnaire.txt", self._sheet)})
        if self._chance.random() < 0.1:
            self._asked("backup", "post", f"/api/studies/{study}/backups")
        if self._chance.random() < 0.1:
            self._ended(self._asked("hand over", "post", f"/api/studies/{study}/handover", json={}))

    def _edit(self, study: str, shown: Any, name: str) -> None:
        revision = shown["revision"]
        variable = self._chance.choice(shown["variables"])["id"]
        entries = {str(1 + self._chance.randrange(shown["records"])): str(self._chance.randrange(99))}
        step = {"do": "set entries", "variable": variable, "entries": entries}
        body = {"id": f"mixed-{name}", "base": revision, "step": step}
        kept = self._asked("edit", "post", f"/api/studies/{study}/steps", json=body)
        if kept and self._chance.random() < 0.3:
            head = {"to": "undo", "expected": kept["revision"]}
            self._asked("undo", "post", f"/api/studies/{study}/head", json=head)

    def _bring_in(self, name: str) -> None:
        made = self._asked("new study", "post", "/api/studies", json={"title": f"Plots {name}"})
        file = self._asked("hand in", "post", "/api/intake", files={"file": ("plots.csv", self._data)})
        body = {"study": made["id"], "settings": file["settings"], "step_id": f"mixed-{name}"}
        self._ended(self._asked("bring in", "post", f"/api/intake/{file['id']}/bring-in", json=body))
        self._asked("remove", "delete", f"/api/studies/{made['id']}")

    def _ended(self, job: Any) -> None:
        while job["status"] == "running":
            time.sleep(0.02)
            job = self._client.get(f"/api/jobs/{job['id']}").json()
        if job["status"] != "done":
            self.refused.append(f"{job['what']}: {job['problem']}")

    def _asked(self, what: str, method: str, address: str, **rest: Any) -> Any:
        begun = time.perf_counter()
        reply = getattr(self._client, method)(address, **rest)
        self.taken.setdefault(what, []).append(time.perf_counter() - begun)
        if reply.status_code == 409:  # somebody else was faster
            return None
        if reply.status_code >= 400:
            self.refused.append(f"{what}: {reply.status_code} {reply.text[:200]}")
            raise RuntimeError(self.refused[-1])
        return reply.json()


def mixed(folder: Path, minutes: float, people: int = 4) -> list[str]:
    """So many people at work on a dozen studies: memory of the server and its readers, minute by minute, and how long
    each kind of work took."""
    write(folder / "work.csv", 3_000, 60)
    write(folder / "new.csv", 500, 30)
    workspace = Workspace(folder / "mixed")
    for _ in range(12):
        brought_in(workspace, folder / "work.csv")
    workspace.close()
    stop = threading.Event()
    memory: list[tuple[int, int, int]] = []
    server = _server(folder / "mixed")
    with server as client:
        address = str(client.base_url)
        works = [Work(address, folder / "new.csv", number, stop) for number in range(people)]
        threads = [threading.Thread(target=work.run, args=(number,), daemon=True) for number, work in enumerate(works)]
        for thread in threads:
            thread.start()
        end = time.monotonic() + 60 * minutes
        while time.monotonic() < end and any(thread.is_alive() for thread in threads):
            time.sleep(10)
            process = server.process.pid
            memory.append((held(process), _readers(process), handles(process)))
        stop.set()
        for thread in threads:
            thread.join(180)
    refused = [each for work in works for each in work.refused]
    done = sum(len(each) for work in works for each in work.taken.values())
    out = [f"{people} people, {minutes:g} minutes: {done:,} requests, {len(refused)} of them refused."]
    out += [f"Refused: {each}" for each in refused[:5]]
    out += ["", "| part of the time | memory of the server | of its readers | open files |", "|---|---|---|---|"]
    for part in range(4):
        some = memory[part * len(memory) // 4 : (part + 1) * len(memory) // 4]
        server_held, readers, files = (statistics.median(each) for each in zip(*some, strict=True))
        out.append(f"| quarter {part + 1} | {server_held / 1e6:.0f} MB | {readers / 1e6:.0f} MB | {files:.0f} |")
    out += ["", "| work | times | median | 95th percentile |", "|---|---|---|---|"]
    for what in dict.fromkeys(what for work in works for what in work.taken):
        taken = [each for work in works for each in work.taken.get(what, ())]
        middle = statistics.median(taken)
        out.append(f"| {what} | {len(taken):,} | {middle * 1000:.0f} ms | {_percentile(taken) * 1000:.0f} ms |")
    return out


def _readers(process: int) -> int:
    """Bytes that the processes under a process hold."""
    out = 0
    for task in Path(f"/proc/{process}/task").iterdir():
        try:
            for child in (task / "children").read_text().split():
                out += held(int(child)) + _readers(int(child))
        except (OSError, IndexError):
            continue  # it has just ended
    return out


# Beside a file that is read ------------------------------------------------------------------------


def beside_a_file(folder: Path) -> str:
    """How long requests elsewhere take while a large file is read and brought in."""
    write(folder / "large.csv", 100_000, 60)
    write(folder / "work.csv", 3_000, 60)
    workspace = Workspace(folder / "beside")
    study, _ = brought_in(workspace, folder / "work.csv")
    workspace.close()
    server = _server(folder / "beside")
    with server as client:
        client.get(f"/api/studies/{study}")  # somebody works there already
        made = client.post("/api/studies", json={"title": "Large"}).json()["id"]
        with (folder / "large.csv").open("rb") as file:
            handed = client.post("/api/intake", files={"file": ("large.csv", file)}).json()
        body = {"study": made, "settings": handed["settings"], "step_id": "bring-in-1"}
        job = client.post(f"/api/intake/{handed['id']}/bring-in", json=body).json()
        taken: list[float] = []
        while job["status"] == "running":
            taken.append(_seconds(lambda: client.get(f"/api/studies/{study}")))
            taken.append(_seconds(lambda: client.get(f"/api/studies/{study}/records?stop=60")))
            time.sleep(0.01)
            job = client.get(f"/api/jobs/{job['id']}").json()
        assert job["status"] == "done", job
    return (
        f"While 100,000 × 60 are brought in, {len(taken):,} requests to another study took "
        f"{statistics.median(taken) * 1000:.0f} ms in the median, {_percentile(taken) * 1000:.0f} ms at the 95th "
        f"percentile, {max(taken) * 1000:.0f} ms at most."
    )


def main() -> None:
    """Runs all of it and writes the report."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--minutes", type=float, default=20.0)
    parser.add_argument("--studies", type=int, default=1_000)
    asked = parser.parse_args()
    lines = [HEAD, ""]
    with TemporaryDirectory() as name:
        folder = Path(name)
        lines += ["## Giants", "", "| file | size | taken | memory | what came of it |", "|---|---|---|---|---|"]
        lines += giants_told(folder)
        lines += ["", "## Studies opened in turn", ""]
        lines += ["| studies | overview, 95th percentile | memory | open files | the list |", "|---|---|---|---|---|"]
        lines += opened_in_turn(folder, asked.studies)
        lines += ["", "## Beside a file that is read", "", beside_a_file(folder)]
        lines += ["", "## Mixed work", "", *mixed(folder, asked.minutes), ""]
    text = "\n".join(lines)
    print(text)
    if asked.minutes >= 20 and asked.studies >= 1_000:  # less is for trying things out
        REPORT.write_text(text, encoding="utf-8")


if __name__ == "__main__":
    main()
