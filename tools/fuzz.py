"""Attacks Row Tag with what nobody would send: mutated files at every reader, odd requests at every route.

    python -m tools.fuzz files 50000 --seed 1
    python -m tools.fuzz requests 20000 --seed 1

Everything is told by its seed: the same seed attacks alike. Exit code 1 where something went wrong.
"""

import argparse
import gzip
import io
import json
import random
import sys
import time
import traceback
import zipfile
from collections import Counter
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any

import pyarrow as pa
import pyarrow.parquet as pq
from fastapi.testclient import TestClient

from rowtag.api.app import create_app
from rowtag.core.errors import RowTagError
from rowtag.core.steps.entries import SetEntries
from rowtag.core.steps.tags import Define
from rowtag.core.tag import Parts
from rowtag.demo import generator
from rowtag.documents.document import as_document, understand
from rowtag.formats.intake import guess, opened
from rowtag.formats.routine import read as read_routine
from rowtag.formats.routine import write as write_routine
from rowtag.service.apart import Apart
from rowtag.service.intake import bring_in
from rowtag.service.routines import saved
from rowtag.store.rewrite import rewrite
from rowtag.store.workspace import Workspace
from tools import made

MOST_SECONDS = 10.0
MOST_MEMORY = 1 << 30
DATA = (".csv", ".txt", ".xlsx", ".ods", ".parquet", ".csv.gz")
"""Files that are looked at as data; the others are documents."""


@dataclass
class Found:
    """What an attack came to: how often each reply came, and what went wrong, with the number that makes it again."""

    replies: Counter[str] = field(default_factory=Counter)
    by_name: dict[str, Counter[str]] = field(default_factory=dict)
    """Replies to files, by the name of the sound one that each was made of."""
    slowest: float = 0.0
    """Seconds."""
    stumbles: dict[str, str] = field(default_factory=dict)
    """Faults inside that were told in a general sentence: where, and the first that led there."""
    wrong: list[str] = field(default_factory=list)

    def stumbled(self, error: BaseException, number: str) -> None:
        """Notes a fault inside."""
        frames = [frame for frame in traceback.extract_tb(error.__traceback__) if "rowtag" in frame.filename]
        place = f"{Path(frames[-1].filename).name}:{frames[-1].lineno}" if frames else "?"
        self.stumbles.setdefault(f"{type(error).__name__} at {place}", f"{number}: {str(error)[:200]}")


# Files --------------------------------------------------------------------------------------------


def samples(folder: Path) -> dict[str, bytes]:
    """A sound file for each reader, under its name."""
    generator.write_csv(folder / "data.csv")
    rows = (folder / "data.csv").read_bytes().split(b"\n")[:40]
    generator.write_workbook(folder / "data.xlsx")
    generator.write_codebook(folder / "codebook.xlsx")
    table = pa.table({"plot": ["1", "2"], "size": [1.5, None], "days": [[1, 2], [3]]})
    pq.write_table(table, folder / "data.parquet")
    out = {path.name: path.read_bytes() for path in folder.iterdir() if path.suffix != ".csv"}
    out["data.csv"] = b"\n".join(rows)
    out["data.txt"] = b"\n".join(b"%04d  %5.1f  yes" % (number, number / 3) for number in range(30))
    out["questionnaire.txt"] = "\n".join(generator.questionnaire().splitlines()[:120]).encode()
    out |= {name: text.encode() for name, text in DOCUMENTS.items()}
    question, options = made.paragraph("How do you hold it?", number=1), made.paragraph("Alone", number=2)
    grid = made.table([["", "Poor (1)", "Good (2)"], ["Water", "☐", "☐"], ["Gates", "☐", "☐"]])
    out["questions.docx"] = made.docx(folder / "questions.docx", (question + options * 2) * 4 + grid).read_bytes()
    out["questions.odt"] = made.odt(folder / "questions.odt", ODT).read_bytes()
    page = [(60, 60 + 14 * line, f"q{line} Has a shed. Codes: 1 = yes; 2 = no.", line % 2 > 0) for line in range(30)]
    out["codebook.pdf"] = made.pdf(folder / "codebook.pdf", [page], [(50, 50, 500, 50)]).read_bytes()
    out["codebook.txt.gz"] = gzip.compress(out["questionnaire.txt"])
    return out | _written_by_us(folder)


