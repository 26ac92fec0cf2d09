"""Deriving on the real screen: shaped by hand and by sentence, seen over all records, kept, changed, and followed."""

import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.support.ui import Select

from tests.screen.conftest import Screen
from tests.screen.test_typing import entries, study_of
from tests.screen.test_views import look_with_axe, open_demo

pytestmark = pytest.mark.screen


def begin(screen: Screen, variable: str, way: str) -> None:
    screen.click("stop-derive")
    found = screen.find("derive-filter")
    found.send_keys(Keys.CONTROL, "a")
    found.send_keys(variable)
    screen.click(f"source-{variable}")
    screen.click(f"way-{way}")


def sentence(screen: Screen) -> str:
    return str(screen.find("formula").get_property("value"))


def wait_for(screen: Screen, text: str) -> None:
    """Waits until the sentence says something."""
    screen._patiently(lambda _: text in sentence(screen), f"the sentence never said {text!r}, but {sentence(screen)!r}")


def test_a_recode_by_hand(screen: Screen) -> None:
    """Numbers typed beside entries write the sentence; labels are named; every record is accounted for; undo."""
    open_demo(screen)
    begin(screen, "tenure", "recode")
    screen.type("to-2", "1")
    wait_for(screen, "1, 2 -> 1 'In my own name'")
    screen.type("to-3", "0")
    wait_for(screen, "3 -> 0")
    screen.type("label-1", "Holds a plot")
    wait_for(screen, "1 'Holds a plot'")
    screen.type("to-8", Keys.DELETE)
    screen.until("accounting", "1,120 valid · 60 coded missing · 21 blank · 3 strays")
    assert sentence(screen) == "recode tenure: 1, 2 -> 1 'Holds a plot'; 3 -> 0 'Waiting list'; 8 -> blank"
    screen.type("derive-name", "holds_plot")
    screen.press(Keys.CONTROL, Keys.ENTER)
    screen.until("notice", "Derived holds_plot = recode tenure: 1, 2 -> 1 'Holds a plot'; 3 -> 0 'Waiting list'")
    screen.until("size", "55 variables")
    made = entries(screen, "holds_plot")
    for old, new in zip(entries(screen, "tenure"), made, strict=True):
        assert new == {"1": "1", "2": "1", "3": "0", "8": ""}.get(old, old)
    assert look_with_axe(screen, "derive") == []
    screen.click("undo")
    screen.until("size", "54 variables")
    assert screen.problems() == []


def test_text_to_codes_in_an_order_of_ones_own(screen: Screen) -> None:
    """The order is changed by keys, the labels are the words, and the tables follow it."""
    open_demo(screen)
    begin(screen, "age_band", "codes")
    wait_for(screen, "codes age_band: 'Under 35' 1; '35 to 59' 2; '60 and over' 3")
    screen.find("label-3").send_keys(Keys.ALT, Keys.ARROW_UP)
    wait_for(screen, "'60 and over' 2")
    screen.until("new-2", "507")
    ActionChains(screen.driver).drag_and_drop(
        screen.css("[data-test='new-2'] .number"), screen.css("[data-test='new-1'] .number")
    ).perform()
    wait_for(screen, "codes age_band: '60 and over' 1; 'Under 35' 2; '35 to 59' 3")
    screen.find("label-1").send_keys(Keys.ALT, Keys.ARROW_DOWN)
    wait_for(screen, "codes age_band: 'Under 35' 1; '60 and over' 2")
    screen.until("new-2", "507")
    screen.type("derive-name", "age_c")
    screen.press(Keys.CONTROL, Keys.ENTER)
    screen.until("size", "55 variables")
    screen.click("stop-tables")
    screen.click("pick-age_c")
    for code, words in (("1", "Under 35"), ("2", "60 and over"), ("3", "35 to 59")):
        screen.until(f"row-{code}", words)


def test_bands_by_dragging(screen: Screen) -> None:
    """A cut is dragged on the histogram and moved by keys; what is counted is what is kept."""
    open_demo(screen)
    begin(screen, "hours", "bands")
    wait_for(screen, "bands hours: .. 9; 10 .. 14; 15 .. 23; 24 ..")
    cut = screen.css("[data-test='cut-0'] circle")
    ActionChains(screen.driver).drag_and_drop_by_offset(cut, -60, 0).perform()
    screen._patiently(lambda _: ".. 9;" not in sentence(screen), "the cut never moved")
    screen.type("end-0", "6")
    wait_for(screen, "bands hours: .. 6; 7 .. 14;")
    screen.find("cut-0").send_keys(Keys.ARROW_RIGHT)
    wait_for(screen, "bands hours: .. 7; 8 .. 14;")
    screen.until("accounting", "1,050 valid")
    screen.press(Keys.CONTROL, Keys.ENTER)
    screen.until("size", "55 variables")
    ends = [7, 14, 23]
    for old, new in zip(entries(screen, "hours"), entries(screen, "hours_b"), strict=True):
        if old.isdigit() and int(old) <= 80:
            assert new == str(1 + sum(int(old) > end for end in ends))


