"""The document beside the work, on the real screen: pasted, followed, taken from, compared as a whole."""

import re
import time
from contextlib import closing
from pathlib import Path

import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.remote.webelement import WebElement
from selenium.webdriver.support.ui import WebDriverWait

from rowtag.demo.generator import questionnaire, write_csv
from rowtag.demo.questions import QUESTIONS
from rowtag.store.workspace import Workspace
from tests.formats.books import xlsx
from tests.screen.conftest import WAIT, Screen, Server
from tests.screen.test_intake import new_study
from tests.screen.test_views import look_with_axe
from tests.screen.test_walk import bring_in
from tools import made

pytestmark = pytest.mark.screen

DATA = "tenure,hours,shade,rent,extra\n" + "1,4,1,10,a\n2,90,2,20,b\n8,7,2,30,c\n-9,3,1,40,d\n" * 5
NOTES = """Notes on the plots

Tenure - how held (1 = own, 2 = shared, 8 = lent, -9 = refused)
HOURS - hours in a usual week (0 to 80)
shade - shade in summer
  1 much
  2 little
rennt - rent paid
gone - nobody knows (1 = yes, 0 = no)
Thank you
"""


def paste(screen: Screen, text: str, name: str) -> None:
    """Keeps a text beside the study, as if it were pasted."""
    field = screen.find("sheet-text")
    screen.driver.execute_script(
        "arguments[0].value = arguments[1]; arguments[0].dispatchEvent(new Event('input'))", field, text
    )
    screen.find("sheet-name").send_keys(name)
    screen.click("keep-sheet")


def lines(screen: Screen, kind: str = "line") -> list[str]:
    """The lines in sight that are of some kind."""
    found = screen.driver.find_elements(By.CSS_SELECTOR, f"[data-test='sheet-lines'] .{kind}")
    return [each.text.strip() for each in sorted(found, key=lambda each: int(each.get_attribute("data-index") or 0))]


def line(screen: Screen, number: int) -> WebElement:
    return screen.css(f"#line-{number}")


def sweep(screen: Screen, first: int, last: int) -> None:
    """Chooses lines of the document with the mouse."""
    ActionChains(screen.driver).click(line(screen, first)).key_down(Keys.SHIFT).click(line(screen, last)).key_up(
        Keys.SHIFT
    ).perform()


@pytest.fixture
def plots(tmp_path: Path) -> Path:
    path = tmp_path / "plots.csv"
    path.write_text(DATA, encoding="utf-8")
    return path


def test_from_paste_to_reconciled(screen: Screen, server: Server, tmp_path: Path) -> None:
    """The demo's questionnaire alone brings nine in ten of its labels and code lists: pasted, read, applied, kept."""
    write_csv(tmp_path / "fennel-row-2026.csv")
    bring_in(screen, tmp_path / "fennel-row-2026.csv", "1,204 records × 54 variables")
    screen.click("side-switch")
    paste(screen, questionnaire(), "Questionnaire")
    screen.click("read-it-all")
    assert screen.text("compare-read") == "347 lines, 50 variables found, 14 lines not used"
    screen.until("group-only-in-the-data", "6")
    assert not screen.all("nothing-met")
    screen.click("take-all")
    screen.click("group-only-in-the-sheet")
    screen.click("add-all")
    screen.until("compare-status", "2 variables added")
    screen.click("apply-compare")
    screen.until("group-agrees", "50")
    screen.until("group-differs", "0")
    assert "0 taken, 0 kept, 0 undecided" in screen.text("compare-status")
    screen.press(Keys.ESCAPE)
    screen.open("tenure")
    assert screen.find("label").get_property("value") == "How the plot is held"
    assert screen.problems() == []

    server.stop()
    with closing(Workspace(server.folder)) as workspace:
        kept = workspace.study(next(iter(workspace.entries())).id).study
    heads = {kept.variable(id).origin.name: kept.tag(id) for id in kept.order}
    told = [each for each in QUESTIONS if each.label]
    right = [each for each in told if heads[each.head].label == each.label]
    assert len(right) >= 0.9 * len(told)
    coded = [each for each in QUESTIONS if any(each.codes.values())]
    lists = [
        each
        for each in coded
        if {code.code: code.label for code in heads[each.head].codes} == {**each.codes, **each.printed}
        and {(code.code, code.reason) for code in heads[each.head].missing} == set(each.missing)
    ]
    assert len(lists) >= 0.9 * len(coded)


