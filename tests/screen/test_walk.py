"""The whole way on the real screen: from a file to an archive, with the figures that people see."""

import csv
import io
import json
import signal
import time
import zipfile
from pathlib import Path

import pytest
from selenium.webdriver.common.keys import Keys

from tests.screen.conftest import Screen, Server

pytestmark = pytest.mark.screen

HEAD = "plot_no,q3,q5,joined,Any comment?"
ROWS = [
    f"{number:04d},{(1, 2, 1, 3, 1, 8, -9, 1, 2, 1)[number % 10]},{number % 30},2024-0{number % 9 + 1}-11,"
    f"{'plot is wet' if number % 4 == 0 else ''}"
    for number in range(1, 101)
]
ROWS[6] = "0007,n/a,about 4,2024-02-30,=1+1"


@pytest.fixture
def plots(tmp_path: Path) -> Path:
    path = tmp_path / "plots.csv"
    path.write_text("\n".join([HEAD, *ROWS]) + "\n", encoding="utf-8")
    return path


def bring_in(screen: Screen, path: Path, size: str = "100 records × 5 variables") -> None:
    """A new study from a file, as a newcomer would make it."""
    screen.go("/")
    screen.css("[data-test='new-title'] input").send_keys("Plots 2026")
    screen.click("create")
    screen.find("file").send_keys(str(path))
    screen.until("summary", size)
    screen.click("bring-in")
    screen.find("page")


def test_from_file_to_archive(screen: Screen, server: Server, plots: Path) -> None:
    """Intake, codebook, records, checks, tables, diary, handover; reload, restart and kill in between."""
    screen.go("/")
    screen.css("[data-test='new-title'] input").send_keys("Plots 2026")
    screen.click("create")
    screen.find("file").send_keys(str(plots))
    screen.until("picture", "plot_no q3 q5")
    screen.until("summary", "3 entries cannot be read yet")
    assert "“n/a” ×1" in screen.text("column-q3") and "-9" in screen.text("column-q3")
    assert screen.text("wanting").endswith("3 want a look")
    screen.click("bring-in")
    screen.until("size", "100 records × 5 variables")

    define_tenure(screen)
    look_at_records(screen)
    server.stop(signal.SIGKILL)
    server.start()
    screen.driver.refresh()
    check_and_accept(screen)
    look_at_tables(screen)
    use_the_diary(screen)
    hand_over(screen)
    assert not screen.problems()


def define_tenure(screen: Screen) -> None:
    screen.open("q3")
    screen.until("fill", "99 valid 0 coded missing 0 blank 1 stray")
    screen.type("label", "How the plot is held")
    screen.until("tag-q3", "How the plot is held")
    screen.type("question", "How do you hold your plot?")
    screen.type("name", "my tenure")
    screen.until("refused-name", "“my tenure” cannot be a name")
    screen.find("name").send_keys(Keys.ENTER)
    screen.find("tag-my_tenure")
    screen.type("name", "tenure")
    screen.find("tag-tenure")
    screen.find("add-line").send_keys("1 In my own name\n")
    screen.until("code-1", "49")
    screen.find("add-line").send_keys("2 Shared = half\n")
    screen.find("code-2")
    screen.click("undo")
    screen.until_gone("code-2")
    screen.find("add-line").send_keys("2 Shared\n")
    screen.until("code-2", "20")
    screen.click("list-it", "[data-test='loose-3']")
    screen.until("code-3", "10")
    screen.click("missing", "[data-test='loose--9']")
    screen.click("reason-refused")
    screen.until("fill", "89 valid 10 coded missing 0 blank 1 stray")
    screen.click("complete")
    screen.until("fill", "79 valid 10 coded missing 0 blank 11 stray")
    screen.until("page-findings", "10 entries are beyond what the code list allows: “8” ×10")
    screen.click("merge", "[data-test='loose-n/a']")
    screen.driver.find_elements("css selector", ".rt-menu .v-list-item")[0].click()
    screen.until("fill", "80 valid 10 coded missing 0 blank 10 stray")
    screen.click("undo")
    screen.until("fill", "79 valid 10 coded missing 0 blank 11 stray")
    screen.open("q5")
    screen.until("figure-mean", "13.67")
    screen.open("tenure")
    screen.choose("level", "ordinal")
    screen.css("[data-test='tag-tenure'] [aria-label='ordinal']")


def look_at_records(screen: Screen) -> None:
    screen.press(Keys.ALT, "3")
    screen.until("grid", "In my own name")
    assert "1 In my own name" in screen.text("grid")
    screen.click("show-labels")
    assert "1 In my own name" not in screen.text("grid")
    screen.click("show-both")
    screen.click("next-stray")
    screen.until("cell-status", "record 5 · tenure How the plot is held · “8” · not allowed")
    screen.find("grid").send_keys(Keys.F8)
    screen.until("cell-status", "record 7 · tenure How the plot is held · “n/a” · unreadable")
    for kind in ("missing", "unreadable", "unlisted"):
        assert screen.css(f".cell.{kind}")
    screen.until("stray-status", "13 strays in 3 variables")


