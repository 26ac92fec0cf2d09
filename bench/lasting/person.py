"""Somebody at work over HTTP: everything that changes what is kept, and what is asked for on the way."""

import random
import time
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any

import httpx2

from bench.data import questionnaire
from bench.lasting.steps import Shown, any_step

Reply = Any


class Unexpected(Exception):
    """A reply that nobody should get: a failure of the server, or a refusal without a sentence."""


@dataclass
class Acknowledged:
    """What a server has said is kept: steps, editions and backups as (study, name); studies by id; the furthest
    revision of each study."""

    steps: list[tuple[str, str]] = field(default_factory=list)
    editions: dict[tuple[str, str], bool] = field(default_factory=dict)
    backups: list[tuple[str, str]] = field(default_factory=list)
    studies: list[str] = field(default_factory=list)
    revisions: dict[str, int] = field(default_factory=dict)

    def at(self, study: str, revision: int) -> None:
        """A study has come so far."""
        self.revisions[study] = max(revision, self.revisions.get(study, 0))


class Person:
    """Works on the studies of a server, one deed after the other. `data` is what the studies were made of."""

    def __init__(self, client: httpx2.Client, data: bytes, number: int = 0) -> None:
        self._client = client
        self._data = data
        self._sheet = questionnaire([f"v{n}" for n in range(60)]).encode()
        self.chance = random.Random(number)
        self._name = f"{number}-{time.monotonic_ns():x}"
        self._done = 0
        self.kept = Acknowledged()
        self.taken: dict[str, list[float]] = {}
        self.refused: dict[str, int] = {}
        """Refusals in words, by the kind of step or deed; and the last of them."""
        self.said = ""

    def close(self) -> None:
        """Lets the connection go."""
        self._client.close()

    # Asking --------------------------------------------------------------------------------------

    def asked(self, what: str, method: str, address: str, **rest: Any) -> Reply:
        """The reply to a request, None where it was refused in words. Unexpected where it was not in words."""
        begun = time.perf_counter()
        reply = getattr(self._client, method)(address, **rest)
        self.taken.setdefault(what.split(":")[0], []).append(time.perf_counter() - begun)
        if reply.status_code < 400:
            is_json = reply.headers.get("content-type", "").startswith("application/json")
            return reply.json() if is_json else reply.content
        said = reply.json().get("detail", "") if reply.status_code < 500 else ""
        if not isinstance(said, str) or not said.endswith((".", "?")):
            raise Unexpected(f"{what}: {reply.status_code} {reply.text[:300]}")
        self.refused[what] = self.refused.get(what, 0) + 1
        self.said = said
        return None

    def shown(self, study: str) -> Shown:
        """A study's overview."""
        return self.asked("overview", "get", f"/api/studies/{study}")  # type: ignore[no-any-return]

    def studies(self) -> list[str]:
        """The studies on the list."""
        return [each["id"] for each in self.asked("list", "get", "/api/studies") if not each["removed_at"]]

    def _fresh(self) -> str:
        self._done += 1
        return f"deed-{self._name}-{self._done:06}"

    def _step(self, study: str, base: int, step: Any) -> Reply:
        name = self._fresh()
        body = {"id": name, "base": base, "step": step}
        kept = self.asked(f"step: {step['do']}", "post", f"/api/studies/{study}/steps", json=body)
        if kept:
            self.kept.steps.append((study, name))
            self.kept.at(study, kept["revision"])
        return kept

    def _handed_in(self, data: bytes | None = None) -> Reply:
        handed = self.asked("hand in", "post", "/api/intake", files={"file": ("plots.csv", data or self._data)})
        if handed is None:
            raise Unexpected(f"a file was not taken in: {self.said}")
        return handed

    def _ended(self, what: str, job: Reply) -> Reply:
        """What long work came to, None where it was refused."""
        while job and job["status"] == "running":
            time.sleep(0.02)
            job = self._client.get(f"/api/jobs/{job['id']}").json()
        if job and job["status"] != "done":
            self.refused[what] = self.refused.get(what, 0) + 1
            return None
        return job

    # Deeds ---------------------------------------------------------------------------------------

    def steps(self, study: str, count: int = 8) -> None:
        """Some steps of any kinds, each upon what is shown then."""
        for _ in range(count):
            shown = self.shown(study)
            self._step(study, shown["revision"], any_step(self.chance, shown))

    def block(self, study: str) -> None:
        """A large block pasted over most of the study, so that its log is soon to be written back."""
        shown = self.shown(study)
        count = shown["records"]
        entries = {id: [str(self.chance.randrange(9_999)) for _ in range(count)] for id in shown["order"]}
        step = {"do": "set block", "records": list(range(1, count + 1)), "entries": entries}
        self._step(study, shown["revision"], step)

    def heads(self, study: str) -> None:
        """Undo, undo, redo, and to any state of the diary."""
        for to in ("undo", "undo", "redo"):
            self._head(study, {"to": to})
        lines = [line for run in self._diary(study) for line in run["lines"]]
        if lines:
            self._head(study, {"to": "go", "state": self.chance.choice(lines)["state"]})

    def _head(self, study: str, where: dict[str, Any]) -> None:
        body = {**where, "expected": self.shown(study)["revision"]}
        led = self.asked("head", "post", f"/api/studies/{study}/head", json=body)
        if led:
            self.kept.at(study, led["revision"])

    def _diary(self, study: str, most: int = 40) -> Reply:
        return self.asked("diary", "get", f"/api/studies/{study}/diary?most={most}")["runs"]

    def amendment(self, study: str) -> None:
        """A step of the past left out, after a look at what that does."""
        self.steps(study, 2)
        lines = [line for run in self._diary(study) for line in run["lines"] if line["current"]]
        if not lines:
            return
        edits = {"edits": [{"at": self.chance.choice(lines)["step_id"], "how": "out"}]}
        looked = self.asked("look at amendment", "post", f"/api/studies/{study}/amend/preview", json=edits)
        if looked and not looked["problem"]:
            body = {**edits, "expected": looked["revision"]}
            self._led(study, self.asked("amendment", "post", f"/api/studies/{study}/amend", json=body))

    def _led(self, study: str, led: Reply) -> None:
        if led:
            self.kept.at(study, led["revision"])

    def routine(self, study: str) -> None:
        """The steps of another study, done on this one."""
        source = self.chance.choice(self.studies())
        text = self.asked("save routine", "get", f"/api/studies/{source}/routine")
        if text:
            body = {"text": text.decode(), "expected": self.shown(study)["revision"]}
            self._led(study, self.asked("routine", "post", f"/api/studies/{study}/routine", json=body))

    def correction(self, study: str) -> None:
        """The file that was brought in, with some of its entries otherwise."""
        sources = self.asked("sources", "get", f"/api/studies/{study}/sources")
        if not sources:
            return
        head, *lines = self._data.splitlines(keepends=True)
        lines[self.chance.randrange(len(lines))] = self.chance.choice(lines)
        handed = self._handed_in(head + b"".join(lines))
        expected = self.shown(study)["revision"]
        body = {
            "study": study,
            "settings": handed["settings"],
            "how": {"source": sources[0]["id"]},
            "expected": expected,
        }
        job = self.asked("correction", "post", f"/api/intake/{handed['id']}/correct", json=body)
        ended = self._ended("correction", job)
        if ended:
            self.kept.at(study, ended["result"]["revision"])

    def bring_in(self, _study: str) -> None:
        """A new study with a file in it, taken off the list after it was looked at."""
        made = self._made(self.asked("new study", "post", "/api/studies", json={"title": f"Plots {self._fresh()}"}))
        handed, name = self._handed_in(), self._fresh()
        body = {"study": made["id"], "settings": handed["settings"], "step_id": name}
        job = self.asked("bring in", "post", f"/api/intake/{handed['id']}/bring-in", json=body)
        if self._ended("bring in", job):
            self.kept.steps.append((made["id"], name))
        self._remove(made)

    def _made(self, entry: Reply) -> Reply:
        if entry:
            self.kept.studies.append(entry["id"])
        return entry

    def _remove(self, entry: Reply) -> None:
        if entry:
            self.asked("remove", "delete", f"/api/studies/{entry['id']}")

    def more_records(self, study: str) -> None:
        """A few more records under the same heads."""
        head, *lines = self._data.splitlines(keepends=True)
        handed, name = self._handed_in(head + b"".join(lines[:3])), self._fresh()
        body = {"study": study, "settings": handed["settings"], "more": {}, "step_id": name}
        job = self.asked("more records", "post", f"/api/intake/{handed['id']}/more-records", json=body)
        ended = self._ended("more records", job)
        if ended:
            self.kept.steps.append((study, name))
            self.kept.at(study, ended["result"]["revision"])

    def next_wave(self, study: str) -> None:
        """The next wave's file under the steps of a study, as a study of its own."""
        handed = self._handed_in()
        body = {"file": handed["id"], "title": f"Wave {self._fresh()}"}
        self._remove(self._made(self.asked("next wave", "post", f"/api/studies/{study}/next-wave", json=body)))

    def edition(self, study: str) -> None:
        """The study of now as an edition, compared with an earlier one; an old one let go."""
        made = self.asked("edition", "post", f"/api/studies/{study}/editions", json={"name": self._fresh()})
        if made:
            self.kept.editions[study, made["id"]] = True
        there = self.asked("editions", "get", f"/api/studies/{study}/editions")
        self.asked("compared", "get", f"/api/studies/{study}/compared?one={there[-1]['id']}")
        if len(there) > 6:
            gone = there[-1]["id"]
            self.kept.editions.pop((study, gone), None)  # from here on it may be gone
            self.asked("edition let go", "delete", f"/api/studies/{study}/editions/{gone}")

    def decisions(self, study: str) -> None:
        """Differences between this and another keying decided."""
        shown = self.shown(study)
        one, record = self.chance.choice(shown["order"]), self.chance.randint(1, shown["records"])
        page = self.asked(
            "page", "get", f"/api/studies/{study}/records?start={record - 1}&stop={record}&variables={one}"
        )
        if page["records"]:
            own = page["columns"][0]["texts"][page["columns"][0]["index"][0]]
            decision = {"record": page["records"][0], "variable": one, "own": own, "other": "3", "kept": "3"}
            self._step(study, shown["revision"], {"do": "decide", "decisions": [decision]})

    def carrying(self, study: str) -> None:
        """The study carried out, and opened as one of its own."""
        carried = self.asked("carry", "get", f"/api/studies/{study}/carried")
        file = {"file": ("plots.rowtag", carried)}
        self._remove(self._made(self.asked("open carried", "post", "/api/studies/carried", files=file)))

    def copy(self, study: str) -> None:
        """A copy of a study."""
        body = {"title": f"Copy {self._fresh()}", "records": True}
        self._remove(self._made(self.asked("copy", "post", f"/api/studies/{study}/copy", json=body)))

    def backup(self, study: str) -> None:
        """A backup, and now and then one taken back as a study of its own."""
        made = self.asked("backup", "post", f"/api/studies/{study}/backups")
        if made:
            self.kept.backups.append((study, made["name"]))
        if made and self.chance.random() < 0.3:
            address = f"/api/studies/{study}/backups/{made['name']}/restore"
            self._remove(self._made(self.asked("backup taken back", "post", address)))

    def hand_over(self, study: str) -> None:
        """The study handed over."""
        self._ended("hand over", self.asked("hand over", "post", f"/api/studies/{study}/handover", json={}))

    def look(self, study: str) -> None:
        """What somebody looks at who works: a page of records, a tag, checks, a story, a document."""
        shown = self.shown(study)
        first = self.chance.randrange(max(shown["records"] - 60, 1))
        ids = shown["order"]
        query = f"?start={first}&stop={first + 60}&variables={','.join(ids[:30])}"
        self.asked("page", "get", f"/api/studies/{study}/records{query}")
        self.asked("tag", "get", f"/api/studies/{study}/variables/{self.chance.choice(ids)}")
        self.asked("checks", "get", f"/api/studies/{study}/checks")
        self._diary(study)
        if self.chance.random() < 0.2:
            self.asked("document", "post", "/api/sheets/text", files={"file": ("questionnaire.txt", self._sheet)})
            self.asked("story", "get", f"/api/studies/{study}/story")


DEEDS: dict[str, Callable[[Person, str], None]] = {
    "steps of all kinds": Person.steps,
    "undo, redo, to another state": Person.heads,
    "amendments": Person.amendment,
    "routines": Person.routine,
    "corrected files": Person.correction,
    "next waves": Person.next_wave,
    "files brought in": Person.bring_in,
    "more records": Person.more_records,
    "editions": Person.edition,
    "decisions": Person.decisions,
    "carrying": Person.carrying,
    "copying": Person.copy,
    "backups": Person.backup,
    "large blocks, written back": Person.block,
}
"""All that changes what is kept, by what it is called in the report."""
