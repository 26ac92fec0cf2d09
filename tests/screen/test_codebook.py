"""The codebook's page on the real screen: everything on it is editable, and every edit can be undone."""

from pathlib import Path

import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from tests.screen.conftest import Screen, Server
from tests.screen.test_walk import bring_in

pytestmark = pytest.mark.screen

HEAD = "plot_no,tenure,hours,letter,joined"
ROWS = [
    f"{number:04d},{number % 4 + 1},{number % 50 if number % 20 else 99},{'YN'[number % 2] if number % 9 else 'yes'},"
    f"2024-0{number % 9 + 1}-11"
    for number in range(1, 101)
]


@pytest.fixture
def plots(tmp_path: Path) -> Path:
    path = tmp_path / "plots.csv"
    path.write_text("\n".join([HEAD, *ROWS]) + "\n", encoding="utf-8")
    return path


def codes(screen: Screen) -> list[str]:
    """The codes on the page from top to bottom."""
    return [each.text for each in screen.driver.find_elements(By.CSS_SELECTOR, ".line .line-code")]


def paste(screen: Screen, name: str, text: str) -> None:
    """Pastes a block into a field, as from a spreadsheet."""
    screen.driver.execute_script(
        "const data = new DataTransfer(); data.setData('text/plain', arguments[1]);"
        "const init = {clipboardData: data, bubbles: true, cancelable: true};"
        "arguments[0].dispatchEvent(new ClipboardEvent('paste', init))",
        screen.find(name),
        text,
    )


def test_code_lists(screen: Screen, plots: Path) -> None:
    """Paste several lines, relabel, reorder, list what occurs, set aside, take off; each is one undo."""
    bring_in(screen, plots)
    screen.open("tenure")
    paste(screen, "add-line", "3\tWaiting list\n1 = In my own name\n2: Shared\n")
    screen.find("code-3")
    assert codes(screen) == ["3", "1", "2", "4"]
    screen.css("[data-test='code-2'] textarea").send_keys(" with others", Keys.ENTER)
    screen.open("hours")
    screen.open("tenure")
    field = screen.css("[data-test='code-2'] textarea")
    assert field.get_attribute("value") == "Shared with others"
    screen.css("[data-test='code-1'] textarea").send_keys(Keys.ALT, Keys.ARROW_UP)
    screen._patiently(lambda _: codes(screen)[:3] == ["1", "3", "2"], "the codes never changed places")
    screen.click("list-all")
    screen.find("code-4")
    screen.click("undo")
    screen.find("loose-4")
    screen.click("missing", "[data-test='loose-4']")
    screen.click("reason-not applicable")
    screen.until("fill", "75 valid 25 coded missing 0 blank 0 stray")
    screen.css("[data-test='code-4'] select").send_keys("refused")
    screen.open("tenure")
    off = screen.css("[data-test='code-3'] button[aria-label='Take 3 off the list']")
    ActionChains(screen.driver).move_to_element(off).click().perform()
    screen.find("loose-3")
    screen.click("complete")
    screen.until("fill", "50 valid 25 coded missing 0 blank 25 stray")
    screen.click("undo")
    screen.until("fill", "75 valid 25 coded missing 0 blank 0 stray")
    assert not screen.problems()


def test_text_codes_and_ranges(screen: Screen, plots: Path) -> None:
    """Codes that are texts, entries merged into them, and bands with open ends."""
    bring_in(screen, plots)
    screen.open("letter")
    paste(screen, "add-line", "Y = Yes\nN = No")
    screen.find("code-N")
    screen.click("complete")
    screen.until("fill", "89 valid 0 coded missing 0 blank 11 stray")
    screen.click("merge", "[data-test='loose-yes']")
    screen.driver.find_elements(By.CSS_SELECTOR, ".rt-menu .v-list-item")[0].click()
    screen.until("fill", "100 valid 0 coded missing 0 blank 0 stray")
    screen.open("hours")
    screen.find("histogram")
    screen.type("limits", "0 to 60")
    screen.until("fill", "95 valid 0 coded missing 0 blank 5 stray")
    screen.click("widen", "[data-test='loose-99']")
    screen.until("fill", "100 valid 0 coded missing 0 blank 0 stray")
    screen.choose("level", "ordinal")
    paste(screen, "add-line", ".. 19 Few\n20 .. 39 Some\n40 .. Many")
    screen.until("code-20 .. 39", "38")
    screen.click("stop-tables")
    screen.click("pick-hours")
    screen.until("row-20 .. 39", "Some 38 38.0 38.0 76.0")


def test_level_and_type_drop_nothing(screen: Screen, plots: Path) -> None:
    """A change of type and back leaves labels, codes and reasons as they were."""
    bring_in(screen, plots)
    screen.open("tenure")
    paste(screen, "add-line", "1 Own\n2 Shared")
    screen.until("code-1", "25")
    for kind in ("date", "text", "integer"):
        screen.choose("type", kind)
        strays = 100 if kind == "date" else 0
        screen.until("fill", f"{100 - strays} valid 0 coded missing 0 blank {strays} stray")
    screen.choose("level", "ratio")
    screen.find("summary-figures")
    screen.choose("level", "nominal")
    screen.until("code-1", "25")
    assert screen.css("[data-test='code-1'] textarea").get_attribute("value") == "Own"


def test_escape_restores_and_names_are_kept_when_refused(screen: Screen, plots: Path) -> None:
    """Esc leaves a field as it was; a refused name stays typed until it is mended or given up."""
    bring_in(screen, plots)
    screen.open("tenure")
    label = screen.find("label")
    label.send_keys("Half a thought", Keys.ESCAPE)
    assert label.get_attribute("value") == ""
    screen.type("name", "hours")
    screen.until("refused-name", "Another variable is called “hours” already")
    assert screen.find("name").get_attribute("value") == "hours"
    screen.find("name").send_keys(Keys.ESCAPE)
    screen.until_gone("refused-name")
    assert screen.find("name").get_attribute("value") == "tenure"
    assert "Renamed" not in (screen.find("undo").get_attribute("title") or "")


def test_two_windows_and_one_change(screen: Screen, plots: Path, server: Server) -> None:
    """When another window has changed the same part meanwhile, the second is told and nothing is lost."""
    bring_in(screen, plots)
    screen.open("tenure")
    server.stop()
    screen.type("label", "Typed while the server was away")
    screen.until("notice", "Row Tag does not answer")
    assert screen.find("label").get_attribute("value") == "Typed while the server was away"
    server.start()
    screen.find("label").send_keys(" and again", Keys.ENTER)
    screen.until("tag-tenure", "Typed while the server was away and again")


def test_filters_show_what_waits(screen: Screen, plots: Path) -> None:
    """Filters count what they would show, and a search without a hit says how to go on."""
    bring_in(screen, plots)
    chips = " ".join(each.text for each in screen.driver.find_elements(By.CSS_SELECTOR, ".chips button"))
    assert chips == "all 5 stray 0 no label 5 no codes 1 suspects 1 proposed 5 today 0"
    screen.type("label", "Plot number")
    screen.until("tag-plot_no", "Plot number")
    chips = " ".join(each.text for each in screen.driver.find_elements(By.CSS_SELECTOR, ".chips button"))
    assert chips == "all 5 stray 0 no label 4 no codes 1 suspects 1 proposed 4 today 1"
    screen.find("filter").send_keys("nothing like this")
    assert "No tag matches" in screen.css(".none").text
    screen.css(".none .act").click()
    screen.find("tag-hours")