def test_lines_follow_and_are_taken(screen: Screen, plots: Path) -> None:
    """Lines of the current tag stand out; names lead to tags; chosen lines are understood and applied as one step."""
    bring_in(screen, plots, "20 records × 5 variables")
    screen.press(Keys.ALT, "s")
    paste(screen, NOTES, "Notes")
    screen.open("shade")
    screen._patiently(lambda _: len(lines(screen, "mine")) == 3, "the lines of shade never stood out")
    assert lines(screen, "mine") == ["shade - shade in summer", "1 much", "2 little"]
    assert lines(screen, "grey") == ["Notes on the plots", "Thank you"]
    screen.click("sheet-name-HOURS")
    screen._patiently(lambda _: lines(screen, "mine") == ["HOURS - hours in a usual week (0 to 80)"], "no hours")
    assert screen.find("name").get_property("value") == "hours"

    sweep(screen, 5, 7)
    screen.until("understood", "Understood from 3 lines: “shade in summer”, 2 codes")
    screen.find("sheet-lines").send_keys(Keys.ESCAPE)
    screen.until_gone("understood")
    sweep(screen, 4, 4)
    screen.until("understood", "limits: 0 .. 80")
    screen.until("understood", "strays 0 → 5")
    assert look_with_axe(screen, "lines understood") == []
    screen.find("sheet-lines").send_keys(Keys.CONTROL, Keys.ENTER)
    screen.until("tag-hours", "5 stray")
    assert screen.find("label").get_property("value") == "hours in a usual week"

    screen.find("sheet-find").send_keys("lit")
    screen._patiently(lambda _: lines(screen, "hit") == ["2 little"], "never found")
    screen.press(Keys.ALT, "3")
    screen.click("sheet-name-shade")
    screen.until("cell-status", "shade")
    screen._patiently(lambda _: len(lines(screen, "mine")) == 3, "the lines do not follow in Records")
    assert screen.problems() == []


def test_the_four_groups(screen: Screen, plots: Path) -> None:
    """A near name is asked for, a difference taken or kept by keys, the effect said before, the diary after."""
    bring_in(screen, plots, "20 records × 5 variables")
    screen.click("side-switch")
    paste(screen, NOTES, "Notes")
    screen.click("read-it-all")
    counts = {name: screen.text(f"group-{name}") for name in ("differs", "only-in-the-sheet", "only-in-the-data")}
    assert [re.sub(r"\D+", "", said) for said in counts.values()] == ["3", "2", "2"]
    screen.click("group-only-in-the-sheet")
    screen.click("near-yes", "[data-test='only-sheet-rennt']")
    screen.until("group-only-in-the-sheet", "1")
    screen.click("group-differs")
    screen.until("group-differs", "4")
    table = screen.find("differences")
    table.send_keys(Keys.ARROW_LEFT, Keys.ARROW_DOWN, Keys.ARROW_RIGHT)
    screen.until("compare-status", "1 taken, 1 kept")
    screen.click("take-sheet", "[data-test='differs-hours-limits']")
    screen.until("compare-status", "Strays 0 → 5")
    assert "strays 0 → 5" in screen.text("differs-hours-limits")
    assert look_with_axe(screen, "the comparison") == []
    screen.press(Keys.CONTROL, Keys.ENTER)
    screen.until("compare-status", "0 taken, 1 kept")
    time.sleep(1)  # whatever the panel asks afterwards has been answered
    screen.until("notice", "Took")
    screen.press(Keys.ALT, "7")
    screen.until("diary-line", "from “Notes”")
    screen.press(Keys.CONTROL, "z")
    screen.press(Keys.ALT, "2")
    screen._patiently(lambda _: "stray" not in screen.text("tag-hours"), "the step was not undone")
    assert screen.problems() == []


