"""The Intake on the real screen: looked at, changed, brought in, joined; what is guessed can be put right."""

from pathlib import Path

import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.support.ui import Select

from rowtag.demo.untidy import write_late, write_untidy
from tests.formats.books import xlsx
from tests.screen.conftest import Screen

pytestmark = pytest.mark.screen


def new_study(screen: Screen, path: Path | None = None, title: str = "Plots") -> None:
    screen.go("/")
    screen.css("[data-test='new-title'] input").send_keys(title)
    screen.click("create")
    screen.find("drop")
    if path is not None:
        screen.find("file").send_keys(str(path))
        screen.find("picture")


def mark(screen: Screen, name: str, row: int) -> None:
    """Points at a row's stub and clicks what the row is."""
    ActionChains(screen.driver).move_to_element(screen.find(f"stub-{row}")).perform()
    screen.click(f"mark-{name}-{row}")


def test_an_untidy_file_and_a_late_one(screen: Screen, tmp_path: Path) -> None:
    """Semicolons, decimal commas, title and wordings: told, one type overridden, strays seen; a second file; undo."""
    write_untidy(tmp_path / "hut.csv")
    write_late(tmp_path / "late.csv")
    new_study(screen, tmp_path / "hut.csv")
    screen.until("summary", "1,204 records × 14 variables")
    assert "names here" in screen.text("stub-3") and "wordings here" in screen.text("stub-4")
    assert "1 blank row among the data left out · 2 rows below the data left out" in screen.text("notes")
    assert "How large is it, in square metres?" in screen.text("column-q4")

    mark(screen, "wordings", 4)
    screen.until("stub-4", "data from here")
    screen.until("summary", "1,205 records × 14 variables")
    mark(screen, "wordings", 4)
    screen.until("summary", "1,204 records × 14 variables")

    screen.click("pick-q4")
    screen.until("column-panel", "20 to 295.8")
    assert Select(screen.find("decimal-mark")).first_selected_option.text == "comma"
    screen.until("column-strays", "would not be read")
    screen.until("column-strays", "record")
    screen.click("close-panel")
    Select(screen.css("[data-test='column-q2'] select[aria-label='Type of q2']")).select_by_visible_text("text")
    screen.click("pick-q3")
    screen.click("missing", "[data-test='column-panel']")
    screen.click("reason-no answer")
    screen.until("column-panel", "3 coded missing")
    screen.click("bring-in")
    screen.until("size", "1,204 records × 14 variables")
    screen.open("q2")
    screen.until("page", "text")
    screen.open("q4")
    screen.until("written", "decimal comma")
    screen.click("written")
    screen.select("decimal-mark", ".")
    screen.until("written", "width 6, 1 decimals")
    screen.click("undo")
    screen.until("written", "decimal comma")

    screen.click("stop-intake")
    screen.until("has-data", "1,204 records are in this study")
    screen.click("look")
    screen.until("original", "0148 2 1 210,3 17 £52,00")
    screen.find("file").send_keys(str(tmp_path / "late.csv"))
    screen.until("asked", "2 names are nearly the same")
    assert not screen.find("bring-in").is_enabled()
    assert "q7_2" in screen.text("gone")
    screen.click("same-Q-4")
    screen.click("new-q5_")
    screen.until("known", "30 records are in the study already")
    screen.click("known-skip")
    screen.until("summary", "30 records added, 30 records skipped; 2 new variables.")
    screen.click("bring-in")
    screen.until("size", "1,234 records × 16 variables")
    screen.click("undo")
    screen.until("size", "1,204 records × 14 variables")
    screen.click("undo")
    screen.click("stop-intake")
    screen.find("names")
    assert not screen.problems()


