"""Documents beside a study over HTTP: kept, read, compared, taken from; each change one step that can be undone."""

from pathlib import Path
from typing import Any

import pytest
from fastapi.testclient import TestClient

from rowtag.core.codebook.reconcile import PLACES
from rowtag.core.codebook.shelves import title_of
from rowtag.documents.document import understand
from rowtag.store.workspace import Workspace
from tests.api.test_http import hand_in
from tests.conftest import brought_in
from tests.formats.books import xlsx
from tools import made

NOTES = """Notes on the plots

tenure - how held (1 = own, 2 = shared, -9 = refused)
HOURS - hours in a usual week (0 to 80)
shade - shade in summer (1 = much, 2 = little)
rennt - rent paid
gone - nobody knows
"""
DATA = "tenure,hours,shade,rent,extra\n1,4,1,10,a\n2,90,2,20,b\n8,7,2,30,c\n-9,3,1,40,d\n"


class Beside:
    """A study with a document beside it."""

    def __init__(self, workspace: Workspace, client: TestClient, text: str = NOTES) -> None:
        self.client = client
        self.study = brought_in(workspace, DATA)
        self.url = f"/api/studies/{self.study}"
        self.take({"do": "keep sheet", "sheet": "sheet1", "name": "Notes", "text": text})
        self.names = {each["name"]: each["id"] for each in client.get(self.url).json()["variables"]}

    def take(self, step: dict[str, Any]) -> dict[str, Any]:
        """Takes a step; gives its outcome."""
        base = self.client.get(self.url).json()["revision"]
        reply = self.client.post(f"{self.url}/steps", json={"id": f"step-{base:08}", "base": base, "step": step})
        assert reply.status_code == 200, reply.text
        outcome: dict[str, Any] = reply.json()
        return outcome

    def post(self, path: str, body: dict[str, Any]) -> Any:
        """Asks about the document."""
        reply = self.client.post(f"{self.url}/sheets/sheet1/{path}", json=body)
        assert reply.status_code == 200, reply.text
        return reply.json()


@pytest.fixture
def beside(workspace: Workspace, client: TestClient) -> Beside:
    return Beside(workspace, client)


def test_a_document_is_read_line_by_line(beside: Beside) -> None:
    """Its lines, its variables with the variables of the study they belong to, and the lines left over."""
    assert beside.client.get(f"{beside.url}/sheets").json() == [{"id": "sheet1", "name": "Notes", "lines": 7}]
    page = beside.client.get(f"{beside.url}/sheets/sheet1").json()
    assert page["lines"] == NOTES.splitlines() and page["unplaced"] == [1]
    met = {each["name"]: each["variable"] for each in page["variables"]}
    assert met == {
        "tenure": beside.names["tenure"], "HOURS": beside.names["hours"], "shade": beside.names["shade"],
        "rennt": None, "gone": None,
    }  # fmt: skip
    found = beside.post("lines", {"first": 3, "last": 3, "variables": list(beside.names.values())[:1]})
    parts = found["parts"]
    (differs,) = found["differs"]
    missing = next(each for each in differs["differences"] if each["key"] == "missing -9")
    assert missing["adds"] and (missing["effect"]["valid_before"], missing["effect"]["valid_after"]) == (4, 3)
    outcome = beside.take(found["step"])
    assert outcome["account"]["after"]["missing"] == 1 and outcome["account"]["after"]["unlisted"] == 1
    assert beside.post("lines", {"first": 3, "last": 3, "variables": list(beside.names.values())[:1]})["step"] is None
    assert [line["label"] for line in parts["codes"]] == ["own", "shared"]
    assert beside.post("lines", {"first": 1, "last": 1})["parts"] == {"label": "Notes on the plots"}


