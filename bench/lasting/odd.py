"""Files of every kind spoiled in every way, and requests that nobody should make."""

import gzip
import json
import math
import random
import resource
import time
import zipfile
from collections import Counter
from collections.abc import Callable, Iterator
from io import BytesIO
from pathlib import Path
from typing import Any

import httpx2
import pyarrow.csv
import pyarrow.parquet
import xlsxwriter

from bench.data import questionnaire, write
from bench.lasting.giants import ODS_CELL, ods
from bench.lasting.person import Person
from bench.measures import _server, brought_in
from rowtag.api.app import create_app
from rowtag.core.errors import RowTagError
from rowtag.documents.document import as_document, understand
from rowtag.formats import routine
from rowtag.formats.intake import opened
from rowtag.service.apart import Apart
from rowtag.store.rewrite import rewrite
from rowtag.store.verify import verify
from rowtag.store.workspace import Workspace, study_files
from tools import made

WAYS = ("read", "told", "broke")
LONG = 20.0
"""Seconds for a small file, or a reply, that nobody should have to wait."""

# Files -------------------------------------------------------------------------------------------


def seeds(folder: Path) -> list[Path]:
    """A sound file of each kind that is read."""
    folder.mkdir()
    data = folder / "data.csv"
    write(data, 60, 12)
    (folder / "data.tsv").write_bytes(data.read_bytes().replace(b",", b"\t"))
    rows = [line.split(",") for line in data.read_text().splitlines()]
    (folder / "data.txt").write_text("\n".join("".join(cell[:9].ljust(10) for cell in row) for row in rows))
    with xlsxwriter.Workbook(str(folder / "data.xlsx")) as book:
        sheet = book.add_worksheet()
        for number, row in enumerate(rows):
            sheet.write_row(number, 0, row)
    cells = "".join(ODS_CELL.replace("x<", f"{word}<") for word in "abcdef")
    ods(folder / "data.ods", f"<table:table-row>{cells}</table:table-row>" * 20)
    pyarrow.parquet.write_table(pyarrow.csv.read_csv(data), folder / "data.parquet")
    text = questionnaire([f"v{number}" for number in range(20)])
    (folder / "codebook.txt").write_text(text)
    (folder / "codebook.txt.gz").write_bytes(gzip.compress(text.encode()))
    (folder / "codebook.html").write_text(f"<html><body><h1>Questions</h1><pre>{text}</pre></body></html>")
    (folder / "codebook.rtf").write_text("{\\rtf1 " + text.replace("\n", "\\par\n") + "}")
    (folder / "codebook.md").write_text(text)
    made.questionnaire(folder / "codebook.docx")
    made.odt(folder / "codebook.odt", "".join(f"<text:p>{line}</text:p>" for line in text.splitlines()))
    page = [(40, 40 + 12 * number, line, False) for number, line in enumerate(text.splitlines()[:60])]
    made.pdf(folder / "codebook.pdf", [page])
    _written_by_row_tag(folder, data)
    return sorted(folder.iterdir())


def _written_by_row_tag(folder: Path, data: Path) -> None:
    """A study in one file, its routine, and its codebook as text and as a table."""
    home = folder.with_name("seeds-workspace")
    workspace = Workspace(home)
    study, _ = brought_in(workspace, data)
    workspace.close()
    with _server(home) as client:
        person = Person(client, data.read_bytes())
        person.steps(study, 40)
        (folder / "study.rowtag").write_bytes(person.asked("carry", "get", f"/api/studies/{study}/carried"))
        (folder / "routine.yaml").write_bytes(person.asked("routine", "get", f"/api/studies/{study}/routine"))
        job = client.post(f"/api/studies/{study}/handover", json={}).json()
        while job["status"] == "running":
            job = client.get(f"/api/jobs/{job['id']}").json()
        with zipfile.ZipFile(BytesIO(client.get(f"/api/jobs/{job['id']}/file").content)) as archive:
            for name in archive.namelist():
                if name.endswith((".json", ".yaml")) and "/" not in name.split("/", 1)[-1]:
                    (folder / f"codebook-{Path(name).name}").write_bytes(archive.read(name))