def test_what_cannot_be_read(screen: Screen, plots: Path, tmp_path: Path) -> None:
    """A picture called text, an entity bomb, and the codebook of another study: a sentence, and nothing applied."""
    bring_in(screen, plots, "20 records × 5 variables")
    screen.click("side-switch")
    (tmp_path / "picture.txt").write_bytes(b"\x89PNG\r\n\x1a\n\x00\x00\x00\rIHDR" + bytes(range(256)) * 20)
    bomb = '<!DOCTYPE a [<!ENTITY b "boom"><!ENTITY c "&b;&b;&b;&b;">]><codeBook><a>&c;</a></codeBook>'
    (tmp_path / "bomb.xml").write_text(bomb, encoding="utf-8")
    for name, said in (("picture.txt", "picture"), ("bomb.xml", "entit")):
        screen.find("sheet-file").send_keys(str(tmp_path / name))
        screen.until("notice", said)
    assert screen.find("sheet-text").get_property("value") == ""
    paste(screen, "frost - days of frost (1 = few, 2 = many)\nhail - hail (1 = yes, 0 = no)\n", "Of another study")
    screen.click("read-it-all")
    screen.until("nothing-met", "is it the codebook of another one?")
    assert screen.find("apply-compare").get_property("disabled")
    assert screen.problems() == []


def test_the_codebook_as_text(screen: Screen, plots: Path) -> None:
    """A tag's text is edited, what cannot be read is shown where it stands, a pasted text goes onto several tags."""
    bring_in(screen, plots, "20 records × 5 variables")
    screen.open("shade")
    ActionChains(screen.driver).send_keys("x").perform()
    field = screen.find("codebook-text")
    screen._patiently(lambda _: str(field.get_property("value")).startswith("shade  "), "no text of shade")
    field.send_keys(Keys.CONTROL, Keys.END)
    field.send_keys('  "Shade in summer"\n  1 much | | 2 little\n')
    screen.until("text-problem", "row 3, character 12")
    assert screen.find("panel-do").get_property("disabled")
    screen.click("go-there")
    ActionChains(screen.driver).send_keys(Keys.DELETE * 2).perform()
    screen.until("text-differs", "not listed 1 much")
    assert look_with_axe(screen, "codebook text") == []
    screen.press(Keys.CONTROL, Keys.ENTER)
    screen.until("tag-shade", "Shade in summer")

    ActionChains(screen.driver).key_down(Keys.CONTROL).click(screen.find("tag-extra")).key_up(Keys.CONTROL).perform()
    screen.find("together")
    screen.driver.execute_script(
        "const data = new DataTransfer(); data.setData('text/plain', arguments[0]);"
        "document.body.dispatchEvent(new ClipboardEvent('paste', {clipboardData: data, bubbles: true}))",
        "x  ordinal\n  # looked at in June\n",
    )
    screen.until("text-differs", "extra level nominal ordinal")
    screen.click("panel-do")
    for name in ("shade", "extra"):
        screen.css(f"[data-test='tag-{name}'] [aria-label='ordinal']")
    assert screen.problems() == []