def _written_by_us(folder: Path) -> dict[str, bytes]:
    """A study in one file, and its steps as a routine."""
    workspace = Workspace(folder / "written")
    file = workspace.study(_study(workspace, folder))
    plot, *others = file.study.order
    file.take(Define(variables=tuple(others[:3]), parts=Parts(label="On the plot")), "defined-1")
    file.take(SetEntries(variable=plot, entries={1: "0001", 2: "n/a"}), "typed-0001")
    carried = workspace.carry(next(iter(workspace.entries())).id)
    out = {"study.rowtag": carried.read_bytes(), "routine.yaml": write_routine(saved(file, "Plots")).encode()}
    workspace.close()
    return out


ODT = (
    '<text:h text:outline-level="1">Plots</text:h><text:list text:style-name="L"><text:list-item><text:p>Shed?</text:p>'
    "</text:list-item></text:list><table:table><table:table-row><table:table-cell><text:p>shed</text:p>"
    "</table:table-cell><table:table-cell><text:p>1 = yes, 2 = no</text:p></table:table-cell></table:table-row>"
    "</table:table>"
)


DOCUMENTS = {
    "codebook.txt": 'variable tenure "How held"\n  codes\n    1 "Own"\n    2 "Shared"\n  missing -9 refused\n',
    "datapackage.json": json.dumps(
        {
            "resources": [
                {
                    "name": "plots",
                    "schema": {
                        "missingValues": ["", "-9"],
                        "fields": [
                            {"name": "tenure", "type": "integer", "title": "How held", "constraints": {"minimum": 1}},
                            {"name": "size", "type": "number", "categories": [{"value": 1, "label": "small"}]},
                        ],
                    },
                }
            ]
        }
    ),
    "table.json": json.dumps(
        {
            "@context": "http://www.w3.org/ns/csvw",
            "tableSchema": {"columns": [{"name": "a", "titles": "A", "datatype": {"base": "integer", "minimum": 1}}]},
        }
    ),
    "study.xml": (
        '<?xml version="1.0" encoding="UTF-8"?><codeBook xmlns="ddi:codebook:2_5"><dataDscr><var name="tenure">'
        "<labl>How held</labl><catgry missing='Y'><catValu>9</catValu><labl>n/a</labl></catgry>"
        "<valrng><range min='1' max='4'/></valrng></var></dataDscr></codeBook>"
    ),
    "study.sss": (
        '<?xml version="1.0"?><sss version="2.0"><survey><record ident="A"><variable ident="1" type="single">'
        '<name>q1</name><label>Q</label><position start="1" finish="2"/><values><value code="1">Yes</value></values>'
        '</variable><variable ident="2" type="quantity"><name>q2</name><label>How many</label><position start="3"/>'
        '<values><range from="1" to="99"/></values></variable></record></survey></sss>'
    ),
    "codebook.rtf": "{\\rtf1\\ansi{\\b SHED}\\tab 4\\tab Has a shed\\par 1\\tab yes\\par 9*\\tab not known\\par}",
    "form.html": (
        "<form><fieldset><legend>Shed?</legend><label><input type=radio name=shed value=1>Yes</label></fieldset>"
        "<table><tr><th>a<th>b</tr><tr><th>Water<td><input type=radio name=w value=1></tr></table></form>"
        "<dl><dt><code>soil</code><dd>levels <code>S</code> and <code>L</code></dl>"
    ),
    "plots.yaml": "plots:\n  shed: {label: Shed, values: {0: no, 1: yes}}\n  size: {label: Size, range: [0, 9]}\n",
    "plots.toml": '[shed]\nlabel = "Has a shed"\nvalues = [[0, "no"], [1, "yes"]]\n[size]\nlabel = "Size"\n',
    "plots.rd": (
        "\\title{Plots}\\format{\\describe{\\item{\\code{shed}}{has a shed (1=yes, 0=no)}"
        "\\item{\\code{soil}}{\\tabular{ll}{1 \\tab = sand\\cr 2 \\tab = loam\\cr}}}}"
    ),
    "plots.md": (
        "### Format\n\n`shed`\n\n    \n\n1=yes; 0= no\n\n`soil`\n\n    \n\n1 = Sand. 2 = Loam.\n\n"
        "| name | codes |\n|---|---|\n| gate | 1 north, 2 mill |\n\nQ1\tShed? [q1]\n  - yes\n  - no\n"
    ),
    "codebook.csv": "name;label;codes;missing\ntenure;How held;1 Own, 2 Shared;-9 refused\nsize;Size;;\n",
}
ODD = (
    b"\0", b"\xff\xfe", b"\xed\xa0\x80", b'"', b"\r", b"\t", b",,,,", b"=" * 40, b"1e999", b"-0", b"9" * 400, b"[",
    b"{",
    b"null", b"true", b"<", b"&x;", b"]]>", b"..", b"..." * 30, b"\xe2\x80\xae", b"1, " * 60, b"98 or " * 30, b"2 or ",
    b" " * 500, b"\n" * 200, b"(", b"constraints", b"0x", b"NaN", b"\\ud800", b'""', b"XFD1048576", b"utf-99",
)  # fmt: skip
"""Bytes that mean something to one reader or another."""


