"""Hands keep their place: whatever is opened, closed, done or drawn anew, keys go where work goes on."""

from pathlib import Path

import pytest
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.support.wait import WebDriverWait

from tests.screen.conftest import Screen
from tests.screen.test_walk import bring_in

pytestmark = pytest.mark.screen

HEAD = "plot_no,tenure,hours,water,comment"
ROWS = [f"{n:04d},{n % 3 + 1},{n % 30},{n % 2 + 1},{'wet' if n % 4 == 0 else ''}" for n in range(1, 61)]
ROWS[6] = "0007,9,about 4,1,"
PANELS = {"s": "Stamp", "n": "Names", "m": "Missing", "l": "Lists", "b": "Battery", "w": "Widths", "t": "Types",
          "c": "Clear", "x": "Text", "+": "New"}  # fmt: skip
STOPS = ["intake", "codebook", "records", "checks", "derive", "tables", "diary", "handover"]


@pytest.fixture
def worked_on(screen: Screen, tmp_path: Path) -> Screen:
    path = tmp_path / "plots.csv"
    path.write_text("\n".join([HEAD, *ROWS]) + "\n", encoding="utf-8")
    bring_in(screen, path, "60 records × 5 variables")
    return screen


def hands(screen: Screen, within: str = "main") -> str:
    """Waits until something within a place takes keys, and says what that is."""
    look = (
        f"const at = document.activeElement; const within = at.closest({within!r}) && at.tagName != 'MAIN';"
        "return within ? at.ariaLabel || at.outerHTML.slice(0, 150) : ''"
    )
    said = "return document.activeElement.outerHTML.slice(0, 200)"

    def told(_driver: object) -> str:
        return str(screen.driver.execute_script(look) or "")

    try:
        return str(WebDriverWait(screen.driver, 8, 0.1).until(told))
    except Exception:
        where = screen.driver.current_url
        raise AssertionError(f"At {where} keys go to {screen.driver.execute_script(said)}, not to {within}.") from None


def test_every_stop_takes_keys_at_once(worked_on: Screen) -> None:
    """By Alt+1 … 8, and there and back: focus is where that stop begins, in Records in the grid."""
    screen = worked_on
    for way in (range(1, 9), range(8, 0, -1)):
        for number in way:
            screen.press(Keys.ALT, str(number))
            WebDriverWait(screen.driver, 10).until(lambda d, at=number: f"/{STOPS[at - 1]}" in d.current_url)
            found = hands(screen)
            assert number != 3 or found == "Records", found
    screen.press(Keys.ALT, "3")
    assert hands(screen, "[data-test=grid]") == "Records"
    screen.press(Keys.ARROW_DOWN)
    screen.press(Keys.ARROW_RIGHT)
    assert screen.find("grid").get_attribute("aria-activedescendant") == "cell-1-1"


def test_every_panel_begins_and_leads_back(worked_on: Screen) -> None:
    """Opened by its key it takes the next keys; Escape leads out of it, to where hands were."""
    screen = worked_on
    screen.open("tenure")
    screen.find("tags").click()
    screen.open("tenure")
    for key, title in PANELS.items():
        hands(screen)
        screen.driver.execute_script("document.querySelector('[data-test=tags]').focus()")
        screen.press(key)
        screen.find("panel")
        assert hands(screen, "[data-test=panel]") != "Close", title
        screen.press(Keys.ESCAPE)
        screen.until_gone("panel")
        assert hands(screen) == "Variables", title


def test_what_is_drawn_anew_keeps_the_hands(worked_on: Screen) -> None:
    """Enter in a label, a reason for missing, replacing, finding, a remedy: none of it lets keys fall to the page."""
    screen = worked_on
    screen.open("tenure")
    screen.click("list-all")
    field = screen.css("[data-test='code-1'] input, [data-test='code-1'] textarea")
    field.click()
    field.send_keys("Own", Keys.ENTER)
    assert hands(screen, "[data-test=page]") == "Label of 3", "the next line comes after"
    screen.press(Keys.ESCAPE)
    assert hands(screen) == "Variables"
    hands(screen)
    screen.press(Keys.ALT, "3")
    assert hands(screen, "[data-test=grid]") == "Records"
    screen.press(Keys.CONTROL, "h")
    hands(screen, "[data-test=replace]")
    screen.press(Keys.ESCAPE)
    screen.until_gone("replace")
    assert hands(screen, "[data-test=grid]") == "Records"
    screen.press(Keys.CONTROL, "k")
    hands(screen, "[data-test=finder]")
    screen.press(Keys.ESCAPE)
    assert hands(screen, "[data-test=grid]") == "Records"
    screen.press(Keys.ALT, "4")
    hands(screen)
    screen.press(Keys.ALT, "3")
    hands(screen, "[data-test=grid]")
    screen.press(Keys.CONTROL, "g")
    assert hands(screen) == "Go to a record or column"
    screen.press(Keys.ESCAPE)
    hands(screen, "[data-test=grid]")