Spoil = Callable[[random.Random, bytes], bytes]


def _flipped(chance: random.Random, data: bytes) -> bytes:
    out = bytearray(data)
    for _ in range(chance.choice([1, 3, 20])):
        out[chance.randrange(len(out))] ^= 1 << chance.randrange(8)
    return bytes(out)


def _cut(chance: random.Random, data: bytes) -> bytes:
    return data[: chance.randrange(len(data))]


def _gap(chance: random.Random, data: bytes) -> bytes:
    at = chance.randrange(len(data))
    return data[:at] + data[at + chance.randint(1, 200) :]


def _twice(chance: random.Random, data: bytes) -> bytes:
    at = chance.randrange(len(data))
    return data[:at] + data[at : at + chance.randint(1, 400)] * chance.choice([2, 5, 300]) + data[at:]


def _put_in(chance: random.Random, data: bytes) -> bytes:
    at = chance.randrange(len(data))
    some = [b"\x00" * 50, b"\xff\xfe", b"<" * 300, b"(" * 3000, b"9" * 400, b'"', b"&#x0;", b"]]>", b"\r",
            b"\xed\xa0\x80", b"-" * 200, b"1e999", b"{" * 500, b"&a;", b"=" * 100, b"\n" * 5000,
            b" " * 5000]  # fmt: skip
    return data[:at] + chance.choice(some) + data[at:]


def _number(chance: random.Random, data: bytes) -> bytes:
    """A number in it is another, much larger one."""
    places = [at for at in range(len(data)) if data[at : at + 1].isdigit()]
    if not places:
        return _flipped(chance, data)
    at = chance.choice(places)
    return data[:at] + chance.choice([b"99999999999", b"-1", b"0", b"4294967296", b"1e308", b"NaN"]) + data[at + 1 :]


SPOILT: tuple[Spoil, ...] = (_flipped, _cut, _gap, _twice, _put_in, _number)


def spoilt(chance: random.Random, path: Path) -> bytes:
    """A file's bytes with something wrong; of packed ones as often a part within."""
    data = path.read_bytes()
    spoil = chance.choice(SPOILT)
    if not zipfile.is_zipfile(path) or chance.random() < 0.3:
        return spoil(chance, data)
    out = BytesIO()
    with zipfile.ZipFile(path) as archive, zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED, compresslevel=1) as packed:
        names = archive.namelist()
        which = chance.choice(names)
        for name in names:
            packed.writestr(name, spoil(chance, archive.read(name) or b"x") if name == which else archive.read(name))
    return out.getvalue()


def read_somehow(path: Path) -> str:
    """Reads a file as the application does: "read", or the sentence in which it is refused."""
    try:
        if path.suffix == ".rowtag":
            rewrite(path, path.with_suffix(".anew"), path.name)
        elif path.name.startswith("routine"):
            routine.read(path.read_text("utf-8", "replace"), path.name)
        elif path.name.startswith("codebook"):
            understand(as_document(path, path.name).text)
        else:
            with opened(path, path.name) as file:
                file.read(file.guess())
    except RowTagError as error:
        return error.what
    finally:
        path.with_suffix(".anew").unlink(missing_ok=True)
    return "read"


