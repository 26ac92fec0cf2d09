"""The file after the first, on the real screen: a corrected version, more variables, the next wave."""

import csv
import io
from pathlib import Path

import pytest
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.support.select import Select

from rowtag.demo import generator
from tests.formats.books import xlsx
from tests.screen.conftest import Screen
from tests.screen.test_typing import entries, study_of
from tests.screen.test_views import look_with_axe, open_demo

pytestmark = pytest.mark.screen
TYPED = "[data-test='correct-typed']"


@pytest.fixture
def files(tmp_path: Path) -> Path:
    """The demo's files that come after the first."""
    for name, rows in {
        "corrected": generator.corrected_rows(),
        "register": generator.register_rows(),
        "next": generator.next_year_rows(),
    }.items():
        (tmp_path / f"{name}.csv").write_text(generator.csv_text(rows), "utf-8", newline="")
    return tmp_path


def entry_of(screen: Screen, plot: str, variable: str) -> str:
    """An entry of the record with a plot number, as the server keeps it."""
    return entries(screen, variable)[entries(screen, "plot_no").index(plot)]


def type_hours(screen: Screen, plot: str, text: str) -> None:
    """Types an entry of hours for the record with a plot number, as another window would."""
    record = entries(screen, "plot_no").index(plot) + 1
    variables = screen.ask(f"/studies/{study_of(screen)}")["variables"]
    hours = next(each["id"] for each in variables if each["name"] == "hours")
    screen.elsewhere({"do": "set entries", "variable": hours, "entries": {str(record): text}})


def test_a_corrected_file(screen: Screen, files: Path) -> None:
    """It is told for what it is; what it holds otherwise is shown, and asked about where somebody typed; undo."""
    open_demo(screen)
    type_hours(screen, "1340", "12")  # which the new version has otherwise, too
    screen.click("stop-intake")
    screen.find("file").send_keys(str(files / "corrected.csv"))
    screen.until("correct-records", "1,202")
    assert "3new" in screen.text("correct-records").replace("\n", "").replace(" ", "")
    screen.until("correct-records", "1500, 1501, 1502")
    assert "1340 hours 10 12 6" in screen.text("correct-typed")
    assert "0888" in screen.text("correct-changed")
    assert look_with_axe(screen, "correct-records") == []
    screen.click("counts-file", within=TYPED)
    screen._patiently(
        lambda _: screen.find("counts-file", within=TYPED).get_attribute("aria-pressed") == "true",
        "the file's entry does not count",
    )
    screen._patiently(lambda _: screen.find("bring-in").is_enabled(), "it cannot be taken")
    screen.press(Keys.CONTROL, Keys.ENTER)
    screen.until("size", "1,205 records × 54 variables")
    assert (entry_of(screen, "1340", "hours"), entry_of(screen, "0888", "hours")) == ("6", "11")
    assert entry_of(screen, "1501", "quarter")
    screen.click("undo")
    screen.until("size", "1,204 records × 54 variables")
    assert (entry_of(screen, "1340", "hours"), entry_of(screen, "0888", "hours")) == ("12", "-8")
    assert screen.problems() == []


def test_a_file_without_the_identifier(screen: Screen, files: Path) -> None:
    """A sentence says so, nothing changes, and the order of the records does instead."""
    open_demo(screen)
    heads, *rows = generator.corrected_rows()
    text = generator.csv_text([heads[1:], *(row[1:] for row in rows)])
    (files / "no-plots.csv").write_text(text, "utf-8", newline="")
    screen.click("stop-intake")
    screen.find("file").send_keys(str(files / "no-plots.csv"))
    screen.click("purpose-corrected")
    screen.until("correct-problem", "plot_no has no column in no-plots.csv.")
    assert not screen.find("bring-in").is_enabled()
    screen.select("correct-identifier", "")
    screen.until("correct-records", "1,204")
    screen.until("lost-q1", "The column q1 is not in it")
    assert screen.problems() == []


