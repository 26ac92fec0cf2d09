"""The codebook's work on many tags, on the real screen."""

import json
from pathlib import Path

import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from tests.screen.conftest import Screen
from tests.screen.test_views import look_with_axe
from tests.screen.test_walk import bring_in

pytestmark = pytest.mark.screen

SITES = ["Water supply", "Paths and gates", "Security", "Toilets", "Tool shed", "Site meetings"]
CODES = ["Very poor", "Poor", "Fair", "Good", "Very good"]


@pytest.fixture
def sites(tmp_path: Path) -> Path:
    """Sixty plots: six ratings with two codes for missing, hours with 999, notes spelled in several ways."""
    path = tmp_path / "sites.csv"
    lines = ["plot_no," + ",".join(f"q7_{number}" for number in range(1, 7)) + ",hours,notes,joined"]
    for record in range(60):
        ratings = [str((record + item) % 5 + 1) for item in range(6)]
        if record % 10 == 9:
            ratings = ["-8" if record % 20 == 9 else "-9"] * 6
        note = ("tap by the gate", "Tap by the gate", "hose", f"bed {record}")[record % 4]
        hours = 999 if record % 30 == 7 else record % 25
        lines.append(f"{record + 1:04d},{','.join(ratings)},{hours},{note},2024-0{record % 9 + 1}-11")
    path.write_text("\n".join(lines) + "\n", encoding="utf-8")
    return path


def names(screen: Screen) -> list[str]:
    """The names of the tags shown in the list."""
    found = screen.driver.find_elements(By.CSS_SELECTOR, "[data-test='tags'] .name")
    return [each.get_attribute("textContent") for each in found]


def choose(screen: Screen, first: str, last: str) -> None:
    """Chooses the tags from one to another with the mouse and Shift."""
    screen.open(first)
    ActionChains(screen.driver).key_down(Keys.SHIFT).click(screen.find(f"tag-{last}")).key_up(Keys.SHIFT).perform()
    screen.find("together")


def test_six_ratings_by_keys_alone(screen: Screen, sites: Path) -> None:
    """One rating is defined, and the other five from it: labels, level, five codes, two missing codes, battery.

    Some three hundred keys: two minutes for somebody who types two to three a second.
    """
    bring_in(screen, sites, "60 records × 10 variables")
    pressed = 0

    def press(*keys: str) -> None:
        nonlocal pressed
        for key in keys:
            ActionChains(screen.driver).send_keys(key).perform()
            pressed += len(key)

    def shift(key: str, times: int) -> None:
        nonlocal pressed
        ActionChains(screen.driver).key_down(Keys.SHIFT).send_keys(key * times).key_up(Keys.SHIFT).perform()
        pressed += times

    screen.press(Keys.ALT, "2")
    for number, label in enumerate(SITES, 1):
        press(Keys.ARROW_DOWN)
        screen._patiently(lambda _, n=number: screen.find("name").get_property("value") == f"q7_{n}", "not there")
        press(Keys.ENTER, label, Keys.ENTER)
        screen.until(f"tag-q7_{number}", label)
    press(*[Keys.ARROW_UP] * 5)
    screen._patiently(lambda _: screen.find("name").get_property("value") == "q7_1", "not back at the first")
    press(Keys.ENTER, Keys.TAB, Keys.TAB, Keys.TAB, "ord")
    screen.css("[data-test='tag-q7_1'] [aria-label='ordinal']")
    press(Keys.ESCAPE)
    screen.driver.execute_script("document.activeElement.blur()")
    press("a", *(f"{code} {label}\n" for code, label in enumerate(CODES, 1)))
    screen.find("code-5")
    screen.driver.execute_script("document.activeElement.blur()")
    press("m")
    screen.find("panel")
    press("-8 don't know\n", "-9 refused\n")
    screen.until("panel-preview", "Marked -8 as missing (don't know), -9 as missing (refused) in")
    screen.press(Keys.CONTROL, Keys.ENTER)
    screen.until_gone("panel")
    shift(Keys.ARROW_DOWN, 5)
    screen.until("chosen", "6 tags chosen")
    press("s")
    screen.until("panel-preview", "5 tags would change")
    screen.press(Keys.CONTROL, Keys.ENTER)
    screen.until_gone("panel")
    press("b")
    screen.find("battery-title")
    press("The site", Keys.ENTER)
    screen.until_gone("panel")
    screen.until("together", "6 tags together")
    lines = screen.driver.find_elements(By.CSS_SELECTOR, ".line .line-code")
    assert [each.text for each in lines] == ["1", "2", "3", "4", "5", "-8", "-9"]
    assert not screen.driver.find_elements(By.CSS_SELECTOR, ".line.loose")
    for number, label in enumerate(SITES, 1):
        tag = screen.text(f"tag-q7_{number}")
        assert label in tag and "no code list" not in tag
        assert screen.css(f"[data-test='tag-q7_{number}'] [aria-label='ordinal']")
    assert "The site" in screen.css("[data-test='tags']").text
    assert pressed < 350
    assert not screen.problems()


