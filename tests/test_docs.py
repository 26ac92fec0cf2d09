"""What is written for people agrees with what is there."""

import json
import re
from pathlib import Path

import pytest

from rowtag import cli
from rowtag.core.checks import CHECKS, FAMILIES
from rowtag.core.checks.explained import EXPLAINED
from rowtag.core.formulas.figures import ACROSS, DOWN
from rowtag.core.formulas.functions import FUNCTIONS
from rowtag.core.formulas.grammar import parse
from rowtag.core.propose import THRESHOLDS
from rowtag.core.propose.orders import SCALES
from rowtag.core.ruletext import read_rules
from rowtag.core.steps import STEPS
from rowtag.formats import rows
from rowtag.formats.routine import read
from rowtag.service.routines import understood_steps
from tools import routines

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


def test_formulas_are_as_written() -> None:
    """Every function is named in docs/formulas.md; what stands there as a formula can be read; its rules are three."""
    text = (ROOT / "docs" / "formulas.md").read_text("utf-8")
    for name in (*FUNCTIONS, *ACROSS, *DOWN, "reverse"):
        assert f"{name}(" in text or f"`{name}`" in text or f"{name} " in text, name
    spans = re.findall(r"(?<!`)`([^`\n]+)`(?!`)", text)
    said = [each for each in spans if re.search(r" (in|between|is|over|then|contains|starts with) ", each)]
    assert len(said) > 12
    for each in said:
        if "…" not in each and not each.startswith(("rowtag", "is ")):
            parse(each)
    rules = read_rules(re.search(r"```\n(.*?)```", text, re.S)[1])  # type: ignore[index]
    assert [(rule.title, rule.severity) for rule in rules] == [
        ("Waiting list has no plot", "warning"), ("Ended after it began", "error"), ("hours <= 80", "error"),
    ]  # fmt: skip


def test_every_picture_is_shown_in_the_readme() -> None:
    """Under twenty pictures, each linked from the README."""
    shots = sorted((ROOT / "docs" / "screenshots").glob("*.png"))
    readme = (ROOT / "README.md").read_text("utf-8")
    assert 0 < len(shots) < 20 and all(shot.name in readme for shot in shots)


def test_the_thresholds_are_as_written() -> None:
    """The numbers in docs/proposals.md are those in the code, and every threshold is named there."""
    text = (ROOT / "docs" / "proposals.md").read_text("utf-8")
    t = THRESHOLDS
    for said in (
        f"at least {t.fits:.0%} of the entries that are neither",
        f"in more than {t.leading_zeros:.0%} of entries (007)",
        f"at least {t.fewest_identifiers} entries, {t.distinct_identifier:.0%} different",
        f"at most {t.longest_identifier} characters long of which less than {t.spaced_identifier:.0%} hold spaces",
        f"at most {t.identifier_gaps} times as far",
        f"{t.years:.0%} of whole numbers lie between 1900 and 2100",
        f"at most {t.most_codes} different whole numbers from 0 to {t.highest_code}",
        f"each {t.repeats:.0f} times on average",
        "over {}, {}, {} or {} steps".format(*t.scale_steps),
        f"below {t.rare_code:.1%} of entries do not count",
        f"at least {t.ordered_words:.0%} of the entries are words of one scale",
        f"at least {t.several_share:.0%} of the entries hold",
        f"at most {t.most_answers} different answers",
        f"more than {t.open_average:.0f} characters on average of which more than {t.open_distinct:.0%} differ",
        f"more than {t.various:.0%} different of at least {t.fewest_identifiers}",
        f"more than {t.most_categories} different texts, or longer than {t.longest_category}, of which more than "
        f"{t.recurring:.0%} differ",
        f"at most {t.most_negative_codes} different negative codes",
        f"reaches at most {t.nines_apart:.0%} of it",
        f"more than {rows.FIGURES:.0%} of them are figures, or more than {rows.REPEATED:.0%}",
        f"or more than {rows.REPEATED:.0%} ({rows.REPEATED_NAMES:.0%} where all could be names)",
        f"at least {rows.WORDED:.0%} of its cells have several words, {rows.MORE_WORDS} times as many",
        f"more than {rows.LONG_NOTE} characters where",
    ):
        assert said.replace("%", " %") in text, said
    assert all(f"`{name}`" in text for name in vars(t)), "every threshold is named"
    assert all(name in text for name in SCALES)


def test_registers_are_filled() -> None:
    """Importing the packages is enough to know all steps and checks."""
    assert {"bring in", "define", "rename", "list codes", "mark missing", "set entries"} <= set(STEPS)
    families = ["reading", "codes", "missing", "measured values", "level", "labels", "widths", "batteries", "records"]
    assert list(FAMILIES) == [*families, "skips", "codebook", "rules", "derived"]


def test_every_check_is_explained() -> None:
    """The page of checks has each with what it says of itself; what it was found to find stands beside it."""
    page = (ROOT / "docs" / "checks.md").read_text("utf-8")
    for check in CHECKS.values():
        assert f"| {check.name} | {check.notices} | {EXPLAINED[check.name].rule}" in page, "make checks writes it anew"
        for each in check.thresholds.values():
            assert f"{each.said} {each.usual:g} (can be set)" in page
    assert EXPLAINED.keys() == CHECKS.keys()


def test_routines_are_as_written() -> None:
    """The example can be read and its steps understood; table and schema are those of the registry."""
    page = (ROOT / "docs" / "routines.md").read_text("utf-8")
    example = re.findall(r"```yaml\n(.*?)```", page, re.DOTALL)[0]
    routine = read(example, "docs/routines.md")
    assert [step.says["do"] for step in routine.steps] == ["bring in", "mark missing", "derive", "set entries"]
    assert len(list(understood_steps(routine, "docs/routines.md"))) == 4
    assert routines.table() in page, ".venv/bin/python -m tools.routines writes it anew"
    schema = json.loads((ROOT / "docs" / "routine.schema.json").read_text("utf-8"))
    assert schema == json.loads(json.dumps(routines.schema()))
