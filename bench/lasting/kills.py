"""Servers killed in the middle of everything that they do, and what is there afterwards.

A server is forked from a process that has loaded all of Row Tag, so that thousands of rounds take minutes: what it
serves, keeps and is killed at is the whole application, over HTTP.
"""

import gc
import multiprocessing.forkserver
import os
import pickle
import random
import re
import shutil
import signal
import sqlite3
import threading
import time
import traceback
from collections.abc import Callable, Sequence
from contextlib import closing
from dataclasses import dataclass, fields
from multiprocessing.forkserver import _forkserver
from pathlib import Path
from typing import Any, TypeVar

import httpx2
from fastapi.testclient import TestClient

from bench.data import write
from bench.lasting.person import DEEDS, Acknowledged, Person
from bench.measures import brought_in, client_of
from rowtag.api.app import create_app
from rowtag.api.server import run
from rowtag.core.engine import engine
from rowtag.core.errors import RowTagError
from rowtag.service.apart import apart, typed
from rowtag.store.backups import folder_of
from rowtag.store.editions import editions
from rowtag.store.turns import AMENDED
from rowtag.store.verify import verify
from rowtag.store.workspace import Workspace

T = TypeVar("T")
AT_ONCE = 2
"""Rounds that run at once."""
COUNTED = ("steps", "missing", "doubled", "called_damaged", "unsound")


@dataclass
class Found:
    """What was there after a kill: acknowledged steps (editions, backups, studies), how many of them are missing,
    revisions that nobody asked for, studies that cannot be opened, studies whose sums are wrong; and words on these."""

    steps: int = 0
    missing: int = 0
    doubled: int = 0
    called_damaged: int = 0
    unsound: int = 0
    words: str = ""

    def __iadd__(self, other: "Found") -> "Found":
        for each in fields(self):
            setattr(self, each.name, getattr(self, each.name) + getattr(other, each.name))
        return self


def kills_told(folder: Path, rounds: int, kinds: Sequence[str] = tuple(DEEDS)) -> list[str]:
    """A line of a table for each kind of work that a server was killed at."""
    multiprocessing.forkserver.ensure_running()  # one for all; a child cannot look after it, and need not
    template, data = _made(folder)
    out = []
    for kind in kinds:
        begun = time.monotonic()
        usual = in_a_child(lambda kind=kind: _usual(template, data, kind))
        works = [
            lambda first=first, kind=kind, usual=usual: _rounds(
                template, data, kind, [(number, usual) for number in range(first, rounds, AT_ONCE)]
            )
            for first in range(AT_ONCE)
        ]
        total = Found()
        for found in in_children(works):
            total += found
        counts = " | ".join(f"{getattr(total, name):,}" for name in COUNTED)
        out.append(f"| {kind} | {rounds:,} | {usual * 1000:,.0f} ms | {counts} |")
        print(out[-1], f"{time.monotonic() - begun:.0f} s", total.words, flush=True)
    return out


def in_a_child(work: Callable[[], T]) -> T:
    """What work comes to in a forked process of its own, so that this one never has threads or open studies."""
    return in_children([work])[0]


def in_children(works: Sequence[Callable[[], T]]) -> list[T]:
    """What works come to, each in a forked process of its own, at once."""
    return [_heard(*each) for each in [_begun(work) for work in works]]


def _begun(work: Callable[[], Any]) -> tuple[int, int]:
    """A process that does some work, and the pipe on which it says what came of it."""
    read, write_to = os.pipe()
    child = os.fork()
    if child == 0:
        os.close(read)
        _forkserver.ensure_running = lambda: None  # type: ignore[method-assign]
        try:
            said: Any = (True, work())
        except BaseException as error:  # told to the parent
            said = (False, f"{type(error).__name__}: {error}")
        with os.fdopen(write_to, "wb") as pipe:
            pickle.dump(said, pipe)
        os._exit(0)
    os.close(write_to)
    return child, read


def _heard(child: int, read: int) -> Any:
    with os.fdopen(read, "rb") as pipe:
        done, found = pickle.load(pipe)
    os.waitpid(child, 0)
    if not done:
        raise RuntimeError(found)
    return found


def _made(folder: Path) -> tuple[Path, bytes]:
    """A workspace of two studies in which somebody has worked for a while, and the file that they were made of."""
    path = folder / "killed.csv"
    write(path, 300, 12)

    def work() -> None:
        workspace = Workspace(folder / "template")
        brought_in(workspace, path)
        brought_in(workspace, path)
        workspace.close()
        process, address = serving(folder / "template")
        person = Person(client_of(address), path.read_bytes())
        for study in person.studies():
            person.steps(study, 30)
            person.edition(study)
        person.close()
        os.kill(process, signal.SIGTERM)
        os.waitpid(process, 0)

    in_a_child(work)
    _warmed(folder / "template", path.read_bytes())
    return folder / "template", path.read_bytes()


def _warmed(template: Path, data: bytes) -> None:
    """Does once what is done in the rounds, so that what is loaded at its first use is there in all of them."""
    folder = template.with_name("warmed")
    shutil.copytree(template, folder)
    with TestClient(create_app(Workspace(folder))) as client:
        person = Person(client, data)
        for study in person.studies():
            person.steps(study, 2)
            person.look(study)
    there(folder, person.kept)
    apart.close()  # readers of this process are no readers of others
    typed.close()
    engine.forget()
    gc.collect()
    gc.freeze()  # else every server would look through all of it