def test_several_as_one_page(screen: Screen, sites: Path) -> None:
    """What is set goes to all, what differs says so, and a value says in how many it stands so."""
    bring_in(screen, sites, "60 records × 10 variables")
    screen.open("q7_2")
    screen.type("label", "Paths")
    screen.find("add-line").send_keys("1 Bad\n")
    screen.find("code-1")
    choose(screen, "q7_1", "q7_3")
    screen.until("together", "3 tags together q7_1, q7_2, q7_3")
    assert screen.find("label").get_attribute("placeholder") == "Labels differ"
    assert "1/3" in screen.text("code-1")
    screen.type("label", "One of three")
    for number in (1, 2, 3):
        screen.until(f"tag-q7_{number}", "One of three")
    screen.find("add-line").send_keys("2 Poor\n")
    screen.find("code-2")
    screen.open("q7_3")
    assert screen.css("[data-test='code-2'] textarea").get_property("value") == "Poor"
    assert not screen.problems()


def test_stamp_by_sweeping(screen: Screen, sites: Path) -> None:
    """Tags are swept over with the mouse held, what changes is said beforehand, and it is one step."""
    bring_in(screen, sites, "60 records × 10 variables")
    screen.open("q7_1")
    screen.find("add-line").send_keys("1 Bad\n")
    screen.find("code-1")
    screen.click("open-stamp")
    sweep = ActionChains(screen.driver).click_and_hold(screen.find("tag-q7_2"))
    for number in (3, 4):
        sweep.move_to_element(screen.find(f"tag-q7_{number}"))
    sweep.release().perform()
    screen.until("panel-preview", "of q7_1 onto q7_2, q7_3 and q7_4")
    screen.click("tag-q7_4")
    screen.until("panel-preview", "onto q7_2 and q7_3. 2 tags would change.")
    assert "changes: codes" in screen.text("panel")
    screen.click("panel-do")
    screen.until_gone("panel")
    screen.open("q7_3")
    screen.find("code-1")
    screen.click("undo")
    screen.until_gone("code-1")
    assert not screen.problems()


def test_names_by_pattern_and_by_pairs(screen: Screen, sites: Path) -> None:
    """A pattern with its preview, a conflict with a name that works, pairs as pasted; old names are found."""
    bring_in(screen, sites, "60 records × 10 variables")
    choose(screen, "q7_1", "q7_6")
    screen.click("open-names")
    screen.type("new-pattern", "site_{n}")
    screen.until("new-names", "q7_6 site_6")
    screen.click("panel-do")
    screen.find("tag-site_6")
    screen.find("filter").send_keys("q7_3")
    screen._patiently(lambda _: names(screen) == ["site_3"], "the old name is not found")
    screen.find("filter").send_keys(Keys.ESCAPE)
    screen.click("open-names")
    screen.click("way-pairs")
    screen.find("pairs").send_keys("site_1 -> hours\nq7_2 -> paths\nnothing -> x")
    screen.until("unknown", "1 line without a variable of that name: nothing -> x")
    screen.until("new-names", "Another variable is called “hours” already. take hours_2")
    assert not screen.find("panel-do").is_enabled()
    screen.css("[data-test='new-names'] .act").click()
    screen._patiently(lambda _: screen.find("panel-do").is_enabled(), "still refused")
    screen.click("panel-do")
    screen.find("tag-hours_2")
    assert screen.find("tag-paths")
    screen.click("undo")
    screen.find("tag-site_1")
    assert not screen.problems()


