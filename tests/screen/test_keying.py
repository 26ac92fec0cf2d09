"""Records keyed in by keyboard alone, twice, and the two keyings compared: what was meant is what is kept."""

import random
from typing import Any

import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys

from rowtag.core.tag import CodeLine, MissingLine, Skip, Tag
from tests.screen.conftest import Screen, Server
from tests.screen.test_arranging import heads
from tests.screen.test_replace import fill
from tests.screen.test_typing import SLOW, entries, keys, settle, study_of
from tests.screen.test_views import look_with_axe, open_demo

pytestmark = pytest.mark.screen

Record = dict[str, str]


def defined(screen: Screen, *tags: Tag) -> str:
    """A study without records that has some tags, under ids that are their names; gives its id."""
    study: str = screen.ask("/studies", {"title": "Keyed"})["id"]
    variables = [{"id": f"id_{tag.name}", "tag": tag.model_dump(exclude_defaults=True)} for tag in tags]
    batteries = {tag.battery: {"title": f"The {tag.battery}"} for tag in tags if tag.battery}
    step = {"do": "add variables", "variables": variables, "batteries": batteries}
    screen.elsewhere(step, study)
    return study


REFUSED = MissingLine(code="-9", label="Refused", reason="refused")
SITE = tuple(CodeLine(code=str(code), label=word) for code, word in enumerate(("Poor", "Fair", "Good"), 1))
HELD = tuple(CodeLine(code=code, label=word) for code, word in (("1", "Own"), ("2", "Shared"), ("11", "Lent")))
YES = (CodeLine(code="1", label="Yes"), CodeLine(code="0", label="No"))
ITEM: dict[str, Any] = {"type": "integer", "level": "ordinal", "codes": SITE, "complete": True, "battery": "site"}
TAGS = (
    Tag(name="plot_no", use="identifier"),
    Tag(name="held", type="integer", codes=HELD, complete=True, missing=(REFUSED,),
        skips=(Skip(codes=("2",), to="id_site_1"),)),
    Tag(name="hours", type="decimal", level="ratio", missing=(REFUSED,), limits={"low": "0", "high": "80"}),
    Tag(name="site_1", **ITEM), Tag(name="site_2", **ITEM),
    *(Tag(name=f"crop_{n}", type="integer", codes=YES, use="several answers", battery="crops") for n in range(3)),
)  # fmt: skip


@pytest.fixture
def keying(screen: Screen) -> Screen:
    """A study of eight variables without a record, open at keyed entry."""
    screen.go(f"/study/{defined(screen, *TAGS)}/records/key")
    screen.find("keyed-text")
    return screen


def test_one_key_each(keying: Screen) -> None:
    """Faster than the server answers: codes that go on, refusals, skips, codes that are none, ticks, going back."""
    keying.driver.execute_script(SLOW, "/steps", [400, 0, 200, 0])
    keys(keying, "F007", Keys.ENTER, "11", "12.5", Keys.ENTER, "3")
    keying.until("so-far", "held 11 Lent")
    keys(keying, "7")
    keying.until("doubt", "7 is not among the codes of site_2. Enter to keep it")
    keys(keying, "7", Keys.ENTER, "13", Keys.ENTER)
    keying.until("keying-status", "a new record · 1 record in this sitting")
    keys(keying, "F008", Keys.ENTER, "2")
    keying.until("passed", "skipped 1 question")
    keys(keying, "12", "0")
    keys(keying, "F009", Keys.ENTER, "1", Keys.ENTER, "99", Keys.ENTER)
    keying.until("doubt", "99 is beyond 0 to 80, the limits of hours. Enter again")
    keys(keying, "98", Keys.ENTER)
    keying.until("doubt", "98 is beyond")
    keys(keying, Keys.ENTER, " ", Keys.ARROW_UP, "2", "1", "2", Keys.ENTER)
    settle(keying)
    assert entries(keying, "plot_no") == ["F007", "F008", "F009"]
    assert entries(keying, "held") == ["11", "2", "1"] and entries(keying, "hours") == ["12.5", "", "98"]
    assert entries(keying, "site_1") == ["3", "1", "2"] and entries(keying, "site_2") == ["7", "2", "1"]
    assert [entries(keying, f"crop_{n}") for n in range(3)] == [["1", "0", "0"], ["0", "0", "1"], ["1", "0", "0"]]
    keys(keying, Keys.PAGE_UP)
    keying.until("keying-status", "record 3")
    keys(keying, Keys.ENTER, "r")
    settle(keying)
    assert entries(keying, "held")[2] == "-9"
    assert keying.problems() == []


