"""The intake over HTTP: looked at in every way, changed column by column, joined, and looked at again as it came."""

from typing import Any

import pytest
from fastapi.testclient import TestClient

from rowtag.demo.untidy import write_late, write_untidy
from rowtag.store.workspace import Workspace
from tests.api.test_http import finished, hand_in, overview
from tests.conftest import PLOTS, brought_in
from tests.formats.books import xlsx


@pytest.fixture
def study(workspace: Workspace) -> str:
    return brought_in(workspace)


def proposals(client: TestClient, seen: Any, **settings: Any) -> Any:
    body = {"settings": {**seen["settings"], **settings}}
    return finished(client, client.post(f"/api/intake/{seen['id']}/proposals", json=body).json())["proposals"]


def columns(client: TestClient, seen: Any, choices: dict[int, Any]) -> Any:
    body = {"settings": seen["settings"], "choices": choices}
    return client.post(f"/api/intake/{seen['id']}/columns", json=body).json()


def test_an_untidy_file(client: TestClient, tmp_path: Any) -> None:
    """Title, wordings, total and source are told; the report says how the file was read in the end."""
    write_untidy(tmp_path / "hut.csv")
    seen = hand_in(client, (tmp_path / "hut.csv").read_bytes(), "hut.csv").json()
    report = proposals(client, seen)
    assert (seen["settings"]["names_row"], seen["settings"]["wordings_row"], seen["first_row"]) == (3, 4, 1)
    assert (report["records"], report["settings"]["rows_below"]) == (1_204, 2)
    assert [row[0] for row in report["foot"][-2:]] == ["Total", "Source: the allotment committee, keyed in May 2026"]
    assert report["columns"][3]["tag"]["marks"]["decimal"] == ","
    assert proposals(client, seen, rows_below=0)["records"] == 1_206


def test_one_column_looked_at(client: TestClient) -> None:
    """A chosen type shows what it reads and which records it does not; a suspect set as missing is counted so."""
    seen = hand_in(client, PLOTS).json()
    proposals(client, seen)
    (hours,) = columns(client, seen, {3: {"type": "integer"}})
    assert hours["fill"] | {"unreadable": 0, "unlisted": 0} == {
        "valid": 3, "missing": 0, "blank": 1, "stray": 2, "unreadable": 0, "unlisted": 0,
    }  # fmt: skip
    assert [(each["entry"], each["records"]) for each in hours["strays"]] == [("12 hrs", [2]), ("n/a", [5])]
    assert {"entry": "4", "count": 1} in hours["commonest"]
    missing = [{"code": "n/a", "reason": "no answer"}]
    (hours,) = columns(client, seen, {3: {"type": "integer", "missing": missing, "name": "hours_week"}})
    assert (hours["fill"]["missing"], hours["fill"]["stray"], hours["tag"]["name"]) == (1, 1, "hours_week")
    study = client.post("/api/studies", json={"title": "Plots"}).json()["id"]
    choices = {3: {"type": "integer", "missing": missing, "name": "hours_week"}}
    body = {"study": study, "step_id": "bring-in-1", "settings": seen["settings"], "choices": choices}
    finished(client, client.post(f"/api/intake/{seen['id']}/bring-in", json=body).json())
    strip = overview(client, study)["variables"][2]
    assert (strip["name"], strip["fill"]["missing"], strip["fill"]["stray"]) == ("hours_week", 1, 1)


def test_everything_left_out_is_refused(client: TestClient) -> None:
    """A file of which nothing is taken is not brought in, and the study stays empty."""
    seen = hand_in(client, "q1\n1\n").json()
    study = client.post("/api/studies", json={"title": "Plots"}).json()["id"]
    body = {"study": study, "step_id": "bring-in-1", "settings": seen["settings"], "choices": {1: {"leave_out": True}}}
    job = finished(client, client.post(f"/api/intake/{seen['id']}/bring-in", json=body).json())
    assert job["problem"]["title"] == "Every column is left out." and overview(client, study)["revision"] == 1


