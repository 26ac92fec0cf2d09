"""Tables on the real screen: by another variable, weighted, under a condition, and taken along."""

from pathlib import Path

import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys

from tests.screen.conftest import Screen
from tests.screen.test_views import look_with_axe, open_demo
from tests.screen.test_walk import bring_in

pytestmark = pytest.mark.screen

CLIPBOARD = """
const done = arguments[0]
navigator.clipboard.read().then(async ([item]) => {
  const kinds = await Promise.all(item.types.map(async (kind) => [kind, await (await item.getType(kind)).text()]))
  done(Object.fromEntries(kinds))
}, (error) => done({ refused: String(error) }))
"""


def tables(screen: Screen, *picked: str) -> None:
    """The demo study's tables of some variables."""
    open_demo(screen)
    screen.press(Keys.ALT, "6")
    screen.click(f"pick-{picked[0]}")
    screen.find(f"table-{picked[0]}")
    for name in picked[1:]:
        ActionChains(screen.driver).key_down(Keys.CONTROL).click(screen.find(f"pick-{name}")).key_up(
            Keys.CONTROL
        ).perform()


def test_a_crosstab_weighed_and_under_a_condition(screen: Screen) -> None:
    """A coded variable by another, in percent of columns and rows; a weight and a condition that hold for all views."""
    tables(screen, "tenure", "hours")
    screen.css("[data-test='by-tenure']").send_keys("quarter")
    screen.until("crosstab", "all")
    screen.until("association", "Chi-square")
    screen.until("left-out", "1,120 records stand in the table.")
    screen.until("left-out", "Left out, tenure: 22 Don't know, 38 Refused, 10 blank, 14 stray.")
    screen.css("[data-test='percent-tenure']").send_keys("row")
    screen.until("crosstab", "picture")
    screen.css("[data-test='by-hours']").send_keys("tenure")
    screen.until("groups", "all together")
    screen.css("[data-test='weight']").send_keys("weight")
    screen.until("basis", "records of equal weight")
    screen.until("crosstab", "weighted")
    screen.until("groups", "weighted n")
    assert "Chi-square" not in screen.text("association"), "it is no test of weighted sums"
    screen.click("add-only")
    screen.css(".condition textarea").send_keys("people > 1")
    screen.until("only", "people > 1")
    screen.until("basis", "Of 1,204 records 867 meet the condition; for 20 it cannot be told.")
    screen.until("left-out", "810 records stand in the table.")
    assert not look_with_axe(screen, "tables")
    screen.click("clear-only")
    screen.until("left-out", "1,120 records stand in the table.")
    assert not screen.problems()


def test_what_no_table_can_be_of_shows_none(screen: Screen, tmp_path: Path) -> None:
    """A weight with a negative number is refused in a sentence, and no table of before stands under its name."""
    file = tmp_path / "weights.csv"
    file.write_text("plot,held,w\n" + "".join(f"{n},{n % 2},{-1 if n == 7 else n % 5 + 0.5}\n" for n in range(1, 61)))
    bring_in(screen, file, "60 records × 3 variables")
    screen.click("stop-tables")
    screen.click("pick-held")
    screen.until("table-held", "records 60")
    screen.css("[data-test='weight']").send_keys("w")
    screen.until("basis-refused", "“w” cannot be a weight: it holds 1 negative number, such as -1.")
    screen.until_gone("table-held")
    screen.select("weight", "")
    screen.until("table-held", "records 60")


