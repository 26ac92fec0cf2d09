"""Editions, routines and carried studies on the real screen."""

import json
import time
import urllib.request
from pathlib import Path

import pytest
from selenium.webdriver.common.keys import Keys

from tests.screen.conftest import Screen
from tests.screen.test_amending import line
from tests.screen.test_derive import begin, wait_for
from tests.screen.test_typing import study_of
from tests.screen.test_views import look_with_axe, open_demo

pytestmark = pytest.mark.screen


def named(screen: Screen, name: str) -> None:
    """Names the study as it is now."""
    screen.click("name-edition")
    screen.type("edition-name", name)
    screen.press(Keys.CONTROL, Keys.ENTER)
    screen.until("notice", f"The study as it is now is the edition “{name}”.")


def fetched(screen: Screen, path: str) -> bytes:
    with urllib.request.urlopen(f"{screen.address}{path}") as reply:
        return bytes(reply.read())


def test_two_editions_compared(screen: Screen) -> None:
    """A state is named, the study changed, what differs is seen and put away, and one goes back to it."""
    open_demo(screen)
    screen.click("stop-diary")
    named(screen, "As it came")
    begin(screen, "tenure", "recode")
    screen.type("to-2", "1")
    wait_for(screen, "1, 2 -> 1")
    screen.click("in-place")
    screen.press(Keys.CONTROL, Keys.ENTER)
    screen.until("notice", "in place")
    screen.click("stop-diary")
    named(screen, "Recoded")
    screen._patiently(lambda _: len(screen.all("edition")) == 2, "the second edition is not in the diary")
    assert [each.text.split("“")[1].split("”")[0] for each in screen.all("edition")] == ["Recoded", "As it came"]
    screen.click("compare-editions")
    screen.select("compare-one", _ids(screen)["As it came"])
    screen.until("moved-tenure", "entries")
    screen.select("compare-other", _ids(screen)["Recoded"])
    screen.until("moved-tenure", "before")
    assert look_with_axe(screen, "compare-panel") == []
    page = fetched(screen, screen.find("compare-page").get_attribute("href").split(screen.address)[1]).decode()
    assert "As it came → Recoded" in page and "<code>tenure</code>" in page
    screen.press(Keys.ESCAPE)
    screen.until_gone("compare-panel")
    screen.all("go-edition")[-1].click()
    screen._patiently(lambda _: "the study is here" in screen.all("edition")[-1].text, "it did not go back")
    assert "Edition “As it came”" in fetched(screen, f"/api/studies/{study_of(screen)}/story").decode()
    assert screen.problems() == []


def test_steps_open_and_are_chosen(screen: Screen) -> None:
    """A step opens to what it changed, old by new; chosen ones are saved as a routine of their own."""
    open_demo(screen)
    screen.click("stop-diary")
    screen.find("diary-line")
    row = line(screen, "Marked -7 as missing (not asked)")
    screen.driver.execute_script("arguments[0].querySelector('[data-test=evidence]').click()", row)
    screen.until("moved-wait", "1,005 entries read otherwise")
    assert "missing -7 Not asked -8 Don't know" in screen.text("moved-wait")
    assert look_with_axe(screen, "diary-line") == []
    screen.click("pick-steps")
    screen.driver.execute_script(
        "arguments[0].querySelector('[data-test=pick]').click()", line(screen, "Marked -7 as missing (not asked)")
    )
    screen.until("picking", "1 step so far")
    saved = fetched(screen, screen.find("save-picked").get_attribute("href").split(screen.address)[1]).decode()
    assert saved.count("- do:") == 1 and "mark missing" in saved and "[wait]" in saved
    assert screen.problems() == []


def test_an_edition_is_looked_at(screen: Screen) -> None:
    """It opens beside the study, as it was, in every stop; what somebody types there is refused in a sentence."""
    open_demo(screen)
    screen.click("stop-diary")
    named(screen, "As it came")
    screen.click("undo")
    screen.click("undo")
    screen.click("open-edition")
    screen.until("looked-at", "edition “As it came”, read only")
    assert not screen.all("undo")
    for stop in ("records", "checks", "tables", "derive", "handover", "diary", "codebook"):
        screen.click(f"stop-{stop}")
        screen._patiently(lambda _, to=stop: f"/{to}" in screen.driver.current_url, f"{stop} does not open")
    assert "~" in screen.driver.current_url
    screen.open("tenure")
    screen.type("label", "Held" + Keys.TAB)
    screen.until("notice", "This is the edition “As it came”, which can only be looked at.")
    screen.click("leave-edition")
    screen.until_gone("looked-at")
    found = json.loads(fetched(screen, f"/api/studies/{study_of(screen)}"))
    assert next(each for each in found["variables"] if each["name"] == "tenure")["label"] != "Held"


