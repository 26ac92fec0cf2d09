"""The real screen: a server of its own and a headless browser."""

import json
import os
import re
import subprocess
import sys
import urllib.request
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any
from uuid import uuid4

import pytest
from selenium.common.exceptions import NoSuchElementException, StaleElementReferenceException
from selenium.webdriver import Chrome
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.remote.webelement import WebElement
from selenium.webdriver.support.ui import Select, WebDriverWait

from rowtag.api.app import SITE
from tools.browser import browser

WAIT, POLL = 180, 0.05
"""Seconds to wait for something, as long as on the busiest machine, and between two looks."""

RECORD_NOTICES = """
const standing = new WeakMap()
window.noticesSaid = []
new MutationObserver(() => {
  for (const bar of document.querySelectorAll("[data-test='notice']")) {
    const text = bar.innerText.split(/\\s+/).join(' ').trim()
    if (!text || standing.get(bar) === text) continue
    standing.set(bar, text)
    window.noticesSaid.push(text)
  }
}).observe(document, { subtree: true, childList: true, characterData: true })
"""
"""Notices go after some seconds, which a busy machine may not look at: each page keeps what they said, in order."""
TAKE_NOTICE = """
const said = window.noticesSaid ?? []
const found = said.findIndex((text) => text.includes(arguments[0]))
said.splice(0, Math.max(found, 0))
return found >= 0
"""
"""Whether a notice said this; those before it are used up, it may be asked for another of its words."""


class Lasting(WebElement):
    """An element of the page that is looked for again, as it was found, when the page has drawn it anew."""

    def __init__(self, driver: Chrome, selector: str) -> None:
        self._driver, self._selector = driver, selector
        super().__init__(driver, self._looked_for().id)

    def _looked_for(self) -> WebElement:
        return WebDriverWait(self._driver, WAIT, POLL).until(
            lambda driver: driver.find_element(By.CSS_SELECTOR, self._selector), f"no {self._selector} on the page"
        )

    def _execute(self, command: str, params: dict[str, object] | None = None) -> dict[str, object]:
        while True:
            try:
                return super()._execute(command, params)
            except StaleElementReferenceException:
                self._id = self._looked_for().id

    def get_attribute(self, name: str) -> str | None:
        while True:
            try:
                return super().get_attribute(name)
            except StaleElementReferenceException:
                self._id = self._looked_for().id


