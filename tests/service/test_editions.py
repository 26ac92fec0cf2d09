"""Editions, what differs between them, the story, and studies carried elsewhere: over HTTP, held against the store."""

import hashlib
import json
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import pytest
from fastapi.testclient import TestClient

from rowtag.api.app import create_app
from rowtag.core.comparing import PartChanged
from rowtag.core.errors import BadInput, NotThere
from rowtag.core.steps.codes import ListCodes
from rowtag.core.steps.entries import SetEntries
from rowtag.core.steps.records import RemoveRecords
from rowtag.core.tag import CodeLine, Limits, Marks, MissingLine, Skip
from rowtag.formats.table import unwatched
from rowtag.formats.writers import Handed
from rowtag.formats.writers.csv import Csv
from rowtag.service.editions import fingerprint, in_words, name_edition
from rowtag.store.editions import editions, forget_edition
from rowtag.store.studyfile import StudyFile
from rowtag.store.workspace import Workspace
from tests.conftest import brought_in
from tests.generate import contents
from tests.store.test_studyfile import ids


def change(file: StudyFile) -> None:
    """A code that is listed, two entries typed, a record removed."""
    file.take(ListCodes(variables=(ids(file)["tenure"],), lines=(CodeLine(code="1", label="Own"),)), "listed")
    file.take(SetEntries(variable=ids(file)["hours"], entries={1: "5", 2: "12"}), "typed")
    file.take(RemoveRecords(records=(6,)), "removed")


def test_an_edition_is_looked_at(workspace: Workspace) -> None:
    """It opens under an id of its own, as it was, whatever becomes of the study; nothing can be done there."""
    study = brought_in(workspace)
    file = workspace.study(study)
    was = contents(file.study)
    named = name_edition(file, "As it came")
    change(file)
    there = f"{study}~{named.id}"
    with TestClient(create_app(workspace), base_url="http://127.0.0.1") as client:
        seen = client.get(f"/api/studies/{there}").json()
        assert (seen["edition"], seen["records"], seen["undo"], seen["redo"]) == ("As it came", 6, None, None)
        assert client.get(f"/api/studies/{study}").json()["edition"] is None
        tenure = next(each["id"] for each in seen["variables"] if each["name"] == "tenure")
        page = client.get(f"/api/studies/{there}/records?variables={tenure}").json()
        assert len(page["columns"][0]["index"]) == 6, page
        step = {"do": "set entries", "variable": tenure, "entries": {"1": "3"}}
        asked = {"id": "step-0001", "base": seen["revision"], "step": step}
        for path, body in {
            "steps": asked,
            "head": {"to": "undo", "expected": seen["revision"]},
            "editions": {"name": "Another"},
            "amend": {"edits": [{"at": "listed", "how": "out"}], "expected": seen["revision"]},
        }.items():
            reply = client.post(f"/api/studies/{there}/{path}", json=body)
            assert reply.status_code >= 400, path
            assert "can only be looked at" in reply.text or path == "amend", (path, reply.text)
        assert len(editions(file)) == 1 and contents(file.state(named.state)) == was
        workspace.remove(study)
        refused = client.get(f"/api/studies/{there}")
        assert refused.status_code == 404 and "was removed, and its editions with it" in refused.text
        assert client.get(f"/api/studies/{study}~none").status_code == 404


def test_an_edition_is_a_state_that_is_told_by_its_sums(plots: StudyFile, tmp_path: Path) -> None:
    """The sums are those of the data as they are handed over; they differ where data or codebook do, and only there."""
    first = name_edition(plots, " As it  came ", "From paper", by="ann")
    assert (first.name, first.note, first.by, first.state) == ("As it came", "From paper", "ann", plots.head)
    with (tmp_path / "data.csv").open("wb") as out:
        Csv().write(Handed(plots.study, "Plots"), out, unwatched)
    assert first.data == hashlib.sha256((tmp_path / "data.csv").read_bytes()).hexdigest()
    data, codebook = fingerprint(plots.study)
    plots.take(ListCodes(variables=(ids(plots)["tenure"],), lines=(CodeLine(code="1", label="Own"),)), "listed")
    assert fingerprint(plots.study)[0] == data and fingerprint(plots.study)[1] != codebook
    plots.take(SetEntries(variable=ids(plots)["hours"], entries={1: "5"}), "typed")
    second = name_edition(plots, "Coded")
    assert second.data != data
    assert [each.name for each in editions(plots)] == ["Coded", "As it came"]
    again = StudyFile(plots._engine.url.database and Path(plots._engine.url.database), there=True)
    assert editions(again) == editions(plots)
    again.close()
    with pytest.raises(BadInput, match="There is an edition “as it came” already"):
        name_edition(plots, "as it came")
    with pytest.raises(BadInput, match="has a name"):
        name_edition(plots, "  ")
    plots.move("go", expected=plots.revision, to=first.state)
    assert fingerprint(plots.study) == (first.data, first.codebook)
    forget_edition(plots, second.id)
    assert [each.name for each in editions(plots)] == ["As it came"]
    with pytest.raises(NotThere, match="no such edition"):
        forget_edition(plots, second.id)


