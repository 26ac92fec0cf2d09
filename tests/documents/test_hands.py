"""Questionnaires written by many hands from the same variables: each way of writing them reads back to the same."""

import random
from collections.abc import Callable
from dataclasses import dataclass

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from rowtag.core.codebook import Understood
from rowtag.documents.tolerant import read_document

NAMES = ("tenure", "plot_no", "water_1", "shed", "q12", "compost", "site_a", "hours_week")
LABELS = (
    "How the plot is held", "Water supply in a dry summer", "Kind of soil at the gate", "Use of the common shed",
    "Neighbours known by name", "Paths and gates", "Makes compost", "Grows beans or peas",
)  # fmt: skip
ANSWERS = (
    ("Never", "Seldom", "Often"),
    ("Own", "Shared with another household", "Waiting list", "Lent by a friend"),
    ("Yes", "No"),
    ("Very poor", "Poor", "Fair", "Good", "Very good"),
    ("Brook side", "Hill side", "Along the railway"),
)
PROSE = (
    "Please answer for the plot that you have now.",
    "The following questions are about the site as a whole.",
    "Thank you for taking the time. The results will be shown in the hut.",
)


PASSING = (*PROSE, "", *LABELS, "Section A. Your plot", "See page 12.", "1987 was a dry year.")


@dataclass(frozen=True)
class Asked:
    """One variable as it is asked."""

    name: str
    label: str
    codes: tuple[tuple[str, str], ...]
    refused: bool

    @property
    def lines(self) -> list[tuple[str, str]]:
        """Codes with their labels, the missing one last."""
        return [*self.codes, *([("-9", "refused")] if self.refused else [])]


@st.composite
def studies(draw: st.DrawFn) -> list[Asked]:
    """Between three and eight variables, each with answers of its own."""
    count = draw(st.integers(3, len(NAMES)))
    labels = draw(st.permutations(LABELS))
    out = []
    for name, label in zip(NAMES[:count], labels, strict=False):
        answers = draw(st.sampled_from(ANSWERS))
        first = draw(st.sampled_from([0, 1]))
        codes = tuple((str(first + at), answer) for at, answer in enumerate(answers))
        out.append(Asked(name, label, codes, draw(st.booleans())))
    return out


def beneath(sign: str, indent: str = "    ") -> Callable[[Asked], list[str]]:
    """Codes on lines of their own."""
    return lambda each: [f"{indent}{code}{sign}{label}" for code, label in each.lines]


def behind(between: str, apart: str) -> Callable[[Asked], str]:
    """Codes in one line."""
    return lambda each: apart.join(f"{code}{between}{label}" for code, label in each.lines)


def blocks(
    head: Callable[[Asked], str], codes: Callable[[Asked], list[str]], gap: str = ""
) -> Callable[[list[Asked]], str]:
    """One block a variable, a gap between them."""
    return lambda asked: "\n".join(line for each in asked for line in (head(each), *codes(each), gap)) + "\n"


def single(line: Callable[[Asked], str], gap: str = "\n") -> Callable[[list[Asked]], str]:
    """One line (or paragraph) a variable."""
    return lambda asked: gap.join(line(each) for each in asked) + "\n"


def numbered(each: Asked, letter: str) -> str:
    return f"{letter}{NAMES.index(each.name) + 1}"


