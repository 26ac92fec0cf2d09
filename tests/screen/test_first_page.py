"""The page where studies are chosen: what waits in each, found by typing, begun by dropping a file."""

import base64
from contextlib import closing
from pathlib import Path

import pytest
from selenium.webdriver.common.keys import Keys

from rowtag.store.workspace import Workspace
from tests.screen.conftest import Screen, Server
from tests.screen.test_walk import bring_in
from tools.made import questionnaire

pytestmark = pytest.mark.screen

MOST_PACKED = 250_000
"""Bytes that travel before the first page shows something."""

DROP = """
const [text, name] = arguments
const bytes = Uint8Array.from(atob(text), (sign) => sign.charCodeAt(0))
const held = new DataTransfer()
held.items.add(new File([bytes], name))
const page = document.querySelector("[data-test='studies']")
for (const kind of ['dragover', 'drop']) page.dispatchEvent(new DragEvent(kind, { dataTransfer: held, bubbles: true }))
"""


def drop(screen: Screen, path: Path) -> None:
    """Lets a file fall onto the page."""
    screen.find("studies")
    screen.driver.execute_script(DROP, base64.b64encode(path.read_bytes()).decode(), path.name)


def test_little_travels_before_the_first_page_is_seen(screen: Screen) -> None:
    screen.go("/")
    screen.find("demo")
    sizes = screen.driver.execute_script(
        "const seen = performance.getEntriesByType('paint')[0].startTime;"
        "return performance.getEntriesByType('resource').filter((each) => each.startTime < seen)"
        ".map((each) => [each.transferSize, each.encodedBodySize])"
    )
    assert sum(size for size, _ in sizes) <= MOST_PACKED
    assert len(sizes) > 3 and all(packed for _, packed in sizes)


def test_what_waits_in_each_study(screen: Screen, server: Server, tmp_path: Path) -> None:
    """Its fill, open findings and last step, also after a restart; its findings are one click away."""
    path = tmp_path / "plots.csv"
    rows = [f"{number:04d},{number % 7}" for number in range(1, 41)]
    path.write_text("\n".join(["plot_no,hours", *rows, "0041,about 9", "0042,"]), encoding="utf-8")
    bring_in(screen, path, "42 records × 2 variables")
    screen.open("hours")
    screen.type("label", "Hours in a week")
    screen.until("tag-hours", "Hours in a week")
    screen.go("/")
    screen.until("waits", "open")
    assert "Hours in a week" in screen.text("waits")
    bar = screen.css("[data-test='waits'] [role='img']").get_attribute("aria-label")
    assert bar == "82 valid, 0 coded missing, 1 blank, 1 stray"
    server.stop()
    with closing(Workspace(server.folder)) as workspace:
        seen = workspace.entries()[0].seen
    assert seen and (seen.valid, seen.blank, seen.stray) == (82, 1, 1) and seen.findings
    server.start()
    screen.go("/")
    screen.until("waits", f"{seen.findings} finding")
    screen.css("[data-test='waits'] a").click()
    screen.until("open-findings", f"{seen.findings} finding")


def test_a_study_is_found_by_typing(screen: Screen) -> None:
    """Keys go where one looks for a study; Enter opens what was found."""
    for title in ("Plots 2024", "Plots 2025", "Site hut"):
        screen.go("/")
        screen.css("[data-test='new-title'] input").send_keys(title, Keys.ENTER)
        screen.find("drop")
    screen.go("/")
    screen.find("find-study")
    screen._patiently(
        lambda driver: driver.switch_to.active_element.get_attribute("data-test") == "find-study", "keys go elsewhere"
    )
    screen.press("p")
    screen.driver.switch_to.active_element.send_keys("lots 25")
    assert [each.text.split("\n")[0] for each in screen.all("study")] == ["Plots 2025"]
    screen.driver.switch_to.active_element.send_keys(" 1999")
    assert "Nothing found." in screen.text("studies") and not screen.all("study")
    screen.driver.switch_to.active_element.send_keys(Keys.ESCAPE, "hut", Keys.ENTER)
    screen.find("drop")
    screen._patiently(lambda driver: "Site hut" in driver.page_source, "another study was opened")


def test_a_dropped_file_begins_a_study(screen: Screen, tmp_path: Path) -> None:
    """Data are looked at, a document becomes its codebook; the study is called like the file."""
    path = tmp_path / "plots_2026.csv"
    path.write_text("plot_no,hours\n0001,4\n0002,9\n", encoding="utf-8")
    screen.go("/")
    drop(screen, path)
    screen.until("summary", "2 records × 2 variables")
    assert screen.css("h1").text == "plots 2026"
    questionnaire(tmp_path / "questions.docx")
    screen.go("/")
    drop(screen, tmp_path / "questions.docx")
    screen.find("compare")
    screen.until("compare-read", "variables found")
    assert screen.css("h1").text == "questions"
    assert screen.problems() == []