def test_the_tables_follow_the_codebook(screen: Screen) -> None:
    """The order of a list and a label changed elsewhere are seen here at once; a view that cannot be says why."""
    tables(screen, "site_1")
    screen.css("[data-test='by-site_1']").send_keys("tenure")
    screen.until("crosstab", "Waiting list")
    variables = screen.ask("/studies/demo")["variables"]
    tenure = next(each["id"] for each in variables if each["name"] == "tenure")
    lines = screen.ask(f"/studies/demo/variables/{tenure}")["tag"]["codes"]
    turned = [{**line, "label": "On the list"} if line["label"] == "Waiting list" else line for line in reversed(lines)]
    screen.elsewhere({"do": "define", "variables": [tenure], "parts": {"codes": turned}})
    screen.until("crosstab", "3 On the list 2 Shared with another household 1 In my own name all")
    screen.click("steps-site_1")
    screen.until("groups", "all together")
    assert "equal steps" in screen.css("[data-test='table-site_1']").text
    screen.css("[data-test='by-site_1']").send_keys("plot_size")
    screen.until("refused-view", "too many different values to stand side by side")


def test_a_battery_is_one_picture(screen: Screen) -> None:
    """Items that are picked together stand together, in their order or by agreement; or one by one, and back."""
    tables(screen, "tenure", *(f"site_{number}" for number in range(1, 7)))
    screen.until("battery", "alpha 0.51 · Toilets runs against the rest")
    screen.until("battery", "Alpha over 745 records that answered all of them.")
    assert not look_with_axe(screen, "tables")

    def items() -> list[str]:
        return [row.text.split("\n")[0] for row in screen.driver.find_elements("css selector", "[data-test^='item-']")]

    assert items()[0].startswith("Water supply")
    screen.css("[data-test='battery-order']").send_keys("by agreement")
    screen._patiently(
        lambda _: items()[0].startswith("Security") and items()[-1].startswith("Toilets"), "no other order"
    )
    screen.click("one-by-one")
    screen.until("table-site_1", "Very good")
    screen.css("[data-test='table-site_1'] .act").click()
    screen.until("battery", "Security")
    screen.find("table-tenure")


def shares(screen: Screen) -> list[float]:
    return [float(row.text.split()[-2]) for row in screen.driver.find_elements("css selector", "[data-test^='item-']")]


def test_things_that_were_ticked(screen: Screen) -> None:
    """Several answers stand together: of who answered, of all answers, by count."""
    tables(screen, "crop_1", "crop_2", "crop_3", "crop_4", "crop_5", "crop_6")
    screen.until("battery", "% of records % of answers")
    screen.until("battery", "1,204 of 1,204 records answered; 0 of them ticked nothing.")
    asked = shares(screen)
    assert len(asked) == 6
    screen.css("[data-test='battery-order']").send_keys("by count")
    screen._patiently(lambda _: shares(screen) == sorted(asked, reverse=True), "not by count")


def test_a_table_is_taken_along(screen: Screen) -> None:
    """What is shown is what is copied: as a table, and as text between tabs, numbers without marks."""
    screen.driver.execute_cdp_cmd(
        "Browser.grantPermissions", {"permissions": ["clipboardReadWrite", "clipboardSanitizedWrite"]}
    )
    tables(screen, "tenure", "hours")
    screen.css("[data-test='by-tenure']").send_keys("quarter")
    screen.until("crosstab", "all")
    screen.click("copy-tenure")
    screen.until("notice", "Copied “How the plot is held by Quarter of the site” as a table.")
    found = screen.driver.execute_async_script(CLIPBOARD)
    lines = [line.split("\t") for line in found["text/plain"].splitlines()]
    assert lines[3][:3] == ["1 In my own name", "234", "58.5"]
    assert ["all", "400", "100.0", "306", "100.0", "258", "100.0", "156", "100.0", "1120", "100.0"] in lines
    assert "stand in the table" in lines[-1][0]
    assert (
        "<table" in found["text/html"] and "colspan" in found["text/html"] and "Percent run" not in found["text/html"]
    )
    screen.click("copy-hours")
    screen.until("notice", "Copied “Hours in a usual week” as a table.")
    found = screen.driver.execute_async_script(CLIPBOARD)
    assert "n\t1050" in found["text/plain"].splitlines() and "1,050 valid" in found["text/plain"]
