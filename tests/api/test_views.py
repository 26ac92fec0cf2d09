"""Views over HTTP: of which records they are, and what stands in place of one that cannot be."""

from typing import Any

import pytest
from starlette.testclient import TestClient

from rowtag.demo.seed import DEMO_ID, ensure_demo
from rowtag.store.workspace import Workspace
from tests.api.test_http import overview


@pytest.fixture
def ids(workspace: Workspace, client: TestClient) -> dict[str, str]:
    """The demo study's variables by their names."""
    ensure_demo(workspace)
    return {each["name"]: each["id"] for each in overview(client, DEMO_ID)["variables"]}


def look(client: TestClient, *views: dict[str, Any], **of: Any) -> Any:
    return client.post(f"/api/studies/{DEMO_ID}/views", json={"views": list(views), **of})


def test_all_views_are_of_the_same_records(client: TestClient, ids: dict[str, str]) -> None:
    """A condition and a weight hold for all of them, and everybody is accounted for at each."""
    crosstab = {"view": "crosstab", "rows": ids["tenure"], "columns": ids["quarter"], "percent": "row"}
    groups = {"view": "groups", "variable": ids["hours"], "by": ids["tenure"]}
    alone = {"view": "distribution", "variable": ids["site_1"]}
    found = look(client, crosstab, groups, alone, only="people > 1", weight=ids["weight"]).json()
    basis, shown = found["basis"], found["shown"]
    assert basis["records"] == 1204 and basis["met"] + basis["unknown"] < 1204
    standing = basis["met"] - sum(basis["unweighed"].values())
    for each in shown[:2]:
        assert each["weighed"] and each["inside"] + sum(left["records"] for left in each["left"]) == standing
    assert shown[2]["records"] == standing
    assert sum(shown[2]["sums"].values()) == pytest.approx(basis["weights"]["sum"])
    assert [sum(row[:-1]) for row in shown[0]["tables"][0]["percents"]] == pytest.approx([100] * 4)


def test_one_that_cannot_be_leaves_the_others(client: TestClient, ids: dict[str, str]) -> None:
    """In its place stand what is wrong and what to do; a variable that is gone is no more than that."""
    good = {"view": "distribution", "variable": ids["tenure"]}
    nominal = {"view": "groups", "variable": ids["tenure"], "by": ids["quarter"]}
    gone = {"view": "distribution", "variable": "nowhere"}
    shown = look(client, nominal, good, gone).json()["shown"]
    assert [each["view"] for each in shown] == ["refused", "distribution", "refused"]
    assert "only tell its values apart" in shown[0]["title"] and shown[0]["detail"]


@pytest.mark.parametrize(
    ("of", "said"),
    [
        ({"only": "people >"}, "character"),
        ({"only": "people + 1"}, "no condition"),
        ({"weight": "wishes"}, "of type text"),
    ],
)
def test_what_no_view_can_be_of(client: TestClient, ids: dict[str, str], of: dict[str, str], said: str) -> None:
    """A condition that means nothing and a weight that is none are refused for all views together."""
    if "weight" in of:
        of = {"weight": ids[of["weight"]]}
    reply = look(client, {"view": "distribution", "variable": ids["tenure"]}, **of)
    assert reply.status_code in (400, 422) and said in reply.text
