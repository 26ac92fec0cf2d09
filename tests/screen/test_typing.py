"""Typing into the real page, faster than the server answers, and in two windows: nothing is lost or overwritten."""

import json
from collections.abc import Iterator
from pathlib import Path

import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys

from tests.screen.conftest import Screen, Server
from tests.screen.test_walk import bring_in

pytestmark = pytest.mark.screen

SLOW = """
const [path, delays] = [arguments[0], arguments[1]]
const real = window.fetch
window.asked = 0
window.fetch = async (input, init) => {
  const url = input instanceof Request ? input.url : String(input)
  if (!url.includes(path)) return real(input, init)
  const delay = delays[Math.min(window.asked++, delays.length - 1)]
  const reply = await real(input, init)
  await new Promise((go) => setTimeout(go, delay))
  return reply
}
"""
"""Lets replies to requests under a path come late: the first after the first delay (ms), and so on."""


@pytest.fixture
def typing(screen: Screen, tmp_path: Path) -> Iterator[Screen]:
    """Twelve records of a plot number and three whole numbers, open at the records."""
    path = tmp_path / "keyed.csv"
    lines = ["plot_no,a,b,c", *(f"{n:04d},3,5,7" for n in range(1, 13))]
    path.write_text("\n".join(lines) + "\n", encoding="utf-8")
    bring_in(screen, path, "12 records × 4 variables")
    screen.click("stop-records")
    screen.until("grid", "0001")
    yield screen
    assert screen.driver.execute_script("return window.asked !== 0"), "nothing was slowed down"
    assert not screen.problems()


def choose(screen: Screen, record: int, column: int) -> None:
    """Clicks the cell of a record in a column (the identifier being 0)."""
    row = screen.css(f".row:nth-of-type({record + 1})")
    cells = row.find_elements("css selector", ".cell")
    ActionChains(screen.driver).move_to_element(cells[column]).click().perform()


def keys(screen: Screen, *pressed: str) -> None:
    """Presses keys one after the other, without waiting for anything."""
    ActionChains(screen.driver).send_keys(*pressed).perform()


def study_of(screen: Screen) -> str:
    return screen.driver.current_url.split("/study/")[1].split("/")[0]


def another_window(screen: Screen, stop: str) -> str:
    """Opens the study at a stop in a second window; gives the first."""
    first, study = screen.driver.current_window_handle, study_of(screen)
    screen.new_window("window")
    screen.go(f"/study/{study}/{stop}")
    return first


def entries(screen: Screen, variable: str) -> list[str]:
    """All entries of a variable, as the server has them."""
    found = screen.driver.execute_async_script(
        """
        const [study, name, done] = arguments
        const get = (path) => fetch(`/api/studies/${study}${path}`, { cache: 'no-store' }).then((reply) => reply.json())
        const idIn = (shown) => shown.variables.find((each) => each.name === name).id
        get('').then((shown) => get(`/records?stop=2000&variables=${idIn(shown)}`))
          .then((page) => done(JSON.stringify(page.columns[0].index.map((at) => page.columns[0].texts[at]))))
        """,
        study_of(screen),
        variable,
    )
    return json.loads(found)


def settle(screen: Screen) -> None:
    """Waits until everything is kept."""
    screen._patiently(lambda _: "kept" in screen.text("kept"), "it was never kept")


def test_what_is_typed_before_a_new_record_is_kept(typing: Screen) -> None:
    """7, then Ctrl+Enter at once: the 7 stays, and what is typed next belongs to the new record."""
    typing.driver.execute_script(SLOW, "/steps", [600])
    choose(typing, 12, 1)
    keys(typing, "7")
    typing.press(Keys.CONTROL, Keys.ENTER)
    keys(typing, "0", "0", "1", "3", Keys.TAB, "1", Keys.TAB, "2", Keys.ENTER)
    typing.until("size", "13 records")
    settle(typing)
    assert entries(typing, "a") == ["3"] * 11 + ["7", "1"]
    assert entries(typing, "b") == ["5"] * 12 + ["2"]
    assert entries(typing, "plot_no")[-1] == "0013"


def test_four_over_three_and_three_again(typing: Screen) -> None:
    """An entry typed and typed back before the first was kept ends as it was typed last."""
    typing.driver.execute_script(SLOW, "/steps", [500])
    choose(typing, 1, 1)
    keys(typing, "4", Keys.ENTER, Keys.ARROW_UP, "3", Keys.ENTER)
    settle(typing)
    assert entries(typing, "a")[0] == "3"
    typing.click("stop-diary")
    typing.until("diary-line", "Typed 2 entries into a, record 1.")
    typing.click("open-run")
    assert "Typed “3” into a of record 1" in typing.all("diary-step")[0].text