def test_missing_over_the_study(screen: Screen, sites: Path) -> None:
    """Candidates with counts, one of them left out where it means something, set aside in one step."""
    bring_in(screen, sites, "60 records × 10 variables")
    screen.open("hours")
    screen.until("apart-999", "stands apart from the other numbers: 2 entries, left out of the picture")
    screen.click("open-missing")
    screen.until("offer--8", "18 entries")
    for offer in ("-8", "-9", "999"):
        screen.css(f"[data-test='offer-{offer}'] input").click()
    screen.until("panel-preview", "Marked -8 as missing (other), -9 as missing (other), 999 as missing (other)")
    screen.css("[data-test='offer--8'] .act").click()
    screen.css("[data-test='offer--8'] .where input").click()
    screen.until("offer--8", "15 entries")
    screen.click("panel-do")
    screen.until_gone("panel")
    screen.find("code-999")
    screen.until("fill", "58 valid 2 coded missing 0 blank 0 stray")
    screen.click("open-missing")
    screen.until("offer--8", "3 entries")
    assert not screen.problems()


def test_shared_lists(screen: Screen, sites: Path) -> None:
    """A list shared by three tags changes for all, one gets lines of its own, and another study can use it."""
    bring_in(screen, sites, "60 records × 10 variables")
    choose(screen, "q7_1", "q7_3")
    screen.find("add-line").send_keys("1 Bad\n")
    screen.find("code-1")
    screen.click("open-lists")
    screen.type("list-name", "poor to good")
    screen.until("list-poor to good", "used by q7_1, q7_2, q7_3")
    screen.click("keep-list")
    screen.find("kept-poor to good")
    screen.click("close-panel")
    screen.open("q7_2")
    screen.until("shared", "poor to good is a shared list: what you change here changes 2 other tags too.")
    screen.find("add-line").send_keys("2 Poor\n")
    screen.find("code-2")
    screen.open("q7_3")
    screen.find("code-2")
    screen.click("own-lines")
    screen.until_gone("shared")
    screen.find("add-line").send_keys("3 Fair\n")
    screen.find("code-3")
    screen.open("q7_1")
    screen.find("code-2")
    assert not screen.all("code-3")
    screen.go("/")
    screen.click("demo")
    screen.until("size", "1,204 records")
    screen.click("open-lists")
    screen.find("kept-poor to good")
    assert not screen.problems()


def test_add_copy_move_remove(screen: Screen, sites: Path) -> None:
    """New variables behind the chosen one, copies, order by keys and by dragging, removal; undo brings all back."""
    bring_in(screen, sites, "60 records × 10 variables")
    screen.open("plot_no")
    screen.click("open-new")
    screen.find("new-lines").send_keys("shade How shady the plot is\nshed")
    screen.until("panel-preview", "Added 2 variables: shade, shed.")
    screen.click("panel-do")
    screen.until("tag-shade", "How shady the plot is")
    screen._patiently(lambda _: names(screen)[:4] == ["plot_no", "shade", "shed", "q7_1"], "not behind the chosen one")
    screen.open("shed")
    screen.find("tags").send_keys(Keys.ALT, Keys.ARROW_UP)
    screen._patiently(lambda _: names(screen)[:3] == ["plot_no", "shed", "shade"], "not moved by keys")
    screen.driver.execute_script(
        "const [from, to] = arguments, data = new DataTransfer(), box = to.getBoundingClientRect();"
        "const fire = (on, kind, y) => on.dispatchEvent("
        "  new DragEvent(kind, {dataTransfer: data, bubbles: true, cancelable: true, clientY: y}));"
        "fire(from, 'dragstart', 0); fire(to, 'dragover', box.bottom - 2); fire(to, 'drop', box.bottom - 2)",
        screen.find("tag-shed"),
        screen.find("tag-q7_1"),
    )
    screen._patiently(lambda _: names(screen)[:4] == ["plot_no", "shade", "q7_1", "shed"], "not moved by dragging")
    screen.open("q7_1")
    screen.click("copy")
    screen.find("tag-q7_1_copy")
    choose(screen, "q7_1", "q7_1_copy")
    screen.click("remove")
    screen.until_gone("tag-q7_1_copy")
    assert not screen.all("tag-q7_1")
    screen.click("undo")
    screen.open("q7_1")
    screen.until("fill", "60 valid")
    assert not screen.problems()


