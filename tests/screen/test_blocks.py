"""Ranges of entries on the real screen: marked, copied as shown, pasted over and past the end, filled, cleared."""

import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys

from tests.screen.conftest import Screen
from tests.screen.test_typing import SLOW, another_window, choose, entries, keys, settle, typing

__all__ = ["typing"]
pytestmark = pytest.mark.screen

CLIPBOARD = """
window.copied = ''
navigator.clipboard.writeText = async (text) => { window.copied = text }
"""
"""Stands for the clipboard, which a browser without a screen keeps to itself."""


def paste(screen: Screen, text: str) -> None:
    screen.driver.execute_script(
        "const data = new DataTransfer(); data.setData('text/plain', arguments[0]);"
        "document.activeElement.dispatchEvent(new ClipboardEvent('paste', {clipboardData: data, bubbles: true,"
        " cancelable: true}))",
        text,
    )


def copied(screen: Screen) -> str:
    screen.driver.execute_script("document.activeElement.dispatchEvent(new ClipboardEvent('copy', {bubbles: true}))")
    screen.until("notice", "Copied")
    text: str = screen.driver.execute_script("return window.copied")
    return text


def extended(screen: Screen, *pressed: str) -> None:
    """Presses keys with Shift held."""
    ActionChains(screen.driver).key_down(Keys.SHIFT).send_keys(*pressed).key_up(Keys.SHIFT).perform()


def labelled(screen: Screen) -> None:
    """Gives a a list of two codes: 3 alone, 4 shared."""
    screen.click("stop-codebook")
    screen.open("a")
    screen.find("add-line").send_keys("3 Alone", Keys.ENTER, "4 Café, shared", Keys.ENTER)
    settle(screen)
    screen.click("stop-records")
    screen.until("grid", "0001 3 Alone")


def test_a_block_is_pasted(typing: Screen) -> None:
    """From the chosen entry on, past the last record; labels become codes, an entry outside the tag is kept; undone."""
    labelled(typing)
    choose(typing, 11, 1)
    paste(typing, 'cafe, shared\t8\r\nALONE\t"two\nlines"\n3\t\nsome\t9\n')
    typing.until("size", "14 records")
    typing.until("notice", "2 labels became their codes; 2 records added")
    assert entries(typing, "a") == ["3"] * 10 + ["4", "3", "3", "some"]
    assert entries(typing, "b") == ["5"] * 10 + ["8", "two\nlines", "", "9"]
    assert entries(typing, "c") == ["7"] * 12 + ["", ""]
    choose(typing, 1, 3)
    paste(typing, "1\t2\n")
    typing.until("notice", "The block has 2 columns, and from c on there are 1. Nothing is set.")
    typing.click("choice-Leave it")
    typing.until_gone("notice")
    typing.press(Keys.CONTROL, "z")
    typing.until("size", "12 records")
    assert entries(typing, "a") == ["3"] * 12


def test_a_wider_block_makes_variables(typing: Screen) -> None:
    """What has no column is offered as new variables, which are made and filled; undone, they go again."""
    choose(typing, 1, 3)
    paste(typing, "8\tone\ttwo\n9\tthree\t\n")
    typing.until("notice", "The block has 3 columns, and from c on there are 1. Nothing is set.")
    typing.click("choice-Make 2 new variables of the rest")
    typing.until("size", "12 records × 6 variables")
    typing.until("notice", "Pasted 6 entries")
    assert entries(typing, "c")[:2] == ["8", "9"]
    assert entries(typing, "v5")[:3] == ["one", "three", ""] and entries(typing, "v6")[:2] == ["two", ""]
    typing.press(Keys.CONTROL, "z")
    typing.press(Keys.CONTROL, "z")
    typing.until("size", "12 records × 4 variables")
    assert typing.problems() == []