def mutated(data: bytes, chance: random.Random) -> bytes:
    """A file with a few changes; of an archive its parts are changed as often as its bytes."""
    if data[:2] == b"PK" and chance.random() < 0.7:
        out = io.BytesIO()
        with zipfile.ZipFile(io.BytesIO(data)) as old, zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as new:
            names = old.namelist()
            hit = set(chance.sample(names, min(len(names), 1 + chance.randrange(2))))
            for name in names:
                part = old.read(name)
                if name in hit and chance.random() < 0.1:
                    continue
                new.writestr(name, _changed(part, chance) if name in hit else part)
        return out.getvalue()
    return _changed(data, chance)


def _changed(data: bytes, chance: random.Random) -> bytes:
    out = bytearray(data)
    for _ in range(1 + chance.randrange(4)):
        at, kind = chance.randrange(len(out) + 1), chance.randrange(7)
        length = min(len(out) - at, 1 << chance.randrange(9))
        if kind == 0 and at < len(out):
            out[at] ^= 1 << chance.randrange(8)
        elif kind == 1:
            del out[at : at + length]
        elif kind == 2:
            out[at:at] = out[at : at + length] * chance.choice((1, 2, 50))
        elif kind in (3, 4):
            out[at : at + (length if kind == 3 else 0)] = chance.choice(ODD)
        elif kind == 5:
            del out[at:]
        else:
            begin = chance.randrange(len(out) + 1)
            out[at : at + length] = out[begin : begin + length]
    return bytes(out)


def looked_at(path: Path, name: str) -> tuple[str, BaseException | None, str]:
    """Everything that is read of a file: how it ended, and what went wrong inside."""
    try:
        if name == "study.rowtag":
            rewrite(path, path.with_suffix(".anew"), name)
        elif name == "routine.yaml":
            read_routine(path.read_bytes().decode("utf-8-sig", "replace"), name)
        elif name.endswith(DATA) and not name.startswith(("codebook", "questionnaire")):
            with opened(path, name) as file:
                settings = file.guess()
                file.picture(settings)
                file.read(settings)
        else:
            understand(as_document(path, name).text)
    except RowTagError as error:
        fine = error.what.endswith((".", "”", ")")) and "Traceback" not in str(error)
        return ("refused" if fine else "refused badly"), None, str(error)
    except (MemoryError, RecursionError):
        raise
    except Exception as error:
        found = Found()
        found.stumbled(error, "")
        (place, said), *_ = found.stumbles.items()
        return "stumbled", None, f"{place}{said}"
    finally:
        path.with_suffix(".anew").unlink(missing_ok=True)
    return "read", None, ""


def attack_files(count: int, seed: int, say: Callable[[str], None] = lambda _: None) -> Found:
    """Mutated files, each at its reader, which has 1 GB and 10 seconds."""
    found, apart = Found(), Apart(readers=1, memory=MOST_MEMORY, silent=MOST_SECONDS)
    with TemporaryDirectory() as folder:
        sound = samples(Path(folder))
        names = sorted(sound)
        for number in range(count):
            chance = random.Random(f"{seed} {number}")
            name = chance.choice(names)
            path = Path(folder) / f"odd-{name}"
            path.write_bytes(mutated(sound[name], chance))
            begun = time.perf_counter()
            try:
                reply, _, said = apart.read(name, looked_at, path, name)
            except RowTagError as error:
                found.wrong.append(f"{number} {name}: {error}")
                say(found.wrong[-1])
                reply, said = "broke", ""
            found.replies[reply] += 1
            found.by_name.setdefault(name, Counter())[reply] += 1
            if reply == "stumbled":
                where, _, what = said.partition(":  ")
                found.stumbles.setdefault(where, f"{number} {name} {what}")
            if reply == "refused badly":
                found.wrong.append(f"{number} {name}: {said}")
            taken = time.perf_counter() - begun
            found.slowest = max(found.slowest, taken)
            if taken > MOST_SECONDS:
                found.wrong.append(f"{number} {name}: took {taken:.1f} s")
            if number % 2_000 == 1_999:
                say(f"{number + 1} files: {dict(found.replies)}")
    apart.close()
    return found


