"""The records as somebody wants to see them: sorted, filtered, chosen columns, kept views; whole records; comments."""

import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys

from tests.screen.conftest import Screen
from tests.screen.test_replace import fill
from tests.screen.test_typing import another_window, choose, entries, keys, settle, typing

__all__ = ["typing"]
pytestmark = pytest.mark.screen


def shown(screen: Screen) -> list[str]:
    """The numbers of the records in sight, from above."""
    script = """return [...document.querySelectorAll('.row .number')]
        .sort((a, b) => a.getBoundingClientRect().top - b.getBoundingClientRect().top).map((each) => each.innerText)"""
    return screen.driver.execute_script(script)


def until_shown(screen: Screen, *records: int) -> None:
    screen._patiently(lambda _: shown(screen) == [str(n) for n in records], f"{records} were never shown")


def numbered(screen: Screen) -> None:
    """Types 9, 2 and 2 over the first entries of a."""
    choose(screen, 1, 1)
    keys(screen, "9", Keys.ENTER, "2", Keys.ENTER, "2", Keys.ENTER)
    settle(screen)


def test_sorted_and_filtered(typing: Screen) -> None:
    """From the head of a column, and by conditions; nothing of the study changes, typing moves no row."""
    numbered(typing)
    typing.click("head-a")
    typing.click("sort-down")
    until_shown(typing, 1, *range(4, 13), 2, 3)
    choose(typing, 1, 1)
    keys(typing, "1", Keys.ENTER)
    settle(typing)
    assert shown(typing)[0] == "1" and entries(typing, "a")[0] == "1"
    typing.press(Keys.CONTROL, Keys.ENTER)
    keys(typing, "0013", Keys.ENTER)
    settle(typing)
    until_shown(typing, 1, *range(4, 13), 2, 3, 13)
    typing.click("open-arrange")
    typing.click("arrange-again")
    until_shown(typing, *range(4, 13), 2, 3, 1, 13)
    typing.click("more-conditions")
    fill(typing, "condition-variable", "a")
    fill(typing, "condition-text", "2")
    until_shown(typing, 2, 3)
    typing.until("arranged", "2 of 13 records.")
    typing.select("condition-how", "readings")
    typing.click("reads-blank")
    until_shown(typing, 13)
    typing.click("show-all")
    until_shown(typing, *range(1, 14))
    keys(typing, Keys.ESCAPE)
    typing.press(Keys.CONTROL, "z")
    typing.press(Keys.CONTROL, "z")
    typing.until("size", "12 records")


def test_a_record_that_is_not_among_them(typing: Screen) -> None:
    """Going to a record that a condition leaves out shows all of them again, and says so."""
    numbered(typing)
    typing.click("head-a")
    typing.click("only-strays")
    typing.until("no-rows", "No record meets this.")
    typing.find("go-to").send_keys("0005", Keys.ENTER)
    typing.until("cell-status", "record 5 · a")
    typing.until("notice", "all are shown")
    assert len(shown(typing)) == 12


def test_records_that_are_alike(typing: Screen) -> None:
    """Records with the same entries stand together; one is removed, and put back."""
    numbered(typing)
    typing.click("open-arrange")
    fill(typing, "alike", "a")
    typing.find("alike").send_keys(Keys.TAB)
    until_shown(typing, 2, 3, *range(4, 13))
    keys(typing, Keys.ESCAPE)
    choose(typing, 2, 1)
    typing.click("record-menu")
    typing.click("remove-records")
    typing.until("notice", "Removed record 3.")
    until_shown(typing, 2, *range(4, 13))
    typing.until("size", "11 records")
    choose(typing, 3, 1)
    typing.click("record-menu")
    typing.click("remove-records")
    typing.until("size", "10 records")
    typing.click("record-menu")
    typing.click("removed-records")
    typing.until("removed", "2 removed records")
    fill(typing, "find-removed", "3")
    typing.click("removed-3")
    typing.click("put-back")
    typing.until("notice", "Put record 3 back.")
    typing.until("size", "11 records")
    typing.click("record-menu")
    typing.until("removed-records", "1 removed record")
    typing.click("removed-records")
    typing.click("choose-all-removed")
    typing.click("put-back")
    typing.until("size", "12 records")
    choose(typing, 1, 1)
    typing.click("record-menu")
    typing.click("copy-records")
    typing.until("size", "13 records")
    settle(typing)
    assert entries(typing, "a")[-1] == "2" and entries(typing, "plot_no")[-1] == ""


