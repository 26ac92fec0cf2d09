"""Checks on the real screen: from the map to a finding, a remedy seen before it is taken, and undone."""

import urllib.request

import pytest
from selenium.webdriver.common.keys import Keys

from tests.screen.conftest import Screen
from tests.screen.test_typing import study_of
from tests.screen.test_views import look_with_axe, open_demo

pytestmark = pytest.mark.screen


def test_a_remedy(screen: Screen) -> None:
    """Its effect is said first; done, the finding is gone; undo brings it back; the records of a finding are shown."""
    open_demo(screen)
    screen.click("stop-checks")
    screen.until("open-findings", "21 findings open")
    screen.until("stop-checks", "21")
    screen.css("[aria-label='letter, codes: an error']").click()
    screen.until("finding", "letter 27 entries are beyond what the code list allows")
    screen.click("remedy")
    screen.until("effect", "Listed yes for letter; valid 1,169 → 1,196; strays 27 → 0.")
    screen.until("open-findings", "21 findings open")
    screen.click("do-remedy")
    screen.until("no-findings", "Nothing found for codes of letter")
    screen.press(Keys.CONTROL, "z")
    screen.until("finding", "letter 27 entries are beyond what the code list allows")
    screen.css("[aria-label='rank_food, batteries: an error']").click()
    screen.until("finding", "rank_food 31 records use a rank twice")
    screen.click("see-records")
    screen.until("cell-status", "rank_food")
    assert screen.problems() == []


def beyond(screen: Screen) -> int:
    """Findings that are shown of codes that no list allows."""
    script = "return [...document.querySelectorAll('[data-test=finding]')].map((each) => each.innerText)"
    return sum("beyond what" in each for each in screen.driver.execute_script(script))


def test_several_remedies_at_once(screen: Screen) -> None:
    """The same remedy for all findings of a kind: their effect together is said first; each is undone by itself."""
    open_demo(screen)
    screen.click("stop-checks")
    screen.click("order-check")
    screen.css("[data-test='remedy-all']")
    before_all = beyond(screen)
    of_lists = next(each for each in screen.all("remedy-all") if each.text.startswith("list them in all"))
    times = int(of_lists.text.rsplit(" ", 1)[1])
    of_lists.click()
    screen.until("tray", f"{times} remedies chosen")
    screen.until("tray-effect", "strays ")
    before, after = screen.find("tray-effect").text.split("strays ")[1].split(" → ")
    assert int(before) > int(after)
    screen.click("do-all")
    screen.until("notice", f"Did {times} remedies")
    screen.until_gone("tray")
    screen._patiently(lambda _: beyond(screen) == before_all - times, "they are still found")
    left = beyond(screen)
    screen.press(Keys.CONTROL, "z")
    screen._patiently(lambda _: beyond(screen) == left + 1, "undo brought no finding back")
    assert screen.problems() == []


def test_what_was_accepted_comes_back(screen: Screen) -> None:
    """Quiet while it is as it was; when more of it comes it is told again, with what was accepted."""
    open_demo(screen)
    screen.click("stop-checks")
    screen.css("[aria-label='letter, codes: an error']").click()
    screen.until("finding", "letter 27 entries")
    screen.click("accept")
    screen.find("reason").find_element("css selector", "input").send_keys("ticked without looking")
    screen.click("give-reason")
    screen.until("no-findings", "Nothing found for codes of letter")
    screen.until("accepted-count", "1 accepted")
    study = study_of(screen)
    shown = screen.ask(f"/studies/{study}")
    letter = next(each["id"] for each in shown["variables"] if each["name"] == "letter")
    page = screen.ask(f"/studies/{study}/records?stop=60&variables={letter}")["columns"][0]
    record = next(at for at, which in enumerate(page["index"], 1) if page["texts"][which] != "yes")
    step = {"do": "set entries", "variable": letter, "entries": {str(record): "yes"}}
    screen.ask(f"/studies/{study}/steps", {"id": "another-yes-1", "base": shown["revision"], "step": step})
    screen.until("finding", "letter 28 entries are beyond")
    screen.until("accepted-before", "“yes” was accepted in 27 records (ticked without looking), and there are more now")
    assert look_with_axe(screen, "checks") == []


