"""The grid of records on the real screen: only what is in sight is there, and every corner can be reached."""

from pathlib import Path

import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys

from tests.screen.conftest import Screen

pytestmark = pytest.mark.screen


@pytest.fixture
def grid(screen: Screen, tmp_path: Path) -> Screen:
    """A study of 100,000 records and 12 variables, open at its records."""
    path = tmp_path / "many.csv"
    heads = ["plot_no", *(f"q{number}" for number in range(1, 12))]
    row = ",".join(str(number % 5 + 1) for number in range(1, 12))
    lines = [f"{number:06d},{row}" for number in range(1, 100_001)]
    lines[99_998] = f"099999,{row}".replace("1,2,3", "1,wild,3")
    path.write_text("\n".join([",".join(heads), *lines]) + "\n")
    screen.go("/")
    screen.css("[data-test='new-title'] input").send_keys("Many")
    screen.click("create")
    screen.find("file").send_keys(str(path))
    screen.until("summary", "100,000 records × 12 variables")
    screen.click("bring-in")
    screen.until("size", "100,000 records × 12 variables")
    screen.click("stop-records")
    screen.until("grid", "000001")
    return screen


def test_every_corner(grid: Screen) -> None:
    """Keys lead along rows and columns, to the ends and back; the frozen identifier stays in sight."""
    area = grid.find("grid")
    ActionChains(grid.driver).move_to_element(grid.css(".row .cell")).click().perform()
    area.send_keys(Keys.ARROW_RIGHT, Keys.ARROW_DOWN)
    grid.until("cell-status", "record 2 · q1")
    area.send_keys(Keys.PAGE_DOWN)
    grid.until("cell-status", "record 17 · q1")
    area.send_keys(Keys.CONTROL, Keys.END)
    grid.until("cell-status", "record 100,000 · q11")
    assert "100000" in grid.text("grid") and "plot_no" in grid.text("grid")
    assert grid.driver.execute_script("return document.querySelectorAll('[role=row]').length") < 60
    area.send_keys(Keys.HOME)
    grid.until("cell-status", "record 100,000 · plot_no")
    area.send_keys(Keys.CONTROL, Keys.HOME)
    grid.until("cell-status", "record 1 · plot_no")
    assert not grid.problems()


def test_a_stray_far_away(grid: Screen) -> None:
    """The one stray among a million entries is one key away, and shows as it was recorded."""
    grid.until("stray-status", "1 stray in 1 variable")
    grid.find("grid").send_keys(Keys.F8)
    grid.until("cell-status", "record 99,999 · q6")
    assert grid.css(".cell.unreadable").text == "wild"
    grid.find("grid").send_keys(Keys.F8)
    grid.until("cell-status", "record 99,999 · q6")
    grid.press(Keys.SHIFT, Keys.F8)
    grid.until("stray-status", "stray 1 of 1 stray")
    grid.click("stop-codebook")
    grid.click("tag-q6")
    grid.click("missing", "[data-test='loose-wild']")
    grid.click("reason-other")
    grid.click("stop-records")
    grid.until("stray-status", "no strays")
    assert grid.find("next-stray").get_attribute("disabled")