def test_two_editions_compared_over_http(workspace: Workspace, client: TestClient) -> None:
    """Tags part by part, entries with what became of them, records; as JSON and as a page to put away."""
    study = brought_in(workspace)
    file, url = workspace.study(study), f"/api/studies/{study}"
    one = client.post(f"{url}/editions", json={"name": "As it came"}).json()
    change(file)
    two = client.post(f"{url}/editions", json={"name": "Coded", "note": "<b>checked</b>"}).json()
    assert [each["id"] for each in client.get(f"{url}/editions").json()] == [two["id"], one["id"]]
    found = client.get(f"{url}/compared", params={"one": one["id"], "other": two["id"]}).json()
    assert (found["entries"], found["records_gone"], found["records_came"], found["came"]) == (2, 1, 0, [])
    moved = {each["name"]: each for each in found["variables"]}
    assert moved["tenure"]["parts"] == [{"part": "codes", "was": "", "now": "1 Own"}]
    assert (moved["hours"]["entries"], moved["hours"]["read_otherwise"]) == (2, 0)
    assert {"old": "12 hrs", "new": "12", "count": 1} in moved["hours"]["pairs"]
    assert client.get(f"{url}/compared", params={"one": two["id"]}).json()["same"] is True
    page = client.get(f"{url}/comparison", params={"one": one["id"], "other": two["id"]}).text
    for said in ("As it came → Coded", "1 Own", "<code>12 hrs</code>", "<code>12</code>", "Records that went: 1 (6)."):
        assert said in page, said
    told = client.get(f"{url}/story").text
    assert "Edition “As it came”" in told and "&lt;b&gt;checked" in told and "<script" not in told
    assert (
        told.index("Brought in") < told.index("As it came”") < told.index("Listed 1") < told.index("Removed record 6")
    )
    for edition in ("now", one["id"]):
        files = client.post(f"{url}/handover/preview", json={"edition": edition}).json()
        (data,) = [each["head"] for each in files if each["name"] == "data.csv"]
        assert ("0042" in data) == (edition != "now"), "the record was removed after the edition"
    assert client.post(f"{url}/handover/preview", json={"edition": "none"}).status_code == 404
    assert client.get(f"{url}/compared", params={"one": "none"}).status_code == 404
    assert client.delete(f"{url}/editions/{one['id']}").status_code == 204
    assert client.delete(f"{url}/editions/{one['id']}").status_code == 404


def test_one_name_at_the_same_moment(workspace: Workspace) -> None:
    """Of many who give an edition the same name at once, one gets it."""
    file = workspace.study(brought_in(workspace))

    def try_it(_number: int) -> bool:
        try:
            name_edition(file, "As delivered")
        except BadInput:
            return False
        return True

    with ThreadPoolExecutor(8) as pool:
        assert sum(pool.map(try_it, range(24))) == 1
    assert [each.name for each in editions(file)] == ["As delivered"]


