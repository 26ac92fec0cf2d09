"""The codebook over HTTP: pages, previews that change nothing, the library, and what changed since."""

import pytest
from fastapi.testclient import TestClient

from rowtag.core.steps.entries import SetEntries
from rowtag.core.steps.tags import Define
from rowtag.core.tag import Parts
from rowtag.store.workspace import Workspace
from tests.conftest import brought_in


@pytest.fixture
def study(workspace: Workspace) -> str:
    return brought_in(workspace)


def shown(client: TestClient, study: str) -> dict[str, str]:
    """Ids of the variables under their names."""
    return {each["name"]: each["id"] for each in client.get(f"/api/studies/{study}").json()["variables"]}


def take(client: TestClient, study: str, step: dict[str, object]) -> dict[str, object]:
    """Takes a step on the study as it is."""
    base = client.get(f"/api/studies/{study}").json()["revision"]
    reply = client.post(f"/api/studies/{study}/steps", json={"id": f"codebook-{base}", "base": base, "step": step})
    assert reply.status_code == 200, reply.text
    made: dict[str, object] = reply.json()
    return made


def test_only_what_changed(client: TestClient, study: str) -> None:
    """Whoever names a revision gets the tags that changed since, and the whole order."""
    before = client.get(f"/api/studies/{study}").json()
    name, id = next(iter(shown(client, study).items()))
    take(client, study, {"do": "define", "variables": [id], "parts": {"label": "A label"}})
    after = client.get(f"/api/studies/{study}", params={"known": before["revision"]}).json()
    assert [(each["name"], each["label"]) for each in after["variables"]] == [(name, "A label")]
    assert after["order"] == before["order"]
    whole = client.get(f"/api/studies/{study}", params={"known": 999}).json()
    assert len(whole["variables"]) == len(before["order"])
    changed = client.get(f"/api/studies/{study}/changed", params={"since": "2000-01-01"}).json()
    assert changed["variables"] == [id]
    assert client.get(f"/api/studies/{study}/changed", params={"since": "2999-01-01"}).json()["variables"] == []


def test_pages_of_many(client: TestClient, study: str) -> None:
    """Several tags as one page: what differs is named, and their fills are added up."""
    ids = list(shown(client, study).values())
    alone = [client.get(f"/api/studies/{study}/variables/{id}").json() for id in ids]
    page = client.post(f"/api/studies/{study}/page", json={"variables": ids[::-1]}).json()
    assert page["ids"] == ids and "type" in page["differs"]
    assert page["table"]["fill"]["valid"] == sum(each["table"]["fill"]["valid"] for each in alone)
    assert page["needed_width"] == max(each["needed_width"] for each in alone)


def test_previews_change_nothing(client: TestClient, study: str) -> None:
    """New names, suspects, occurrences, widths, other types: looked at beforehand."""
    ids = shown(client, study)
    first = next(iter(ids))
    url, before = f"/api/studies/{study}", client.get(f"/api/studies/{study}").json()
    names = client.post(f"{url}/names", json={"pattern": {"new": "2{x}"}, "variables": [ids[first]]}).json()
    assert names["names"][0]["new"] == f"2{first}" and "cannot be a name" in names["names"][0]["problem"]
    pairs = client.post(f"{url}/names", json={"pairs": f"{first}\tnew_name\ngone\tx"}).json()
    assert (pairs["names"][0]["new"], pairs["unknown"]) == ("new_name", ["gone\tx"])
    assert isinstance(client.post(f"{url}/missing/candidates", json={}).json()["candidates"], list)
    counts = client.post(f"{url}/missing/occurrences", json={"lines": [{"low": "0"}]}).json()["counts"]
    assert set(counts) == set(ids.values())
    widths = client.post(f"{url}/widths", json={}).json()
    assert widths["saving"] == sum((each["declared"] or each["needed"]) - each["needed"] for each in widths["widths"])
    readings = client.get(f"{url}/variables/{ids[first]}/readings", params={"type": ["text", "date"]}).json()[
        "readings"
    ]
    assert [each["type"] for each in readings] == ["text", "date"] and readings[0]["fill"]["unreadable"] == 0
    assert client.get(f"{url}/variables/{ids[first]}/spellings").json() == []
    clearing = {"do": "clear parts", "variables": [ids[first]], "parts": ["display"]}
    preview = client.post(f"{url}/preview", json={"step": clearing}).json()
    assert preview["changes"][0]["id"] == ids[first] and "width" in preview["changes"][0]["parts"]
    assert client.get(url).json() == before