def test_many_columns_at_once(screen: Screen, tmp_path: Path) -> None:
    """Columns are selected with Shift and Ctrl, by type and by name; what is set goes to all; others are left out."""
    path = tmp_path / "plots.csv"
    heads = [*(f"site_{number}" for number in range(1, 7)), "note"]
    rows = [",".join([*(str((row * number) % 4 + 1) for number in range(1, 7)), f"plot {row}"]) for row in range(40)]
    path.write_text("\n".join([",".join(heads), *rows]))
    new_study(screen, path)
    screen.until("summary", "40 records × 7 variables")
    screen.click("pick-site_1")
    shift = ActionChains(screen.driver).key_down(Keys.SHIFT)
    shift.click(screen.find("pick-site_4")).key_up(Keys.SHIFT).perform()
    screen.until("column-panel", "4 columns")
    ctrl = ActionChains(screen.driver).key_down(Keys.CONTROL)
    ctrl.click(screen.find("pick-site_2")).key_up(Keys.CONTROL).perform()
    screen.until("column-panel", "3 columns")
    Select(screen.css("select[aria-label='level of the chosen']")).select_by_visible_text("ordinal")
    screen.click("close-panel")
    levels = [
        screen.css(f"[data-test='column-site_{n}'] select[aria-label='Level of site_{n}']").get_property("value")
        for n in range(1, 6)
    ]
    assert levels == ["ordinal", "nominal", "ordinal", "ordinal", "nominal"]
    Select(screen.find("select-by")).select_by_visible_text("integer")
    screen.until("column-panel", "6 columns")
    screen.click("leave-out")
    screen.until("summary", "40 records × 1 variable.")
    screen.click("leave-out")
    screen.until("summary", "40 records × 7 variables")
    screen.find("find-column").send_keys("note")
    Select(screen.find("select-by")).select_by_visible_text("all shown")
    screen.until("column-panel", "Evidence")
    screen.click("leave-out")
    screen.click("bring-in")
    screen.until("size", "40 records × 6 variables")
    assert not screen.problems()


def test_another_way_of_reading(screen: Screen, tmp_path: Path) -> None:
    """Separator, quotes and rows at the end are changed, and picture and columns follow."""
    path = tmp_path / "plots.csv"
    path.write_text("q1;q2;q3\n" + "".join(f"{n};{n % 3 + 1};plot {n} is wet\n" for n in range(1, 31)))
    new_study(screen, path)
    screen.until("summary", "30 records × 3 variables")
    Select(screen.find("separator")).select_by_visible_text("comma")
    screen.until("summary", "30 records × 1 variable")
    Select(screen.find("separator")).select_by_visible_text("semicolon")
    screen.until("summary", "30 records × 3 variables")
    mark(screen, "data", 1)
    screen.until("summary", "31 records × 3 variables")
    mark(screen, "names", 1)
    screen.until("summary", "30 records × 3 variables")
    mark(screen, "end", 30)
    screen.until("summary", "28 records × 3 variables")
    screen.until("stub-31", "left out")
    mark(screen, "end", 30)
    screen.until("summary", "29 records × 3 variables")


def test_a_broken_quote_is_shown_and_mended(screen: Screen, tmp_path: Path) -> None:
    """A quote that is never closed is said with its place; saying that quotes mean nothing reads the file."""
    path = tmp_path / "plots.csv"
    path.write_text('q1,q2\n1,"wet\n2,dry\n')
    new_study(screen, path)
    screen.until("problem", "row 2, column 2: A quote is opened and never closed.")
    screen.until("unread", "could not be read")
    screen.click("more-settings")
    screen.select("quote", "")
    screen.until("summary", "2 records × 2 variables")
    assert not screen.all("problem")


def test_sheets_and_ranges_of_a_workbook(screen: Screen, tmp_path: Path) -> None:
    """A workbook's sheets and ranges can be chosen; numbers are exact; a range outside is refused in words."""
    rows = [["plot", "size"], *([f"{row:04d}", row + 0.5] for row in range(1, 13))]
    path = xlsx(tmp_path / "plots.xlsx", {"Empty": [], "Answers": rows, "Second wave": [["plot"], [7], [8]]})
    new_study(screen, path)
    screen.until("picture", "0001 1.5")
    screen.until("summary", "12 records × 2 variables")
    screen.type("range", "B1:B4")
    screen.until("summary", "3 records × 1 variable")
    screen.type("range", "F1:F4")
    screen.until("notice", "The range F1:F4 lies outside the sheet, which goes to B13.")
    Select(screen.find("sheet")).select_by_visible_text("Second wave")
    screen.until("summary", "2 records × 1 variable")
    screen.click("bring-in")
    screen.until("size", "2 records × 1 variable")
    assert not screen.problems()


def test_fixed_columns(screen: Screen, tmp_path: Path) -> None:
    """Breaks are set by a click between characters, or taken from a codebook with the names."""
    path = tmp_path / "plots.dat"
    path.write_text("".join(f"{n:03d}{n % 4 + 1}{n % 90:02d}\n" for n in range(1, 41)))
    new_study(screen, path)
    Select(screen.find("kind")).select_by_visible_text("fixed columns")
    screen.until("summary", "40 records × 1 variable")
    screen.click("break-3")
    screen.until("summary", "40 records × 2 variables")
    screen.click("break-4")
    screen.until("summary", "40 records × 3 variables")
    screen.click("break-3")
    screen.until("summary", "40 records × 2 variables")
    screen.click("widths")
    screen.find("widths-text").send_keys("plot 3\ntenure 1\nhours 5-6")
    screen.click("use-widths")
    screen.until("summary", "40 records × 3 variables")
    screen.find("column-hours")
    screen.click("bring-in")
    screen.until("size", "40 records × 3 variables")
    assert not screen.problems()


