"""Checks on the real screen: from the map to a finding, a remedy seen before it is taken, and undone."""

import pytest
from selenium.webdriver.common.keys import Keys

from tests.screen.conftest import Screen
from tests.screen.test_views import open_demo

pytestmark = pytest.mark.screen


def test_a_remedy(screen: Screen) -> None:
    """Its effect is said first; done, the finding is gone; undo brings it back; the records of a finding are shown."""
    open_demo(screen)
    screen.click("stop-checks")
    screen.until("open-findings", "21 findings open")
    screen.css("[aria-label='letter, codes: an error']").click()
    screen.until("finding", "letter 27 entries are beyond what the code list allows")
    screen.click("remedy")
    screen.until("effect", "Listed yes for letter; valid 1,169 → 1,196; strays 27 → 0.")
    screen.until("open-findings", "21 findings open")
    screen.click("do-remedy")
    screen.until("no-findings", "Nothing found for codes of letter")
    screen.press(Keys.CONTROL, "z")
    screen.until("finding", "letter 27 entries are beyond what the code list allows")
    screen.css("[aria-label='rank_food, batteries: an error']").click()
    screen.until("finding", "rank_food 31 records use a rank twice")
    screen.click("see-records")
    screen.until("cell-status", "rank_food")
    assert screen.problems() == []