def test_undo_right_after_enter(typing: Screen) -> None:
    """Enter and Ctrl+Z before anything was answered takes back what was just typed."""
    typing.driver.execute_script(SLOW, "/steps", [500])
    choose(typing, 2, 1)
    keys(typing, "9", Keys.ENTER)
    typing.press(Keys.CONTROL, "z")
    settle(typing)
    typing._patiently(lambda _: entries(typing, "a")[1] == "3", "it was not taken back")
    assert not typing.all("notice") or "changed" not in typing.text("notice")


def test_a_run_of_typing_down_a_column(typing: Screen) -> None:
    """Twelve entries keyed without waiting (one as it was) stand where they were keyed, in the diary in one line."""
    typing.driver.execute_script(SLOW, "/steps", [300, 20, 200, 10])
    choose(typing, 1, 2)
    for number in range(12):
        keys(typing, str(number % 9 + 1), Keys.ENTER)
    settle(typing)
    assert entries(typing, "b") == [str(number % 9 + 1) for number in range(12)]
    typing.click("stop-diary")
    typing.until("diary-line", "Typed 11 entries into b, records 1 to 12.")


def test_another_window_moves_the_variable_while_one_types(typing: Screen) -> None:
    """What is being typed into a variable lands in it, wherever it is moved meanwhile."""
    choose(typing, 3, 1)
    keys(typing, "8")
    _, a, _, c = typing.ask(f"/studies/{study_of(typing)}")["order"]
    typing.elsewhere({"do": "arrange", "variables": [a], "before": c})
    typing._patiently(lambda _: typing.css(".head:nth-of-type(3) .mono").text == "b", "the move was not shown")
    keys(typing, "1", Keys.ENTER)
    settle(typing)
    assert entries(typing, "a")[2] == "81" and entries(typing, "b")[2] == "5"


def test_what_is_about_to_be_replaced_is_replaced(typing: Screen) -> None:
    """A label that another window changes, while it stands chosen to be typed over, is typed over all the same."""
    typing.click("stop-codebook")
    typing.open("b")
    typing.type("label", "Hours" + Keys.TAB)
    typing.find("label").send_keys(Keys.CONTROL, "a")
    variable = typing.ask(f"/studies/{study_of(typing)}")["order"][2]
    typing.elsewhere({"do": "define", "variables": [variable], "parts": {"label": "Hours a week"}})
    typing._patiently(lambda _: typing.find("label").get_property("value") == "Hours a week", "the label was not shown")
    keys(typing, "Days", Keys.TAB)
    typing.until("tag-b", "Days")
    assert typing.find("label").get_property("value") == "Days"


def test_two_windows_on_one_entry(typing: Screen) -> None:
    """Who types over what another typed meanwhile is told, and decides; until then nothing is overwritten."""
    choose(typing, 4, 1)
    keys(typing, "6")
    here = another_window(typing, "records")
    typing.until("grid", "0001")
    choose(typing, 4, 1)
    keys(typing, "9", Keys.ENTER)
    settle(typing)
    typing.driver.switch_to.window(here)
    keys(typing, Keys.ENTER)
    typing.until("notice", "Meanwhile this was changed: entry of a in record 4")
    typing.until("notice", "You typed “6”.")
    typing.until("notice", "is now “9”")
    assert entries(typing, "a")[3] == "9"
    typing.click("choice-Do mine anyway")
    settle(typing)
    typing._patiently(lambda _: entries(typing, "a")[3] == "6", "it was not done anyway")
    typing.until("grid", "6")


def test_a_late_page_does_not_cover_a_newer_one(typing: Screen) -> None:
    """A page of records that was asked for before an entry was kept and comes after it changes nothing."""
    choose(typing, 5, 1)
    keys(typing, "4", Keys.ENTER)
    settle(typing)
    typing.driver.execute_script(SLOW, "/records?", [1500, 0])
    choose(typing, 6, 1)
    keys(typing, "8", Keys.ENTER)
    keys(typing, "2", Keys.ENTER)
    settle(typing)

    def shown(_driver: object) -> list[str]:
        rows = [typing.css(f".row:nth-of-type({record + 1})") for record in (5, 6, 7)]
        return [row.find_elements("css selector", ".cell")[1].text for row in rows]

    for _ in range(25):
        assert shown(None) == ["4", "8", "2"]


def test_code_lines_keep_their_order(typing: Screen) -> None:
    """Lines typed faster than they are read stand in the order in which they were typed, on the tag where they were."""
    typing.click("stop-codebook")
    typing.open("a")
    typing.driver.execute_script(SLOW, "/code-lines", [600, 300, 0, 0])
    typing.click("add-line")
    keys(typing, "3 Good\n", "1 Poor\n", "2 Fair\n")
    typing.driver.execute_script("document.activeElement.blur()")
    keys(typing, Keys.ARROW_DOWN)
    typing._patiently(lambda _: typing.find("name").get_property("value") == "b", "not at the next tag")
    settle(typing)
    assert not typing.driver.find_elements("css selector", "[data-test='code-3']")
    keys(typing, Keys.ARROW_UP)
    typing.find("code-2")
    lines = typing.driver.find_elements("css selector", ".line:not(.loose) .line-code")
    assert [each.text for each in lines] == ["3", "1", "2"]


