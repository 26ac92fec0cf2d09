"""Room: in small windows, and where they are looked at closely, nothing is cut off, hidden or wider than the window."""

from pathlib import Path

import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys

from tests.screen.conftest import Screen
from tests.screen.test_intake import new_study
from tests.screen.test_views import open_demo

pytestmark = pytest.mark.screen

SIZES = {"1024 px": (1024, 768), "1920 at 200 %": (960, 540), "1280 at 200 %": (640, 400)}

LOOK = """
const wide = innerWidth, high = innerHeight, out = []
const called = ({ tagName, dataset, className }) => `${tagName} ${dataset.test ?? className}`
const led = (each, holds) => {
  for (let up = each.parentElement; up; up = up.parentElement) if (holds(up, getComputedStyle(up))) return true
  return false
}
const across = (up, style) => style.overflowX !== 'visible'
const down = (up, style) => /auto|scroll/.test(style.overflowY) && up.scrollHeight > up.clientHeight
for (const each of document.querySelectorAll('body *')) {
  if (!each.checkVisibility({ visibilityProperty: true }) || each.closest('svg, [data-wide]')) continue
  const [style, at] = [getComputedStyle(each), each.getBoundingClientRect()]
  if (at.width < 2 || at.height < 2 || style.clipPath !== 'none') continue
  const cuts = style.overflowX !== 'visible' && style.textOverflow !== 'ellipsis'
  if (cuts && !each.matches('input, textarea, select') && each.scrollWidth > each.clientWidth + 1)
    out.push(`${called(each)} holds ${each.scrollWidth} in ${each.clientWidth} pixels`)
  if ((at.right > wide + 1 || at.left < -1) && !led(each, across)) out.push(`${called(each)} stands beside the window`)
  const takes = each.matches('button, a[href], input, select, textarea')
  if (takes && (at.bottom > high + 1 || at.top < -1) && !led(each, down)) out.push(`${called(each)} is out of reach`)
}
return out
"""
"""What is cut off, stands beside the window or is out of reach; wide tables (`data-wide`) scroll in themselves."""


def sized(screen: Screen, size: tuple[int, int]) -> None:
    metrics = {"width": size[0], "height": size[1], "deviceScaleFactor": 1, "mobile": False}
    screen.driver.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", metrics)


def narrow(screen: Screen, where: str) -> list[str]:
    return [f"{where}: {each}" for each in screen.driver.execute_script(LOOK)]


@pytest.mark.parametrize("size", SIZES)
def test_every_stop_has_room(screen: Screen, size: str) -> None:
    """All eight stops, what opens within them, and the page of studies."""
    open_demo(screen)
    sized(screen, SIZES[size])
    faults: list[str] = []
    opens = {
        "intake": ["look"],
        "codebook": ["tag-site_1"],
        "records": ["open-pane"],
        "checks": ["finding"],
        "checks?show=gaps": [],
        "checks?show=rules": [],
        "derive": ["source-hours"],
        "tables": ["pick-tenure"],
        "diary": ["name-edition"],
        "handover": [],
        "records/key": [],
    }
    for path, names in opens.items():
        screen.go(f"/study/demo/{path}")
        screen.find("size" if SIZES[size][0] > 900 else "undo")
        screen._patiently(lambda _: len(screen.css("main").text) > 30, "nothing is drawn")
        faults += narrow(screen, path)
        for name in names:
            screen.click(name)
            screen._patiently(lambda _: len(screen.css("main").text) > 30, "nothing is drawn")
            faults += narrow(screen, f"{path}, {name}")
    screen.go("/study/demo/records")
    screen.find("grid")
    screen.press(Keys.ALT, "s")
    faults += narrow(screen, "records, side sheet turned over")
    for menu in ("open-views", "open-arrange", "record-menu"):
        screen.go("/study/demo/records")
        screen.find("grid")
        screen.click(menu)
        screen.css(".v-overlay--active .panel")
        faults += narrow(screen, menu)
    screen.go("/study/demo/checks")
    screen.click("open-settings")
    screen.find("close-settings")
    faults += narrow(screen, "settings")
    screen.go("/study/demo/codebook")
    screen.find("tags")
    screen.press(Keys.F1)
    screen.find("keys")
    faults += narrow(screen, "keys")
    screen.press(Keys.ESCAPE)
    screen.press(Keys.CONTROL, "k")
    screen.find("finder")
    faults += narrow(screen, "finder")
    screen.go("/")
    screen.find("study")
    faults += narrow(screen, "studies")
    assert not faults, "\n".join(faults)
    assert screen.problems() == []


@pytest.mark.parametrize("size", SIZES)
def test_every_panel_has_room(screen: Screen, tmp_path: Path, size: str) -> None:
    """Panels of the codebook, the side sheet, a file that is looked at, an amendment."""
    open_demo(screen)
    sized(screen, SIZES[size])
    faults: list[str] = []
    for key in "snmlbwtcx+":
        screen.go("/study/demo/codebook")
        screen.click("tag-tenure")
        screen.driver.execute_script("document.querySelector('[data-test=tags]').focus()")
        ActionChains(screen.driver).send_keys(key).perform()
        screen.find("panel")
        faults += narrow(screen, f"panel {key}")
    screen.go("/study/demo/codebook")
    screen.find("tags")
    if not screen.all("side-sheet"):
        screen.press(Keys.ALT, "s")
    screen.find("read-it-all")
    faults += narrow(screen, "side sheet")
    screen.click("read-it-all")
    screen.find("compare")
    faults += narrow(screen, "comparison")
    screen.go("/study/demo/diary")
    screen.click("amend")
    screen.find("amend-panel")
    faults += narrow(screen, "amending")
    path = tmp_path / "plots.csv"
    path.write_text("plot_no,tenure,hours,what was said of the water\n" + "0007,1,4,wet\n" * 30, encoding="utf-8")
    new_study(screen, path)
    screen.until("summary", "30 records")
    faults += narrow(screen, "a file looked at")
    screen.click("pick-tenure")
    screen.find("column-panel")
    faults += narrow(screen, "a column looked at")
    assert not faults, "\n".join(faults)
    assert screen.problems() == []
