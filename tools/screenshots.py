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
from selenium.webdriver.remote.webelement import WebElement
from selenium.webdriver.support.wait import WebDriverWait

from rowtag.demo.untidy import write_untidy
from tools.browser import browser
from tools.made import questionnaire

SHOTS = Path(__file__).parent.parent / "docs" / "screenshots"
SETTLE = 1.2
"""Seconds that a view gets to draw itself."""
KEYED = 200
"""Records of the demo that are keyed a second time."""


def main() -> None:
    """Serves the demo from a fresh workspace and takes all pictures, or those that are named."""
    SHOTS.mkdir(parents=True, exist_ok=True)
    with TemporaryDirectory() as folder:
        write_untidy(Path(folder) / "site-hut.csv")
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
                driver.implicitly_wait(20)
                for name, prepare in views(address[0], Path(folder)).items():
                    if sys.argv[1:] and name not in sys.argv[1:]:
                        continue
                    prepare(driver)
                    WebDriverWait(driver, 20).until(_ready)
                    time.sleep(3 * SETTLE)
                    driver.save_screenshot(str(SHOTS / f"{name}.png"))
                    print(name)
        finally:
            server.terminate()
            server.wait()


def _ready(driver: Chrome) -> bool:
    """Whether the view is there, and no passing notice covers what is beneath it."""
    there = "document.querySelector('main')?.innerText.trim()"
    return bool(driver.execute_script(f"return {there} && !document.querySelector('[data-test=notice]')"))


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

    def intake(driver: Chrome) -> None:
        new(driver, "Plot holders, second look")
        hand_in(driver, "site-hut.csv")
        click(driver, "pick-q4")

    def document(driver: Chrome) -> None:
        new(driver, "Plot holders, from the questionnaire")
        driver.find_element(By.CSS_SELECTOR, "[data-test='document-first']").send_keys(
            str(folder / "questionnaire.docx")
        )
        time.sleep(3 * SETTLE)

    def records(driver: Chrome) -> None:
        at("/records", "head-tenure", "only-strays")(driver)
        driver.find_element(By.CSS_SELECTOR, "[aria-label='Close the side sheet']").click()
        time.sleep(SETTLE)

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

    def tables(driver: Chrome) -> None:
        at("/tables", "pick-tenure")(driver)
        ActionChains(driver).key_down(Keys.CONTROL).click(
            driver.find_element(By.CSS_SELECTOR, "[data-test='pick-hours']")
        ).key_up(Keys.CONTROL).perform()
        for name, word in (("by-tenure", "quarter"), ("by-hours", "tenure"), ("weight", "weight")):
            driver.find_element(By.CSS_SELECTOR, f"[data-test='{name}']").send_keys(word)
            time.sleep(SETTLE)

    def compare(driver: Chrome) -> None:
        chosen("site_6", "open-clear", "clear-codes", "clear-missing", "panel-do")(driver)
        time.sleep(SETTLE)
        if not driver.find_elements(By.CSS_SELECTOR, "[data-test='read-it-all']"):  # put away for another picture
            ActionChains(driver).key_down(Keys.ALT).send_keys("s").key_up(Keys.ALT).perform()
        click(driver, "read-it-all", "take-adding")

    return {
        "codebook": beside,
        "document": document,
        "records": records,
        "keying": lambda driver: keying(driver, study),
        "keyings": lambda driver: keyings(driver, address),
        "checks": lambda driver: battery_finding(driver, study),
        "gaps": at("/checks?show=gaps"),
        "rules": lambda driver: rules(driver, address),
        "derive": lambda driver: derive(
            driver, study, "tenure", "recode", {"to-2": "1", "to-3": "0", "label-1": "Holds a plot"}
        ),
        "tables": tables,
        "handover": at("/handover"),
        "intake": intake,
        "compare": compare,
        "amend": lambda driver: amend(driver, study),
        "routine": lambda driver: routine(driver, study, folder),
        "diary": lambda driver: editions_compared(driver, study),
        "keys": lambda driver: keys(driver, study),
        "records-1024": lambda driver: sized(driver, records, (1024, 768)),
        "studies": lambda driver: sized(driver, lambda driver: driver.get(address), (1280, 800)),
    }


def keys(driver: Chrome, study: str) -> None:
    """All keys, on a page of their own."""
    driver.get(f"{study}/codebook")
    time.sleep(SETTLE)
    ActionChains(driver).send_keys(Keys.F1).perform()


def sized(driver: Chrome, prepare: Callable[[Chrome], None], size: tuple[int, int]) -> None:
    """A view in a window of another size."""
    metrics = {"width": size[0], "height": size[1], "deviceScaleFactor": 1, "mobile": False}
    driver.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", metrics)
    prepare(driver)