def check_and_accept(screen: Screen) -> None:
    screen.click("stop-checks")
    screen.until("open-findings", "8 findings open")
    first = screen.all("finding")[0].text
    assert "tenure 10 entries are beyond what the code list allows" in first
    screen.click("see-records")
    screen.until("cell-status", "record 5 · tenure")
    screen.click("stop-checks")
    screen.click("accept")
    screen.find("reason").find_element("css selector", "input").send_keys("plots lent by friends")
    screen.click("give-reason")
    screen.until("open-findings", "7 findings open")
    screen.click("see-variable")
    screen.until("loose-8", "kept: plots lent by friends")


def look_at_tables(screen: Screen) -> None:
    screen.click("stop-tables")
    screen.click("pick-tenure")
    screen.until("row-1", "1 In my own name 49 49.0 62.0")
    screen.until("row-valid", "valid 79 79.0 100.0")
    screen.until("row--9", "refused 10 10.0")
    screen.until("row-8", "not allowed 10 10.0")
    screen.click("pick-q5")
    screen.until("table-q5", "n 99 mean 13.67")
    screen.until("table-q5", "median 13")


def use_the_diary(screen: Screen) -> None:
    screen.click("stop-diary")
    screen.until("diary-line", "Kept “8” as is")
    said = [line.text for line in screen.all("diary-line")]
    assert "Kept “8” as is in tenure (plots lent by friends)" in said[0]
    assert "Set level ordinal on tenure." in said[1]
    assert "Brought in 100 records × 5 variables from plots.csv." in said[-1]
    screen.all("go-here")[-1].click()
    screen.until("diary-line", "go to here")
    screen.click("stop-codebook")
    screen.find("tag-q3")
    screen.click("stop-diary")
    screen.click("go-here")
    screen.until("diary-line", "the study is here")


def hand_over(screen: Screen) -> None:
    screen.click("stop-handover")
    screen.until("preview", "plot_no,tenure,q5,joined,Any_comment")
    screen.click("missing-sign")
    screen.until("preview", "0006,NA,6")
    screen.click("as-labels")
    screen.until("preview", "0001,Shared,1")
    screen.click("hand-over")
    archive = screen.downloads / "plots-2026.zip"
    deadline = time.monotonic() + 15
    while not archive.exists() and time.monotonic() < deadline:
        time.sleep(0.1)
    with zipfile.ZipFile(archive) as zipped:
        rows = list(csv.DictReader(io.StringIO(zipped.read("data.csv").decode())))
        fields = json.loads(zipped.read("datapackage.json"))["resources"][0]["schema"]["fields"]
    assert len(rows) == 100
    assert [row["tenure"] for row in rows].count("In my own name") == 49
    assert [row["tenure"] for row in rows].count("NA") == 10
    assert rows[6] == {
        "plot_no": "0007", "tenure": "n/a", "q5": "about 4", "joined": "2024-02-30", "Any_comment": "'=1+1",
    }  # fmt: skip
    assert fields[1]["title"] == "How the plot is held" and fields[1]["type"] == "string"


def test_a_second_window_follows(screen: Screen, plots: Path) -> None:
    """What is changed in one window shows in another, without reloading."""
    bring_in(screen, plots)
    first = screen.driver.current_window_handle
    address = screen.driver.current_url
    screen.new_window()
    screen.driver.get(address)
    screen.find("tag-q5")
    second = screen.driver.current_window_handle
    screen.driver.switch_to.window(first)
    screen.open("q5")
    screen.type("label", "Hours in a usual week")
    screen.until("tag-q5", "Hours in a usual week")
    screen.driver.switch_to.window(second)
    screen.until("tag-q5", "Hours in a usual week")


def test_many_windows(screen: Screen, plots: Path) -> None:
    """A dozen windows of one study all open at once, and all hear of a change."""
    bring_in(screen, plots)
    address, windows = screen.driver.current_url, [screen.driver.current_window_handle]
    for _ in range(11):
        screen.new_window()
        screen.driver.get(address)
        screen.find("tag-q5")
        windows.append(screen.driver.current_window_handle)
    screen.open("q5")
    screen.type("label", "Hours in a usual week")
    for window in (windows[0], windows[6]):
        screen.driver.switch_to.window(window)
        screen.until("tag-q5", "Hours in a usual week")
    screen.driver.switch_to.window(windows[0])
    screen.driver.close()
    screen.driver.switch_to.window(windows[5])
    screen.open("q5")
    screen.type("question", "How many hours?")
    screen.driver.switch_to.window(windows[8])
    screen.open("q5")
    screen._patiently(
        lambda _: screen.find("question").get_attribute("value") == "How many hours?", "never heard of it"
    )


def test_studies_and_bad_files(screen: Screen, tmp_path: Path) -> None:
    """Rename, remove and restore a study; a bad file gets a sentence and leaves the study empty; the demo opens."""
    screen.go("/")
    screen.css("[data-test='new-title'] input").send_keys("First")
    screen.click("create")
    broken = tmp_path / "broken.xlsx"
    broken.write_bytes(b"PK\x03\x04 nothing")
    screen.find("file").send_keys(str(broken))
    screen.until("notice", "broken.xlsx: This is no readable workbook")
    screen.find("drop")
    screen.go("/")
    screen.click("rename")
    field = screen.find("title-field")  # its text is selected
    field.send_keys("Renamed\n")
    screen.until("study", "Renamed")
    screen.click("remove")
    screen.until_gone("study")
    screen.click("show-removed")
    screen.click("restore")
    screen.until("study", "Renamed nothing brought in yet")
    screen.click("demo")
    screen.until("size", "1,204 records × 54 variables")
    assert not screen.problems()