HANDS: dict[str, Callable[[list[Asked]], str]] = {
    "name - label, 1 = answer": blocks(lambda each: f"{each.name} - {each.label}", beneath(" = ")),
    "name: label, 1. answer": blocks(lambda each: f"{each.name}: {each.label}", beneath(". ")),
    "name = label, 1) answer": blocks(lambda each: f"{each.name} = {each.label}", beneath(") ")),
    "NAME  label, 1  answer": blocks(lambda each: f"{each.name.upper():<14}{each.label}", beneath("  ")),
    "name<tab>label, 1<tab>answer": blocks(lambda each: f"{each.name}\t{each.label}", beneath("\t", "\t")),
    "Q1. wording? (name)": blocks(
        lambda each: f"{numbered(each, 'Q')}. {each.label}? ({each.name})", beneath(" ")
    ),
    "A1 (name) wording?": blocks(
        lambda each: f"{numbered(each, 'A')} ({each.name}) {each.label}?", beneath(" - ")
    ),
    "name alone, meaning beneath": blocks(lambda each: f"{each.name}\n    {each.label}", beneath(" = ", "        ")),
    "`name` bulleted": blocks(lambda each: f"- `{each.name}`: {each.label}", beneath(" = ", "    - ")),
    "**name** and a list": blocks(lambda each: f"**{each.name}** - {each.label}", beneath(": ", "  * ")),
    "name - label, (1) answer": blocks(
        lambda each: f"{each.name} - {each.label}", lambda each: [f"    ({code}) {label}" for code, label in each.lines]
    ),
    "name - label, answer (1)": blocks(
        lambda each: f"{each.name} - {each.label}", lambda each: [f"    {label} ({code})" for code, label in each.lines]
    ),
    "name - label, answer = 1": blocks(
        lambda each: f"{each.name} - {each.label}", lambda each: [f"    {label} = {code}" for code, label in each.lines]
    ),
    "name - label, answer ..... 1": blocks(
        lambda each: f"{each.name} - {each.label}",
        lambda each: [f"    {label} {'.' * (40 - len(label))} {code}" for code, label in each.lines],
    ),
    "name - label, boxes": blocks(
        lambda each: f"{each.name} - {each.label}",
        lambda each: [f"  [ ] {code}  {label}" for code, label in each.lines],
    ),
    "1. name - label": lambda asked: "".join(
        f"{at}. {each.name} - {each.label}\n" + "".join(f"     {code} = {label}\n" for code, label in each.lines)
        for at, each in enumerate(asked, 1)
    ),
    "Variable: name, Label: label": blocks(
        lambda each: f"Variable: {each.name}\nLabel: {each.label}",
        lambda each: [f"Values: {behind(' = ', ', ')(each)}"],
    ),
    "name - label (1 = a, 2 = b)": single(lambda each: f"{each.name} - {each.label} ({behind(' = ', ', ')(each)})"),
    "name: label. 1=a; 2=b": single(lambda each: f"{each.name}: {each.label} ({behind('=', '; ')(each)})"),
    "name: label, list indented beneath": single(
        lambda each: f"{each.name}: {each.label}\n    {behind(' = ', ', ')(each)}", "\n\n"
    ),
    "a table drawn with bars": lambda asked: "\n".join(
        ["| Variable | Label | Values |", "|---|---|---|"]
        + [f"| {each.name} | {each.label} | {behind(' = ', '; ')(each)} |" for each in asked]
    ),
    "Windows line ends, tabs, trailing blanks": lambda asked: blocks(
        lambda each: f"{each.name} - {each.label}  ", beneath(" = ", "\t")
    )(asked).replace("\n", " \r\n"),
    "typographic dashes": blocks(lambda each: f"{each.name} – {each.label}", beneath(" – ")),
    "backslash commands": lambda asked: "\\describe{\n" + "".join(
        f"  \\item{{\\code{{{each.name}}}}}{{{each.label} ({behind(' = ', ', ')(each)})}}\n" for each in asked
    ) + "}\n",
    "tags": lambda asked: "<table>\n" + "".join(
        f"<tr><td>{each.name}</td><td>{each.label}</td><td>{behind(' = ', '; ')(each)}</td></tr>\n" for each in asked
    ) + "</table>\n",
}  # fmt: skip


def told(found: Understood) -> dict[str, tuple[str, list[tuple[str | None, str]], list[str | None]]]:
    """What was understood: label or wording, codes, missing codes, under the names in small letters."""
    return {
        each.name.lower(): (
            (each.parts.label or each.parts.question).rstrip("?"),
            [(line.code, line.label) for line in each.parts.codes],
            [line.code for line in each.parts.missing],
        )
        for each in found.variables
    }


def expected(asked: list[Asked]) -> dict[str, tuple[str, list[tuple[str, str]], list[str]]]:
    return {each.name: (each.label, list(each.codes), ["-9"] if each.refused else []) for each in asked}


@pytest.mark.parametrize("hand", HANDS)
@settings(max_examples=40)
@given(asked=studies())
def test_every_hand_says_the_same(hand: str, asked: list[Asked]) -> None:
    """Names, labels, codes and missing codes come back whole, and nothing else does."""
    text = HANDS[hand](asked)
    assert told(read_document(text)) == expected(asked), text


@pytest.mark.parametrize("hand", HANDS)
@settings(max_examples=25)
@given(asked=studies(), seed=st.integers(0, 2**16))
def test_prose_and_page_ends_between(hand: str, asked: list[Asked], seed: int) -> None:
    """Sentences and page numbers before and after change nothing, and are left over."""
    chance = random.Random(seed)
    before = chance.choice(PROSE)
    text = f"{before}\n\n{HANDS[hand](asked)}\n\n- {chance.randint(2, 40)} -\n\n{PROSE[-1]}\n"
    found = read_document(text)
    assert told(found) == expected(asked), text
    lines = text.splitlines()
    assert {lines[number - 1] for number in found.unplaced} == {before, PROSE[-1]}


@settings(max_examples=60)
@given(
    st.lists(
        st.sampled_from([*PROSE, "", *LABELS, "Section A. Your plot", "See page 12.", "1987 was a dry year."]),
        max_size=14,
    )
)
def test_prose_alone_is_no_codebook(lines: list[str]) -> None:
    """Nothing is made up from sentences, headings and numbers in passing."""
    found = read_document("\n".join(lines))
    assert found.variables == ()