def test_an_identifier_that_is_known(keying: Screen) -> None:
    """It is said as soon as it is typed, and hinders nobody; its record number means nothing."""
    keys(keying, "F007", Keys.ENTER, "1", Keys.ENTER, Keys.ENTER, "12", Keys.ENTER)
    keying.until("keying-status", "a new record")
    keys(keying, "F007")
    keying.until("known", "plot_no F007 is keyed already, in record 1.")
    keys(keying, Keys.BACKSPACE)
    keying.until_gone("known")
    keys(keying, *([Keys.BACKSPACE] * 4), "1", Keys.ENTER, "2")
    settle(keying)
    assert entries(keying, "plot_no") == ["F007", "1"] and not keying.all("known")


def test_tags_change_while_one_keys(keying: Screen) -> None:
    """Whoever works on the tags meanwhile takes nothing from what is begun: no text, no digit, no doubt, no tick."""

    def renamed(variable: str, name: str) -> None:
        keying.elsewhere({"do": "rename", "names": {variable: name}})
        keying.find(f"far-{name}")

    keys(keying, "F00")
    renamed("id_crop_0", "chard")
    keys(keying, "7", Keys.ENTER, "1")
    keying.until("begun", "1…")
    renamed("id_crop_0", "crop_0")
    keys(keying, "1", "981", Keys.ENTER)
    keying.until("doubt", "981 is beyond")
    renamed("id_crop_0", "chard")
    assert "981 is beyond" in keying.text("doubt")
    keys(keying, "98", Keys.ENTER, Keys.ENTER, "2", "3", "1")
    renamed("id_crop_1", "kale")
    keys(keying, "3", Keys.ENTER)
    settle(keying)
    assert [entries(keying, name) for name in ("plot_no", "held", "hours")] == [["F007"], ["11"], ["98"]]
    assert [entries(keying, name) for name in ("chard", "kale", "crop_2")] == [["1"], ["0"], ["1"]]
    assert keying.problems() == []


def test_which_variables_are_keyed(keying: Screen) -> None:
    """Chosen in another order, kept as a view for keying, and used by whoever comes next."""
    keying.click("keying-views")
    keying.click("view-none")
    for name in ("site_2", "plot_no"):
        keying.find(f"shows-{name}").find_element("css selector", "input").click()
    fill(keying, "view-name", "Only the gate")
    keying.click("keep-view")
    keying.until("keying-views", "2 variables")
    keying.driver.refresh()
    keying.click("keying-views")
    keying.click("view-Only the gate")
    keys(keying, Keys.ESCAPE)
    keys(keying, "2", "F1", Keys.ENTER)
    settle(keying)
    keying.until("keying-status", "1 record in this sitting")
    assert entries(keying, "site_2") == ["2"] and entries(keying, "plot_no") == ["F1"]
    keying.click("stop-keying")
    keying.find("grid")
    assert heads(keying)[:2] == ["plot_no", "site_2"]


def test_a_question_is_gone_to_by_typing(keying: Screen) -> None:
    """By its name or words of it; Escape leaves the record as it is; then keys answer again."""
    keys(keying, "F007", Keys.ENTER)
    keying.press(Keys.CONTROL, "g")
    keying.find("seek").send_keys("hou")
    keying.find("seek-hours")
    keying.find("seek").send_keys(Keys.ENTER)
    keying.until_gone("seek")
    keys(keying, "13", Keys.ENTER)
    keying.until("so-far", "hours 13")
    keying.press(Keys.CONTROL, "g")
    keying.find("seek").send_keys("no such question")
    keying._patiently(lambda driver: "Nothing found." in driver.page_source, "it found something")
    keying.find("seek").send_keys(Keys.ESCAPE)
    keying.until_gone("seek")
    keys(keying, "3")
    keying.until("so-far", "site_1 3")
    assert keying.problems() == []


def test_a_server_that_is_killed(keying: Screen, server: Server) -> None:
    """What was said to be kept is there afterwards; what was not is sent again."""
    keys(keying, "F007", Keys.ENTER, "1", Keys.ENTER)
    settle(keying)
    server.stop(9)
    keys(keying, "4", Keys.ENTER, "3", "2")
    keying.until("notice", "Row Tag does not answer")
    server.start()
    assert entries(keying, "plot_no") == ["F007"] and entries(keying, "held") == ["1"]
    keying.until_gone("choice-Try again")
    settle(keying)
    assert [entries(keying, name) for name in ("hours", "site_1", "site_2")] == [["4"], ["3"], ["2"]]
    keying.driver.get_log("browser")


def meant(questions: list[dict[str, Any]], number: int, chance: random.Random) -> Record:
    """A record as it stands on paper, for the demo's questionnaire."""
    out: Record = {}
    for question in questions:
        variables = question["variables"]
        if question["kind"] == "ranks":
            ranks = chance.sample(range(1, len(variables) + 1), len(variables))
            out |= {each["name"]: str(rank) for each, rank in zip(variables, ranks, strict=True)}
            continue
        for each in variables:
            codes = [answer["code"] for answer in each["answers"]]
            if each["use"] == "identifier":
                out[each["name"]] = f"K{number:03d}"
            elif question["kind"] == "ticks":
                out[each["name"]] = chance.choice(["0", "1"])
            elif each["coded"]:
                out[each["name"]] = chance.choice(codes)
            else:
                free = {"date": "2026-05-03", "integer": "12", "decimal": "12.5", "datetime": "2026-05-03 10:30"}
                out[each["name"]] = each["low"] or free.get(each["type"], f"word {number}")
    return out


