"""Find and replace on the real screen: previewed, taken as one step, undone; in the chosen variables or all."""

import pytest
from selenium.webdriver.common.keys import Keys

from tests.screen.conftest import Screen
from tests.screen.test_blocks import extended, labelled
from tests.screen.test_typing import choose, entries, settle, typing

__all__ = ["typing"]
pytestmark = pytest.mark.screen


def fill(screen: Screen, name: str, text: str) -> None:
    field = screen.find(name)
    field.send_keys(Keys.CONTROL, "a")
    field.send_keys(text or Keys.BACKSPACE)


def test_find_and_replace(typing: Screen) -> None:
    """Nothing before it is seen what would be; whole entries, a pattern that is none, labels; undo brings it back."""
    labelled(typing)
    choose(typing, 1, 1)
    typing.press(Keys.CONTROL, "h")
    fill(typing, "replace-find", "5")
    fill(typing, "replace-by", "-9")
    typing.until("replace-status", "Nothing is “5” in a.")
    typing.click("replace-everywhere")
    typing.until("replace-found", "b 12 5 → -9 12")
    assert entries(typing, "b") == ["5"] * 12
    typing.click("replace-do")
    typing.until("notice", "Replaced “5” by “-9” in b")
    assert entries(typing, "b") == ["-9"] * 12
    typing.select("replace-how", "pattern")
    fill(typing, "replace-find", "(")
    typing.until("replace-status", "The pattern cannot be used")
    assert not typing.find("replace-do").is_enabled()
    typing.select("replace-how", "whole")
    typing.click("replace-labels")
    fill(typing, "replace-find", "alone")
    fill(typing, "replace-by", "cafe, shared")
    typing.until("replace-found", "a 12 3 → 4 12")
    typing.find("replace-by").send_keys(Keys.CONTROL, Keys.ENTER)
    settle(typing)
    typing.until("grid", "4 Café, shared")
    assert entries(typing, "a") == ["4"] * 12
    typing.find("replace-by").send_keys(Keys.ESCAPE)
    typing.until_gone("replace")
    typing.press(Keys.CONTROL, "z")
    typing.press(Keys.CONTROL, "z")
    settle(typing)
    typing._patiently(lambda _: entries(typing, "b") == ["5"] * 12, "undo did not bring it back")
    typing.problems()  # refusals that were shown in place


def test_blanks_of_a_range(typing: Screen) -> None:
    """Every blank of the chosen variables becomes a code, others stay."""
    choose(typing, 2, 1)
    extended(typing, Keys.ARROW_DOWN, Keys.ARROW_RIGHT)
    typing.find("grid").send_keys(Keys.DELETE)
    settle(typing)
    choose(typing, 1, 2)
    typing.click("open-replace")
    fill(typing, "replace-by", "-9")
    typing.until("replace-found", "b 2 blank → -9 2")
    typing.click("replace-do")
    typing.until("notice", "Replaced a blank by “-9” in b")
    assert entries(typing, "b")[:4] == ["5", "-9", "-9", "5"] and entries(typing, "a")[:4] == ["3", "", "", "3"]
