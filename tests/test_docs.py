"""What is written for people agrees with what is there."""

import re
from pathlib import Path

import pytest

from rowtag import cli
from rowtag.core.checks import CHECKS, FAMILIES
from rowtag.core.propose import THRESHOLDS
from rowtag.core.steps import STEPS

ROOT = Path(__file__).parent.parent
PAGES = [ROOT / "README.md", ROOT / "CONTRIBUTING.md", ROOT / "CHANGELOG.md", *sorted((ROOT / "docs").glob("*.md"))]


@pytest.mark.parametrize("page", PAGES, ids=lambda page: page.name)
def test_links_lead_somewhere(page: Path) -> None:
    """Every link and picture within the project exists."""
    for target in re.findall(r"\]\(([^)#]+)\)", page.read_text("utf-8")):
        if not target.startswith("http"):
            assert (page.parent / target).exists(), target


@pytest.mark.parametrize("page", PAGES, ids=lambda page: page.name)
def test_commands_exist(page: Path) -> None:
    """Every `make` target and every `rowtag` command that is named exists."""
    text = page.read_text("utf-8")
    targets = set(re.findall(r"^([a-z-]+):", (ROOT / "Makefile").read_text("utf-8"), re.M))
    assert set(re.findall(r"(?:`|^)make ([a-z-]+)", text, re.M)) <= targets
    commands = {
        command.name or command.callback.__name__ for command in cli.app.registered_commands if command.callback
    }
    assert set(re.findall(r"(?:`|bin/)rowtag ([a-z-]+)", text)) <= commands


def test_every_picture_is_shown_in_the_readme() -> None:
    """Under twenty pictures, each linked from the README."""
    shots = sorted((ROOT / "docs" / "screenshots").glob("*.png"))
    readme = (ROOT / "README.md").read_text("utf-8")
    assert 0 < len(shots) < 20 and all(shot.name in readme for shot in shots)


def test_the_thresholds_are_as_written() -> None:
    """The numbers in docs/proposals.md are those in the code."""
    text = (ROOT / "docs" / "proposals.md").read_text("utf-8")
    for said in (
        f"at least {THRESHOLDS.fits * 100:.0f} % of the entries",
        f"at least {THRESHOLDS.fewest_identifiers} entries, {THRESHOLDS.distinct_identifier * 100:.0f} % different",
        f"{THRESHOLDS.years * 100:.0f} % of whole numbers lie between 1900 and 2100",
        f"at most {THRESHOLDS.most_codes} different whole numbers from 0 to {THRESHOLDS.highest_code}",
        f"each {THRESHOLDS.repeats:.0f} times on average",
        f"below {THRESHOLDS.rare_code * 100} % of entries do not count",
        f"at most {THRESHOLDS.most_answers} different answers",
        f"more than {THRESHOLDS.open_average:.0f} characters on average",
        f"more than {THRESHOLDS.most_categories} different texts, or longer than {THRESHOLDS.longest_category}",
    ):
        assert said in text, said


def test_registers_are_filled() -> None:
    """Importing the packages is enough to know all steps and checks."""
    assert {"bring in", "define", "rename", "list codes", "mark missing", "set entries"} <= set(STEPS)
    assert list(FAMILIES) == ["reading", "codes", "labels"] and len(CHECKS) == 4