def pressed(questions: list[dict[str, Any]], record: Record) -> list[str]:
    """The keys that key a record in."""
    out: list[str] = []
    for question in questions:
        if question["kind"] == "ticks":
            ticked = [at for at, each in enumerate(question["variables"], 1) if record[each["name"]] == "1"]
            out += ["".join(f"{at}" for at in ticked), Keys.ENTER] if ticked else ["0"]
            continue
        for each in question["variables"]:
            entry = record[each["name"]]
            codes = [answer["code"] for answer in each["answers"]]
            if each["coded"] and " " in "".join(codes) and not entry.startswith("-"):
                out.append(str(codes.index(entry) + 1))  # codes that are words are counted
                continue
            waits = each["coded"] and any(code != entry and code.startswith(entry) for code in codes)
            out += [entry, Keys.ENTER] if waits or not each["coded"] else [entry]
    return out


def keyed_in(screen: Screen, records: list[Record]) -> None:
    """Keys records in, each at one go, without looking."""
    study = study_of(screen)
    questions = screen.ask(f"/studies/{study}/keyed-questions")
    assert {question["kind"] for question in questions} == {"one", "grid", "ticks", "ranks"}
    for number, record in enumerate(records, 1):
        ActionChains(screen.driver).send_keys(*pressed(questions, record)).perform()
        screen.until("keying-status", f"{number} record{'s' if number > 1 else ''} in this sitting")
        if number % 5 == 0:
            settle(screen)
    for name in records[0]:
        assert entries(screen, name) == [record[name] for record in records], name


def test_twenty_records_twice(screen: Screen) -> None:
    """Twenty of the demo's questionnaires by keyboard alone; then again with five slips, all found and decided."""
    open_demo(screen)
    screen.click("stop-records")
    screen.find("grid")
    screen.press(Keys.ALT, "k")
    screen.click("to-keyings")
    screen.click("begin-second")
    screen.until("keying-status", "a new record")
    questions = screen.ask(f"/studies/{study_of(screen)}/keyed-questions")
    chance = random.Random(2026)
    paper = [meant(questions, number, chance) for number in range(1, 21)]
    first = study_of(screen)
    keyed_in(screen, paper)

    screen.click("to-keyings")
    screen.click("begin-second")
    screen._patiently(lambda _: study_of(screen) != first, "no other study was made")
    screen.until("keying-status", "a new record · 0 records in this sitting")
    again = [dict(record) for record in paper]
    slips = [(0, "tenure"), (3, "site_2"), (3, "hours"), (11, "quarter"), (19, "crop_1")]
    other = {"tenure": "12", "site_2": "12", "quarter": "12", "crop_1": "10", "hours": "21"}
    for at, name in slips:
        right, wrong = paper[at][name], other[name]
        again[at][name] = wrong if name == "hours" else next(code for code in wrong if code != right)
    keyed_in(screen, again)
    second = study_of(screen)

    screen.go(f"/study/{first}/records/keyings?with={second}")
    screen.until("keyings-met", "20 records keyed twice, met by plot_no")
    screen.until("keyings-open", "5 differences to decide")
    screen.until("agreement-tenure", "95.0 %")
    assert look_with_axe(screen, "keyings") == []
    assert len(screen.driver.find_elements("css selector", "[data-test^='twice-']")) == 5
    screen.click("keep-own", "[data-test='twice-K001-tenure']")
    screen.until("keyings-open", "4 differences to decide")
    screen.click("take-other", "[data-test='twice-K004-site_2']")
    screen.until("keyings-open", "3 differences to decide")
    third = screen.find("third", "[data-test='twice-K004-hours']")
    third.send_keys("13", Keys.ENTER)
    screen.until("keyings-open", "2 differences to decide")
    screen.click("all-own")
    screen.until("keyings-open", "All differences are decided")
    screen.until("agreement-tenure", "95.0 %")
    assert entries(screen, "tenure") == [record["tenure"] for record in paper]
    assert entries(screen, "site_2")[3] == again[3]["site_2"] and entries(screen, "hours")[3] == "13"
    assert entries(screen, "crop_1") == [record["crop_1"] for record in paper]
    screen.press(Keys.CONTROL, "z")
    screen.until("keyings-open", "2 differences to decide")
    assert screen.problems() == []


def test_keyed_entry_without_sight(keying: Screen) -> None:
    """Axe finds nothing serious while a battery is keyed."""
    keys(keying, "F007", Keys.ENTER, "1", Keys.ENTER, Keys.ENTER, "3")
    keying.until("so-far", "site_1 3 Good")
    assert look_with_axe(keying, "keying") == []
