"""Several people at work on one server for a long time, at everything that can be done."""

import statistics
import threading
import time
from collections.abc import Callable
from pathlib import Path

from bench.data import write
from bench.lasting.many import handles, held, readers
from bench.lasting.person import DEEDS, Person, Unexpected
from bench.measures import _percentile, _server, brought_in, client_of
from rowtag.core.engine import LIMIT
from rowtag.store.verify import verify
from rowtag.store.workspace import Workspace, study_files

LOOKING, STEPPING = 0.55, 0.3
"""Shares of a person's time for looking and for steps; what is left is for all other deeds."""


class Work(threading.Thread):
    """Works until told to stop, or until something comes that nobody should get."""

    def __init__(self, person: Person, studies: list[str], stop: threading.Event) -> None:
        super().__init__(daemon=True)
        self.person = person
        self.done: dict[str, int] = {}
        self.failed = ""
        self._studies = studies
        self._stop_it = stop

    def run(self) -> None:
        """Chooses a study and something to do there, again and again."""
        chance = self.person.chance
        while not self._stop_it.is_set():
            study, share = chance.choice(self._studies), chance.random()
            do: Callable[[Person, str], None]
            if share < LOOKING:
                what, do = "looking", Person.look
            elif share < LOOKING + STEPPING:
                what, do = "steps of all kinds", Person.steps
            else:
                what, do = chance.choice([*DEEDS.items(), ("handing over", Person.hand_over)])
            try:
                do(self.person, study)
            except Unexpected as error:
                self.failed = str(error)
                return
            self.done[what] = self.done.get(what, 0) + 1


def mixed(folder: Path, minutes: float, people: int = 4) -> list[str]:
    """So many people at work on a dozen studies: memory of the server and its readers, quarter by quarter, how often
    what was done, and how long each kind of request took."""
    write(folder / "work.csv", 3_000, 40)
    workspace = Workspace(folder / "mixed")
    studies = [brought_in(workspace, folder / "work.csv")[0] for _ in range(12)]
    workspace.close()
    stop = threading.Event()
    memory: list[tuple[int, int, int]] = []
    server = _server(folder / "mixed")
    with server as client:
        address, data = str(client.base_url), (folder / "work.csv").read_bytes()
        works = [Work(Person(client_of(address, 300), data, number), studies, stop) for number in range(people)]
        for work in works:
            work.start()
        end = time.monotonic() + 60 * minutes
        while time.monotonic() < end and all(work.is_alive() for work in works):
            time.sleep(10)
            process = server.process.pid
            memory.append((held(process), readers(process), handles(process)))
        stop.set()
        for work in works:
            work.join(180)
    sound = sum(verify(path).sound for path in study_files(folder / "mixed"))
    return _told(
        works, minutes, memory, f"{sound} of {len(study_files(folder / 'mixed'))} studies are sound afterwards."
    )


def _told(works: list[Work], minutes: float, memory: list[tuple[int, int, int]], after: str) -> list[str]:
    people = [work.person for work in works]
    requests = sum(len(each) for person in people for each in person.taken.values())
    refused = sum(sum(person.refused.values()) for person in people)
    failed = [work.failed for work in works if work.failed]
    out = [
        f"{len(people)} people, {minutes:g} minutes: {requests:,} requests, {refused:,} of them refused in a sentence "
        f"(steps are made at random), {len(failed)} otherwise. {after}"
    ]
    out += [f"Failed: {each}" for each in failed[:5]]
    out += [
        "",
        f"What a server remembers of its results takes up to {LIMIT >> 20:,} MB, besides the studies that are open.",
    ]
    out += ["", "| part of the time | memory of the server | of its readers | open files |", "|---|---|---|---|"]
    for part in range(4):
        some = memory[part * len(memory) // 4 : (part + 1) * len(memory) // 4]
        server_held, readers_held, files = (statistics.median(each) for each in zip(*some, strict=True))
        out.append(f"| quarter {part + 1} | {server_held / 1e6:.0f} MB | {readers_held / 1e6:.0f} MB | {files:.0f} |")
    out += ["", "| work | times |", "|---|---|"]
    for what in dict.fromkeys(what for work in works for what in work.done):
        out.append(f"| {what} | {sum(work.done.get(what, 0) for work in works):,} |")
    out += ["", "| request | times | median | 95th percentile |", "|---|---|---|---|"]
    for what in dict.fromkeys(what for person in people for what in person.taken):
        taken = [each for person in people for each in person.taken.get(what, ())]
        middle = statistics.median(taken)
        out.append(f"| {what} | {len(taken):,} | {middle * 1000:.0f} ms | {_percentile(taken) * 1000:.0f} ms |")
    return out