def test_four_groups_and_one_step(beside: Beside) -> None:
    """What agrees, differs, and stands on one side only; what is chosen is taken as one step, previewed and undone."""
    found = beside.post("differences", {})
    assert found["agrees"] == [] and found["near"] == {"rennt": beside.names["rent"]}
    assert [each["name"] for each in found["only_sheet"]] == ["rennt", "gone"]
    assert found["only_data"] == [beside.names["rent"], beside.names["extra"]]
    by_name = {each["name"]: [one["key"] for one in each["differences"]] for each in found["differs"]}
    assert by_name == {
        "tenure": ["label", "codes", "missing -9"], "HOURS": ["label", "limits"], "shade": ["label", "codes"],
    }  # fmt: skip
    limits = next(one for each in found["differs"] for one in each["differences"] if one["key"] == "limits")
    assert (limits["sheet"], limits["study"], limits["data"]) == ("0 .. 80", "none", "")
    told = beside.post("effects", {"variables": [beside.names["hours"], beside.names["rent"]]})["effects"]
    assert list(told) == [beside.names["hours"]], "the document says nothing of rent"
    assert (told[beside.names["hours"]]["limits"]["strays_after"], len(told[beside.names["hours"]])) == (1, 1)
    assert told[beside.names["hours"]]["limits"]["data"] == "1 entry lies outside"

    chosen = {beside.names["tenure"]: None, beside.names["hours"]: ["label"]}
    step = beside.post("step", {"chosen": chosen})["step"]
    preview = beside.client.post(f"{beside.url}/preview", json={"step": step}).json()
    outcome = beside.take(step)
    assert outcome["sentence"] == preview["sentence"]
    assert outcome["sentence"].startswith("Took what is said of tenure and hours from “Notes”")
    assert outcome["account"]["after"]["unlisted"] == 1 and outcome["account"]["after"]["missing"] == 1
    again = beside.post("differences", {})
    assert again["agrees"] == [beside.names["tenure"]]
    assert {each["name"]: len(each["differences"]) for each in again["differs"]} == {"HOURS": 1, "shade": 2}
    revision = beside.client.get(beside.url).json()["revision"]
    beside.client.post(f"{beside.url}/head", json={"to": "undo", "expected": revision})
    assert beside.post("differences", {})["differs"] == found["differs"]


def test_a_near_name_is_asked_about(beside: Beside) -> None:
    """Only once somebody says so does a near name mean a variable."""
    matches = {"rennt": beside.names["rent"]}
    found = beside.post("differences", {"matches": matches})
    assert [each["name"] for each in found["only_sheet"]] == ["gone"] and not found["near"]
    step = beside.post("step", {"matches": matches, "chosen": {beside.names["rent"]: None}})["step"]
    assert step["tags"][beside.names["rent"]] == {"label": "rent paid"}


def test_a_codebook_of_another_study(workspace: Workspace, client: TestClient) -> None:
    """Nothing matches, nothing can be taken, and it is said."""
    other = Beside(
        workspace, client, "bread - kind of bread (1 = rye, 2 = wheat)\noven - oven used (A = big, B = small)\n"
    )
    found = other.post("differences", {})
    assert not found["agrees"] and not found["differs"] and len(found["only_sheet"]) == 2
    reply = client.post(f"{other.url}/sheets/sheet1/step", json={"chosen": {other.names["rent"]: None}})
    assert reply.status_code == 404 and "does not describe this variable" in reply.json()["detail"]


def test_a_file_becomes_a_document(client: TestClient) -> None:
    """Text stays as it stands; a table becomes codebook text; a picture is refused; nothing is kept by reading."""

    def read(name: str, data: bytes) -> Any:
        return client.post("/api/sheets/text", files={"file": (name, data)})

    text = read("a.txt", "größe - Größe\n".encode("cp1252")).json()
    assert text == {"name": "a.txt", "text": "größe - Größe\n", "table": None}
    table = read("b.csv", b'name,label,codes\ntenure,How held,"1 = own, 2 = shared"\n').json()
    assert table["text"] == 'tenure\n  "How held"\n  1  own\n  2  shared\n'
    refused = read("c.txt", b"\x89PNG\r\n" + b"\0" * 40)
    assert refused.status_code == 422 and "begins like a picture" in refused.json()["detail"]
    assert client.get("/api/studies").json() == []


