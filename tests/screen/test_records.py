"""The grid of records on the real screen: only what is in sight is there, and every corner can be reached."""

from pathlib import Path

import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.actions.wheel_input import ScrollOrigin
from selenium.webdriver.common.keys import Keys

from tests.screen.conftest import Screen
from tests.screen.test_intake import new_study

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


def test_going_to_a_record(grid: Screen) -> None:
    """By its identifier or its number, from wherever one types; what is none is said."""
    grid.press(Keys.CONTROL, "g")
    grid.find("go-to").send_keys("077777", Keys.ENTER)
    grid.until("cell-status", "record 77,777 · plot_no")
    grid.find("go-to").send_keys(Keys.CONTROL, "a")
    grid.find("go-to").send_keys("5000", Keys.ENTER)
    grid.until("cell-status", "record 5,000 · plot_no")
    grid.find("go-to").send_keys("00", Keys.ENTER)
    grid.until("notice", "No record has 500000 as its plot_no or its number.")
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


def test_a_million_records(screen: Screen, tmp_path: Path) -> None:
    """More rows than a browser's element is tall: pushed row by row, dragged to anywhere, the last one reached."""
    path = tmp_path / "million.csv"
    path.write_text("plot_no,q1\n" + "".join(f"{number:07d},{number % 5}\n" for number in range(1, 1_000_001)))
    new_study(screen, path, "Million")
    screen.until("summary", "1,000,000 records × 2 variables")
    screen.click("bring-in")
    screen.until("size", "1,000,000 records × 2 variables")
    screen.click("stop-records")
    screen.until("grid", "0000001")
    area = screen.find("grid")
    ActionChains(screen.driver).move_to_element(screen.css(".row .cell")).click().perform()
    area.send_keys(Keys.CONTROL, Keys.END)
    screen.until("cell-status", "record 1,000,000 · q1")
    screen.until("grid", "1000000")
    area.send_keys(Keys.ARROW_UP, Keys.ARROW_UP)
    screen.until("cell-status", "record 999,998 · q1")
    top = "return document.querySelector('[data-test=grid]').scrollTop"
    assert screen.driver.execute_script(top) < 10_000_000

    def first_row() -> int:
        said = screen.driver.execute_script(
            "const grid = document.querySelector('[data-test=grid]').getBoundingClientRect();"
            "const row = document.elementFromPoint(grid.left + 20, grid.top + 70).closest('.row');"
            "return row ? row.querySelector('.number').textContent : ''"
        )
        return int(said or 0)

    screen.driver.execute_script(
        "const grid = document.querySelector('[data-test=grid]'); grid.scrollTop = grid.scrollHeight / 2"
    )
    screen._patiently(lambda _: 490_000 < first_row() < 510_000, "the middle was never there")
    at = first_row()
    for number in range(1, 7):  # each turn of the wheel is ten rows
        ActionChains(screen.driver).scroll_from_origin(ScrollOrigin.from_element(area), 0, 330).perform()
        screen._patiently(lambda _, wanted=at + 10 * number: abs(first_row() - wanted) <= 1, "rows were skipped")
    assert not screen.problems()


def test_a_steady_wheel(grid: Screen) -> None:
    """Rolling down steadily, the rows in sight have their entries: none is long without."""
    longest = grid.driver.execute_async_script(
        """
        const done = arguments[0], area = document.querySelector('[data-test=grid]')
        let [blank, longest, before, turns] = [0, 0, performance.now(), 0]
        const look = (now) => {
          const waiting = [...area.querySelectorAll('.row')].some((row) => {
            const { top, bottom } = row.getBoundingClientRect(), inside = area.getBoundingClientRect()
            return bottom > inside.top + 60 && top < inside.bottom && row.querySelector('.cell.waiting')
          })
          blank = waiting ? blank + now - before : 0
          longest = Math.max(longest, blank)
          before = now
          area.scrollTop += 40
          if (turns++ < 240) requestAnimationFrame(look)
          else done(longest)
        }
        requestAnimationFrame(look)
        """
    )
    assert grid.driver.execute_script("return document.querySelector('[data-test=grid]').scrollTop") > 9_000
    assert grid.driver.execute_script("return document.querySelectorAll('.cell').length") < 2_000
    assert longest < 1_000, f"rows were blank for {longest:.0f} ms"
    print(f"the longest blank: {longest:.0f} ms")
