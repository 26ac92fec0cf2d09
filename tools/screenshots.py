"""Makes docs/screenshots anew: one picture of each main view, from the demo data."""

import json
import os
import re
import subprocess
import sys
import time
import urllib.request
from collections.abc import Callable
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any

from selenium.webdriver import Chrome
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from rowtag.demo.untidy import write_late, write_untidy
from tools.browser import browser
from tools.made import questionnaire

SHOTS = Path(__file__).parent.parent / "docs" / "screenshots"
SETTLE = 1.2
"""Seconds that a view gets to draw itself."""
KEYED = 200
"""Records of the demo that are keyed a second time."""


def main() -> None:
    """Serves the demo from a fresh workspace and takes all pictures."""
    SHOTS.mkdir(parents=True, exist_ok=True)
    with TemporaryDirectory() as folder:
        write_untidy(Path(folder) / "site-hut.csv")
        write_late(Path(folder) / "late-returns.csv")
        _write_walk(Path(folder))
        questionnaire(Path(folder) / "questionnaire.docx")
        command = [sys.executable, "-m", "rowtag.cli", "demo", "--workspace", f"{folder}/workspace", "--port", "0"]
        command.append("--no-token")
        server = subprocess.Popen(
            command, stdout=subprocess.PIPE, text=True, env={**os.environ, "PYTHONUNBUFFERED": "1"}
        )
        try:
            assert server.stdout is not None
            address = re.search(r"http://[\d.]+:\d+", server.stdout.readline())
            assert address
            with browser() as driver:
                for name, prepare in views(address[0], Path(folder)).items():
                    prepare(driver)
                    time.sleep(SETTLE)
                    driver.save_screenshot(str(SHOTS / f"{name}.png"))
                    print(name)
        finally:
            server.terminate()
            server.wait()


def views(address: str, folder: Path) -> dict[str, Callable[[Chrome], None]]:
    """Each picture's name, and how to get to its view."""
    study = f"{address}/study/demo"

    def click(driver: Chrome, *names: str) -> None:
        for name in names:
            time.sleep(SETTLE)
            driver.find_element(By.CSS_SELECTOR, f"[data-test='{name}']").click()

    def at(path: str, *names: str) -> Callable[[Chrome], None]:
        def prepare(driver: Chrome) -> None:
            driver.get(study + path)
            click(driver, *names)

        return prepare

    def new(driver: Chrome, title: str) -> None:
        driver.get(address)
        time.sleep(SETTLE)
        driver.find_element(By.CSS_SELECTOR, "[data-test='new-title'] input").send_keys(title)
        click(driver, "create")
        time.sleep(SETTLE)

    def hand_in(driver: Chrome, name: str) -> None:
        driver.find_element(By.CSS_SELECTOR, "[data-test='file']").send_keys(str(folder / name))
        time.sleep(2 * SETTLE)

    def start(driver: Chrome) -> None:
        new(driver, "Plot holders, next wave")

    def intake(driver: Chrome) -> None:
        new(driver, "Plot holders, second look")
        hand_in(driver, "site-hut.csv")
        click(driver, "pick-q4")

    def join(driver: Chrome) -> None:
        new(driver, "Plot holders, with late returns")
        hand_in(driver, "site-hut.csv")
        click(driver, "bring-in")
        time.sleep(SETTLE)
        click(driver, "stop-intake")
        time.sleep(SETTLE)
        hand_in(driver, "late-returns.csv")
        click(driver, "known-skip")

    def document(driver: Chrome) -> None:
        new(driver, "Plot holders, from the questionnaire")
        driver.find_element(By.CSS_SELECTOR, "[data-test='document-first']").send_keys(
            str(folder / "questionnaire.docx")
        )
        time.sleep(3 * SETTLE)

    def otherwise(driver: Chrome) -> None:
        new(driver, "A walk round the plots")
        hand_in(driver, "walk.csv")
        click(driver, "bring-in", "side-switch")
        time.sleep(SETTLE)
        driver.find_element(By.CSS_SELECTOR, "[data-test='sheet-file']").send_keys(str(folder / "walk.md"))
        time.sleep(SETTLE)
        click(driver, "keep-sheet", "tag-hut")
        time.sleep(SETTLE)
        driver.find_element(By.CSS_SELECTOR, "#line-8").click()
        click(driver, "meant-names-3")

    def records(driver: Chrome) -> None:
        at("/records", "head-tenure", "only-strays")(driver)
        driver.find_element(By.CSS_SELECTOR, "[aria-label='Put the side sheet away']").click()
        time.sleep(SETTLE)

    def replace(driver: Chrome) -> None:
        at("/records")(driver)
        time.sleep(2 * SETTLE)
        cell = driver.find_elements(By.CSS_SELECTOR, ".row:nth-of-type(4) .cell")[3]
        ActionChains(driver).click(cell).key_down(Keys.SHIFT).send_keys(Keys.ARROW_RIGHT * 2).key_up(
            Keys.SHIFT
        ).perform()
        click(driver, "open-replace")
        time.sleep(SETTLE)
        driver.find_element(By.CSS_SELECTOR, "[data-test='replace-how'] option[value='pattern']").click()
        driver.find_element(By.CSS_SELECTOR, "[data-test='replace-find']").send_keys(r"^(\d+) ?(hrs|h|m²)$")
        driver.find_element(By.CSS_SELECTOR, "[data-test='replace-by']").send_keys(r"\1")

    def dark(driver: Chrome) -> None:
        scheme = {"features": [{"name": "prefers-color-scheme", "value": "dark"}]}
        driver.execute_cdp_cmd("Emulation.setEmulatedMedia", scheme)
        at("/codebook", "tag-tenure")(driver)

    def chosen(last: str, *names: str) -> Callable[[Chrome], None]:
        def prepare(driver: Chrome) -> None:
            at("/codebook", "tag-site_1")(driver)
            time.sleep(SETTLE)
            target = driver.find_element(By.CSS_SELECTOR, f"[data-test='tag-{last}']")
            ActionChains(driver).key_down(Keys.SHIFT).click(target).key_up(Keys.SHIFT).perform()
            click(driver, *names)

        return prepare

    def beside(driver: Chrome) -> None:
        at("/codebook", "tag-tenure")(driver)
        time.sleep(SETTLE)
        first, last = (driver.find_element(By.CSS_SELECTOR, f"#line-{number}") for number in (16, 23))
        ActionChains(driver).click(first).key_down(Keys.SHIFT).click(last).key_up(Keys.SHIFT).perform()

    def compare(driver: Chrome) -> None:
        driver.execute_cdp_cmd("Emulation.setEmulatedMedia", {"features": []})
        chosen("site_6", "open-clear", "clear-codes", "clear-missing", "panel-do")(driver)
        click(driver, "read-it-all", "take-adding")

    return {
        "codebook": beside,
        "measured": at("/codebook", "tag-hours"),
        "document": document,
        "otherwise": otherwise,
        "missing": at("/codebook", "open-missing"),
        "records": records,
        "replace": replace,
        "keying": lambda driver: keying(driver, study),
        "keyings": lambda driver: keyings(driver, address),
        "checks": at("/checks"),
        "tables": at("/tables", "pick-site_1"),
        "diary": at("/diary"),
        "handover": at("/handover"),
        "intake": intake,
        "intake-start": start,
        "intake-join": join,
        "studies": lambda driver: driver.get(address),
        "dark": dark,
        "compare": compare,
    }


