"""Deriving without a screen: looked at over HTTP, proposed, and done by the command line, all by one code path."""

import csv
import io
import json
from collections import Counter
from pathlib import Path

import pytest
from fastapi.testclient import TestClient

from rowtag.core.derive.proposed import proposals
from rowtag.core.errors import BadInput
from rowtag.service.derive import derive_file, derived_lines, in_words, looked
from rowtag.service.describe import opened_study
from rowtag.store.workspace import Workspace
from tests.test_cli import rowtag

DATA = """plot,tenure,hours,tools,quarter
1,own,4,spade;fork,East
2,shared,12,,West
3,own,12,fork ; hoe,East
4,waiting,,spade,West
5,own,30,fork,East
"""


@pytest.fixture
def plots(tmp_path: Path) -> Path:
    path = tmp_path / "plots.csv"
    path.write_text(DATA, "utf-8")
    return path


def test_a_file_is_derived_from(plots: Path, tmp_path: Path) -> None:
    """Derivations follow one another; the old-by-new table accounts for every record; the data are written."""
    lines = [
        "held = codes tenure: 'own' 1; 'shared' 2; 'waiting' 3",
        "holds = recode held: 1, 2 -> 1 'Holds a plot'; 3 -> 0 'Waiting'",
        "busy = bands hours: .. 9; 10 ..",
        "has_* = split tools by ';': 'spade'; 'fork'; 'hoe'",
        "there = mean(hours) over quarter",
    ]
    out = tmp_path / "out.csv"
    found = derive_file(plots, lines, out=out)
    held, holds, busy, has, there = (each["variables"] for each in found["derived"])
    assert [(row["old"], row["new"], row["count"]) for row in holds[0]["old_by_new"]] == [
        ("1 own", "1 Holds a plot", 3), ("2 shared", "1 Holds a plot", 1), ("3 waiting", "0 Waiting", 1),
    ]  # fmt: skip
    assert held[0]["fill"] == {"valid": 5, "missing": 0, "blank": 0, "stray": 0}
    assert busy[0]["fill"] == {"valid": 4, "missing": 0, "blank": 1, "stray": 0}
    assert [each["name"] for each in has] == ["has_spade", "has_fork", "has_hoe"]
    assert [(row["old"], row["new"], row["count"]) for row in there[0]["old_by_new"]] == [
        ("East", "15.3333333333333", 3), ("West", "12", 2),
    ]  # fmt: skip
    rows = list(csv.DictReader(io.StringIO(out.read_text("utf-8-sig"))))
    assert [row["holds"] for row in rows] == ["1", "1", "1", "0", "1"]
    assert Counter(row["has_fork"] for row in rows) == {"1": 3, "0": 1, "": 1}
    words = in_words(found)
    assert "1 own      ->  1 Holds a plot  3" in words and f"Written to {out}." in words


def test_the_command_says_what_is_wrong(plots: Path, tmp_path: Path) -> None:
    """A derivation that cannot be done is told with its number and character, and nothing is written."""
    done = rowtag("derive", str(plots), "--do", "x = recode tenur: 'own' -> 1", "--out", str(tmp_path / "no.csv"))
    assert (done.returncode, done.stdout) == (2, "")
    assert "derivation 1, character 12: There is no variable “tenur”. Did you mean tenure?" in done.stderr
    assert not (tmp_path / "no.csv").exists()
    assert "There is nothing to derive." in rowtag("derive", str(plots)).stderr
    assert "makes no variable" in rowtag("derive", str(plots), "--do", "recode tenure").stderr
    script = tmp_path / "do.txt"
    script.write_text("# how held\nheld = codes tenure: 'own' 1;\n  'shared' 2; else 3 'Other'\n", "utf-8")
    assert derived_lines(script) == ["held = codes tenure: 'own' 1; 'shared' 2; else 3 'Other'"]
    done = rowtag("derive", str(plots), "--do-file", str(script), "--json")
    assert (done.returncode, json.loads(done.stdout)["derived"][0]["variables"][0]["fill"]["valid"]) == (0, 5)
    with pytest.raises(BadInput, match="Another variable is called “tenure” already"):
        derive_file(plots, ["tenure = indicator hours > 2"])


def test_everything_that_is_proposed_can_be_done(demo_files: Path) -> None:
    """For every variable of the demo each way is a sentence that can be done, under a name that works."""
    study = opened_study(demo_files / "fennel.csv")
    met: Counter[str] = Counter()
    for id in study.order:
        for way, (names, text) in proposals(study, id).items():
            look = looked(study, names, text)
            assert look.new, (way, text)
            met[way] += 1
    assert {"recode", "bands", "codes", "split", "reverse", "text", "formula"} <= set(met)