def test_a_score_with_an_item_turned_round(screen: Screen) -> None:
    """The item that runs against the rest is seen and turned; alpha rises; what the score means is said in bands, whose
    ends and labels are typed, in the same step; undo takes both back."""
    open_demo(screen)
    begin(screen, "site_1", "score")
    screen.until("alpha", "0.51")
    screen.click("turn-site_4")
    wait_for(screen, "mean(site_1, site_2, site_3, reverse(site_4), site_5, site_6, needs 4)")
    screen.until("alpha", "0.8")
    screen.click("then-bands")
    screen.until("score-bands", "lowest")
    screen.type("end-0", "2.5")
    screen.type("band-label-0", "Poor")
    screen.until("score-bands", "2.5")
    screen.type("then-name", "site_is")
    screen.until("accounting", "1,194 valid · 10 blank")
    screen.press(Keys.CONTROL, Keys.ENTER)
    screen.until("size", "56 variables")
    screen._patiently(lambda _: "site_is" in _derived(screen), "the bands never came")
    made = _derived(screen)
    assert made["site_is"]["sentence"].startswith("bands site_mean: .. below 2.5 'Poor'; 2.5 .. below ")
    assert made["site_is"]["sources"] == [made["site_mean"]["id"]]
    for score, band in zip(entries(screen, "site_mean"), entries(screen, "site_is"), strict=True):
        assert (band == "1") == (score != "" and float(score) < 2.5)
    screen.click("undo")
    screen.until("size", "54 variables")


def test_split_and_group_figures_and_a_typo_mended(screen: Screen) -> None:
    """Answers in one cell become variables; a mean within two others; a wrong name is marked and mended by a click."""
    open_demo(screen)
    begin(screen, "wishes", "split")
    wait_for(screen, "split wishes by ';': 'seeds'; 'tools'; 'advice'")
    screen.press(Keys.CONTROL, Keys.ENTER)
    screen.until("size", "57 variables")
    for old, new in zip(entries(screen, "wishes"), entries(screen, "wishes_tools"), strict=True):
        assert new == ("" if not old.strip() else str(int("tools" in old)))
    begin(screen, "hours", "formula")
    field = screen.find("formula")
    field.send_keys(Keys.CONTROL, "a")
    field.send_keys("mean(hours) over quarter, tenur ")
    screen.until("formula-said", "There is no variable “tenur”")
    screen.click("formula-mend")
    wait_for(screen, "mean(hours) over quarter, tenure")
    screen.until("accounting", "valid")
    screen.type("derive-name", "hours_there")
    screen.press(Keys.CONTROL, Keys.ENTER)
    screen.until("size", "58 variables")


def test_what_is_derived_follows(screen: Screen) -> None:
    """A derived variable is changed in its place; what was derived from it is found to be behind, and worked out."""
    open_demo(screen)
    study = study_of(screen)
    begin(screen, "tenure", "recode")
    field = screen.find("formula")
    field.send_keys(Keys.CONTROL, "a")
    field.send_keys("recode tenure: 1, 2 -> 1; 3 -> 0; stray -> blank")
    screen.until("accounting", "24 blank")
    screen.type("derive-name", "holds")
    screen.press(Keys.CONTROL, Keys.ENTER)
    screen.until("size", "55 variables")
    begin(screen, "holds", "formula")
    field = screen.find("formula")
    field.send_keys(Keys.CONTROL, "a")
    field.send_keys("indicator holds = 1 and hours > 10")
    screen.type("derive-name", "busy")
    screen._patiently(lambda _: screen.find("derive").is_enabled(), "it could never be derived")
    screen.press(Keys.CONTROL, Keys.ENTER)
    screen.until("size", "56 variables")
    screen.click("source-busy")
    wait_for(screen, "indicator holds = 1 and hours > 10")
    screen.click("source-holds")
    wait_for(screen, "recode tenure: 1, 2 -> 1; 3 -> 0; stray -> blank")
    field = screen.find("formula")
    field.send_keys(Keys.CONTROL, "a")
    field.send_keys("recode tenure: 1 -> 1; 2, 3 -> 0; stray -> blank")
    screen.until("accounting", "24 blank")
    screen._patiently(lambda _: screen.find("derive").is_enabled(), "it could never be derived")
    screen.press(Keys.CONTROL, Keys.ENTER)
    screen.until("notice", "in place; 285 entries changed")
    assert [each["behind"] for each in screen.ask(f"/studies/{study}/derived")["variables"]] == [False, True]
    screen.find("behind")
    screen.click("source-busy")
    screen.until("derive-name", "")
    screen.click("work-again")
    screen.until("notice", "Recalculated busy")
    screen.until_gone("behind")
    assert [each["behind"] for each in screen.ask(f"/studies/{study}/derived")["variables"]] == [False, False]


