"""The diary amended on the real screen: a step of the past changed, what came after followed or told, and led back."""

import time

import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.remote.webelement import WebElement

from tests.screen.conftest import Screen
from tests.screen.test_derive import begin, wait_for
from tests.screen.test_typing import SLOW, entries
from tests.screen.test_views import look_with_axe, open_demo

pytestmark = pytest.mark.screen


def line(screen: Screen, words: str) -> WebElement:
    """The line of the diary that says something."""
    screen._patiently(lambda _: any(words in each.text for each in screen.all("diary-line")), f"no line says {words!r}")
    return next(each for each in screen.all("diary-line") if words in each.text)


def do(screen: Screen, words: str, what: str) -> None:
    """Does something with a line of the diary, as one does who points at it."""
    ActionChains(screen.driver).move_to_element(line(screen, words)).perform()
    line(screen, words).find_element("css selector", f"[data-test='{what}']").click()


def derive_two(screen: Screen) -> None:
    """Bands of hours, and what is recoded from them."""
    open_demo(screen)
    begin(screen, "hours", "bands")
    wait_for(screen, "bands hours: .. 9; 10 .. 14; 15 .. 23; 24 ..")
    screen.until("accounting", "valid")
    screen.press(Keys.CONTROL, Keys.ENTER)
    screen.until("size", "55 variables")
    begin(screen, "hours_b", "recode")
    screen.type("to-2", "1")
    wait_for(screen, "1, 2 -> 1")
    screen.type("derive-name", "busy")
    screen.press(Keys.CONTROL, Keys.ENTER)
    screen.until("size", "56 variables")
    screen.click("stop-diary")


def keep(screen: Screen) -> None:
    """Amends the diary; what is said of it may still be that of the amendment before."""
    screen.press(Keys.CONTROL, Keys.ENTER)
    screen.until("notice", "Amended the diary")
    screen.until_gone("amend-panel")


def until_of(screen: Screen, head: str) -> None:
    """Waits for the lines of a sentence."""
    name = "head-variables.1.how"
    screen._patiently(lambda _: screen.find(name).get_property("value") == head, f"{head} never came")


def test_a_step_amended_and_what_came_after_follows(screen: Screen) -> None:
    """Other bands: the later recode is done again on them, every count is shown before, and undo leads back."""
    derive_two(screen)
    before = entries(screen, "busy")
    do(screen, "Derived hours_b", "amend")
    screen.until("amend-counts", "later step as before")
    for number, text in enumerate((".. 4 'up to 4'", "5 .. 14", "15 .."), 1):
        band = screen.find(f"line-variables.1.how.{number}")
        band.send_keys(Keys.CONTROL, "a")
        band.send_keys(text)
    band.find_element("xpath", "./../following-sibling::div[1]/button").click()
    assert [each.text for each in screen.all("line-was")] == [".. 9", "10 .. 14", "15 .. 23"]
    assert screen.css(".gone del").text == "24 .."
    screen.until("amend-said", "Derived hours_b = bands hours: .. 4 'up to 4'; 5 .. 14; 15 ...")
    screen.until("moved-hours_b", "up to 4")
    assert look_with_axe(screen, "amend-panel") == []
    keep(screen)
    for hours, band, busy in zip(
        entries(screen, "hours"), entries(screen, "hours_b"), entries(screen, "busy"), strict=True
    ):
        if hours.isdigit() and int(hours) <= 80:
            assert band == str(1 + (int(hours) > 4) + (int(hours) > 14))
            assert busy == {"1": "1", "2": "1", "3": "3"}[band]
    assert "done again" in line(screen, "Derived busy").text
    screen.click("undo")
    screen._patiently(lambda _: entries(screen, "busy") == before, "undo did not lead back")
    screen.click("redo")
    screen._patiently(lambda _: entries(screen, "busy") != before, "redo did not lead on")
    assert screen.problems() == []


def test_kept_before_it_is_known_what_becomes_of_it(screen: Screen) -> None:
    """Ctrl+Enter goes ahead of the preview; where that says no, nothing is kept; what is typed on takes it back."""
    derive_two(screen)
    do(screen, "Derived hours_b", "amend")
    screen.until("amend-counts", "later step as before")
    do(screen, "Derived busy", "amend")
    until_of(screen, "recode hours_b:")
    screen.driver.find_elements(By.CSS_SELECTOR, "[aria-label='As it was']")[1].click()
    until_of(screen, "bands hours:")
    screen.driver.execute_script(SLOW, "/amend/preview", [1500])
    screen.find("line-variables.1.how.1").send_keys(Keys.CONTROL, "a")
    screen.find("line-variables.1.how.1").send_keys(".. below")
    screen.press(Keys.CONTROL, Keys.ENTER)
    screen.until("amend-problem", "cannot stand here")
    screen._patiently(lambda _: not screen.find("keep-amend").is_enabled(), "it could be kept")
    screen.find("line-variables.1.how.1").send_keys(" 5")
    screen.find("line-variables.1.how.2").send_keys(Keys.CONTROL, "a")
    screen.find("line-variables.1.how.2").send_keys("5 .. 14")
    screen.press(Keys.CONTROL, Keys.ENTER)
    screen.find("line-variables.1.how.2").send_keys(Keys.BACKSPACE)
    screen.find("line-variables.1.how.2").send_keys("3")
    time.sleep(2.5)
    assert screen.find("amend-panel").is_displayed(), "what was typed on took it back"
    screen.find("line-variables.1.how.3").send_keys(Keys.CONTROL, "a")
    screen.find("line-variables.1.how.3").send_keys("14 .. 23")
    keep(screen)
    for hours, band in zip(entries(screen, "hours"), entries(screen, "hours_b"), strict=True):
        if hours.isdigit() and int(hours) <= 80:
            assert band == str(1 + (int(hours) > 4) + (int(hours) > 13) + (int(hours) > 23))
    assert screen.problems() == []


def test_what_becomes_impossible_is_left_out_or_mended(screen: Screen) -> None:
    """Without the bands what was recoded from them cannot be: it is told, and either mended or left out."""
    derive_two(screen)
    do(screen, "Derived hours_b", "leave-out")
    screen.until("amend-foot", "1 step cannot be done any more")
    assert "not possible: the variable “hours_b” is not there any more" in line(screen, "Derived busy").text
    assert not screen.find("keep-amend").is_enabled()
    do(screen, "Derived busy", "amend")
    screen.click("whole-variables.1.how")
    how = screen.find("part-variables.1.how")
    how.send_keys(Keys.CONTROL, "a")
    how.send_keys("indicator hours > 14")
    screen.until("amend-said", "Derived busy = indicator hours > 14")
    screen._patiently(lambda _: screen.find("keep-amend").is_enabled(), "it could never be kept")
    keep(screen)
    screen.until("size", "55 variables")
    assert set(entries(screen, "busy")) == {"", "0", "1"}
    do(screen, "Derived busy", "put-in")
    screen.select("step-kind", "rename")
    screen.type("key-names.1", "hours" + Keys.TAB)
    screen.type("part-names.1", "time_spent")
    screen.until("amend-said", "Renamed hours to time_spent")
    keep(screen)
    assert len(entries(screen, "time_spent")) == 1_204
    do(screen, "Derived busy", "leave-out")
    screen.until("amend-foot", "0 entries change")
    screen.press(Keys.ESCAPE)
    screen.until_gone("amend-panel")
    assert screen.problems() == []