def test_what_only_the_document_has(beside: Beside) -> None:
    """Its other variables are added in the same step, with all that is said of them, blank in every record."""
    step = beside.post("step", {"chosen": {beside.names["hours"]: ["limits"]}, "added": ["rennt", "gone"]})["step"]
    outcome = beside.take(step)
    assert "added 2 variables (rennt, gone) from “Notes”" in outcome["sentence"]
    strips = {each["name"]: each for each in beside.client.get(beside.url).json()["variables"]}
    assert strips["rennt"]["label"] == "rent paid" and strips["rennt"]["fill"]["blank"] == 4
    assert len(beside.post("differences", {})["agrees"]) == 2


def test_names_by_the_numbers_of_questions(workspace: Workspace, client: TestClient) -> None:
    """Where the data have only the numbers of questions, their names come from the document, if they can be names."""
    beside = Beside(workspace, client, "soil (tenure)  How held\nhours (extra)  Some hours\nmode\n")
    found = {each["name"]: each["differences"] for each in beside.post("differences", {})["differs"]}
    assert [one["key"] for one in found["soil"]] == ["name", "label"]
    assert next((one["sheet"], one["study"]) for one in found["soil"]) == ("soil", "tenure")
    step = beside.post("step", {"chosen": {beside.names["tenure"]: ["name"]}})["step"]
    assert "Renamed 1 variable from “Notes”" in beside.take(step)["sentence"]
    (agrees,) = [each for each in beside.post("differences", {})["differs"] if each["name"] == "soil"]
    assert [one["key"] for one in agrees["differences"]] == ["label"]


def test_columns_of_a_table_are_told_anew(client: TestClient, tmp_path: Path) -> None:
    """What each column holds is shown and can be said otherwise; another sheet can be taken; nonsense is refused."""
    rows = [["nr", "short", "what", "answers"], ["1", "tenure", "How held", "1 = own; 2 = shared"]]
    book = xlsx(tmp_path / "book.xlsx", {"Data": [["tenure"], ["1"]], "Meta": rows}).read_bytes()

    def read(**said: Any) -> Any:
        return client.post("/api/sheets/text", files={"file": ("book.xlsx", book)}, data=said)

    found = read().json()
    assert (found["table"]["sheet"], found["table"]["sheets"]) == ("Meta", ["Data", "Meta"])
    assert found["table"]["columns"] == ["", "name", "label", "codes"]
    assert found["text"] == 'tenure\n  "How held"\n  1  own\n  2  shared\n'
    other = read(sheet="Meta", columns=["", "name", "note", ""]).json()
    assert other["text"] == "tenure\n  # How held\n" and other["table"]["rows"][0][2] == "How held"
    data = read(sheet="Data").json()
    assert (data["text"], data["table"]["columns"]) == ("", [""])
    refused = read(sheet="Meta", columns=["name", "name", "", ""])
    assert refused.status_code == 422 and "Two columns cannot both hold the name" in refused.json()["detail"]


def test_a_workbook_that_carries_its_codebook(client: TestClient, tmp_path: Path) -> None:
    """Another sheet that describes the columns is offered as text; one that describes others is not."""
    codebook = [["variable", "label"], ["Tenure", "How held"], ["gone", "Nobody knows"]]
    for heads, described in (["tenure", "hours"], 1), (["a", "b"], None):
        path = xlsx(tmp_path / "book.xlsx", {"Data": [heads, ["1", "2"]], "Codebook": codebook})
        seen = hand_in(client, path.read_bytes(), "book.xlsx").json()
        body = {"settings": seen["settings"], "heads": False}
        offer = client.post(f"/api/intake/{seen['id']}/codebook", json=body).json()
        if described is None:
            assert offer is None
        else:
            assert (offer["sheet"], offer["described"], offer["columns"]) == ("Codebook", 1, 2)
            assert 'Tenure\n  "How held"' in offer["text"]