def serving(folder: Path) -> tuple[int, str]:
    """A server over a workspace, forked from this process; its number and its address."""
    read, write_to = os.pipe()
    process = os.fork()
    if process == 0:
        os.close(read)
        os.dup2(write_to, 1)
        os.dup2(os.open(folder.with_suffix(".log"), os.O_WRONLY | os.O_CREAT | os.O_APPEND), 2)
        try:
            run(Workspace(folder), "127.0.0.1", 0, guarded=False)
        except BaseException:
            traceback.print_exc()
        finally:
            os._exit(0)
    os.close(write_to)
    with os.fdopen(read) as pipe:
        said = pipe.readline() + pipe.readline()
    found = re.search(r"http://[\d.]+:\d+", said)
    assert found, said
    return process, found[0]


def _usual(template: Path, data: bytes, kind: str) -> float:
    """Seconds that a deed takes in a server that has just begun."""
    folder = template.with_name("usual")
    shutil.rmtree(folder, ignore_errors=True)
    shutil.copytree(template, folder)
    process, address = serving(folder)
    person, taken = Person(client_of(address), data), []
    try:
        for study in person.studies() * 2:
            begun = time.perf_counter()
            DEEDS[kind](person, study)
            taken.append(time.perf_counter() - begun)
    finally:
        os.kill(process, signal.SIGKILL)
        os.waitpid(process, 0)
    return sorted(taken)[len(taken) // 2]


def _rounds(template: Path, data: bytes, kind: str, rounds: Sequence[tuple[int, float]]) -> Found:
    """Rounds by number, each killed at a moment that follows from it, with how long the work usually takes."""
    total = Found()
    for number, usual in rounds:
        delay = random.Random(f"{kind} {number}").uniform(0, 1.3 * usual)
        total += in_a_child(lambda number=number, delay=delay: _round(template, data, kind, number, delay))
    return total


def _round(template: Path, data: bytes, kind: str, number: int, delay: float) -> Found:
    """Works, has the server killed `delay` seconds after some work has begun, and counts what is there."""
    folder = template.with_name(f"round{number % AT_ONCE}")
    shutil.rmtree(folder, ignore_errors=True)
    shutil.copytree(template, folder)
    process, address = serving(folder)
    person = Person(client_of(address), data, number)
    killer = threading.Timer(delay, os.kill, (process, signal.SIGKILL))
    try:
        study = person.chance.choice(person.studies())
        person.steps(study, 1)
        killer.start()
        while True:
            DEEDS[kind](person, study)
    except httpx2.TransportError:
        pass  # it was killed
    except BaseException as error:
        os.kill(process, signal.SIGKILL)
        log = folder.with_suffix(".log").read_text()
        raise RuntimeError(f"{error}\n{log[-4_000:]}") from error
    finally:
        os.waitpid(process, 0)
    return there(folder, person.kept)


def since(path: Path, revision: int) -> list[str]:
    """What was asked for behind a revision of a study, by its kind: a whole amendment, which is kept as a branch with
    its steps, is asked for once. One that has no end is two things that nobody asked for."""
    with closing(sqlite3.connect(f"{path.absolute().as_uri()}?mode=ro", uri=True)) as connection:
        query = "SELECT kind FROM move WHERE revision > ? ORDER BY revision"
        kinds = [kind for (kind,) in connection.execute(query, (revision,))]
    out, within = list[str](), False
    for kind in kinds:
        within = (within or kind == "branch") and not kind.startswith(AMENDED)
        if not within:
            out.append(kind)
    return out + ["branch", "without an end"] * within


def there(folder: Path, kept: Acknowledged) -> Found:
    """What of that which was acknowledged is in a workspace, and whether all of it is sound."""
    found = Found(steps=len(kept.steps) + len(kept.editions) + len(kept.backups) + len(kept.studies))
    workspace = Workspace(folder)
    listed = {entry.id for entry in workspace.entries()}
    steps, named, revisions = set(), set(), {}
    for id in listed:
        try:
            file = workspace.study(id)
            steps |= {(id, step) for _, _, step in file.tree()}
            named |= {(id, each.id) for each in editions(file)}
            revisions[id] = file.revision
        except RowTagError as error:
            found.called_damaged += 1
            found.words += f" {error}"
        sound = verify(workspace.path(id))
        if not sound.sound:
            found.unsound += 1
            found.words += f" {sound.problems[0]}"
    backed_up = {(id, path.name) for id in listed for path in folder_of(workspace.path(id)).glob("*")}
    workspace.close()
    lost = [
        *(set(kept.steps) - steps),
        *(set(kept.editions) - named),
        *((id, name) for id, name in kept.backups if not any(each == id and name in file for each, file in backed_up)),
        *(id for id in kept.studies if id not in listed),
        *(id for id, revision in kept.revisions.items() if revisions.get(id, 0) < revision),
    ]
    found.missing = len(lost)
    more = [id for id, revision in kept.revisions.items() if len(since(workspace.path(id), revision)) > 1]
    found.doubled = len(more)
    if lost or more:
        found.words += f" lost {lost}, more than asked in {more}"
    return found