def test_evidence_answers(screen: Screen, sites: Path) -> None:
    """Limits by their handles, spellings made one, widths trimmed, another type tried, parts cleared."""
    bring_in(screen, sites, "60 records × 10 variables")
    screen.open("hours")
    handle = screen.find("limit-high")
    for _ in range(4):
        handle.send_keys(Keys.ARROW_LEFT)
    screen.until("fill", "stray")
    screen._patiently(lambda _: screen.find("limits").get_property("value").startswith("to 2"), "no limit was set")
    screen.find("limit-high").send_keys(Keys.DELETE)
    screen._patiently(lambda _: screen.find("limits").get_property("value") == "", "the limit stayed")
    screen.open("notes")
    screen.until("spellings", "1 answer spelled in several ways “tap by the gate” 15, “Tap by the gate” 15")
    screen.click("unite-tap by the gate")
    screen.until_gone("spellings")
    screen.until("loose-tap by the gate", "30")
    screen.open("plot_no")
    screen.click("open-readings")
    screen.until("reading-integer", "valid 60")
    screen.click("compare-date")
    screen.until("reading-date", "unreadable 60")
    screen.click("take-integer")
    screen.until_gone("panel")
    screen.until("fill", "60 valid")
    assert screen.css("[data-test='type'] select").get_property("value") == "integer"
    screen.open("joined")
    screen.choose("pattern", "dd.mm.yyyy")
    screen.until("span", "From 11.01.2024 to 11.09.2024")
    screen.click("open-widths")
    screen.until("saving", "Nothing to save")
    screen.click("close-panel")
    screen.type("label", "Day of joining")
    screen.until("tag-joined", "Day of joining")
    screen.click("open-clear")
    screen.click("clear-label")
    screen.click("clear-display")
    screen.until("panel-preview", "Cleared labels and widths, decimals and patterns of joined.")
    screen.click("panel-do")
    screen.until("span", "From 2024-01-11 to 2024-09-11")
    assert not screen.problems()


def test_the_finder(screen: Screen, sites: Path) -> None:
    """Ctrl+K finds variables, findings and actions, and Enter goes there; colours can be chosen."""
    bring_in(screen, sites, "60 records × 10 variables")
    screen.press(Keys.CONTROL, "k")
    screen.find("finder-text").send_keys("hours")
    screen.find("found-hours")
    screen.find("finder-text").send_keys(Keys.ENTER)
    screen._patiently(lambda _: screen.find("name").get_property("value") == "hours", "not there")
    screen.press(Keys.ALT, "4")
    screen.find("map")
    screen.click("open-finder")
    screen.find("finder-text").send_keys("rename pattern")
    screen.find("found-Names")
    screen.find("finder-text").send_keys(Keys.ENTER)
    screen.find("new-pattern")
    screen.click("theme")
    screen.click("theme")
    screen.css(".v-theme--dark")
    screen.driver.refresh()
    screen.css(".v-theme--dark")
    assert not screen.problems()


@pytest.mark.parametrize("theme", ["light", "dark"])
def test_no_serious_fault_of_access_in_panels(screen: Screen, theme: str) -> None:
    """Axe finds nothing serious or critical in any panel, on several tags, a text, a date, or in the finder."""
    screen.go("/")
    screen.driver.execute_script(f"localStorage.setItem('row-tag-theme', {json.dumps(theme)})")
    screen.driver.refresh()
    screen.click("demo")
    screen.until("size", "1,204 records × 54 variables")
    screen.css(f".v-theme--{theme}")
    choose(screen, "site_1", "site_3")
    faults = look_with_axe(screen, "several")
    for panel in ("stamp", "names", "missing", "lists", "battery", "widths", "readings", "clear", "new"):
        screen.click(f"open-{panel}")
        screen.find("panel")
        faults += look_with_axe(screen, panel)
        screen.click("close-panel")
    for tag in ("joined", "comment"):
        screen.press(Keys.CONTROL, "k")
        screen.find("finder-text").send_keys(tag)
        screen.find(f"found-{tag}")
        faults += look_with_axe(screen, "finder") if tag == "joined" else []
        screen.find("finder-text").send_keys(Keys.ENTER)
        screen._patiently(lambda _, tag=tag: screen.find("name").get_property("value") == tag, "not there")
        faults += look_with_axe(screen, tag)
    assert faults == []