def test_a_study_is_carried_whole(workspace: Workspace, client: TestClient, tmp_path: Path) -> None:
    """Opened on another machine it is the same: states, diary, sources, editions; a damaged one says what is amiss."""
    study = brought_in(workspace)
    file, url = workspace.study(study), f"/api/studies/{study}"
    change(file)
    name_edition(file, "Coded")
    data = client.get(f"{url}/carried")
    assert data.headers["content-disposition"].endswith('filename="plots.rowtag"')
    other = Workspace(tmp_path / "other")
    with TestClient(create_app(other)) as there:
        entry = there.post("/api/studies/carried", files={"file": ("plots.rowtag", data.content)}).json()
        assert (entry["title"], entry["records"]) == ("Plots", 5)
        carried = other.study(entry["id"])
        assert contents(carried.study) == contents(file.study)
        assert [line.sentence for line in carried.diary()] == [line.sentence for line in file.diary()]
        assert [each.name for each in editions(carried)] == ["Coded"]
        (source,) = carried.study.shelves["source"].values()
        assert b"".join(carried.source_bytes(source.sha256)) == b"".join(file.source_bytes(source.sha256))
        carried.move("undo", expected=carried.revision)
        assert carried.study.records.count == 6
        broken = bytearray(data.content)
        broken[data.content.index(b'"Coded"') + 1] ^= 1  # where something is read
        for spoiled in (bytes(broken), data.content[: len(data.content) // 2], b"words", b""):
            refused = there.post("/api/studies/carried", files={"file": ("plots.rowtag", spoiled)})
            assert refused.status_code >= 400 and "plots.rowtag" in json.dumps(refused.json(), ensure_ascii=False)
        assert len(there.get("/api/studies").json()) == 1
    other.close()


def test_a_study_is_copied(workspace: Workspace, client: TestClient) -> None:
    """With everything, or with its codebook alone; what is done to one is not done to the other."""
    study = brought_in(workspace)
    whole = client.post(f"/api/studies/{study}/copy", json={"title": "Second try"}).json()
    assert (whole["title"], whole["records"]) == ("Second try", 6)
    change(workspace.study(whole["id"]))
    assert workspace.study(study).study.records.count == 6
    bare = client.post(f"/api/studies/{study}/copy", json={"title": "Next year", "records": False}).json()
    assert (bare["records"], bare["variables"]) == (0, 3)


def test_the_diary_over_http(workspace: Workspace, client: TestClient) -> None:
    """A step as it was written, amended, and saved as a routine that is looked at and done on another study."""
    study = brought_in(workspace)
    file, url = workspace.study(study), f"/api/studies/{study}"
    change(file)
    written = client.get(f"{url}/steps/typed/written").json()
    assert written["says"] == {
        "do": "set entries", "records by": "plot", "variable": "hours", "entries": {"0007": "5", "0014": "12"}
    } or written["says"]["entries"] == {"1": "5", "2": "12"}  # fmt: skip
    edits = [{"at": "typed", "how": "out"}]
    look = client.post(f"{url}/amend/preview", json={"edits": edits}).json()
    assert [(each["came"], each["step_id"]) for each in look["lines"]] == [("left out", "typed"), ("done", "removed")]
    assert look["compared"]["entries"] == 2
    done = client.post(f"{url}/amend", json={"edits": edits, "expected": look["revision"]})
    assert done.status_code == 200 and "hours" in [
        file.study.tag(id).name for id in done.json()["touched"]["entries"]
    ]  # fmt: skip
    again = client.post(f"{url}/amend", json={"edits": edits, "expected": look["revision"]})
    assert again.status_code in (404, 409), "it is not in the study any more"
    text = client.get(f"{url}/routine").text
    assert text.startswith("row tag routine: 1\nstudy: Plots\n")
    other = brought_in(workspace)
    there = f"/api/studies/{other}"
    seen = client.post(f"{there}/routine/preview", json={"text": text}).json()
    assert [(each["do"], each["came"]) for each in seen["lines"]] == [
        ("bring in", "nothing to do"), ("list codes", "done"), ("remove records", "done")
    ]  # fmt: skip
    body = {"text": text, "expected": seen["revision"]}
    assert client.post(f"{there}/routine", json=body).status_code == 200
    assert workspace.study(other).study.records.count == 5
    wrong = client.post(f"{there}/routine/preview", json={"text": "row tag routine: 1\nsteps:\n- do: dance"}).json()
    assert "row 3: There is no step called “dance”" in wrong["problem"]["what"]


def test_the_diary_filtered(workspace: Workspace, client: TestClient) -> None:
    """By what a step concerns, its kind, who, and the day: the same as looking through all of them, page by page."""
    study = brought_in(workspace)
    file, url = workspace.study(study), f"/api/studies/{study}/diary"
    change(file)
    file.take(SetEntries(variable=ids(file)["hours"], entries={3: "7"}), "again", by="ben")

    def told(**asked: str | int) -> list[str]:
        out, before = [], None
        while True:
            page = client.get(url, params={**asked, **({} if before is None else {"before": before})}).json()
            out += [line["step_id"] for run in page["runs"] for line in run["lines"]]
            before = page["more"]
            if before is None:
                return out

    everything = [line.step_id for line in file.diary()]
    assert told() == told(most=2) == everything
    assert told(variable=ids(file)["hours"]) == ["again", "typed", everything[-1]]
    assert told(kind="set entries", most=1) == ["again", "typed"]
    assert told(by="ben") == ["again"] and told(by="nobody") == []
    assert told(day=file.diary(1)[0].at[:10]) == everything and told(day="1999-01-01") == []
    assert client.get(url, params={"day": "soon"}).status_code == 422


def test_every_part_is_told_in_words() -> None:
    """Skips, marks and limits too: nothing is told as it is written in the program."""
    parts = {
        "skips": (Skip(codes=("2", "3"), to="hours", proposed=True, said="go to hours"), Skip(codes=("4",))),
        "marks": Marks(decimal=",", thousands=".", sign="€", date_order="dmy"),
        "limits": Limits(low="18"),
        "missing": (MissingLine(code="-9", reason="refused", label="Refused"), MissingLine(code="-8", reason="other")),
        "complete": True,
    }
    told = {name: in_words(PartChanged(name, None, value), value) for name, value in parts.items()}
    assert told == {
        "skips": "2 or 3: goes on at hours (proposed)\n4: goes on at the end",
        "marks": "decimal “,”, thousands “.”, sign “€”, date order “dmy”",
        "limits": "18 to …",
        "missing": "-9 Refused\n-8 other",
        "complete": "yes",
    }
    assert in_words(PartChanged("limits", None, Limits()), Limits()) == ""