def files_told(folder: Path, count: int) -> list[str]:
    """A line of a table for each kind of file: how many were spoilt, read, refused, and what went wrong with others."""
    sound, chance = seeds(folder / "seeds"), random.Random(count)
    reader, out = Apart(readers=1), []
    for path in sound:
        assert read_somehow(path) == "read", path.name
        found, slow, before = Counter[str](), 0.0, _largest()
        for _ in range(count // len(sound)):
            file = folder / path.name
            file.write_bytes(spoilt(chance, path))
            begun = time.perf_counter()
            try:
                said = reader.read(path.name, read_somehow, file)
            except RowTagError as error:
                said = f"told as damaged: {error.what}" if "could not be read" in error.what else f"BROKE: {error.what}"
            taken = time.perf_counter() - begun
            slow = max(slow, taken)
            sentence = said.endswith(".") and not said.startswith("BROKE")
            found["read" if said == "read" else "told" if sentence else "broke"] += 1
            if (not sentence and said != "read") or taken > LONG:
                kept = Path("/tmp") / f"odd-{file.stem}-{found['broke']}{file.suffix}"
                kept.write_bytes(file.read_bytes())
                print(kept, said, f"{taken:.1f} s", flush=True)
        counts = " | ".join(f"{number:,}" for number in (sum(found.values()), *(found[each] for each in WAYS)))
        out.append(f"| {path.name} | {counts} | {slow:.1f} s |")
        print(out[-1], f"{(_largest() - before) >> 10} MB", flush=True)
    reader.close()
    return out


def _largest() -> int:
    return resource.getrusage(resource.RUSAGE_CHILDREN).ru_maxrss


# Requests ----------------------------------------------------------------------------------------

WORDS = ["", " ", "x" * 70_000, "\x00", "..", "../../etc/passwd", "%2e%2e%2f", "é" * 300, "\u202e", "1" * 400, "-1",
         "NaN", "Infinity", "=1+1", "<script>alert(1)</script>", "'; DROP TABLE step; --", "\ud800", "2026-13-45",
         "((((" * 900, "mean(" * 400, "x > 1", "now", "undo", "set entries", "define"]  # fmt: skip
NUMBERS: list[Any] = [0, 1, -1, 2**31, 2**53, 2**63, 10**30, 0.5, -0.0, 1e308, 3]


class Odd:
    """Makes requests to a server by its own description, as no page would."""

    def __init__(self, client: httpx2.Client, chance: random.Random, study: str) -> None:
        shown = client.get(f"/api/studies/{study}").json()
        self._chance, self._client = chance, client
        self._known = {"study_id": [study, "demo", "none"], "variable_id": shown["order"], "other_id": [study]}
        schema = create_app(None).openapi()
        self._models = schema["components"]["schemas"]
        self._routes = [
            (method, path, what)
            for path, methods in schema["paths"].items()
            for method, what in methods.items()
            if "/events" not in path and not (method == "delete" and path == "/api/studies/{study_id}")
        ]

    def requests(self, count: int) -> Iterator[tuple[str, int, float, str]]:
        """So many requests: address, status, seconds, and what is wrong with the reply."""
        for _ in range(count):
            method, path, what = self._chance.choice(self._routes)
            address = path
            for name in [part.split("}")[0].split(":")[0] for part in path.split("{")[1:]]:
                value = (
                    self._word() if self._chance.random() < 0.2 else self._chance.choice(self._known.get(name, ["1"]))
                )
                address = address.replace("{" + name + "}", _quoted(value)).replace(
                    "{" + name + ":path}", _quoted(value)
                )
            begun = time.perf_counter()
            reply = self._client.request(method, address, **self._rest(what))
            taken = time.perf_counter() - begun
            yield f"{method} {path}", reply.status_code, taken, self._wrong(reply, taken)

    def _rest(self, what: Any) -> dict[str, Any]:
        out: dict[str, Any] = {}
        for each in what.get("parameters", ()):
            if each["in"] == "query" and self._chance.random() < 0.6:
                out.setdefault("params", {})[each["name"]] = _sayable(str(self._any(each["schema"])))
        content = what.get("requestBody", {}).get("content", {})
        if "multipart/form-data" in content:
            out["files"] = {"file": (_sayable(self._word())[:300] or "x", bytes(self._chance.randbytes(200)))}
        elif content:
            schema = next(iter(content.values()))["schema"]
            out["content"] = self._body(schema)
            out["headers"] = {"content-type": self._chance.choice(["application/json"] * 9 + ["text/plain"])}
        return out

    def _body(self, schema: Any) -> bytes:
        way = self._chance.random()
        if way < 0.03:
            return self._chance.randbytes(300)
        if way < 0.06:
            return b"[" * 60_000
        said = json.dumps(self._any(schema)).encode()
        return said[: self._chance.randrange(len(said) + 1)] if way < 0.1 else said

    def _word(self) -> str:
        return self._chance.choice(WORDS)

    def _any(self, schema: Any, depth: int = 0) -> Any:
        """Something of a schema; now and then something else."""
        chance = self._chance
        if chance.random() < 0.06 or depth > 7:
            return chance.choice([None, [], {}, self._word(), chance.choice(NUMBERS), [[[]]], {"": {"": ""}}])
        if "$ref" in schema:
            return self._any(self._models[schema["$ref"].rsplit("/", 1)[1]], depth + 1)
        if "const" in schema:
            return schema["const"]
        if "enum" in schema:
            return chance.choice(schema["enum"])
        for several in ("anyOf", "oneOf", "allOf"):
            if several in schema:
                return self._any(chance.choice(schema[several]), depth + 1)
        kind = schema.get("type")
        if kind == "object":
            return self._object(schema, depth)
        if kind == "array":
            return [self._any(schema.get("items", {}), depth + 1) for _ in range(chance.choice([0, 1, 1, 2, 5]))]
        if kind in ("integer", "number"):
            return chance.choice(NUMBERS)
        if kind == "boolean":
            return chance.random() < 0.5
        return chance.choice([self._word(), chance.choice(self._known["variable_id"]), self._known["study_id"][0], "a"])

    def _object(self, schema: Any, depth: int) -> dict[str, Any]:
        required = schema.get("required", ())
        out = {
            name: self._any(each, depth + 1)
            for name, each in schema.get("properties", {}).items()
            if (name in required and self._chance.random() < 0.97) or self._chance.random() < 0.4
        }
        more = schema.get("additionalProperties")
        if isinstance(more, dict):
            for _ in range(self._chance.choice([0, 1, 2])):
                out[self._chance.choice([*self._known["variable_id"], "1", "3", "x"])] = self._any(more, depth + 1)
        return out

    @staticmethod
    def _wrong(reply: httpx2.Response, taken: float) -> str:
        """What nobody should get; nothing where the reply is as it should be."""
        if taken > LONG:
            return f"took {taken:.0f} s"
        if reply.status_code == 500 or reply.headers.get("content-type") == "text/plain":
            return f"{reply.status_code}: {reply.text[:300]}"
        if reply.status_code >= 400:
            try:
                detail = reply.json()["detail"]
            except (ValueError, KeyError, TypeError):
                return f"{reply.status_code} without a sentence: {reply.text[:200]}"
            return "" if isinstance(detail, str) and detail.rstrip("”").endswith(".") else f"no sentence: {detail}"
        return ""


def _sayable(text: str) -> str:
    return text.encode("utf-8", "replace").decode()[:7_000]


def _quoted(text: str) -> str:
    return "".join(f"%{byte:02x}" for byte in _sayable(text)[:2_000].encode()) or "%20"


def requests_told(folder: Path, count: int) -> list[str]:
    """What came of so many odd requests to a server that holds a study."""
    data = folder / "odd.csv"
    write(data, 500, 20)
    workspace = Workspace(folder / "odd")
    study, _ = brought_in(workspace, data)
    workspace.close()
    statuses, wrong, slowest = Counter[str](), list[str](), (0.0, "")
    with _server(folder / "odd") as client:
        client.timeout = httpx2.Timeout(300)
        Person(client, data.read_bytes()).steps(study, 20)
        odd = Odd(client, random.Random(count), study)
        for what, status, taken, said in odd.requests(count):
            statuses[f"{status // 100}xx"] += 1
            slowest = max(slowest, (taken, what))
            if said:
                wrong.append(f"{what}: {said}")
                print(wrong[-1], flush=True)
        assert client.get(f"/api/studies/{study}").status_code == 200
    sound = [verify(path).sound for path in study_files(folder / "odd")]
    return [
        f"{count:,} requests made at random by the interface's own description: {statuses['2xx']:,} done, "
        f"{statuses['4xx']:,} refused in a sentence, {len(wrong)} answered as nobody should be. The slowest took "
        f"{math.ceil(slowest[0])} s ({slowest[1]}). {sum(sound)} of {len(sound)} studies are sound afterwards.",
        *(f"Wrong: {each}" for each in wrong[:5]),
    ]