def test_a_workbook_with_its_codebook(screen: Screen, tmp_path: Path) -> None:
    """The codebook on another sheet is offered with the data, kept, and its columns can be told anew in the sheet."""
    data = [["tenure", "hours"], *[[code, hours] for code, hours in zip("1289" * 5, range(20), strict=True)]]
    meta = [["nr", "short", "what", "answers"], ["1", "tenure", "How held", "1 = own; 2 = shared"]]
    path = xlsx(tmp_path / "plots.xlsx", {"Data": [[str(cell) for cell in row] for row in data], "Meta": meta})
    screen.go("/")
    screen.css("[data-test='new-title'] input").send_keys("Plots 2026")
    screen.click("create")
    screen.find("file").send_keys(str(path))
    screen.until("offer", "“Meta” is a codebook: it describes 1 of these 2 columns")
    screen.until("summary", "20 records × 2 variables")
    screen.click("bring-in")
    screen.find("page")
    screen._patiently(lambda _: "1 own" in " ".join(lines(screen)).replace("  ", " "), "the codebook is not there")

    screen.click("sheets")
    screen.find("sheet-file").send_keys(str(path))
    screen.until("table-columns", "answers")
    assert '"How held"' in str(screen.find("sheet-text").get_property("value"))
    screen.select("column-3", "question")
    screen._patiently(lambda _: "? How held" in str(screen.find("sheet-text").get_property("value")), "not read anew")
    assert look_with_axe(screen, "columns of a table") == []
    screen.click("keep-sheet")
    screen._patiently(lambda _: "? How held" in lines(screen), "the other reading was not kept")
    assert screen.problems() == []


def test_decisions_stay_until_a_side_changes(screen: Screen, plots: Path) -> None:
    """What was kept is not asked again after a reload, narrowed rows alone are decided, a changed side asks anew."""
    bring_in(screen, plots, "20 records × 5 variables")
    screen.click("side-switch")
    paste(screen, NOTES, "Notes")
    screen.click("read-it-all")
    screen.click("kind-label")
    screen.click("keep-all-ours")
    screen.until("compare-status", "0 taken, 3 kept")
    screen.driver.refresh()
    screen.click("read-it-all")
    screen.until("compare-status", "0 taken, 3 kept")
    screen.click("group-only-in-the-data")
    screen.until("compare", "The sheet says nothing of these")
    screen.click("group-only-in-the-sheet")
    means = screen.find("means", "[data-test='only-sheet-gone']")
    means.send_keys("nobody\t")
    assert means.get_property("value") == "", "what is no variable is not kept"
    means.send_keys("EXTRA\t")
    screen.until("group-only-in-the-sheet", "1")
    screen.until("compare", "gone is extra")
    screen.css("[data-test='compare'] .said .act").click()
    screen.until("group-only-in-the-sheet", "2")
    screen.click("leave-compare")
    screen.open("shade")
    screen.type("label", "Shade")
    screen.until("tag-shade", "Shade")
    screen.click("read-it-all")
    screen.until("compare-status", "0 taken, 2 kept")
    screen.find("differences").send_keys(Keys.ESCAPE)
    screen.find("page")
    assert screen.problems() == []


def test_documents_come_and_go(screen: Screen, plots: Path) -> None:
    """Two documents, one let go and brought back by undo; lines chosen by keys alone; put away and shown by a key."""
    bring_in(screen, plots, "20 records × 5 variables")
    screen.press(Keys.ALT, "s")
    paste(screen, NOTES, "Notes")
    screen.click("sheets")
    paste(screen, "rent - Rent in pounds\n", "Letter")
    screen._patiently(lambda _: lines(screen) == ["rent - Rent in pounds"], "the second document is not shown")
    screen.click("sheets")
    screen.css("[aria-label='Let Letter go']").click()
    screen._patiently(
        lambda _: not screen.driver.find_elements(By.CSS_SELECTOR, "[aria-label='Let Letter go']"), "kept"
    )
    screen.driver.execute_script("document.activeElement.blur()")
    screen.press(Keys.CONTROL, "z")
    screen.css("[aria-label='Let Letter go']")
    screen.click("sheets")
    screen.css("[aria-label='Document']").send_keys("Notes")
    screen._patiently(lambda _: "Notes on the plots" in lines(screen), "the first document is not shown")

    listed = screen.find("sheet-lines")
    listed.send_keys(Keys.HOME, Keys.ARROW_DOWN, Keys.ARROW_DOWN, Keys.ARROW_DOWN, Keys.ARROW_DOWN)
    ActionChains(screen.driver).key_down(Keys.SHIFT).send_keys(Keys.ARROW_DOWN * 2).key_up(Keys.SHIFT).perform()
    screen.until("understood", "Understood from 3 lines")
    assert lines(screen, "picked") == ["shade - shade in summer", "1 much", "2 little"]
    listed.send_keys(Keys.HOME, Keys.ARROW_DOWN, Keys.ARROW_DOWN, Keys.ENTER)
    screen._patiently(lambda _: screen.find("name").get_property("value") == "tenure", "Enter did not lead to the tag")
    screen.press(Keys.ALT, "s")
    screen.until_gone("side-sheet")
    assert screen.problems() == []