def test_shared_lists_and_the_library(client: TestClient, study: str) -> None:
    """A list is shared, kept in the library under its name whatever the capitals, and dropped there."""
    ids = list(shown(client, study).values())
    lines = [{"code": "1", "label": "Sun"}, {"code": "2", "label": "Shade"}]
    take(client, study, {"do": "share list", "list": "list1", "name": "light", "lines": lines, "variables": ids[:1]})
    found = client.get(f"/api/studies/{study}/lists").json()["lists"]
    assert [(each["name"], each["variables"], len(each["lines"])) for each in found] == [("light", ids[:1], 2)]
    page = client.get(f"/api/studies/{study}/variables/{ids[0]}").json()
    assert page["shared"]["name"] == "light" and [line["label"] for line in page["codes"]] == ["Sun", "Shade"]
    client.put("/api/library/lists", json={"name": "Light", "lines": lines[:1]})
    kept = client.put("/api/library/lists", json={"name": "light", "lines": lines}).json()
    assert [(each["name"], len(each["lines"])) for each in kept] == [("light", 2)]
    assert client.get("/api/library/lists").json() == kept
    assert client.delete("/api/library/lists/LIGHT").json() == []
    assert client.delete("/api/library/lists/light").status_code == 404
    assert client.put("/api/library/lists", json={"name": " ", "lines": lines}).status_code == 422


def test_a_study_whose_variables_are_all_removed(client: TestClient, study: str) -> None:
    """Every view answers, a page says that there is nothing, and undo brings all of it back."""
    ids = list(shown(client, study).values())
    before = client.get(f"/api/studies/{study}/records").json()["columns"]
    removed = take(client, study, {"do": "remove variables", "variables": ids})
    url = f"/api/studies/{study}"
    assert client.get(url).json()["order"] == [] and client.get(f"{url}/checks").status_code == 200
    refused = client.post(f"{url}/page", json={})
    assert refused.status_code == 404 and "no variable in this study" in refused.json()["detail"]
    assert client.post(f"{url}/missing/candidates", json={}).json() == {"candidates": []}
    assert client.post(f"{url}/widths", json={}).json()["widths"] == []
    client.post(f"{url}/head", json={"to": "undo", "expected": removed["revision"]})
    assert client.get(f"{url}/records").json()["columns"] == before


def test_code_lines_are_read_as_documents_are(client: TestClient) -> None:
    """Typed or pasted lines, however they are written; every one is a line."""
    text = "1. Yes\n2) No\n\n35 .. 59 = Middle\n.. 34 Young\nwell .. no\n99 refused\nWaiting = 3\n4"
    lines = client.post("/api/code-lines", json={"text": text}).json()["lines"]
    assert [(each["code"], each["low"], each["high"], each["label"], each["reason"]) for each in lines] == [
        ("1", None, None, "Yes", None), ("2", None, None, "No", None), (None, "35", "59", "Middle", None),
        (None, None, "34", "Young", None), ("well", None, None, ".. no", None),
        ("99", None, None, "refused", "refused"), ("3", None, None, "Waiting", None), ("4", None, None, "", None),
    ]  # fmt: skip


def test_an_entry_with_dots_is_listed_as_it_stands(client: TestClient, workspace: Workspace) -> None:
    """“well .. no” is one entry, not a range: its row says so, and listing it lists that."""
    study = brought_in(workspace, "plot;mood\n1;well .. no\n2;fine\n3;fine\n")
    mood = client.get(f"/api/studies/{study}").json()["variables"][1]["id"]
    page = client.get(f"/api/studies/{study}/variables/{mood}").json()
    rows = {row["code"]: (row["low"], row["high"]) for row in page["table"]["rows"]}
    assert rows["well .. no"] == (None, None)


def test_the_diary_goes_back_to_the_first_step(client: TestClient, workspace: Workspace) -> None:
    """Page by page, however many steps there are; runs are told in one line."""
    study = brought_in(workspace)
    file = workspace.study(study)
    plot, tenure, _ = file.study.order
    for number in range(30):
        file.take(SetEntries(variable=tenure, entries={number % 6 + 1: str(number)}), f"typed-{number:04}")
        if number % 10 == 9:
            file.take(Define(variables=(plot,), parts=Parts(label=f"Label {number}")), f"label-{number:04}")
    sentences, before = [], None
    while True:
        query = {"most": 8} | ({"before": before} if before else {})
        page = client.get(f"/api/studies/{study}/diary", params=query).json()
        sentences += [(run["sentence"], len(run["lines"])) for run in page["runs"]]
        before = page["more"]
        if before is None:
            break
    assert page["count"] == 34 and sum(number for _, number in sentences) == 34
    assert sentences[-1] == ("Brought in 6 records × 3 variables from plots.csv.", 1)
    assert ("Typed 7 entries into tenure, records 1 to 6.", 7) in sentences