def test_ranges(typing: Screen) -> None:
    """Marked with Shift and the mouse; copied as labels or codes, cleared, filled down, filled with one entry."""
    labelled(typing)
    typing.driver.execute_script(CLIPBOARD)
    choose(typing, 2, 1)
    extended(typing, Keys.ARROW_DOWN, Keys.ARROW_RIGHT)
    assert len(typing.driver.find_elements("css selector", ".cell.among")) == 4
    assert copied(typing) == "3 Alone\t5\n3 Alone\t5"
    keys(typing, Keys.DELETE)
    typing.until("notice", "Cleared 4 entries in a and b, records 2 to 3")
    assert entries(typing, "a")[:4] == ["3", "", "", "3"] and entries(typing, "b")[:4] == ["5", "", "", "5"]
    cells = [typing.css(f".row:nth-of-type({record + 1})").find_elements("css selector", ".cell") for record in (1, 4)]
    ActionChains(typing.driver).click_and_hold(cells[0][2]).move_to_element(cells[1][3]).release().perform()
    assert copied(typing) == "5\t7\n\t7\n\t7\n5\t7"
    typing.press(Keys.CONTROL, "d")
    typing.until("notice", "Filled down 6 entries in b and c, records 2 to 4")
    assert entries(typing, "b")[:4] == ["5"] * 4
    choose(typing, 3, 1)
    typing.press(Keys.CONTROL, "d")
    settle(typing)
    assert entries(typing, "a")[:4] == ["3", "", "", "3"], "a blank above is filled in, too"
    extended(typing, Keys.ARROW_UP, Keys.ARROW_UP)
    paste(typing, "9")
    typing.until("notice", "Pasted 3 entries in a, records 1 to 3")
    assert entries(typing, "a")[:4] == ["9", "9", "9", "3"]


def test_labels_are_typed_for_codes(typing: Screen) -> None:
    """A label is kept as its code, whatever its case and accents; what is neither is kept as it is typed."""
    labelled(typing)
    choose(typing, 1, 1)
    keys(typing, "c", "a", "f", "e", ",", " ", "S", "hared", Keys.ENTER, "alone?", Keys.ENTER)
    settle(typing)
    assert entries(typing, "a")[:3] == ["4", "alone?", "3"]


def test_answers_are_offered(typing: Screen) -> None:
    """By code or by words of the label; ↓ and Enter take one, without that what was typed is kept as it stands."""
    labelled(typing)
    choose(typing, 1, 1)
    typing.until("cell-status", "a")
    keys(typing, "s", "h")
    typing.until("answers", "4 Café, shared")
    assert "Alone" not in typing.text("answers")
    keys(typing, Keys.ARROW_DOWN, Keys.ENTER, "s", "h", Keys.ENTER, Keys.F2)
    typing.until("answers", "3 Alone 4 Café, shared")
    keys(typing, Keys.ESCAPE)
    typing.until_gone("answers")
    choose(typing, 3, 1)
    keys(typing, Keys.F2)
    typing.until("answers", "3 Alone")
    typing.css("[data-test='answers'] li:nth-child(2)").click()
    settle(typing)
    assert entries(typing, "a")[:4] == ["4", "sh", "4", "3"]
    choose(typing, 4, 2)
    keys(typing, "1")
    assert not typing.all("answers"), "no list, nothing to offer"


def test_pasting_before_the_server_answers(typing: Screen) -> None:
    """What is pasted is shown at once, typed over, and kept in that order, into a record just begun as well."""
    typing.driver.execute_script(SLOW, "/steps", [800])
    choose(typing, 12, 1)
    paste(typing, "6\t6\n6\t6\n")
    typing.until("grid", "0012 6 6")
    keys(typing, "8", Keys.ENTER)
    settle(typing)
    typing.until("size", "13 records")
    assert entries(typing, "a")[-2:] == ["8", "6"] and entries(typing, "b")[-2:] == ["6", "6"]
    typing.press(Keys.CONTROL, Keys.ENTER)
    paste(typing, "0014\t1\t2\t3\n")
    settle(typing)
    assert [entries(typing, name)[-1] for name in ("plot_no", "a", "b", "c")] == ["0014", "1", "2", "3"]


HELD = """
const real = window.fetch
const held = new Promise((go) => (window.letGo = go))
window.fetch = async (input, init) => {
  if (String(input.url ?? input).includes('/steps')) await held
  return real(input, init)
}
"""
"""Holds what is sent back until it is let go."""


def test_a_block_over_what_another_window_changed(typing: Screen) -> None:
    """It is told and decided; nothing is written over unseen."""
    typing.driver.execute_script(HELD)
    choose(typing, 3, 1)
    paste(typing, "1\n2\n")
    first = another_window(typing, "records")
    typing.until("grid", "0012")
    choose(typing, 4, 1)
    keys(typing, "9", Keys.ENTER)
    settle(typing)
    typing.driver.switch_to.window(first)
    typing.driver.execute_script("window.letGo()")
    typing.until("notice", "Meanwhile this was changed: entry of a in record 4")
    assert entries(typing, "a")[2:4] == ["3", "9"]
    typing.click("choice-Do mine anyway")
    settle(typing)
    assert entries(typing, "a")[2:4] == ["1", "2"]
    typing.problems()  # the refusal