def test_a_pasted_block(screen: Screen) -> None:
    """A block pasted on the page is a file like any other."""
    new_study(screen)
    screen.driver.execute_script(
        "const data = new DataTransfer(); data.setData('text/plain', arguments[0]);"
        "window.dispatchEvent(new ClipboardEvent('paste', {clipboardData: data, bubbles: true}));"
        "document.body.dispatchEvent(new ClipboardEvent('paste', {clipboardData: data, bubbles: true}));",
        'plot\tnote\n7\t"wet\ncorner"\n8\tdry\n',
    )
    screen.until("summary", "2 records × 2 variables")
    assert screen.css("h2.title").text == "pasted block.tsv"


def test_starting_without_a_file(screen: Screen) -> None:
    """Variables are typed, a record is keyed in, and another study starts from that codebook."""
    new_study(screen, title="Keyed")
    screen.find("names").send_keys("plot Plot number\nhours Hours in a week")
    screen.click("define-first")
    screen.until("size", "0 records × 2 variables")
    screen.until("tag-plot", "Plot number")
    screen.click("stop-records")
    screen.css("[data-test='no-records'] button").click()
    screen.until("cell-status", "record 1 · plot")
    ActionChains(screen.driver).send_keys("7").send_keys(Keys.TAB).send_keys("12 hrs").send_keys(Keys.ENTER).perform()
    screen.until("grid", "7 12 hrs")
    screen.until("stray-status", "1 stray in 1 variable")
    screen.press(Keys.CONTROL, Keys.ENTER)
    screen.until("cell-status", "record 2 · plot")
    screen.until("size", "2 records × 2 variables")
    new_study(screen, title="Next wave")
    Select(screen.find("other-study")).select_by_visible_text("Keyed · 2 variables")
    screen.click("take-codebook")
    screen.until("size", "0 records × 2 variables")
    screen.until("tag-hours", "Hours in a week")
    assert not screen.problems()


def test_long_work_is_stopped(screen: Screen, tmp_path: Path) -> None:
    """Reading a large file shows how far it is and can be stopped; the study is as before."""
    path = tmp_path / "wide.csv"
    row = ",".join(str(number % 97) for number in range(1_500))
    path.write_text("\n".join([",".join(f"q{number}" for number in range(1_500)), *[row] * 400]))
    new_study(screen, path)
    screen.until("work", "Reading wide.csv")
    screen.click("cancel")
    screen.until("unread", "could not be read")
    assert not screen.all("size")
    screen.click("another")
    screen.find("file").send_keys(str(path))
    screen.until("summary", "400 records × 1,500 variables")


def test_heads_that_are_no_names_are_told(screen: Screen, tmp_path: Path) -> None:
    """Wordings as heads become labels, and what was renamed is said before anything is brought in."""
    path = tmp_path / "plots.csv"
    path.write_text("How old are you?,q1,q1\n40,1,2\n50,2,1\n")
    new_study(screen, path)
    screen.until("summary", "2 records × 3 variables")
    assert "“How old are you?” is called How_old_are_you" in screen.text("notes")
    screen.click("bring-in")
    screen.until("tag-How_old_are_you", "How old are you?")
    screen.find("tag-q1_2")


def test_several_tables_on_a_sheet(screen: Screen, tmp_path: Path) -> None:
    """The largest is taken, remarks above it left out; another can be chosen, and is what comes in."""
    plots = [["plot", "gate", "visits"], *[[f"F{at}", "North", at] for at in range(20)]]
    gates = [["gate", "opened"], *[[f"G{at}", 1990 + at] for at in range(5)]]
    rows = [["Fennel Row 2026"], ["Made on", "2026-10-01", "by the wardens"], [], *plots, [], *gates]
    new_study(screen)
    screen.find("file").send_keys(str(xlsx(tmp_path / "plots.xlsx", {"All": rows})))
    screen.until("summary", "20 records × 3 variables")
    screen.select("tables", "A26:B31")
    screen.until("summary", "5 records × 2 variables")
    screen.click("bring-in")
    screen.until("size", "5 records × 2 variables")
    assert screen.problems() == []