def heads(screen: Screen) -> list[str]:
    script = """return [...document.querySelectorAll('.heads .head')]
        .sort((a, b) => a.getBoundingClientRect().left - b.getBoundingClientRect().left)
        .map((each) => each.querySelector('.mono').innerText)"""
    return screen.driver.execute_script(script)


def test_a_view_is_kept(typing: Screen) -> None:
    """Columns are hidden, moved and widened; a name keeps all of it for whoever opens the study."""
    typing.click("head-b")
    typing.click("hide-column")
    typing._patiently(lambda _: heads(typing) == ["plot_no", "a", "c"], "b was not hidden")
    typing.click("open-views")
    typing.find("shows-c").find_element("css selector", "input").send_keys(Keys.ALT, Keys.ARROW_UP)
    typing._patiently(lambda _: heads(typing) == ["plot_no", "c", "a"], "c was not moved")
    fill(typing, "view-name", "Short")
    typing.click("keep-view")
    typing.until("open-views", "Short")
    keys(typing, Keys.ESCAPE)
    edge = typing.find("widen", "[data-test='head-c']")
    before = typing.find("head-c").size["width"]
    ActionChains(typing.driver).drag_and_drop_by_offset(edge, 60, 0).perform()
    typing._patiently(lambda _: typing.find("head-c").size["width"] == before + 60, "it was not widened")
    first = another_window(typing, "records")
    typing.until("open-views", "All variables")
    typing.click("open-views")
    typing.click("view-Short")
    typing._patiently(lambda _: heads(typing) == ["plot_no", "c", "a"], "the view was not used")
    assert typing.find("head-c").size["width"] == before, "what was not kept is of one window alone"
    typing.driver.close()
    typing.driver.switch_to.window(first)


def test_a_variable_is_begun_at_the_right_end(typing: Screen) -> None:
    """Its name is typed behind the last column, and its first entry at once."""
    typing.find("fresh-variable").send_keys("shed", Keys.ENTER)
    typing.until("cell-status", "record 1 · shed")
    keys(typing, "yes", Keys.ENTER)
    settle(typing)
    assert entries(typing, "shed")[0] == "yes"
    typing.find("fresh-variable").send_keys("2 sheds", Keys.ENTER)
    typing.until("notice", "2 sheds")
    assert typing.find("fresh-variable").get_property("value") == "2 sheds"


def test_answers_are_read_and_remarked_on(typing: Screen) -> None:
    """The whole text stands beside the grid; the next answer with a word is found; a comment marks its entry."""
    long = "The tap by the lower gate drips. " * 12
    choose(typing, 2, 2)
    keys(typing, long + "\n")
    choose(typing, 7, 2)
    keys(typing, "no tap here\n")
    settle(typing)
    choose(typing, 2, 2)
    typing.press(Keys.ALT, "r")
    typing.until("pane-text", " ".join(long.split()))
    typing.find("pane-find").send_keys("TAP HERE", Keys.ENTER)
    typing.until("cell-status", "record 7 · b")
    assert typing.css("[data-test='pane-text'] mark").text == "tap here"
    typing.until("pane-reading", "unreadable")
    typing.press(Keys.ALT, "m")
    typing.find("remark-text").send_keys("Checked against paper")
    typing.find("remark-text").send_keys(Keys.CONTROL, Keys.ENTER)
    typing.until("remark", "Checked against paper")
    choose(typing, 1, 1)
    typing.until_gone("remark")
    typing.css("details.all summary").click()
    typing.click("listed-remark")
    typing.until("cell-status", "record 7 · b")
    marked = typing.css(".cell.remarked")
    assert marked.get_attribute("aria-label") == "no tap here, unreadable: it does not fit the type, with a comment"
    typing.click("open-arrange")
    typing.click("only-remarked")
    until_shown(typing, 7)
    typing.click("show-all")
    keys(typing, Keys.ESCAPE)
    typing.click("take-remark-back")
    typing.until_gone("remark")
    assert not typing.driver.find_elements("css selector", ".cell.remarked")