def test_a_rule_with_a_typo(screen: Screen) -> None:
    """Told at its characters as it is typed, mended, kept, broken by records that it leads to; and changed."""
    open_demo(screen)
    screen.go("/study/demo/checks?show=rules")
    screen.click("write-rule")
    typed = screen.find("formula")
    typed.send_keys("if tenure is 'Waiting lst' then")
    screen.until("formula-said", "The end cannot stand here. Expected:")
    typed.send_keys(" hou")
    screen.until("formula-offer", "hours")
    assert any(each.text.startswith("hours") for each in screen.all("formula-offer"))
    typed.send_keys(Keys.TAB, " is blank")
    screen.until("formula-said", "No code of tenure has the label “Waiting lst”. Did you mean “Waiting list”?")
    assert screen.css(".formula mark").text == "'Waiting lst'" and not screen.find("keep-rule").is_enabled()
    screen.click("formula-mend")
    screen.until("formula-said", "records meet it")
    screen.find("rule-title").send_keys("Waiting list works no plot")
    screen.press(Keys.CONTROL, Keys.ENTER)
    screen.until("rule", "if tenure is 'Waiting list' then hours is blank")
    broken = int(screen.find("rule-held").text.split()[0].replace(",", ""))
    screen.click("show-findings")
    screen.until("open-findings", "22 findings open")
    screen.css("[aria-label='tenure, rules: an error']").click()
    screen.until("finding", f"{broken:,} records break “Waiting list works no plot”")
    screen.until("evidence", "tenure 3, hours")
    screen.click("see-records")
    screen.until("cell-status", "tenure")
    screen.go("/study/demo/checks?show=rules")
    screen.click("into-library")
    screen.until("notice", "is in the library now")
    screen.click("remove-rule")
    screen.click("from-library")
    screen.until("rule", "Waiting list works no plot")
    assert look_with_axe(screen, "rules") == []
    assert screen.problems() == []


def test_gaps_lead_to_records(screen: Screen) -> None:
    """The picture is drawn and told as a table; a pattern leads to exactly its records."""
    open_demo(screen)
    screen.go("/study/demo/checks?show=gaps")
    screen.until("gap-pattern", "wait, comment")
    first = next(each for each in screen.all("gap-pattern") if "wait, comment" in each.text)
    count = int(first.text.split()[0].replace(",", ""))
    drawn = """const canvas = document.querySelector('[data-test=gap-map]'), image = canvas.getContext('2d')
        .getImageData(0, 0, canvas.width, canvas.height).data
        return new Set([...Array(image.length / 4).keys()].map((at) => image.slice(4 * at, 4 * at + 3).join())).size"""
    assert screen.driver.execute_script(drawn) > 3
    assert look_with_axe(screen, "gaps") == []
    first.find_element("css selector", "button").click()
    screen.until("open-arrange", "records")
    shown = int(screen.find("open-arrange").text.split()[0].replace(",", ""))
    assert shown >= count > 0
    assert screen.problems() == []


def test_how_it_is_checked(screen: Screen) -> None:
    """A check is turned off, a threshold set and refused beyond its ends; both are said in the report."""
    open_demo(screen)
    screen.click("stop-checks")
    screen.click("open-settings")
    screen.click("on-unlisted codes")
    screen.until("notice", "Turned the check “unlisted codes” off.")
    field = screen.find("threshold-nearly empty-share")
    field.send_keys(Keys.CONTROL, "a", Keys.NULL, "0.3", Keys.TAB)
    screen.until("notice", "Threshold of “nearly empty”: share of blanks set to 0.3 (default 0.95).")
    field = screen.find("threshold-nearly empty-share")
    field.send_keys(Keys.CONTROL, "a", Keys.NULL, "7", Keys.TAB)
    screen.until("notice", "7 cannot be the threshold")
    screen.click("close-settings")
    screen.until("open-settings", "Thresholds: 2 set")
    with urllib.request.urlopen(f"{screen.address}/api/studies/demo/check-report") as reply:
        page = reply.read().decode()
    assert "Not checked in this study." in page and "share of blanks 0.3 (default 0.95)" in page
    assert "beyond what the code list allows" not in page