@pytest.mark.parametrize(
    ("kind", "value"), [("text", "plot 4\nage 2"), ("file", "name,width\nplot,4\nage,2\n"), ("study", "")]
)
def test_fixed_columns_from_a_codebook(client: TestClient, kind: str, value: str) -> None:
    """A text is taken for fixed columns, and its widths come from a text, a codebook file, or a study."""
    seen = hand_in(client, "007134\n014141\n", "plots.dat").json()
    seen = client.post(f"/api/intake/{seen['id']}/guess", json={"kind": "fixed"}).json()
    assert seen["rows"] == [["007134"], ["014141"]]
    if kind == "file":
        value = hand_in(client, value, "codebook.csv").json()["id"]
    if kind == "study":
        value = client.post("/api/studies", json={"title": "Planned"}).json()["id"]
        tags = [{"name": "plot", "width": 4}, {"name": "age", "width": 2}]
        step = {"do": "add variables", "variables": [{"id": f"new{n}", "tag": tag} for n, tag in enumerate(tags)]}
        body = {"id": "step-0001", "base": 1, "step": step}
        assert client.post(f"/api/studies/{value}/steps", json=body).status_code == 200
    body = {"settings": seen["settings"], "source": {"kind": kind, "value": value}}
    seen = client.post(f"/api/intake/{seen['id']}/fields", json=body).json()
    report = proposals(client, seen)
    assert [each["tag"]["name"] for each in report["columns"]] == ["plot", "age"]
    assert report["records"] == 2


def test_more_records(client: TestClient, study: str) -> None:
    """A second file is previewed with counts, asked about where names are near, added as one step, and undone."""
    seen = hand_in(client, "plot;Tenur;hours;shed\n0007;2;9\n0050;1;5;yes\n", "late.csv").json()
    ids = {each["name"]: each["id"] for each in overview(client, study)["variables"]}
    body = {"study": study, "settings": seen["settings"], "more": {"identifier": ids["plot"], "known": "replace"}}
    report = client.post(f"/api/intake/{seen['id']}/join", json=body).json()
    assert [each["how"] for each in report["columns"]] == ["name", "near", "name", "new"]
    assert [each["fill"]["valid"] for each in report["columns"]] == [2, 2, 2, 1]
    assert (report["known"], report["added"], report["replaced"], report["gone"]) == (1, 1, 1, [])
    refused = finished(
        client, client.post(f"/api/intake/{seen['id']}/more-records", json=body | {"step_id": "s" * 8}).json()
    )
    assert refused["problem"]["detail"] == (
        "“Tenur” is nearly called like tenure. Say whether it is the same variable or a new one."
    )
    body["more"]["matches"] = {"2": {"variable": ids["tenure"]}, "4": {"leave_out": True}}
    done = finished(
        client, client.post(f"/api/intake/{seen['id']}/more-records", json=body | {"step_id": "s" * 8}).json()
    )
    assert done["result"]["sentence"].startswith("Added 1 record from late.csv; ")
    assert done["result"]["sentence"].endswith("; 1 record replaced.")
    page = client.get(f"/api/studies/{study}/records").json()
    texts = [[column["texts"][at] for at in column["index"]] for column in page["columns"]]
    assert texts[1] == ["2", "2", "8", "-9", "1", "2", "1"] and texts[2][0] == "9" and len(texts) == 3
    assert [each["name"] for each in client.get(f"/api/studies/{study}/sources").json()] == ["plots.csv", "late.csv"]
    head = {"to": "undo", "expected": overview(client, study)["revision"]}
    assert client.post(f"/api/studies/{study}/head", json=head).status_code == 200
    assert overview(client, study)["records"] == 6
    assert len(client.get(f"/api/studies/{study}/sources").json()) == 1


def test_first_names_count(client: TestClient, study: str) -> None:
    """A variable that was renamed is known by the name that it had when it was brought in."""
    shown = overview(client, study)
    step = {"do": "rename", "names": {shown["variables"][2]["id"]: "weekly"}}
    body = {"id": "step-0001", "base": shown["revision"], "step": step}
    client.post(f"/api/studies/{study}/steps", json=body)
    seen = hand_in(client, "plot,hours\n0070,3\n").json()
    report = client.post(
        f"/api/intake/{seen['id']}/join", json={"study": study, "settings": seen["settings"], "more": {}}
    ).json()
    assert [each["how"] for each in report["columns"]] == ["name", "first name"]
    assert report["gone"] == [shown["variables"][1]["id"]]


def test_sources_as_they_came(client: TestClient, study: str) -> None:
    """Whatever is changed, the original entries and the file's bytes are there, with how and when it was read."""
    shown = overview(client, study)
    step = {"do": "set entries", "variable": shown["variables"][2]["id"], "entries": {"2": "12"}}
    client.post(f"/api/studies/{study}/steps", json={"id": "step-0001", "base": shown["revision"], "step": step})
    (source,) = client.get(f"/api/studies/{study}/sources").json()
    assert (source["records"], source["variables"], source["size"], source["encoding"]) == (6, 3, len(PLOTS), "UTF-8")
    assert source["settings"]["separator"] == ";" and len(source["sha256"]) == 64 and source["brought_at"]
    address = f"/api/studies/{study}/sources/{source['id']}"
    rows = client.get(f"{address}/rows", params={"start": 1, "stop": 3}).json()
    assert rows["rows"] == [["0014", "2", "12 hrs"], ["0021", "8", "9"]] and rows["heads"] == [
        "plot",
        "tenure",
        "hours",
    ]
    assert client.get(f"{address}/rows", params={"stop": 501}).status_code == 422
    assert client.get(f"{address}/file").content == PLOTS.encode()