def test_the_whole_codebook_as_text(screen: Screen, plots: Path) -> None:
    """All tags at once: a label and a new variable typed, told before, one step, undone."""
    bring_in(screen, plots, "20 records × 5 variables")
    screen.click("open-text")
    screen.click("text-all")
    field = screen.find("codebook-text")
    screen._patiently(lambda _: "\nextra  " in str(field.get_property("value")), "the whole codebook is not shown")
    field.send_keys(Keys.CONTROL, Keys.END)
    field.send_keys('  "Anything else"\n\nfrost  ratio  integer 2\n  "Days of frost"\n')
    screen.until("text-differs", "extra label none Anything else")
    screen.until("text-new", "1 new variable: frost")
    screen.click("panel-do")
    screen.until("tag-extra", "Anything else")
    screen.until("tag-frost", "Days of frost")
    screen.press(Keys.CONTROL, "z")
    screen.until_gone("tag-frost")
    assert screen.problems() == []


def test_a_questionnaire_alone_becomes_a_study(screen: Screen, tmp_path: Path) -> None:
    """From a document of a word processor with a grid to a study, and a record keyed into it; shown as it is read."""
    new_study(screen, title="Keyed")
    screen.find("document-first").send_keys(str(made.questionnaire(tmp_path / "questionnaire.docx")))
    screen.until("compare-status", "12 variables to be added")
    screen.until("only-sheet-Q2", "For how many years?")
    called = screen.find("call", "[data-test='only-sheet-Q2']")
    called.send_keys(Keys.CONTROL, "a")
    called.send_keys("Q1", Keys.ENTER)
    screen.until("compare-refused", "called “Q1” already")
    assert not screen.find("apply-compare").is_enabled()
    called.send_keys(Keys.CONTROL, "a")
    called.send_keys("years", Keys.ENTER)
    screen.click("add", "[data-test='only-sheet-Q7']")
    screen.until("compare-status", "11 variables to be added")
    screen.click("apply-compare")
    screen.until("size", "0 records × 11 variables")
    screen.until("tag-years", "years")
    assert "How would you rate these?" in screen.text("tags")
    screen.open("Q1")
    screen.until("skip", "1 Alone → Q3a skips 1 variable “Please go to Q3”")
    screen.click("confirm-skip")
    screen.until_gone("confirm-skip")
    screen.click("new-skip")
    screen.find("skip-text").send_keys("3 -> nowhere")
    screen.until("skips", "No variable is called nowhere.")
    screen.find("skip-text").send_keys(Keys.CONTROL, "a")
    screen.find("skip-text").send_keys("3 -> end", Keys.ENTER)
    screen.until("skips", "3 Other, please write in → the end skips 10 variables")
    screen.open("Q3b")
    assert screen.find("label").get_property("value") == "The gates"
    said = "return [...document.querySelectorAll('[data-test^=code-] textarea')].map((each) => each.value)"
    assert {"Poor", "Fair", "Good"} <= set(screen.driver.execute_script(said))
    assert lines(screen, "heading") == ["Fennel Row Allotments"]
    assert [each.split() for each in lines(screen, "row")][1] == ["a.", "The", "water", "1", "2", "3", "8"]
    screen.click("stop-records")
    screen.css("[data-test='no-records'] button").click()
    screen.until("cell-status", "record 1 · Q1")
    ActionChains(screen.driver).send_keys("2").send_keys(Keys.TAB).send_keys("7").send_keys(Keys.ENTER).perform()
    screen.until("grid", "Shared")
    assert screen.problems() == []