BOUNDED: dict[str, str] = {
    "in brackets": "{name} - {label} ({low} to {high})",
    "with a word": "{name} - {label}, range: {low}-{high}",
    "min and max": "{name}: {label} (min: {low}, max: {high})",
    "a line beneath": "{name} - {label}\n    Range: {low} - {high}",
    "two dots": "{name} = {label} ({low}..{high})",
    "between": "{name}: {label} (between {low} and {high})",
}


@pytest.mark.parametrize("hand", BOUNDED)
@settings(max_examples=30)
@given(asked=studies(), ends=st.lists(st.tuples(st.integers(0, 50), st.integers(51, 4000)), min_size=8, max_size=8))
def test_limits_however_they_are_said(hand: str, asked: list[Asked], ends: list[tuple[int, int]]) -> None:
    """Bounds said in passing become limits, and leave the label; no code is made of them."""
    text = "\n\n".join(
        BOUNDED[hand].format(name=each.name, label=each.label, low=low, high=high)
        for each, (low, high) in zip(asked, ends, strict=False)
    )
    found = {each.name: each.parts for each in read_document(text).variables}
    assert list(found) == [each.name for each in asked], text
    for each, (low, high) in zip(asked, ends, strict=False):
        parts = found[each.name]
        assert (parts.label, parts.limits.low, parts.limits.high) == (each.label, str(low), str(high)), text
        assert parts.codes == parts.missing == ()


SET_ASIDE: dict[str, str] = {
    "Missing: 8, 9": "    Missing: 98, 99",
    "98 = missing": "    98 = missing\n    99 = missing",
    "refused and no answer": "    98 = refused\n    99 = no answer",
    "in a sentence": "    98 and 99 are missing",
}


@pytest.mark.parametrize("hand", SET_ASIDE)
@settings(max_examples=30)
@given(asked=studies())
def test_missing_codes_however_they_are_said(hand: str, asked: list[Asked]) -> None:
    """They are set aside, and are no answers."""
    text = "\n\n".join(
        f"{each.name} - {each.label}\n" + "\n".join(f"    {code} = {label}" for code, label in each.codes) + "\n"
        f"{SET_ASIDE[hand]}"
        for each in asked
    )
    for each, found in zip(asked, read_document(text).variables, strict=True):
        assert [(line.code, line.label) for line in found.parts.codes] == list(each.codes), text
        assert {line.code for line in found.parts.missing} == {"98", "99"}, text


SCALES: dict[str, Callable[[tuple[tuple[str, str], ...]], str]] = {
    "a list in brackets": lambda codes: (
        f"How good are these? ({', '.join(f'{code} = {label}' for code, label in codes)})"
    ),
    "lines": lambda codes: "How good are these?\n" + "\n".join(f"  {code} = {label}" for code, label in codes),
    "semicolons": lambda codes: "Scale: " + "; ".join(f"{code} = {label}" for code, label in codes),
}


@pytest.mark.parametrize("hand", SCALES)
@settings(max_examples=30)
@given(labels=st.permutations(LABELS), answers=st.sampled_from(ANSWERS), count=st.integers(3, 7))
def test_a_scale_stated_once(hand: str, labels: list[str], answers: tuple[str, ...], count: int) -> None:
    """Items that follow a stated scale share it."""
    codes = tuple((str(at), answer) for at, answer in enumerate(answers, 1))
    items = [f"site_{number} - {label}" for number, label in enumerate(labels[:count], 1)]
    text = f"{SCALES[hand](codes)}\n\n" + "\n".join(items) + "\n"
    found = read_document(text).variables
    assert [each.parts.label for each in found] == labels[:count], text
    for each in found:
        assert [(line.code, line.label) for line in each.parts.codes] == list(codes), text


def test_a_scale_behind_a_variable_without_codes() -> None:
    """A heading between them keeps the scale from the variable above it."""
    text = (
        "hours - Hours a week\n\nHow good are these?\n  1 = Poor\n  2 = Fair\n  3 = Good\n\n"
        "site_1 - Water\nsite_2 - Paths\nsite_3 - Gates\n"
    )
    found = {each.name: [line.label for line in each.parts.codes] for each in read_document(text).variables}
    assert found == {"hours": [], **{f"site_{number}": ["Poor", "Fair", "Good"] for number in (1, 2, 3)}}


def test_a_label_that_ends_in_a_comma() -> None:
    """Codes that count on are no continuation of an unfinished label; other lines are."""
    text = "".join(
        f"{name} - Kinds of bread, \n    1 rye\n    2 wheat\n    3 other\n\n" for name in ("bake_1", "bake_2")
    )
    for each in read_document(text).variables:
        assert [line.code for line in each.parts.codes] == ["1", "2", "3"]
    wrapped = "".join(
        f"{name} - Years in use, or\n    12 months at least\n\n" for name in ("oven_1", "oven_2", "oven_3")
    )
    for each in read_document(wrapped).variables:
        assert (each.parts.label, each.parts.codes) == ("Years in use, or 12 months at least", ())