def _ids(screen: Screen) -> dict[str, str]:
    found = json.loads(fetched(screen, f"/api/studies/{study_of(screen)}/editions"))
    return {each["name"]: each["id"] for each in found}


def test_the_diary_filtered(screen: Screen) -> None:
    """Steps that concern a variable, of one kind: others are not shown; all come back."""
    open_demo(screen)
    screen.click("stop-diary")
    screen._patiently(lambda _: len(screen.all("diary-line")) > 60, "the diary is not there")
    screen.type("diary-variable", "age_band" + Keys.TAB)
    screen._patiently(lambda _: 0 < len(screen.all("diary-line")) < 12, "it was not filtered")
    screen.select("diary-kind", "list codes")
    screen._patiently(lambda _: [each.text for each in screen.all("diary-line")] != [], "none is left")
    screen._patiently(
        lambda _: all("Listed" in each.text or "Labelled" in each.text for each in screen.all("diary-line")),
        "others are shown",
    )
    screen.type("diary-variable", "nothing_like_it" + Keys.TAB)
    screen.until("diary-none", "No step is like that.")
    screen.click("diary-all")
    screen._patiently(lambda _: len(screen.all("diary-line")) > 60, "not all came back")
    assert screen.problems() == []


def test_a_routine_saved_and_run(screen: Screen, tmp_path: Path) -> None:
    """The diary saved, changed by hand, and run: what each step would do is seen first; undo leads back before it."""
    open_demo(screen)
    screen.click("stop-diary")
    text = fetched(screen, screen.find("save-routine").get_attribute("href").split(screen.address)[1]).decode()
    assert text.startswith("row tag routine: 1\nstudy: Fennel Row plot holders 2026\n")
    routine = tmp_path / "more.yaml"
    routine.write_text(
        "row tag routine: 1\n# what we agreed on\nsteps:\n  - do: rename\n    names: {tenure: held_as, nothing: x}\n"
        "  - do: derive\n    variables: [{how: 'indicator hours > 10', into: {busy: busy}}]\n  - do: remove variables\n"
        "    variables: [never]\n",
        "utf-8",
    )
    screen.find("run-routine").send_keys(str(routine))
    screen.until("routine-counts", "not possible")
    said = [each.text for each in screen.all("routine-line")]
    assert "in part: no variable is called “nothing”" in said[0] and "Derived busy" in said[1]
    assert "not possible: no variable is called “never”" in said[2]
    screen.press(Keys.CONTROL, Keys.ENTER)
    screen.until("notice", "Did what more.yaml says.")
    screen.until("size", "55 variables")
    assert "Renamed tenure to held_as" in line(screen, "Renamed tenure").text
    screen.click("undo")
    screen.until("size", "54 variables")
    routine.write_text("row tag routine: 1\nsteps:\n  - do: dance\n", "utf-8")
    screen.find("run-routine").send_keys(str(routine))
    screen.until("routine-problem", "row 3: There is no step called “dance”")
    assert screen.problems() == []


def test_a_study_carried_and_opened(screen: Screen, tmp_path: Path) -> None:
    """Everything in one file, opened again as a study of its own; a damaged one is told and opens nothing."""
    open_demo(screen)
    carried = tmp_path / "fennel.rowtag"
    carried.write_bytes(fetched(screen, f"/api/studies/{study_of(screen)}/carried"))
    screen.go("/")
    screen.find("open-carried").send_keys(str(carried))
    screen.until("notice", "was opened as it was carried here")
    screen._patiently(lambda _: len(screen.all("study")) == 2, "it is not on the list")
    carried.write_bytes(carried.read_bytes().replace(b"Fennel Row", b"Fennel Rov"))
    screen.find("open-carried").send_keys(str(carried))
    screen.until("notice", "“fennel.rowtag” is damaged")
    time.sleep(0.3)
    assert len(screen.all("study")) == 2
    screen.all("copy")[0].click()
    screen.until("notice", "stands beside it")
    screen._patiently(lambda _: len(screen.all("study")) == 3, "the copy is not on the list")
