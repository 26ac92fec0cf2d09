"""What reading a document costs grows with its length: for every expression, and for the shapes that people paste."""

import re
from collections.abc import Callable
from functools import cache

import pytest

from rowtag.core.codebook import notation
from rowtag.documents.document import understand
from rowtag.documents.lines import MOST_READ, RUN, lines_of
from tests.cost import TRIES, grows_in_proportion, taken
from tests.expressions import expressions_of, modules

PIECES = (
    " ", "1, ", "98 or ", "1 and ", "1 = ", "a ", "A ", "(", "((a)", "1-2-", "1 (a) to ", "1 = a, ", "1  ", ". ", "..",
    "_ ", "'a' ", '"a', "a/", "1/", "a/b = ", "a (1) ", "a = 1 ", "- ", "1\t", "from 1 ", "missing ", "q1 ",
    "x_", "Aa ",
    "? ", ": ", "; ", "a, ", "1:", "[ ]", "1 to ", "<b>", "a|", "1. ", ".5", "a-", "range 1 ", "if ", "levels a, ",
    "codes: ", "1 if a; ", ") ", "→ ", "\\item{", "** ", "` ", "9",
)  # fmt: skip
"""What lines are made of, each to be repeated up to the longest line that is read."""


@cache
def expressions() -> dict[str, re.Pattern[str]]:
    """Every expression with which documents are read."""
    read = [each for each in modules() if each.__name__.startswith("rowtag.documents.")]
    return {name: each for module in [*read, notation] for name, each in expressions_of(module).items()}


@pytest.mark.parametrize("name", expressions())
def test_no_expression_branches(name: str) -> None:
    """On the longest lines that are read, as these come to the expressions, none takes much longer than one that looks
    at all that follows from every place."""
    pattern = expressions()[name]
    look = pattern.match if name.startswith(notation.__name__) else pattern.search  # a lexer only looks where it stands
    for piece in PIECES:
        (line,) = lines_of(f"1 {piece * (MOST_READ // len(piece))}"[: MOST_READ - 1] + "x")
        for text in (line.text, line.text[2:]):
            assert any(taken(lambda at=text: look(at)) < MOST * yardstick() for _ in range(TRIES)), f"{piece!r}"


MOST = 30
"""How many times as long as the yardstick an expression may take."""


@cache
def yardstick() -> float:
    """What it takes to look from every place of the longest line to its end."""
    return min(taken(lambda: re.search(r"[ab]*c", "ab" * (MOST_READ // 2))) for _ in range(TRIES))


def cross_table(columns: int) -> str:
    rows = (
        f"{row}  Label {row}  {'  '.join(str(17 * row + at) for at in range(columns))}  see note" for row in range(1, 8)
    )
    return "\n".join(["tenure  How the plot is held", *rows])


SHAPES = {
    "a cross table": (cross_table, 20),
    "codes of one variable": (lambda n: "\n".join(["q1 How held", *(f"{at} Label {at}" for at in range(1, n))]), 5_000),
    "a long scale": (lambda n: "\n".join(["q1 How held", *(f"{at} = Label {at}" for at in range(1, n))]), 2_000),
    "one name again and again": (lambda n: "\n\n".join(["q1  How held\n 1 yes\n 2 no"] * n), 2_000),
    "codes in one line": (lambda n: "q1 How held: " + "98 or " * n, 500),
    "blanks": (lambda n: f"q1 How held\n 2 or{' ' * n}x\n1 ={' ' * n}Yes", 3_000),
    "tags of codebook text": (lambda n: "\n".join(f"v{at}  integer" for at in range(n)), 4_000),
    "codes of one variable in a cell": (
        lambda n: 'name,codes\nq1,"' + "; ".join(f"{at} = L{at}" for at in range(n)),
        400,
    ),
    "a list for all of many": (
        lambda n: (
            "".join(f"**v{at}**\n: Meaning\n\n" for at in range(n)) + "## More\n\nAll variables: 1 = no, 2 = yes\n"
        ),
        1_000,
    ),
    "a list for each of many": (
        lambda n: "".join(
            f"**v{at}**\n: Meaning\n\nThe codes 1 = no, 2 = yes hold for `v{at}`.\n\n" for at in range(n)
        ),
        500,
    ),
    "names alone": (lambda n: "".join(f"`v{at}`\n\nhas a shed (1=yes, 0=no)\n\n" for at in range(n)), 1_000),
    "items of a list": (lambda n: "The file:\n\n" + "\n".join(f"- v{at}, number of {at}" for at in range(n)), 700),
    "the same as another": (
        lambda n: "q1 : How held, 1 = a, 2 = b\n" + "\n".join(f"q{at} : Again. Same as q1." for at in range(2, n)),
        700,
    ),
    "questions without numbers": (
        lambda n: "".join(f"Do you keep {at} bees?\n[ ] yes\n[ ] no\n\n" for at in range(n)),
        500,
    ),
    "a numbering that begins anew": (
        lambda n: "".join(f"## Part {at}\n\n1. Bees?\n\n- [ ] yes\n\n2. Wasps?\n\n- [ ] no\n\n" for at in range(n)),
        200,
    ),
    "questions beside answers": (
        lambda n: "| Do you? | [ ] yes [ ] no |\n|---|---|\n" + "| Do you keep bees? | [ ] yes [ ] no |\n" * n,
        500,
    ),
    "one very long line": (lambda n: "q1 How held " + "1 and " * n, 500_000),
}


@pytest.mark.parametrize("shape", SHAPES)
def test_cost_in_proportion(shape: str) -> None:
    """Four times as much takes no more than some six times as long."""
    make, size = SHAPES[shape]

    def reading(n: int) -> Callable[[], object]:
        text = make(n)
        return lambda: understand(text)

    assert grows_in_proportion(reading, (size, 4 * size))


def test_long_lines_stay_where_they_are() -> None:
    """A line too long to be read is unplaced; those around it are read; long rules are shortened."""
    long = "blah 1 = x, " * 1_000
    text = f"tenure  How held\n 1 Own\n 2 Shared\n{long}\nsize  Size of the plot\n{'-' * 5_000}\n 1 small\n"
    found = understand(text)
    assert [each.name for each in found.variables] == ["tenure", "size"]
    assert found.unplaced == (4,)
    assert len(lines_of("a" + "." * 500 + " 1")[0].text) == RUN + 3