def test_what_a_finding_offers_keeps_the_hands(worked_on: Screen) -> None:
    """A remedy, and keeping something as it is, take their finding away, and hands stay among the others."""
    screen = worked_on
    screen.press(Keys.ALT, "4")
    hands(screen)
    hands(screen, "[data-test=finding]")
    before = len(screen.all("finding"))
    screen.click("accept")
    screen.css("[data-test='reason'] input").send_keys("Seen on the sheet", Keys.ENTER)
    WebDriverWait(screen.driver, 10).until(lambda _: len(screen.all("finding")) < before)
    hands(screen, "section[aria-label=Findings]")
    screen.press(Keys.ALT, "7")
    hands(screen)
    screen.click("name-edition")
    hands(screen, "aside")
    screen.press(Keys.ESCAPE)
    hands(screen)


def test_the_page_of_keys(worked_on: Screen) -> None:
    """F1 and the finder show all keys; one is changed, works, and what is taken already is told."""
    screen = worked_on
    screen.press(Keys.F1)
    screen.until("keys", "find and replace Ctrl+H")
    screen.click("change-replace")
    screen.press(Keys.CONTROL, "g")
    screen.until("key-replace", "Ctrl+G is taken: go to a record, a column, or both. Press another.")
    screen.press(Keys.ALT, "h")
    screen.until("key-replace", "find and replace Alt+H")
    screen.press(Keys.ESCAPE)
    screen.until_gone("keys")
    screen.press(Keys.ALT, "3")
    hands(screen, "[data-test=grid]")
    screen.press(Keys.ALT, "h")
    screen.find("replace")
    screen.press(Keys.ESCAPE)
    screen.press(Keys.CONTROL, "k")
    screen.css("[data-test='finder-text']").send_keys("help", Keys.ENTER)
    screen.click("usual-replace")
    screen.until("key-replace", "find and replace Ctrl+H")
    assert not screen.problems()


def test_one_key_leads_to_what_there_is_to_do(worked_on: Screen) -> None:
    """To the first code line and the first finding; in Records to a column, a record, or both."""
    screen = worked_on
    screen.open("tenure")
    screen.click("list-all")
    screen.find("tags").click()
    screen.press("f")
    assert hands(screen, "[data-test=code-1]") == "Label of 1"
    screen.press(Keys.ESCAPE)
    screen.press(Keys.ALT, "4")
    hands(screen, "[data-test=finding]")
    screen.driver.execute_script("document.querySelector('[data-test=open-report]').focus()")
    screen.press("f")
    hands(screen, "[data-test=finding]")
    screen.press(Keys.ALT, "3")
    hands(screen, "[data-test=grid]")
    at = {
        "water": "cell-0-3",
        "0012": "cell-11-3",
        "0020 hours": "cell-19-2",
        "TENURE 3": "cell-2-1",
        "tenure": "cell-2-1",
    }
    for text, cell in at.items():
        screen.press(Keys.CONTROL, "g")
        hands(screen)
        screen.driver.switch_to.active_element.send_keys(Keys.CONTROL, "a", Keys.NULL, text, Keys.ENTER)
        found = screen.find("grid")
        screen._patiently(lambda _, grid=found, cell=cell: grid.get_attribute("aria-activedescendant") == cell, text)
        assert hands(screen, "[data-test=grid]") == "Records"
    assert screen.problems() == []


NOTED = """
window.pressed = []
document.addEventListener('click', (event) => {
  const filled = event.target.closest('.v-btn--variant-flat.bg-primary')
  if (filled) { window.pressed.push(filled.dataset.test || filled.innerText); event.stopImmediatePropagation() }
}, { capture: true })
"""
"""Notes which filled button is pressed instead of letting it do anything."""