class Screen:
    """A browser on a running Row Tag; things are found by what the page calls them for tests."""

    def __init__(self, driver: Chrome, address: str, downloads: Path) -> None:
        self.driver = driver
        self.address = address
        self.downloads = downloads
        self._record_notices()

    def _record_notices(self) -> None:
        self.driver.execute_cdp_cmd("Page.addScriptToEvaluateOnNewDocument", {"source": RECORD_NOTICES})

    def new_window(self, kind: str = "tab") -> None:
        """Opens another window, which is looked at from now on."""
        self.driver.switch_to.new_window(kind)
        self._record_notices()

    def go(self, path: str) -> None:
        self.driver.get(self.address + path)

    def find(self, name: str, within: str = "") -> WebElement:
        """The thing called `name`, as soon as it is there."""
        return self.css(f"{within} [data-test='{name}']")

    def css(self, selector: str) -> WebElement:
        return Lasting(self.driver, selector)

    def all(self, name: str) -> list[WebElement]:
        return self.driver.find_elements(By.CSS_SELECTOR, f"[data-test='{name}']")

    def click(self, name: str, within: str = "") -> None:
        """Clicks a thing, which may be redrawn at that moment."""

        def clicked(_driver: Chrome) -> bool:
            element = self.find(name, within)
            ActionChains(self.driver).move_to_element(element).perform()
            element.click()
            return True

        self._patiently(clicked, f"{name} could not be clicked")

    def open(self, tag: str) -> None:
        """Opens the page of a tag, and waits until it is there."""
        self.click(f"tag-{tag}")
        self._patiently(lambda _: self.find("name").get_property("value") == tag, f"the page of {tag} never came")

    def type(self, name: str, text: str, within: str = "") -> None:
        """Replaces what stands in a field, which may be redrawn at that moment, and keeps it with Enter."""

        def typed(_driver: Chrome) -> bool:
            field = self.find(name, within)
            field.send_keys("\ue009" + "a" + "\ue000")
            field.send_keys(text + "\n")
            return True

        self._patiently(typed, f"{name} could not be typed in")

    def choose(self, name: str, option: str, within: str = "") -> None:
        Select(self.css(f"{within} [data-test='{name}'] select")).select_by_visible_text(option)

    def select(self, name: str, value: str) -> None:
        """Chooses the option with this value; a list that is only just opening may need a second try."""

        def chosen(_driver: Chrome) -> bool:
            Select(self.find(name)).select_by_value(value)
            return self.find(name).get_property("value") == value

        self._patiently(chosen, f"{value} could not be chosen in {name}")

    def press(self, *keys: str) -> None:
        """Presses keys together, wherever the focus is."""
        chain = ActionChains(self.driver)
        for key in keys[:-1]:
            chain.key_down(key)
        chain.send_keys(keys[-1])
        for key in keys[:-1]:
            chain.key_up(key)
        chain.perform()

    def text(self, name: str) -> str:
        return " ".join(self.find(name).text.split())

    def until(self, name: str, expected: str) -> None:
        """Waits until the thing says something that holds the expected words; a notice may have gone since."""

        def says(driver: Chrome) -> bool:
            if name == "notice":
                return bool(driver.execute_script(TAKE_NOTICE, expected))
            return expected in self.text(name)

        self._patiently(says, f"{name} never said {expected!r}")

    def until_gone(self, name: str) -> None:
        WebDriverWait(self.driver, WAIT, POLL).until(lambda _: not self.all(name), f"{name} is still there")

    def _patiently(self, condition: Callable[[Chrome], bool], message: str) -> None:
        gone = (NoSuchElementException, StaleElementReferenceException)
        WebDriverWait(self.driver, WAIT, POLL, ignored_exceptions=gone).until(condition, message)

    def ask(self, path: str, body: Any = None) -> Any:
        """What the server answers, without the page."""
        data = None if body is None else json.dumps(body).encode()
        request = urllib.request.Request(f"{self.address}/api{path}", data, {"Content-Type": "application/json"})
        with urllib.request.urlopen(request) as reply:
            return json.load(reply)

    def elsewhere(self, step: dict[str, Any], study: str = "") -> None:
        """A step that another window takes in a study: in the one that is shown, if no other is named."""
        place = f"/studies/{study or self.driver.current_url.split('/study/')[1].split('/')[0]}"
        self.ask(f"{place}/steps", {"id": uuid4().hex, "base": self.ask(place)["revision"], "step": step})

    def problems(self) -> list[str]:
        """Errors of the page itself; what the server refused is shown to the user and tested there."""
        severe = [line["message"] for line in self.driver.get_log("browser") if line["level"] == "SEVERE"]
        return [message for message in severe if "Failed to load resource" not in message]


class Server:
    """A running Row Tag over a workspace."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        self.process: subprocess.Popen[str] | None = None
        self.port = 0

    def start(self) -> str:
        command = [
            sys.executable,
            "-m",
            "rowtag.cli",
            "serve",
            "--workspace",
            str(self.folder),
            "--port",
            str(self.port),
            "--no-token",
        ]
        env = {**os.environ, "PYTHONUNBUFFERED": "1"}
        self.process = subprocess.Popen(command, stdout=subprocess.PIPE, text=True, env=env)
        assert self.process.stdout is not None
        line = self.process.stdout.readline()
        found = re.search(r"http://127\.0\.0\.1:(\d+)", line)
        assert found, line
        self.port = int(found[1])
        return found[0]

    def stop(self, how: int = 15) -> None:
        if self.process is not None:
            self.process.send_signal(how)
            self.process.communicate(timeout=WAIT)
            self.process = None


@pytest.fixture
def server(tmp_path: Path) -> Iterator[Server]:
    if not (SITE / "index.html").is_file():
        pytest.fail("The front end is not built; run make setup.")
    running = Server(tmp_path / "workspace")
    running.start()
    yield running
    running.stop()


@pytest.fixture
def screen(server: Server, tmp_path: Path) -> Iterator[Screen]:
    downloads = tmp_path / "downloads"
    downloads.mkdir()
    with browser(downloads) as driver:
        yield Screen(driver, f"http://127.0.0.1:{server.port}", downloads)
