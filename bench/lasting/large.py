"""One study with more of everything than anybody has, at its half and whole: how long each page of it takes."""

import re
import statistics
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

from bench.data import write
from bench.measures import _server, brought_in
from rowtag.api.app import create_app
from rowtag.core.rules import Formula, Rule
from rowtag.core.steps.entries import SetEntries
from rowtag.core.steps.records import Remark
from rowtag.core.steps.rules import KeepRule
from rowtag.core.study import Comment
from rowtag.service.editions import fingerprint
from rowtag.store.editions import keep_edition
from rowtag.store.studyfile import StudyFile
from rowtag.store.workspace import Workspace

STEPS, UNDOS, COMMENTS, EDITIONS, RULES, VARIABLES, RECORDS = 50_000, 1_000, 5_000, 500, 2_000, 10_000, 200
TIMES = 5
LEFT_OUT = ("/events", "/carried", "/jobs/", "/sheets/")
"""Addresses that are streams, copies of the whole file, or of things that this study does not have."""


def pages(folder: Path, share: float = 1.0) -> list[str]:
    """A line of a table for each page: milliseconds at half of everything, and at all of it."""
    taken = [_measured(folder / f"part-{part:g}", part) for part in (share / 2, share)]
    out = []
    for what in taken[0]:
        half, whole = (each[what] * 1000 for each in taken)
        out.append(f"| {what} | {half:,.0f} ms | {whole:,.0f} ms |")
    return out


def made(folder: Path, share: float) -> None:
    """A workspace with such a study, where there is none."""
    if folder.exists():
        return
    workspace = Workspace(folder)
    write(folder / "large.csv", RECORDS, round(VARIABLES * share))
    study, _ = brought_in(workspace, folder / "large.csv")
    _grown(workspace.study(study), share)
    workspace.close()


def _measured(folder: Path, share: float) -> dict[str, float]:
    made(folder, share)
    workspace = Workspace(folder)
    study = workspace.entries()[0].id
    ids = list(workspace.study(study).study.order)
    workspace.close()
    begun = time.perf_counter()
    with _server(folder, 600) as client:
        client.get(f"/api/studies/{study}")
        opened = time.perf_counter() - begun
        while client.get(f"/api/studies/{study}/checks-working").json()["done"] is not None:
            time.sleep(0.2)
        out = {"a server started and the study opened": opened}
        for what, ask in _asks(client, study, ids).items():
            out[what] = _median(ask)
    return out


def _grown(file: StudyFile, share: float) -> None:
    """Steps, undos, comments, editions and rules, spread over the study."""
    ids = file.study.order

    def some(most: int) -> range:
        return range(round(most * share))

    for number in some(RULES):
        holds = Formula(text="x is valid or x is blank", names={"x": ids[number % len(ids)]})
        file.take(KeepRule(rule=f"rule{number}", says=Rule(title=f"Rule {number}", holds=holds)), f"rule-{number:06}")
    for number in some(COMMENTS):
        on = Comment(record=1 + number % RECORDS, variable=ids[number * 7 % len(ids)], text=f"Sheet {number}")
        file.take(Remark(comment=f"note{number}", on=on), f"note-{number:06}")
    for number in some(UNDOS):
        file.take(SetEntries(variable=ids[number % len(ids)], entries={1: "9"}), f"undone-{number:06}")
        file.move("undo", expected=file.revision)
    data, codebook = fingerprint(file.study)  # once: a sum is a sum to whoever lists editions
    for number in some(EDITIONS):
        keep_edition(file, f"Edition {number}", "", file.head, data=data, codebook=codebook)
    for number in some(STEPS - RULES - COMMENTS - UNDOS):
        entries = {1 + number % RECORDS: str(number % 97)}
        file.take(SetEntries(variable=ids[number * 13 % len(ids)], entries=entries), f"typed-{number:06}")


def _asks(client: Any, study: str, ids: list[str]) -> dict[str, Callable[[], Any]]:
    """What can be asked of a study, by what it is called: every address that gives something, and the commonest of
    those that take something."""
    url = f"/api/studies/{study}"
    editions = client.get(f"{url}/editions").json()
    lines = [line for run in client.get(f"{url}/diary").json()["runs"] for line in run["lines"] if line["current"]]
    sources = client.get(f"{url}/sources").json()
    fillings = {
        "study_id": study, "variable_id": ids[len(ids) // 2], "step_id": lines[0]["step_id"],
        "source_id": sources[0]["id"], "other_id": study,
    }  # fmt: skip
    query = {"one": editions[-1]["id"], "variables": ",".join(ids[:30]), "text": "17", "record": 3}
    out: dict[str, Callable[[], Any]] = {}
    for path, methods in create_app(None).openapi()["paths"].items():
        if "get" not in methods or "{study_id}" not in path or any(each in path for each in LEFT_OUT):
            continue
        known = {each["name"] for each in methods["get"].get("parameters", ())}
        asked = re.sub(r"\{(\w+)\}", lambda found: fillings[found[1]], path)
        rest = {name: value for name, value in query.items() if name in known}
        name = path.removeprefix("/api/studies/{study_id}").lstrip("/") or "overview"
        out[name] = lambda asked=asked, rest=rest: client.get(asked, params=rest)
    shown = client.get(url).json()
    out["overview since the last revision"] = lambda: client.get(url, params={"known": shown["revision"]})
    out["diary, from its middle"] = lambda: client.get(f"{url}/diary", params={"before": shown["revision"] // 2})
    out["diary of one variable"] = lambda: client.get(f"{url}/diary", params={"variable": ids[0]})
    at = shown["revision"]

    def moved(way: str, **body: Any) -> Any:
        nonlocal at
        reply = client.post(f"{url}/{way}", json=body)
        at = reply.json().get("revision", at)
        return reply

    def step() -> Any:
        says = {"do": "set entries", "variable": ids[1], "entries": {"2": str(at)}}
        return moved("steps", id=f"large-{at:08}", base=at, step=says)

    out["a step"] = step
    out["undo"] = lambda: moved("head", to="undo", expected=at)
    out["an edition named"] = lambda: client.post(f"{url}/editions", json={"name": f"now {time.monotonic_ns()}"})
    out["the page of a hundred tags"] = lambda: client.post(f"{url}/page", json={"variables": ids[:100]})
    return out


def _median(ask: Callable[[], Any]) -> float:
    """Seconds in the median, of a few times; the first alone where it takes long."""
    taken: list[float] = []
    while len(taken) < TIMES and sum(taken) < 4:
        begun = time.perf_counter()
        reply = ask()
        taken.append(time.perf_counter() - begun)
        assert reply.status_code < 400, reply.text[:300]
    return statistics.median(taken)