def test_a_questionnaire_is_changed_before_it_is_taken(screen: Screen, tmp_path: Path) -> None:
    """Without numbers its questions are named by their words; all of it can be changed as text before it is added."""
    path = tmp_path / "form.txt"
    path.write_text(
        "How do you hold your plot?\n[ ] Alone\n[ ] Shared\n\nHours in a usual week: ____\n\n"
        "Do you keep bees?\n[ ] yes\n[ ] no\n"
    )
    new_study(screen, title="Form")
    screen.find("document-first").send_keys(str(path))
    screen.until("compare-status", "3 variables to be added")
    called = screen.find("call", "[data-test='only-sheet-hold_plot']")
    called.send_keys(Keys.CONTROL, "a")
    called.send_keys("tenure", Keys.ENTER)
    screen.click("as-text")
    text = screen.find("codebook-text")
    screen.until("text-new", "3 new variables: tenure, hours_week, keep_bees")
    said = text.get_property("value")
    assert "Alone" in said and "How do you hold your plot?" in said
    changed = said.replace("Alone", "Nobody else").replace("keep_bees", "bees")
    screen.driver.execute_script(
        "arguments[0].value = arguments[1]; arguments[0].dispatchEvent(new Event('input'))", text, changed
    )
    screen.until("text-new", "3 new variables: tenure, hours_week, bees")
    screen.click("panel-do")
    screen.until("size", "0 records × 3 variables")
    screen.open("tenure")
    said = "return [...document.querySelectorAll('[data-test^=code-] textarea')].map((each) => each.value)"
    assert screen.driver.execute_script(said)[:2] == ["Nobody else", "Shared"]
    assert screen.problems() == []


def test_a_codebook_of_pages_is_compared_with_data(screen: Screen, plots: Path, tmp_path: Path) -> None:
    """A .pdf beside data: what it says otherwise is taken; what is damaged says so, and nothing is kept."""
    bring_in(screen, plots, "20 records × 5 variables")
    screen.press(Keys.ALT, "s")
    broken = tmp_path / "broken.pdf"
    broken.write_bytes(b"%PDF-1.4 nothing")
    screen.find("sheet-file").send_keys(str(broken))
    screen.until("notice", "The document is damaged")
    said = [
        "How held. Codes: 1 = own; 2 = shared; 8 = lent.",
        "Hours in a usual week. Range: 0-80.",
        "Shade in summer.",
    ]
    words = [
        word
        for at, (name, text) in enumerate(zip(("tenure", "hours", "shade"), said, strict=True))
        for word in ((60.0, 100.0 + 30 * at, name, True), (120.0, 100.0 + 30 * at, text, False))
    ]
    screen.find("sheet-file").send_keys(str(made.pdf(tmp_path / "codebook.pdf", [words])))
    screen._patiently(lambda _: "tenure" in str(screen.find("sheet-text").get_property("value")), "not read")
    screen.click("keep-sheet")
    screen.click("read-it-all")
    screen.until("group-differs", "3")
    screen.click("take-all")
    screen.press(Keys.CONTROL, Keys.ENTER)
    screen.until("group-agrees", "3")
    screen.press(Keys.ESCAPE)
    screen.open("tenure")
    assert screen.find("label").get_property("value") == "How held"
    assert screen.problems() == []