def test_more_variables(screen: Screen, files: Path) -> None:
    """A register of the same plots: who is matched, alone, unknown or doubled is seen before it is put beside."""
    open_demo(screen)
    screen.click("stop-intake")
    screen.find("file").send_keys(str(files / "register.csv"))
    screen.until("beside-facts", "1,179 records have a row here.")
    facts = screen.text("beside-facts")
    assert "25 records have none and stay blank" in facts and "12 rows have no record in the study" in facts
    assert "6 rows with an identifier that stands more than once" in facts
    screen.click("doubled-neither")
    screen.until("beside-facts", "1,176 records have a row here.")
    screen.click("doubled-first")
    screen.css("[data-test='beside-shed'] input").click()
    screen.until("summary", "2 variables beside 1,179 records.")
    assert look_with_axe(screen, "beside-facts") == []
    screen.click("bring-in")
    screen.until("size", "1,204 records × 56 variables")
    assert entry_of(screen, "0148", "soil") == "loam" and entry_of(screen, "1376", "soil") == ""
    screen.click("stop-diary")
    screen._patiently(
        lambda _: "Put 2 variables from register.csv beside 1,179" in screen.text("diary-line"), "not told"
    )
    screen.click("undo")
    screen.until("size", "1,204 records × 54 variables")
    assert screen.problems() == []


def test_the_next_wave(screen: Screen, files: Path) -> None:
    """What the next file lacks or has more is told; once its columns are known again it becomes a study of its own."""
    open_demo(screen)
    screen.click("stop-diary")
    screen.find("diary-line")
    screen.find("next-wave").send_keys(str(files / "next.csv"))
    screen.until("wave-new", "3 columns more: q4_size_m2, q19_km, q21_since")
    screen.until("wave-strays", "tenure has strays that there were none of: 4")
    screen.until("codebooks", "4 variables less: plot_size, letter, distance, joined")
    for old in ("q4", "q19", "q21"):
        screen.click(f"likely-{old}")
    screen.until("codebooks", "1 variable less: letter")
    screen._patiently(lambda _: not screen.all("wave-new"), "columns are still new")
    assert Select(screen.find("renamed-q19")).first_selected_option.text == "it is called q19_km"
    assert look_with_axe(screen, "wave-panel") == []
    screen.type("wave-title", "Fennel Row 2027")
    screen.press(Keys.CONTROL, Keys.ENTER)
    screen.until("size", "1,204 records × 53 variables")
    assert "Fennel Row 2027" in screen.css("header").text
    screen.click("stop-diary")
    screen._patiently(lambda _: len(screen.all("diary-line")) > 60, "its diary is not there")
    assert screen.problems() == []


def test_the_next_wave_of_a_workbook(screen: Screen, files: Path) -> None:
    """The sheet with the heads is read, another one can be chosen; what was typed into single records of the first file
    is left out until it is asked for."""
    open_demo(screen)
    type_hours(screen, "1340", "12")
    rows = list(csv.reader(io.StringIO(generator.csv_text(generator.next_year_rows()))))
    notes = [["Total", "", "", "60"], ["Printed for the committee", "", "", ""]]
    sheets = {"Read me": [["The survey of 2027"]], "Some": rows[:41], "All": [*rows[:101], [""] * 4, *notes]}
    xlsx(files / "next.xlsx", {name: [list(row) for row in each] for name, each in sheets.items()})
    screen.click("stop-diary")
    screen.find("diary-line")
    screen.find("next-wave").send_keys(str(files / "next.xlsx"))
    screen.select("wave-sheet", "Some")
    screen.until("wave-facts", "40 records")
    screen.select("wave-sheet", "All")
    screen.until("wave-facts", "100 records")
    said = [note.text for note in screen.all("wave-note")]
    assert "2 rows below the data left out." in said
    assert "1 step that concerns single records of the first file is left out." in said
    screen.click("wave-single")
    screen._patiently(
        lambda _: not any("single records" in note.text for note in screen.all("wave-note")), "it is still left out"
    )
    assert look_with_axe(screen, "wave-panel") == []
    assert screen.problems() == []