def test_codebook_text_over_http(beside: Beside) -> None:
    """All tags as text, an edit as a step, an error with its place."""
    notation = f"{beside.url}/notation"
    text = beside.client.post(notation, json={}).json()["text"]
    assert text.startswith("tenure  ")
    same = beside.client.post(f"{notation}/read", json={"text": text, "whole": True}).json()
    assert same == {"differs": [], "new": [], "absent": [], "step": None}
    edited = beside.client.post(f"{notation}/read", json={"text": text + "frost  integer\n", "whole": True}).json()
    assert edited["new"] == ["frost"] and "Added 1 variable (frost)" in beside.take(edited["step"])["sentence"]
    refused = beside.client.post(f"{notation}/read", json={"text": "x\n  1 | | 2\n", "whole": True})
    assert refused.status_code == 422 and refused.json()["where"] == {"row": 2, "character": 7}


def test_fifty_megabytes_of_text(beside: Beside) -> None:
    """Neither handed in nor pasted: a sentence, and the study stays as it was."""
    text = "tenure - how held\n" * (50 * 2**20 // 18)
    handed = beside.client.post("/api/sheets/text", files={"file": ("long.txt", text.encode())})
    assert handed.status_code == 413 and "a codebook of up to 8 MB is read" in handed.json()["detail"]
    revision = beside.client.get(beside.url).json()["revision"]
    step = {"do": "keep sheet", "sheet": "sheet2", "name": "Long", "text": text}
    pasted = beside.client.post(f"{beside.url}/steps", json={"id": "step-long-1", "base": revision, "step": step})
    assert pasted.status_code in (413, 422) and "up to" in pasted.json()["detail"]
    assert beside.client.get(beside.url).json()["revision"] == revision


def test_one_variable_with_two_lists(workspace: Workspace, client: TestClient) -> None:
    """The same name twice with other codes: told once, as unsure, with both places; nothing is taken by itself."""
    twice = "tenure - how held (1 = own, 2 = shared)\nshade - shade (1 = much)\ntenure - held (1 = lent, 8 = let)\n"
    beside = Beside(workspace, client, twice)
    (tenure,) = [each for each in beside.post("differences", {})["differs"] if each["name"] == "tenure"]
    assert tenure["certainty"] <= 0.5 and "lines 1 and 3 both describe it" in tenure["reason"]
    assert [each["part"] for each in tenure["differences"]] == ["label", "code list"]


def test_added_variables_are_called_otherwise(beside: Beside) -> None:
    """Under other names if wanted; one that is taken, by the study or by another that comes, is refused in words."""
    for other in ("gone", "tenure"):
        body = {"added": ["rennt", "gone"], "called": {"rennt": other}}
        reply = beside.client.post(f"{beside.url}/sheets/sheet1/step", json=body)
        assert reply.status_code == 422 and reply.json()["suggestion"] == f"{other}_2"
    called = {"rennt": "rent_paid", "hours": "elsewhere"}
    text = beside.post("new-text", {"called": called})["text"]
    assert "rent_paid" in text and "gone" in text and "rennt" not in text
    step = beside.post("step", {"added": ["rennt", "gone"], "called": called})["step"]
    assert "Added 2 variables (rent_paid, gone)" in beside.take(step)["sentence"]


def test_added_variables_come_in_their_batteries(workspace: Workspace, client: TestClient) -> None:
    """The rows of a grid and the options of a question become a battery; a question alone stands alone."""
    text = (
        "Q1\tHow do you hold it?\n  1.\tAlone\n  2.\tShared\n\nQ2\tHow good are these?\n\n"
        "| | Bad (1) | Good (2) |\n|---|---|---|\n| a. Water | [ ] | [ ] |\n| b. Gates | [ ] | [ ] |\n\n"
        "Q3\tWhat grows? Tick all that apply.\n  a)\t☐ Beans\n  b)\t☐ Kale\n"
    )
    beside = Beside(workspace, client, text)
    names = [each["name"] for each in client.get(f"{beside.url}/sheets/sheet1").json()["variables"]]
    beside.take(beside.post("step", {"chosen": {}, "added": names, "matches": {}})["step"])
    study = workspace.study(beside.study).study
    titles = {
        study.tag(id).name: study.shelves["battery"][battery].title
        for id in study.order
        if (battery := study.tag(id).battery)
    }
    assert titles == {
        "Q2a": "How good are these?", "Q2b": "How good are these?", "Q3a": "What grows?", "Q3b": "What grows?",
    }  # fmt: skip


def test_batteries_and_sections_of_a_document_reach_the_study(workspace: Workspace, client: TestClient) -> None:
    """Of variables that are there, and of those that only the document has; a battery of one is none."""
    text = (
        "tenure  integer  section: The plot\n  1 own\n  2 shared\n\n"
        "hours  decimal\n  battery: Use\n  section: The plot\n\n"
        "shade  integer  battery: Use\n\nlight  integer\n  battery: Use\n  section: The year\n\n"
        "rain  integer  battery: Weather\n"
    )
    beside = Beside(workspace, client, text)
    chosen = {beside.names["tenure"]: ["section"], beside.names["hours"]: None, beside.names["shade"]: None}
    beside.take(beside.post("step", {"chosen": chosen, "added": ["light", "rain"], "matches": {}})["step"])
    study = workspace.study(beside.study).study
    placed = {
        study.tag(id).name: tuple(title_of(study, place, getattr(study.tag(id), place)) for place in PLACES)
        for id in study.order
    }
    assert placed == {
        "tenure": (None, "The plot"), "hours": ("Use", "The plot"), "shade": ("Use", None), "rent": (None, None),
        "extra": (None, None), "light": ("Use", "The year"), "rain": (None, None),
    }  # fmt: skip
    assert len(study.shelves["battery"]) == 1 and len(study.shelves["section"]) == 2
    left = beside.post("differences", {})["differs"]
    assert not [each for one in left for each in one["differences"] if each["part"] in PLACES]


def test_headings_become_sections(workspace: Workspace, client: TestClient) -> None:
    """Where headings divide the variables of a document; one above them all divides nothing."""
    text = (
        "# Plots\n\n## The plot\n\n- tenure: how held\n- hours: hours a week\n- shade: shade\n\n"
        "## The holder\n\n- rent: rent paid\n- extra: extras\n- light: lamps\n"
    )
    found = understand(text).variables
    assert [each.section for each in found] == ["The plot"] * 3 + ["The holder"] * 3
    assert not any(each.section for each in understand(text.replace("## The holder\n", "")).variables)


def test_a_document_is_weighed_by_the_entries(workspace: Workspace, client: TestClient) -> None:
    """Codes that are all that occurs are all but certain; those that never occur are doubted, and it says why."""
    beside = Beside(workspace, client, "shade - shade (1 = much, 2 = little)\nrent - rent paid (7 = low, 8 = high)\n")
    sure = {each["name"]: each for each in client.get(f"{beside.url}/sheets/sheet1").json()["variables"]}
    assert sure["shade"]["certainty"] >= 0.98 and sure["rent"]["certainty"] <= 0.4
    assert "none of its codes occurs" in sure["rent"]["reason"]


def test_pages_are_read_beside_the_server(client: TestClient, tmp_path: Path) -> None:
    """The first page is there while the others are read, which says how far it is; a damaged one says so."""
    pages = [
        [(60.0, 150.0 + 20 * at, f"plot_{number}_{at} - plot {at} (1 = let)", False) for at in range(25)]
        for number in range(12)
    ]
    data = made.pdf(tmp_path / "long.pdf", pages).read_bytes()
    job = client.post("/api/sheets/pages", files={"file": ("long.pdf", data)}).json()
    begins, shares = set(), set()
    while job["status"] == "running":
        begins.add(job["result"].get("begin", "")[:10])
        shares.add(job["share"])
        job = client.get(f"/api/jobs/{job['id']}").json()
    text = job["result"]["document"]["text"]
    assert "plot_11_24" in text and "--- page 12 ---" in text
    assert begins <= {"", text[:10]} and shares <= {number / 12 for number in range(12)}
    broken = client.post("/api/sheets/pages", files={"file": ("broken.pdf", b"%PDF-1.4 nothing")}).json()
    while broken["status"] == "running":
        broken = client.get(f"/api/jobs/{broken['id']}").json()
    assert "damaged" in broken["problem"]["title"]