def test_the_same_for_several_at_once(demo_files: Path) -> None:
    """One sentence is done for others in place of its source, under names by a pattern, as one step."""
    study = opened_study(demo_files / "fennel.csv")
    ids = [study.name_keys[f"q11_{number}"] for number in range(1, 6)]
    look = looked(study, "*_rev", "reverse q11_1 from 1 to 5", also=ids)
    names = [study.tag(id).name for study in (look.applied.study,) for id in study.order]
    assert [name for name in names if name.endswith("_rev")] == [f"q11_{number}_rev" for number in range(1, 6)]
    assert [each.how.text for each in look.step.variables][-1] == "reverse q11_5 from 1 to 5"
    for at, id in enumerate(ids):
        assert look.applied.study.fill(f"derived-{at}") == study.fill(id)
    with pytest.raises(BadInput, match="One name does not serve several variables"):
        looked(study, "turned", "reverse q11_1 from 1 to 5", also=ids)
    with pytest.raises(BadInput, match="cannot be done for several"):
        looked(study, "*_x", "mean(q11_1, q11_2)", also=ids)


def test_over_http(workspace: Workspace, client: TestClient) -> None:
    """A sentence is looked at with its ribbons, its score and its problem; kept by the step that it would be."""
    from rowtag.demo.seed import DEMO_ID, ensure_demo

    ensure_demo(workspace)
    url = f"/api/studies/{DEMO_ID}"
    shown = client.get(url).json()
    ids = {each["name"]: each["id"] for each in shown["variables"]}
    body = {"text": "recode tenure: 1, 2 -> 1 'Holds'; 3 -> 0; stray -> blank", "names": "holds"}
    look = client.post(f"{url}/derive", json=body).json()
    (made,) = look["variables"]
    table = made["old_by_new"]
    assert sum(each["count"] for each in table["ribbons"]) == table["records"] == 1_204
    assert made["fill"] == {"valid": 1_120, "missing": 60, "blank": 24, "unreadable": 0, "unlisted": 0, "stray": 0}
    score = client.post(f"{url}/derive", json={"text": "mean(site_1..site_6, needs 4)", "names": "m"}).json()
    assert score["reliability"]["alpha"] == pytest.approx(0.51, abs=0.01)
    assert score["reliability"]["items"][3]["rest"] == pytest.approx(-0.65, abs=0.01)
    wrong = client.post(f"{url}/derive", json={"text": "recode tenur: 1 -> 2", "names": "x"}).json()["problem"]
    assert (wrong["first"], wrong["end"], wrong["suggestion"]) == (7, 12, "tenure")
    taken = client.post(f"{url}/derive", json={"text": "hours * 2", "names": "tenure"}).json()["problem"]
    assert "tenure" in taken["what"]
    ways = client.get(f"{url}/variables/{ids['hours']}/derivations", params={"bands": 3}).json()
    assert {"way": "bands", "name": "hours_b", "text": "bands hours: .. 10; 11 .. 19; 20 .."} in ways
    assert client.get(f"{url}/lists-of-ranges").json() == []
    ranges = [{"high": "5", "label": "Few"}, {"low": "5", "high": "20"}, {"low": "21", "label": "Many"}]
    listed = {"do": "define", "variables": [ids["plot_size"]], "parts": {"codes": ranges}}
    body_of = {"id": "listed-1", "base": shown["revision"], "step": listed}
    assert client.post(f"{url}/steps", json=body_of).status_code == 200
    assert client.get(f"{url}/lists-of-ranges").json() == [{"id": ids["plot_size"], "name": "plot_size", "ranges": 3}]
    like = client.get(f"{url}/variables/{ids['hours']}/derivations", params={"like": ids["plot_size"]}).json()
    assert "bands hours: .. 5 'Few'; above 5 .. 20; 21 .. 'Many'" in [each["text"] for each in like]
    then = {"name": "meaning", "number": 3}
    score = {"text": "mean(site_1..site_6, needs 4)", "names": "m", "then": then}
    banded = client.post(f"{url}/derive", json=score).json()
    assert [each["name"] for each in banded["variables"]] == ["m", "meaning"] and len(banded["bands"]) == 3
    assert banded["then"].startswith("bands m: .. below ") and len(banded["makes"]) == 2
    assert banded["variables"][1]["old_by_new"]["records"] == 1_204
    again = client.post(f"{url}/derive", json={**score, "then": {**then, "text": banded["then"]}}).json()
    assert again["variables"] == banded["variables"], "what is proposed is read back as the same"
    worse = client.post(f"{url}/derive", json={**score, "then": {**then, "text": "bands m: 1 .. 2; 1 .. 3"}}).json()
    assert "lies in both" in worse["problem"]["what"]
    step = {"do": "derive", "variables": [{"how": look["makes"][0]["how"], "into": {"holds123": "holds"}}]}
    done = client.post(f"{url}/steps", json={"id": "derive-1", "base": shown["revision"], "step": step})
    assert done.status_code == 200, done.text
    (kept,) = client.get(f"{url}/derived").json()["variables"]
    assert (kept["sentence"], kept["sources"], kept["behind"]) == (body["text"], [ids["tenure"]], False)
    page = client.get(f"{url}/variables/holds123").json()
    assert page["derived"] == body["text"]
    evidence = done.json()["account"]["evidence"][0]
    assert sum(pair["count"] for pair in evidence["pairs"]) == 1_204