# Requests -----------------------------------------------------------------------------------------

Schema = dict[str, Any]
ODD_VALUES: tuple[Any, ...] = (
    None, True, -1, 0, 2**31, 2**63, 2**64, 10**40, 1.5, -0.0, 1e308, "", " ", "\0", "x" * 5_000, "\ud800", "..", "nan",
    "inf", "1e999", "9" * 5_000, [], {}, [None], {"": None}, "2026-13-45", "ä" * 300, "=1+1", "⁄", [[]] * 50,
)  # fmt: skip


def value_of(
    schema: dict[str, Any], parts: dict[str, Any], chance: random.Random, ids: list[Any], depth: int = 0
) -> Any:
    """A value after a JSON schema, now and then an odd one."""
    if chance.random() < 0.04 or depth > 8:
        return chance.choice(ODD_VALUES)
    if "$ref" in schema:
        return value_of(parts[schema["$ref"].rsplit("/", 1)[1]], parts, chance, ids, depth)
    for several in ("oneOf", "anyOf", "allOf"):
        if several in schema:
            return value_of(chance.choice(schema[several]), parts, chance, ids, depth + 1)
    if "const" in schema:
        return schema["const"]
    if "enum" in schema:
        return chance.choice(schema["enum"])
    return _plain(schema, parts, chance, ids, depth)


def _plain(schema: Schema, parts: Schema, chance: random.Random, ids: list[Any], depth: int) -> Any:
    kind = schema.get("type", "string")
    if kind == "object":
        known = schema.get("properties", {})
        wanted = [name for name in known if name in schema.get("required", ()) or chance.random() < 0.5]
        out = {name: value_of(known[name], parts, chance, ids, depth + 1) for name in wanted}
        more = schema.get("additionalProperties")
        if isinstance(more, dict):
            for _ in range(chance.randrange(3)):
                out[str(_text(chance, ids))] = value_of(more, parts, chance, ids, depth + 1)
        return out
    if kind == "array":
        items = schema.get("items", {})
        return [
            value_of(items, parts, chance, ids, depth + 1)
            for _ in range(schema.get("minItems", 0) + chance.randrange(3))
        ]
    if kind in ("integer", "number"):
        return chance.choice([schema.get("minimum", 0), 1, 2, 3, 7, schema.get("maximum", 40)])
    if kind == "boolean":
        return chance.random() < 0.5
    return None if kind == "null" else _text(chance, ids)


def _text(chance: random.Random, ids: list[Any]) -> Any:
    texts = [
        "plot",
        "1",
        "-9",
        "99",
        "x y",
        "1 Own\n2 Shared",
        "yes",
        "2026-05-03",
        f"step-{chance.randrange(10**6):06}",
    ]
    return chance.choice(ids if ids and chance.random() < 0.7 else texts)


def requests(
    schema: dict[str, Any], chance: random.Random, ids: list[Any], study: str
) -> Iterator[tuple[str, str, bytes]]:
    """Odd requests without end: method, address, body."""
    parts = schema["components"]["schemas"]
    routes = [
        (method, path, asked)
        for path, methods in schema["paths"].items()
        for method, asked in methods.items()
        if "/events" not in path
    ]
    while True:
        method, path, asked = chance.choice(routes)
        query = []
        for each in asked.get("parameters", ()):
            given = study if each["name"] == "study_id" and chance.random() < 0.9 else None
            value = given if given is not None else value_of(each["schema"], parts, chance, ids)
            said = _in_address(value)
            if each["in"] == "path":
                path = path.replace("{" + each["name"] + "}", said or "none")
            elif chance.random() < 0.6:
                query.append(f"{each['name']}={said}")
        content = asked.get("requestBody", {}).get("content", {})
        body = b""
        if "application/json" in content:
            body = json.dumps(value_of(content["application/json"]["schema"], parts, chance, ids)).encode()
            if chance.random() < 0.05:
                body = _changed(body, chance)
            if chance.random() < 0.01:
                body = b"[" * 60_000
        elif content:
            body = _form(chance, _in_address(_text(chance, ids)))
        yield method.upper(), path + ("?" + "&".join(query) if query else ""), body