def test_missing_codes_keep_their_order(typing: Screen) -> None:
    """What is typed behind Enter is the next line; Ctrl+Enter at once sets nothing aside before all lines are read."""
    typing.click("stop-codebook")
    typing.open("a")
    typing.driver.execute_script(SLOW, "/code-lines", [800, 0])
    keys(typing, "m")
    typing.click("own-missing")
    keys(typing, "3 refused\n", "5 not asked\n", "7")
    typing.press(Keys.CONTROL, Keys.ENTER)
    typing.until("panel-preview", "Marked 3 as missing (refused), 5 as missing (not asked), 7 as missing (other) in")
    typing.press(Keys.CONTROL, Keys.ENTER)
    typing.until_gone("panel")


def test_no_answer_loses_nothing(typing: Screen, server: Server) -> None:
    """Where the server is away what is typed waits, is said to wait, and is kept once it is back."""
    server.stop(9)
    choose(typing, 7, 1)
    keys(typing, "1", Keys.ENTER, "2", Keys.ENTER)
    typing.until("notice", "Row Tag does not answer")
    assert "keeping" in typing.text("kept")
    server.start()
    typing.until_gone("choice-Try again")
    settle(typing)
    assert entries(typing, "a")[6:8] == ["1", "2"]
    typing.driver.get_log("browser")


@pytest.mark.parametrize("late", [0, 700])
def test_three_hundred_entries(screen: Screen, tmp_path: Path, late: int) -> None:
    """Typed as fast as the keys come, down a column: none is lost, none lands elsewhere, though the rows come late."""
    path = tmp_path / "long.csv"
    path.write_text("plot_no,a,b\n" + "".join(f"{n:04d},0,5\n" for n in range(1, 301)), encoding="utf-8")
    bring_in(screen, path, "300 records × 3 variables")
    screen.click("stop-records")
    screen.until("grid", "0001")
    screen.driver.execute_script(SLOW, "/records?", [late])
    choose(screen, 1, 1)
    typed = [str(number * 7 % 97) for number in range(300)]
    keys(screen, *(key for entry in typed for key in (entry, Keys.ENTER)))
    settle(screen)
    assert entries(screen, "a") == typed and entries(screen, "b") == ["5"] * 300
    screen.until("cell-status", "record 300 · a")
    assert not screen.problems()


def test_while_others_rearrange(typing: Screen) -> None:
    """Somebody types while another window moves, renames and removes variables and records: each entry lands where it
    was begun, the other one sees it, and an entry of what is gone is said to be gone."""
    choose(typing, 5, 1)
    keys(typing, "9")
    first = another_window(typing, "codebook")
    study = study_of(typing)
    ids = typing.driver.execute_async_script(
        "const done = arguments[1]; fetch(`/api/studies/${arguments[0]}`).then((r) => r.json())"
        ".then((shown) => done(Object.fromEntries(shown.variables.map((each) => [each.name, each.id]))))",
        study,
    )
    steps = [
        {"do": "arrange", "variables": [ids["c"]], "before": ids["a"]}, {"do": "rename", "names": {ids["a"]: "hours"}},
        {"do": "remove records", "records": [2, 3]}, {"do": "remove variables", "variables": [ids["b"]]},
        {"do": "set entries", "variable": ids["c"], "entries": {"5": "8"}},
    ]  # fmt: skip
    for number, step in enumerate(steps):
        typing.driver.execute_async_script(
            """
            const [study, id, step, done] = arguments
            fetch(`/api/studies/${study}`).then((reply) => reply.json()).then((shown) =>
              fetch(`/api/studies/${study}/steps`, { method: 'POST', headers: { 'Content-Type': 'application/json' },
                body: JSON.stringify({ id, base: shown.revision, step }) })).then((reply) => done(reply.status))
            """,
            study,
            f"other-window-{number}",
            step,
        )
    typing.until("size", "10 records × 3 variables")
    typing.driver.close()
    typing.driver.switch_to.window(first)
    typing.until("size", "10 records × 3 variables")
    assert typing.find("typed").get_property("value") == "9"
    keys(typing, Keys.ENTER)
    settle(typing)
    assert entries(typing, "hours") == ["3", "3", "9", *["3"] * 7]
    assert entries(typing, "c")[2] == "8"
    typing.until("cell-status", "record 6 · hours")
    heads = "return [...document.querySelectorAll('.heads .head .mono')].map((each) => each.innerText)"
    typing._patiently(
        lambda _: typing.driver.execute_script(heads) == ["plot_no", "c", "hours"], "no other order was seen"
    )