def test_the_codebook_of_another_study(client: TestClient, study: str) -> None:
    """A new study takes names, labels and codes of another, without its records; then a file joins it."""
    new = client.post("/api/studies", json={"title": "Next wave"}).json()["id"]
    body = {"other": study, "step_id": "take-code-1"}
    done = client.post(f"/api/studies/{new}/codebook-from", json=body).json()
    assert done["sentence"] == "Took 3 variables from the codebook of “Plots”."
    shown = overview(client, new)
    assert ([each["name"] for each in shown["variables"]], shown["records"]) == (["plot", "tenure", "hours"], 0)
    seen = hand_in(client, PLOTS).json()
    body = {"study": new, "settings": seen["settings"], "more": {}, "step_id": "step-0001"}
    finished(client, client.post(f"/api/intake/{seen['id']}/more-records", json=body).json())
    assert overview(client, new)["records"] == 6


def test_sheets_and_ranges(client: TestClient, tmp_path: Any) -> None:
    """Another sheet or range is shown at once; a range outside the sheet is refused and the file stays."""
    path = xlsx(tmp_path / "a.xlsx", {"One": [["q1", "q2"], [1, 2], [3, 4]], "Two": [["x"], [5]]})
    seen = hand_in(client, path.read_bytes(), "a.xlsx").json()
    assert seen["sheets"] == ["One", "Two"]

    def look(**settings: Any) -> Any:
        body = {"settings": {**seen["settings"], **settings}}
        return client.post(f"/api/intake/{seen['id']}/picture", json=body)

    body = {"settings": {**seen["settings"], "names_row": None, "data_row": 1}, "heads": True}
    again = client.post(f"/api/intake/{seen['id']}/picture", json=body).json()["settings"]
    assert (again["names_row"], again["data_row"]) == (1, 2), "heads are looked for anew"
    assert look(range="B1:B9").json()["rows"] == [["q2"], ["2"], ["4"]]
    assert look(sheet="Two").json()["rows"] == [["x"], ["5"]]
    refused = look(range="B7:C9")
    assert refused.status_code == 422 and "outside the sheet, which goes to B3" in refused.json()["detail"]
    assert look().status_code == 200


def test_the_late_file_of_the_demo(client: TestClient, tmp_path: Any, workspace: Workspace) -> None:
    """Sixty late records of which thirty are known; two near names are asked about."""
    write_untidy(tmp_path / "hut.csv")
    write_late(tmp_path / "late.csv")
    study = client.post("/api/studies", json={"title": "Site"}).json()["id"]
    seen = hand_in(client, (tmp_path / "hut.csv").read_bytes(), "hut.csv").json()
    body = {"study": study, "step_id": "bring-in-1", "settings": seen["settings"]}
    finished(client, client.post(f"/api/intake/{seen['id']}/bring-in", json=body).json())
    seen = hand_in(client, (tmp_path / "late.csv").read_bytes(), "late.csv").json()
    plot = overview(client, study)["variables"][0]["id"]
    body = {"study": study, "settings": seen["settings"], "more": {"identifier": plot, "known": "skip"}}
    report = client.post(f"/api/intake/{seen['id']}/join", json=body).json()
    assert [each["how"] for each in report["columns"]].count("near") == 2 and len(report["gone"]) == 6
    assert (report["known"], report["added"], report["skipped"]) == (30, 30, 30)
    assert report["columns"][5]["written_otherwise"]


def test_what_cannot_be_read_leaves_nothing(client: TestClient, workspace: Workspace) -> None:
    """A file that is refused is not kept; one that is let go takes with it all that was made of it."""
    assert hand_in(client, b"\x89PNG\r\n\x1a\n", "a.csv").status_code == 422
    assert not list(workspace.scratch.iterdir())
    seen = hand_in(client, "é;1\n".encode("cp1252"), "a.csv").json()
    proposals(client, seen)
    assert client.delete(f"/api/intake/{seen['id']}").status_code == 204
    assert not list(workspace.scratch.iterdir())