BOUNDARY = "a-line-between"


def _form(chance: random.Random, name: str) -> bytes:
    """A form with a file of a few odd bytes, or what is hardly one."""
    head = f'--{BOUNDARY}\r\nContent-Disposition: form-data; name="file"; filename="{name}"\r\n\r\n'.encode()
    whole = head + chance.choice(ODD) * chance.randrange(9) + chance.randbytes(90) + f"\r\n--{BOUNDARY}--\r\n".encode()
    return _changed(whole, chance) if chance.random() < 0.3 else whole


def _in_address(value: Any) -> str:
    from urllib.parse import quote

    return quote(str(value).encode("utf-8", "surrogatepass")[:3_000], safe="")


def attack_requests(count: int, seed: int, say: Callable[[str], None] = lambda _: None) -> Found:
    """Odd requests at every route of a workspace with one study."""
    found = Found()
    with TemporaryDirectory() as folder:
        workspace = Workspace(Path(folder) / "workspace")
        study = _study(workspace, Path(folder))
        with TestClient(create_app(workspace)) as client:
            shown = client.get(f"/api/studies/{study}").json()
            ids: list[Any] = [each["id"] for each in shown["variables"][:6]] + [study, "lists", "none"]
            odd = requests(create_app(None).openapi(), random.Random(seed), ids, study)
            for number, (method, address, body) in zip(range(count), odd, strict=False):
                begun = time.perf_counter()
                try:
                    form = body.startswith(b"--")
                    kind = f"multipart/form-data; boundary={BOUNDARY}" if form else "application/json"
                    reply = client.request(method, address, content=body, headers={"content-type": kind})
                    found.replies[str(reply.status_code)] += 1
                    if reply.status_code >= 400 and not _is_sentence(reply):
                        found.wrong.append(f"{number} {method} {address} {body[:300]!r}: {reply.text[:200]}")
                except Exception as error:
                    found.replies["raised"] += 1
                    found.stumbled(error, f"{number} {method} {address[:200]} {body[:300]!r}")
                    found.wrong.append(f"{number} {method} {address[:200]}: {type(error).__name__}: {str(error)[:150]}")
                    say(found.wrong[-1])
                taken = time.perf_counter() - begun
                found.slowest = max(found.slowest, taken)
                if taken > MOST_SECONDS:
                    found.wrong.append(f"{number} {method} {address[:200]}: took {taken:.1f} s")
                if client.get(f"/api/studies/{study}").status_code != 200:
                    client.post(f"/api/studies/{study}/restore")
    return found


def _is_sentence(reply: Any) -> bool:
    """Whether a refusal says something to a person; 503 is what is said of a file that is damaged."""
    if reply.status_code >= 500 and reply.status_code != 503:
        return False
    try:
        return str(reply.json()["detail"]).endswith((".", "”", ")"))
    except (ValueError, KeyError, TypeError):
        return False


def _study(workspace: Workspace, folder: Path) -> str:
    path = folder / "plots.csv"
    generator.write_csv(path)
    entry = workspace.create("Plots")
    lines = path.read_bytes().split(b"\n")[:80]
    upload = workspace.receive("plots.csv", [b"\n".join(lines)])
    bring_in(workspace.study(entry.id), upload, guess(upload.path, upload.name), step_id="bring-0001")
    workspace.note_change(entry.id)
    return entry.id


def main() -> None:
    """The command."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("what", choices=["files", "requests"])
    parser.add_argument("count", type=int)
    parser.add_argument("--seed", type=int, default=1)
    asked = parser.parse_args()
    attack = attack_files if asked.what == "files" else attack_requests
    found = attack(asked.count, asked.seed, lambda line: print(line, flush=True))
    print(dict(found.replies))
    for where, first in sorted(found.stumbles.items()):
        print(f"stumbled: {where}: {first}")
    for wrong in found.wrong[:100]:
        print(f"WRONG: {wrong}")
    sys.exit(1 if found.wrong else 0)


if __name__ == "__main__":
    main()
