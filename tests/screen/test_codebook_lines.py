"""Code lines on the real screen: sorted, answered together, labelled everywhere; what rests is kept and said."""

from pathlib import Path

import pytest
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from tests.screen.conftest import Screen
from tests.screen.test_walk import bring_in

pytestmark = pytest.mark.screen


@pytest.fixture
def answers(tmp_path: Path) -> Path:
    """Forty records of two coded questions and the hours on the plot."""
    path = tmp_path / "answers.csv"
    lines = ["plot_no,tenure,shade,hours"]
    lines += [f"{n:04d},{(1, 1, 1, 2, 2, 3, 8, 9)[n % 8]},{n % 3 + 1},{n % 30}.5" for n in range(40)]
    path.write_text("\n".join(lines) + "\n", encoding="utf-8")
    return path


def codes(screen: Screen) -> list[str]:
    return [each.text for each in screen.driver.find_elements(By.CSS_SELECTOR, ".line:not(.loose) .line-code")]


def listed(screen: Screen, *expected: str) -> None:
    """Waits until the list holds these codes in this order."""
    screen._patiently(lambda _: codes(screen) == list(expected), f"the list was never {expected}")


def test_sorting_and_labels_everywhere(screen: Screen, answers: Path) -> None:
    """A click sorts by code, label or count, as one step; Ctrl+Enter changes a label wherever it stands."""
    bring_in(screen, answers, "40 records × 4 variables")
    screen.open("shade")
    screen.find("add-line").send_keys("1 Own\n")
    screen.find("code-1")
    screen.open("tenure")
    for line in ("3 Waiting", "1 Own", "2 Shared", "7 Never"):
        screen.find("add-line").send_keys(line + "\n")
    listed(screen, "3", "1", "2", "7")
    assert "unused" in screen.text("code-7") and "unused" not in screen.text("code-3")
    screen.click("sort-code")
    listed(screen, "1", "2", "3", "7")
    screen.click("sort-label")
    listed(screen, "7", "1", "2", "3")
    screen.click("sort-count")
    listed(screen, "1", "2", "3", "7")
    screen.click("undo")
    listed(screen, "7", "1", "2", "3")
    field = screen.css("[data-test='code-1'] textarea")
    field.send_keys(" alone", Keys.CONTROL, Keys.ENTER)
    screen._patiently(lambda _: "on tenure and shade" in (screen.find("undo").get_attribute("title") or ""), "not both")
    screen.open("shade")
    assert screen.css("[data-test='code-1'] textarea").get_property("value") == "Own alone"
    assert not screen.problems()


def test_answers_to_all_at_once(screen: Screen, answers: Path) -> None:
    """What is not listed is answered together; what a complete list does to the strays is said beforehand."""
    bring_in(screen, answers, "40 records × 4 variables")
    screen.open("tenure")
    for line in ("1 Own", "2 Shared"):
        screen.find("add-line").send_keys(line + "\n")
    listed(screen, "1", "2")
    assert "would make 15 strays" in screen.css(".complete").text
    screen.click("complete")
    screen.until("fill", "25 valid 0 coded missing 0 blank 15 stray")
    assert "15 entries beyond it are strays" in screen.css(".complete").text
    screen.click("keep-all")
    screen.find("reason").find_element(By.CSS_SELECTOR, "input").send_keys("asked again by telephone")
    screen.click("give-reason")
    screen.until("loose-8", "kept: asked again by telephone")
    screen.click("undo")
    screen._patiently(lambda _: "kept" not in screen.text("loose-8"), "still kept")
    screen.css("[aria-label='Set all that is not listed aside as missing']").click()
    screen.click("reason-no answer")
    screen.until("fill", "25 valid 15 coded missing 0 blank 0 stray")
    screen.click("undo")
    screen.click("list-all")
    listed(screen, "1", "2", "3", "8", "9")
    assert not screen.problems()


def test_what_rests_is_kept(screen: Screen, answers: Path) -> None:
    """Limits and decimals are kept under a type that has no use for them, said to be so, and count again after."""
    bring_in(screen, answers, "40 records × 4 variables")
    screen.open("hours")
    screen.type("limits", "0 to 20")
    screen.until("fill", "stray")
    screen.choose("type", "text")
    screen.until("resting", "limits 0 to 20, 1 decimal: kept, not in use")
    screen.until("fill", "40 valid 0 coded missing 0 blank 0 stray")
    screen.choose("type", "decimal")
    screen.until_gone("resting")
    screen._patiently(lambda _: screen.find("limits").get_property("value") == "0 to 20", "the limits are gone")
    assert not screen.problems()


def test_names_and_labels_in_the_list(screen: Screen, answers: Path) -> None:
    """Lists show names, labels or both, as set once; a tag without a label keeps its name."""
    bring_in(screen, answers, "40 records × 4 variables")
    screen.open("shade")
    screen.type("label", "How shady the plot is")
    screen.until("tag-shade", "shade How shady the plot is")
    screen.click("show-labels")
    screen._patiently(lambda _: "shade" not in screen.text("tag-shade"), "the name still stands there")
    assert "tenure" in screen.text("tag-tenure")
    screen.click("show-codes")
    screen._patiently(lambda _: "How shady" not in screen.text("tag-shade"), "the label still stands there")
    assert not screen.problems()


def test_bad_names_are_said_in_the_panel(screen: Screen, answers: Path) -> None:
    """A name that cannot be is refused beside the button, while it is typed; nothing is lost."""
    bring_in(screen, answers, "40 records × 4 variables")
    screen.open("shade")
    screen.click("open-new")
    screen.find("new-lines").send_keys("2nd plot")
    screen.until("panel-preview", "“2nd” cannot be a name")
    assert not screen.find("panel-do").is_enabled()
    screen.find("new-lines").send_keys(Keys.HOME, "a")
    screen.until("panel-preview", "Added 1 variable: a2nd.")
    screen.click("panel-do")
    screen.find("tag-a2nd")
    assert not screen.problems()
