"""The Intake on the real screen: what is guessed can be changed, and the picture follows."""

from pathlib import Path

import pytest
import xlsxwriter
from selenium.webdriver.support.ui import Select

from tests.screen.conftest import Screen

pytestmark = pytest.mark.screen


def new_study(screen: Screen, path: Path) -> None:
    screen.go("/")
    screen.css("[data-test='new-title'] input").send_keys("Plots")
    screen.click("create")
    screen.find("file").send_keys(str(path))
    screen.find("picture")


def test_settings_and_choices(screen: Screen, tmp_path: Path) -> None:
    """Another separator redraws the picture; a type is overridden, a column left out; both hold when brought in."""
    path = tmp_path / "plots.csv"
    path.write_text("q1;q2;q3\n" + "".join(f"{n};{n % 3 + 1};plot {n} is wet in winter\n" for n in range(1, 41)))
    new_study(screen, path)
    screen.until("summary", "40 records × 3 variables")
    Select(screen.find("separator")).select_by_visible_text("comma")
    screen.until("summary", "40 records × 1 variable")
    Select(screen.find("separator")).select_by_visible_text("semicolon")
    screen.until("summary", "40 records × 3 variables")
    Select(screen.find("names")).select_by_visible_text("no names in the file")
    screen.until("summary", "41 records × 3 variables")
    Select(screen.find("names")).select_by_visible_text("names in the first row")
    screen.until("summary", "40 records × 3 variables")
    Select(screen.css("[data-test='column-q2'] select[aria-label='Level of q2']")).select_by_visible_text("ordinal")
    screen.css("[data-test='column-q3'] .act").click()
    screen.until("summary", "40 records × 2 variables")
    screen.click("bring-in")
    screen.until("size", "40 records × 2 variables")
    assert screen.css("[data-test='tag-q2'] [aria-label='ordinal']")
    screen.click("stop-intake")
    screen.until("has-data", "40 records are in this study")
    screen.click("undo")
    screen.find("drop")
    screen.click("redo")
    screen.until("has-data", "40 records are in this study")


def test_sheets_of_a_workbook(screen: Screen, tmp_path: Path) -> None:
    """A workbook's sheets can be chosen; numbers and dates are exact."""
    path = tmp_path / "plots.xlsx"
    with xlsxwriter.Workbook(str(path)) as book:
        book.add_worksheet("Empty")
        first = book.add_worksheet("Answers")
        first.write_row(0, 0, ["plot", "size"])
        for row in range(1, 13):
            first.write_row(row, 0, [f"{row:04d}", row + 0.5])
        book.add_worksheet("Second wave").write_column(0, 0, ["plot", 7, 8])
    new_study(screen, path)
    screen.until("picture", "0001 1.5")
    screen.until("summary", "12 records × 2 variables")
    Select(screen.find("sheet")).select_by_visible_text("Second wave")
    screen.until("summary", "2 records × 1 variable")
    screen.until("picture", "2 data from here 7")
    screen.click("bring-in")
    screen.until("size", "2 records × 1 variable")
    assert not screen.problems()


def test_heads_that_are_no_names_are_told(screen: Screen, tmp_path: Path) -> None:
    """Wordings as heads become labels, and what was renamed is said before anything is brought in."""
    path = tmp_path / "plots.csv"
    path.write_text("How old are you?,q1,q1\n40,1,2\n50,2,1\n")
    new_study(screen, path)
    screen.until("summary", "2 records × 3 variables")
    assert "“How old are you?” is called How_old_are_you" in screen.css(".note").text
    screen.click("bring-in")
    screen.until("tag-How_old_are_you", "How old are you?")
    screen.find("tag-q1_2")
