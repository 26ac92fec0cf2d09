"""Every view on the real screen: without a mouse, in the dark, when wide, when empty, and by axe's rules."""

import json
import time
from pathlib import Path

import pytest
from selenium.webdriver.common.keys import Keys

from tests.screen.conftest import Screen

pytestmark = pytest.mark.screen
AXE = Path(__file__).parent.parent.parent / "web" / "node_modules" / "axe-core" / "axe.min.js"
STOPS = ("codebook", "records", "checks", "derive", "tables", "diary", "handover", "intake")


def open_demo(screen: Screen) -> None:
    screen.go("/")
    screen.click("demo")
    screen.until("size", "1,204 records × 54 variables")


@pytest.mark.parametrize("scheme", ["light", "dark"])
def test_no_serious_fault_of_access(screen: Screen, scheme: str) -> None:
    """Axe finds nothing serious or critical on any stop, in light and in dark."""
    features = {"features": [{"name": "prefers-color-scheme", "value": scheme}]}
    screen.driver.execute_cdp_cmd("Emulation.setEmulatedMedia", features)
    open_demo(screen)
    faults = look_with_axe(screen, "codebook")
    screen.open("hours")
    screen.find("histogram")
    faults += look_with_axe(screen, "measured")
    waits = {"records": "next-stray", "checks": "map", "derive": "accounting", "tables": "pick-tenure",
             "diary": "diary-line", "handover": "preview", "intake": "has-data"}  # fmt: skip
    for stop, there in waits.items():
        screen.click(f"stop-{stop}")
        screen.find(there)
        if stop == "tables":
            screen.click("pick-tenure")
            screen.find("row-valid")
        if stop == "records":
            screen.click("open-pane")
            screen.find("remark-text").send_keys("Torn sheet")
            screen.click("remark-keep")
            screen.find("remark")
            screen.click("open-arrange")
            screen.click("more-conditions")
            faults += look_with_axe(screen, "arranging")
            screen.find("condition-text").send_keys(Keys.ESCAPE)
        faults += look_with_axe(screen, stop)
    screen.go("/")
    screen.find("study")
    faults += look_with_axe(screen, "studies")
    assert faults == []


def look_with_axe(screen: Screen, where: str) -> list[str]:
    """Serious and critical faults of the page as it is, in a line each."""
    screen.driver.execute_script(AXE.read_text("utf-8"))
    found = screen.driver.execute_async_script(
        "const done = arguments[0];"
        "axe.run(document, {runOnly: ['wcag2a', 'wcag2aa']}).then(r => done(JSON.stringify(r.violations)))"
    )
    return [
        f"{where}: {fault['id']} {node['target']} {node['failureSummary'][:200]}"
        for fault in json.loads(found)
        if fault["impact"] in ("serious", "critical")
        for node in fault["nodes"][:3]
    ]


def test_without_a_mouse(screen: Screen) -> None:
    """Stops, filter, tags, labels, order of codes, undo: all by keys."""
    open_demo(screen)
    for number, stop in ((3, "grid"), (4, "map"), (5, "accounting"), (7, "diary-line"), (2, "page")):
        screen.press(Keys.ALT, str(number))
        screen.find(stop)
    screen.find("tags").send_keys("/")
    screen.find("filter").send_keys("water supply")
    screen.find("tag-site_1")
    screen.find("filter").send_keys(Keys.TAB)
    screen.driver.find_element("css selector", "[data-test='tags']").send_keys(Keys.ARROW_DOWN)
    label = screen.css("[data-test='code-1'] textarea[aria-label='Label of 1']")
    assert label.get_attribute("value") == "Very poor"
    label.send_keys(Keys.END, " indeed", Keys.ENTER)
    screen.css("[data-test='kept']")
    screen.css("[data-test='code-1'] textarea").send_keys(Keys.ALT, Keys.ARROW_DOWN)
    lines = "[...document.querySelectorAll('.line .code')].slice(0, 2).map((each) => each.textContent).join()"
    screen._patiently(
        lambda driver: driver.execute_script(f"return {lines}") == "2,1", "the codes never changed places"
    )
    screen.press(Keys.ESCAPE)
    screen.find("tags").click()
    screen.press(Keys.CONTROL, "z")
    screen._patiently(lambda driver: driver.execute_script(f"return {lines}") == "1,2", "the order was not undone")
    screen.press(Keys.ALT, "c")
    assert screen.find("show-codes").get_attribute("aria-checked") == "true"


def test_a_very_wide_file(screen: Screen, tmp_path: Path) -> None:
    """2,000 columns with long labels and odd heads are looked at, brought in, and scrolled through."""
    heads = ["F 1", "", *(f"q{number}" for number in range(3, 2_001))]
    path = tmp_path / "wide.csv"
    path.write_text("\n".join([",".join(heads), *(",".join(["1", "x" * 300] + ["2"] * 1_998) for _ in range(3))]))
    screen.go("/")
    screen.css("[data-test='new-title'] input").send_keys("Wide " * 30)
    screen.click("create")
    screen.find("file").send_keys(str(path))
    screen.until("summary", "3 records × 2,000 variables")
    screen.click("bring-in")
    screen.until("size", "3 records × 2,000 variables")
    screen.type("label", "A label of many words " * 20)
    screen.click("stop-records")
    screen.find("grid").send_keys(Keys.END)
    screen.until("grid", "q2000")
    assert screen.driver.execute_script("return document.querySelectorAll('[role=gridcell]').length") < 400
    assert screen.driver.execute_script("return document.body.scrollWidth") <= 1280
    assert not screen.problems()


def test_empty_stops_say_what_to_do(screen: Screen) -> None:
    """In a new study every stop says where to begin."""
    screen.go("/")
    screen.css("[data-test='new-title'] input").send_keys("Empty")
    screen.click("create")
    screen.find("drop")
    address = screen.driver.current_url.rsplit("/", 1)[0]
    for stop in STOPS[:-1]:
        screen.driver.get(f"{address}/{stop}")
        assert "Intake" in screen.css(".empty").text
    assert not screen.problems()


def test_a_message_that_replaces_another_stands_its_time(screen: Screen) -> None:
    """Said just before the last one would have gone, it is not gone with it."""
    open_demo(screen)
    screen.go("/study/demo/records")
    screen.type("go-to", "90001")
    screen.until("notice", "90001")
    time.sleep(3)
    begun = time.monotonic()
    screen.type("go-to", "90002")
    screen.until("notice", "90002")
    time.sleep(2.5)
    said = "".join(notice.text for notice in screen.all("notice"))
    assert "90002" in said or time.monotonic() - begun > 4.5, "gone before its time"
    screen.until_gone("notice")