def derive(driver: Chrome, study: str, variable: str, way: str, shaped: dict[str, str]) -> None:
    """A derivation that is being shaped: fields and what is typed in them."""
    driver.get(f"{study}/derive")
    time.sleep(SETTLE)
    filtered = driver.find_element(By.CSS_SELECTOR, "[data-test='derive-filter']")
    filtered.send_keys(variable)
    for name in (f"source-{variable}", f"way-{way}"):
        time.sleep(SETTLE)
        driver.find_element(By.CSS_SELECTOR, f"[data-test='{name}']").click()
    filtered.send_keys(Keys.ESCAPE)
    for name, typed in shaped.items():
        time.sleep(SETTLE)
        place = driver.find_element(By.CSS_SELECTOR, f"[data-test='{name}']")
        place.send_keys(Keys.CONTROL, "a")
        place.send_keys(typed, Keys.TAB)


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


def battery_finding(driver: Chrome, study: str) -> None:
    """The checks of the demo, with an item that runs against the rest of its battery."""
    driver.get(f"{study}/checks")
    place = (By.CSS_SELECTOR, "[aria-label='site_4, batteries: a warning']")
    WebDriverWait(driver, 20).until(lambda _: driver.find_elements(*place))  # worked out beside the server
    driver.find_element(*place).click()
    time.sleep(SETTLE)
    driver.execute_script("document.querySelector('.stop').scrollTop = 430")


def rules(driver: Chrome, address: str) -> None:
    """Rules of the demo, and one that is being written, with a slip."""
    driver.get(f"{address}/study/demo/checks?show=rules")
    for title, text in (
        ("Waiting list works no plot", "if tenure is 'Waiting list' then hours is blank"),
        ("A week has 168 hours", "hours <= 168"),
    ):
        time.sleep(SETTLE)
        driver.find_element(By.CSS_SELECTOR, "[data-test='write-rule']").click()
        driver.find_element(By.CSS_SELECTOR, "[data-test='formula']").send_keys(text)
        driver.find_element(By.CSS_SELECTOR, "[data-test='rule-title']").send_keys(title)
        time.sleep(SETTLE)
        driver.find_element(By.CSS_SELECTOR, "[data-test='keep-rule']").click()
    time.sleep(SETTLE)
    driver.find_element(By.CSS_SELECTOR, "[data-test='write-rule']").click()
    slip = "if people = 1 then childrn = 0"
    driver.find_element(By.CSS_SELECTOR, "[data-test='formula']").send_keys(slip)


def found(driver: Chrome, name: str) -> WebElement:
    """A part of the page, once it is there."""
    return WebDriverWait(driver, 20).until(lambda _: driver.find_element(By.CSS_SELECTOR, f"[data-test='{name}']"))


def amend(driver: Chrome, study: str) -> None:
    """Bands of hours and what was recoded from them; the bands are amended."""
    derive(driver, study, "hours", "bands", {"end-0": "6"})
    for again in (False, True):
        if again:
            derive(driver, study, "hours_b", "recode", {"to-2": "1", "label-1": "A few"})
        time.sleep(2 * SETTLE)
        found(driver, "derive").click()
        time.sleep(2 * SETTLE)
    driver.get(f"{study}/diary")
    found(driver, "diary-line")
    line = driver.find_elements(By.CSS_SELECTOR, "[data-test='diary-line']")[1]
    ActionChains(driver).move_to_element(line).perform()
    line.find_element(By.CSS_SELECTOR, "[data-test='amend']").click()
    for number, text in enumerate((".. 4 'up to 4'", "5 .. 14", "15 .. 23"), 1):
        band = found(driver, f"line-variables.1.how.{number}")
        band.send_keys(Keys.CONTROL, "a")
        band.send_keys(text)


def routine(driver: Chrome, study: str, folder: Path) -> None:
    """A routine of which one step can be done, one in part, and one not."""
    path = folder / "what-we-agreed.yaml"
    path.write_text(
        "row tag routine: 1\nsteps:\n  - do: rename\n    names: {tenure: held_as, gate: gate_key}\n  - do: derive\n"
        "    variables: [{how: 'indicator hours > 10', into: {busy_week: busy_week}}]\n  - do: mark missing\n"
        "    variables: [shade]\n    lines: [{code: -9, reason: refused}]\n",
        "utf-8",
    )
    driver.get(f"{study}/diary")
    found(driver, "run-routine").send_keys(str(path))


def editions_compared(driver: Chrome, study: str) -> None:
    """A named state and what differs from it after a recode in place."""
    driver.get(f"{study}/diary")
    found(driver, "name-edition").click()
    found(driver, "edition-name").send_keys("As it came")
    found(driver, "edition-note").send_keys("Brought in and defined; nothing is decided yet.")
    found(driver, "keep-edition").click()
    time.sleep(SETTLE)
    derive(driver, study, "tenure", "recode", {"to-2": "1", "label-1": "Holds a plot"})
    for name in ("in-place", "derive"):
        time.sleep(2 * SETTLE)
        found(driver, name).click()
    time.sleep(2 * SETTLE)
    driver.get(f"{study}/diary")
    found(driver, "compare-editions").click()


if __name__ == "__main__":
    main()