def test_what_is_derived_follows_by_itself(screen: Screen) -> None:
    """Once it is let, a change of a source is followed in the same step, on the screen, too; undo takes both back."""
    open_demo(screen)
    begin(screen, "tenure", "recode")
    screen.type("to-2", "1")
    screen.type("derive-name", "holds")
    screen.press(Keys.CONTROL, Keys.ENTER)
    screen.until("size", "55 variables")
    screen.click("follow")
    screen.until("notice", "Let derived variables follow what they are made of.")
    before = entries(screen, "holds")
    begin(screen, "tenure", "recode")
    screen.type("to-1", "3")
    screen.click("in-place")
    screen.press(Keys.CONTROL, Keys.ENTER)
    screen.until("notice", "holds followed in")
    after = entries(screen, "holds")
    assert after != before and [{"1": "1", "2": "1"}.get(each, each) for each in entries(screen, "tenure")] == after
    assert not screen.all("behind")
    screen.click("undo")
    screen._patiently(lambda _: entries(screen, "holds") == before, "undo left what had followed")
    screen.click("follow")
    screen.until("notice", "Let derived variables stay until they are recalculated.")


def test_for_a_whole_battery_and_as_a_list(screen: Screen) -> None:
    """The same is done for six items as one step; bands can be the list of the variable itself, changing no entry."""
    open_demo(screen)
    begin(screen, "site_1", "reverse")
    screen.click("for-all")
    screen.until("accounting", "valid")
    screen._patiently(lambda _: screen.find("derive").is_enabled(), "it could never be derived")
    assert screen.find("derive-name").get_property("value") == "*_rev"
    screen.press(Keys.CONTROL, Keys.ENTER)
    screen.until("size", "60 variables")
    assert "site_6_rev = reverse site_6 from 1 to 5" in " ".join(
        each["sentence"] and f"{name} = {each['sentence']}" for name, each in _derived(screen).items()
    )
    before = entries(screen, "hours")
    begin(screen, "hours", "bands")
    screen.find("end-2")
    screen.click("as-list")
    screen.until("notice", "Set 4 code lines, code list partial on hours")
    assert entries(screen, "hours") == before
    screen.go(f"/study/{study_of(screen)}/codebook/{_derived(screen)['site_6_rev']['id']}")
    screen.until("derived-by", "= reverse site_6 from 1 to 5")


def _derived(screen: Screen) -> dict[str, dict[str, str]]:
    study = study_of(screen)
    names = {each["id"]: each["name"] for each in screen.ask(f"/studies/{study}")["variables"]}
    return {names[each["id"]]: each for each in screen.ask(f"/studies/{study}/derived")["variables"]}


def test_open_answers_get_themes(screen: Screen) -> None:
    """Key words assign answers; one that is left is assigned by hand, and is not among those that are left any more."""
    open_demo(screen)
    begin(screen, "comment", "mentions")
    screen.find("left-answer")
    wait_for(screen, "mentions comment: ")
    screen.type("new-theme", "Paths")
    wait_for(screen, "'Paths' where 'paths'")
    answer = screen.css("[data-test='left-answer'] .words").text
    theme = sentence(screen).count(" where ") - 1
    Select(screen.css("[data-test='left-answer'] select")).select_by_value(str(theme))
    wait_for(screen, f"'Paths' where 'paths', = {_quoted(answer)}")
    screen._patiently(lambda _: answer not in [each.text for each in screen.all("left-answer")], "it is still left")
    screen.press(Keys.CONTROL, Keys.ENTER)
    screen.until("notice", "Derived comment_")
    made = list(_derived(screen))[-1]
    ticked = {old.strip(): new for old, new in zip(entries(screen, "comment"), entries(screen, made), strict=True)}
    assert ticked[answer] == "1"


def _quoted(text: str) -> str:
    return "'" + text.replace("\\", "\\\\").replace("'", "\\'") + "'"