def keying(driver: Chrome, study: str) -> None:
    """A record half keyed in: a battery as a grid, and a code that its list does not have."""
    driver.get(f"{study}/records/key")
    time.sleep(2 * SETTLE)
    pressed = ["F0417", Keys.ENTER, "2", "1", "125", Keys.ENTER, "6", Keys.ENTER, "40", Keys.ENTER, "2011", Keys.ENTER]
    ActionChains(driver).send_keys(*pressed, "4", "4", "d", "7").perform()


def keyings(driver: Chrome, address: str) -> None:
    """Two keyings of the demo's first records, between which there are some slips."""

    def ask(path: str, body: Any = None) -> Any:
        data = None if body is None else json.dumps(body).encode()
        request = urllib.request.Request(f"{address}/api{path}", data, {"Content-Type": "application/json"})
        with urllib.request.urlopen(request) as reply:
            return json.loads(reply.read())

    other = ask("/studies/demo/second-keying", {})["id"]
    first, second = ask("/studies/demo"), ask(f"/studies/{other}")
    ids = {each["name"]: each["id"] for each in second["variables"]}
    names = {each["id"]: each["name"] for each in first["variables"]}
    columns = ask(f"/studies/demo/records?stop={KEYED}")["columns"]
    entries = {ids[names[each["id"]]]: [each["texts"][at] for at in each["index"]] for each in columns}
    for number, (name, slip) in enumerate((("tenure", "2"), ("site_2", "3"), ("hours", "21"), ("quarter", "4"))):
        for at in range(number, KEYED, 37 + 11 * number):
            entries[ids[name]][at] = slip
    step = {"do": "set block", "records": [], "more": KEYED, "entries": entries}
    ask(f"/studies/{other}/steps", {"id": "second-keying", "base": second["revision"], "step": step})
    driver.get(f"{address}/study/demo/records/keyings?with={other}")


WALK = """# A walk round the plots, May 2026

One line for each plot. What the columns of the list are called stands on the right.

| Part | What was looked at | Called |
|---|---|---|
| plot | Number of the plot | nr |
| plot | Hut: 1 = none, 2 = of wood, 3 = of bricks, 9 = not seen | hut |
| plot | Beds in use | beds |
| path | State of the path: 1 = firm, 2 = soft, 3 = under water | path |
"""
"""Notes whose names stand in the last column."""


def _write_walk(folder: Path) -> None:
    """A short file of data, and notes on it."""
    rows = [f"{101 + 3 * at},{(1, 2, 2, 3, 9)[at % 5]},{at % 9},{at % 3 + 1}" for at in range(60)]
    (folder / "walk.csv").write_text("\n".join(["nr,hut,beds,path", *rows]), encoding="utf-8")
    (folder / "walk.md").write_text(WALK, encoding="utf-8")


if __name__ == "__main__":
    main()