def test_pages_say_how_far_they_are(screen: Screen, plots: Path, tmp_path: Path) -> None:
    """Of many pages the first can be looked at while the others are read; the work is seen, and can be stopped."""
    bring_in(screen, plots, "20 records × 5 variables")
    screen.press(Keys.ALT, "s")
    pages = [
        [(60.0, 150.0 + 20 * at, f"item_{page}_{at} - thing {at} (1 = bad, 2 = good)", False) for at in range(25)]
        for page in range(150)
    ]
    long = made.pdf(tmp_path / "long.pdf", pages)
    screen.find("sheet-file").send_keys(str(long))
    screen.until("work", "of 150")
    screen._patiently(lambda _: "item_0_3" in str(screen.find("sheet-text").get_property("value")), "no first page")
    screen.click("cancel")
    screen.until_gone("work")
    assert "item_9_3" not in str(screen.find("sheet-text").get_property("value"))
    screen.find("sheet-file").send_keys(str(long))
    screen._patiently(lambda _: "item_149_3" in str(screen.find("sheet-text").get_property("value")), "not the whole")
    screen.click("keep-sheet")
    screen.until("sheet-lines", "item_0_0")
    assert screen.problems() == []


WRONG = """# Plots

gate: the gate used
  north: the North bank
  south: the South bank
fence: what the fence is of
  wood: of planks
  wire: of wire

The paths and the hedges were judged so:

1 = bad
2 = fair

| Part | Meaning | Called |
|---|---|---|
| plot | Number of the plot | nr |
| plot | Has a hut: 1 = yes, 2 = no | hut |
"""


def test_a_wrong_hand_is_put_right(screen: Screen, tmp_path: Path) -> None:
    """Words taken for variables are codes, a list belongs to others, names are in another column: one click each, kept
    with the document, the whole read again; taken back and undone like anything else."""
    (tmp_path / "plots.csv").write_text("site_1,site_2,nr\n" + "1,2,7\n2,1,8\n1,1,9\n" * 5, encoding="utf-8")
    bring_in(screen, tmp_path / "plots.csv", "15 records × 3 variables")
    screen.click("side-switch")
    paste(screen, WRONG, "Notes")
    _names(screen, ["gate", "north", "south", "fence", "wood", "wire"])
    sweep(screen, 7, 8)
    screen.click("meant-codes")
    _names(screen, ["gate", "fence"])
    screen.until("meant", "You said: these lines are codes. Take back")
    screen.click("meant-back")
    _names(screen, ["gate", "north", "south", "fence", "wood", "wire"])
    screen.press(Keys.CONTROL, "z")
    _names(screen, ["gate", "fence"])
    sweep(screen, 10, 13)
    screen.click("meant-to")
    field = screen.find("meant-names")
    field.clear()
    field.send_keys("site_1 to site_2", Keys.ENTER)
    screen.until("meant", "You said: these lines belong to site_1 to site_2. Take back")
    line(screen, 18).click()
    screen.click("meant-names-3")
    screen.until("meant", "You said: names are in column 3 of this table. Take back")
    _names(screen, ["gate", "fence", "nr", "hut"])
    screen.click("let-lines")
    screen.click("read-it-all")
    screen.until("group-differs", "3")
    screen.click("take-all")
    screen.press(Keys.CONTROL, Keys.ENTER)
    screen.until("group-agrees", "3")
    screen.press(Keys.ESCAPE)
    screen.open("site_2")
    said = "return [...document.querySelectorAll('[data-test^=code-] textarea')].map((each) => each.value)"
    assert screen.driver.execute_script(said)[:2] == ["bad", "fair"]
    screen.driver.refresh()
    _names(screen, ["gate", "fence", "nr", "hut"])
    assert screen.problems() == []


def _names(screen: Screen, expected: list[str]) -> None:
    """Waits until these are the names that are marked in the document, as far as its lines are in sight."""
    script = "return [...document.querySelectorAll('[data-test=sheet-lines] .name')].map((each) => each.textContent)"
    WebDriverWait(screen.driver, WAIT).until(
        lambda driver: (
            [each for each in driver.execute_script(script) if each in expected] == expected
            and not set(driver.execute_script(script)) - set(expected)
        ),
        f"not {expected}, but {screen.driver.execute_script(script)}",
    )