def test_ctrl_enter_does_what_the_filled_button_says(worked_on: Screen) -> None:
    """Wherever hands are: at a remedy, among the tags while one stamps, in a field, where nothing else is bound."""
    screen = worked_on

    def ctrl_enter() -> None:
        screen.press(Keys.CONTROL, Keys.ENTER)

    screen.press(Keys.ALT, "4")
    hands(screen, "[data-test=finding]")
    open_before = len(screen.all("finding"))
    screen.click("remedy")
    screen.find("do-remedy")
    ctrl_enter()
    screen._patiently(lambda _: len(screen.all("finding")) < open_before, "the remedy was not done")
    screen.press(Keys.CONTROL, "z")
    screen._patiently(lambda _: len(screen.all("finding")) == open_before, "the remedy was not taken back")

    screen.press(Keys.ALT, "2")
    screen.open("tenure")
    screen.click("list-all")
    screen.find("code-1")
    screen.driver.execute_script("document.querySelector('[data-test=tags]').focus()")
    screen.press("s")
    screen.find("tag-water").click()
    screen.driver.execute_script("document.querySelector('[data-test=tags]').focus()")
    screen._patiently(lambda _: screen.find("panel-do").is_enabled(), "nothing to stamp")
    ctrl_enter()
    study = screen.driver.current_url.split("/study/")[1].split("/")[0]

    def listed(name: str) -> list[str]:
        variables = screen.ask(f"/studies/{study}")["variables"]
        variable = next(each["id"] for each in variables if each["name"] == name)
        return [line["code"] for line in screen.ask(f"/studies/{study}/variables/{variable}")["tag"]["codes"]]

    screen._patiently(lambda _: listed("water") == listed("tenure"), "nothing was stamped")
    screen.press(Keys.ESCAPE)

    screen.driver.execute_script(NOTED)
    screen.press(Keys.ALT, "8")
    screen.find("preview")
    hands(screen)
    ctrl_enter()
    assert screen.driver.execute_script("return window.pressed") == ["hand-over"]


def test_every_stop_without_a_mouse(screen: Screen, tmp_path: Path) -> None:
    """From a file to the archive through all eight stops by keys alone; the number of keys is told."""
    pressed = 0

    def press(*keys: str, within: str = "main") -> None:
        nonlocal pressed
        hands(screen, within)
        pressed += len(keys) if len(keys) == 1 or keys[0] not in (Keys.ALT, Keys.CONTROL) else 1
        screen.press(*keys)

    def typed(text: str) -> None:
        nonlocal pressed
        pressed += len(text)
        screen.driver.switch_to.active_element.send_keys(text)

    path = tmp_path / "plots.csv"
    path.write_text("\n".join([HEAD, *ROWS]) + "\n", encoding="utf-8")
    screen.go("/")
    screen.find("demo")
    hands(screen)
    typed("Plots\n")
    screen.find("file").send_keys(str(path))  # the only thing that a browser leaves to a window of its own
    screen.until("summary", "60 records × 5 variables")
    press(Keys.CONTROL, Keys.ENTER)
    screen.find("page")
    assert hands(screen) == "Variables"
    press(Keys.ARROW_DOWN)
    screen._patiently(lambda _: screen.find("name").get_property("value") == "tenure", "the next tag never came")
    press("a")
    hands(screen, "[data-test=page]")
    typed("1 Own\n")
    screen.until("code-1", "1")
    press(Keys.ALT, "3")
    assert hands(screen, "[data-test=grid]") == "Records"
    press(Keys.F8, within="[data-test=grid]")
    typed("4\n")
    press(Keys.ALT, "4")
    hands(screen, "[data-test=finding]")
    press(Keys.ALT, "5")
    hands(screen)
    screen.until("accounting", "valid")
    press(Keys.CONTROL, Keys.ENTER)
    screen.until("notice", "Derived")
    press(Keys.ALT, "6")
    screen.find("pick-tenure")
    press(Keys.ALT, "7")
    screen.until("diary-line", "Derived")
    press(Keys.ALT, "8")
    hands(screen)
    for _ in range(40):
        if screen.driver.switch_to.active_element.get_attribute("data-test") == "hand-over":
            break
        press(Keys.TAB)
    typed("\n")
    screen._patiently(lambda _: list(screen.downloads.glob("*.zip")), "nothing was handed over")
    print(f"{pressed} keys")
    assert pressed < 120
    assert screen.problems() == []


def test_what_was_typed_is_there_after_a_reload(worked_on: Screen) -> None:
    """Text that nobody kept yet stands in its field again, which takes keys; kept or left, it does not come back."""
    screen = worked_on
    screen.open("hours")
    screen.find("label").send_keys("Hours in a us")
    screen.driver.refresh()
    screen.find("page")
    assert hands(screen) == "Label"
    assert screen.find("label").get_property("value") == "Hours in a us"
    screen.driver.switch_to.active_element.send_keys("ual week", Keys.ENTER)
    screen.until("tag-hours", "Hours in a usual week")
    screen.find("label").send_keys("x", Keys.ESCAPE)
    screen.find("label").send_keys("y", Keys.BACKSPACE)
    screen.driver.refresh()
    screen.find("page")
    assert screen.find("label").get_property("value") == "Hours in a usual week"
    assert screen.problems() == []
