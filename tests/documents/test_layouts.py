"""Ways in which documents set their variables, and lists told once for several of them."""

import pytest

from rowtag.core.codebook import Described
from rowtag.documents.document import understand


def _read(text: str) -> dict[str, Described]:
    return {each.name: each for each in understand(text).variables}


def _codes(each: Described) -> list[tuple[str | None, str]]:
    return [(line.code, line.label) for line in (*each.parts.codes, *each.parts.missing)]


COMMANDS = r"""\title{Plots}\name{plots}\description{
Codes for the answers op1 to op3 are
  \tabular{ll}{
   1 \tab = agree\cr
   2 \tab = disagree\cr
  }
}\usage{data(plots)}\format{
  A data frame with these variables.
  \describe{
    \item{\code{plot}}{number of the plot}
    \item{\code{gate}}{nearest gate}
      \tabular{ll}{ 1 \tab = North\cr 2 \tab = Mill\cr }
    \item{\code{op1}}{\dQuote{The gates} should be shut}
    \item{\code{op2}}{Rents are fair}
    \item{\code{soil}}{a factor with levels \code{sand},
      \code{loam} and \code{clay}}
    \item{\code{subsoil}}{below - a factor with the same levels as \code{soil}}
  }
}\arguments{\item{x}{nothing}}
"""


def test_lists_set_with_commands() -> None:
    """Terms and their meanings, tables of codes behind an item, one list for several, the same as elsewhere."""
    found = _read(COMMANDS)
    assert list(found) == ["plot", "gate", "op1", "op2", "soil", "subsoil"]
    assert _codes(found["gate"]) == [("1", "North"), ("2", "Mill")]
    assert _codes(found["op1"]) == _codes(found["op2"]) == [("1", "agree"), ("2", "disagree")]
    assert found["op1"].parts.label == "“The gates” should be shut"
    assert _codes(found["subsoil"]) == _codes(found["soil"]) == [("sand", ""), ("loam", ""), ("clay", "")]
    assert found["subsoil"].parts.label == "below" and found["gate"].lines[0] == 11


def test_braces_without_end_are_read() -> None:
    """Braces within braces without end, or none that close, are no reason to stop."""
    for opened in ("{" * 5_000, "\\item{" * 5_000, "\\begin{a}" * 3_000):
        assert set(_read(COMMANDS + opened)) == set(_read(COMMANDS))


def test_environments_are_lists_too() -> None:
    """Lists between begin and end, terms in brackets, tables parted by ampersands."""
    found = _read(
        "\\section{Variables}\n\\begin{description}\n\\item[shed] Has a shed (1 = yes, 0 = no)\n"
        "\\item[size] Size, range: 1-400\n\\end{description}\n"
        "\\begin{tabular}{ll}\nname & label \\\\\nrent & Rent paid \\\\\n\\end{tabular}\n"
    )
    assert _codes(found["shed"]) == [("1", "yes"), ("0", "no")] and found["size"].parts.limits.high == "400"


ALONE = """## Plots

### Format

A data frame with two variables.

`shed`



has a shed (1=yes, 0=no)

`soil`



1 = Sand, sifted. 2 = Loam. 3 =
Clay

### References

Author A. (2001) The book of plots.

House, B.

Another book.
"""


def test_names_alone_with_their_meaning_below() -> None:
    """Names in code face on lines of their own; sections of references hold none."""
    found = _read(ALONE)
    assert list(found) == ["shed", "soil"]
    assert _codes(found["soil"]) == [("1", "Sand, sifted"), ("2", "Loam"), ("3", "Clay")]


def test_tables_are_told_by_what_they_hold() -> None:
    """Without headings that say so, names, codes and labels are told by their looks; blank names go on."""
    found = _read(
        "| Zmienna | Tresc | Kod | Etykieta |\n|---|---|---|---|\n| PL | Numer | | |\n| BR | Brama | 1 | polnocna |\n"
        "| | | 2 | mlynska |\n| Pytania OC1 do OC2; kody wspolne, zob. pod OC2 | | | |\n| OC1 | Czynsz | | |\n"
        "| OC2 | Woda | 1 | zle |\n| | | 2 | dobrze |\n| | | -9 | odmowa odpowiedzi |\n"
    )
    assert list(found) == ["PL", "BR", "OC1", "OC2"]
    assert _codes(found["BR"]) == [("1", "polnocna"), ("2", "mlynska")]
    assert _codes(found["OC1"]) == _codes(found["OC2"]) == [("1", "zle"), ("2", "dobrze"), ("-9", "odmowa odpowiedzi")]
    assert [line.reason for line in found["OC2"].parts.missing] == ["refused"]


def test_a_column_of_types_is_no_meaning() -> None:
    """Of columns without headings the one that names types is told from the one that says what they mean."""
    rows = ("| shed | factor | has a shed: 0 none, 1 one |", "|---|---|---|", "| size | numeric | Size in m2 |")
    found = _read("\n".join((*rows, "| id | integer | Number |", "")))
    assert [(each.name, each.parts.label) for each in found.values()] == [
        ("shed", "has a shed"), ("size", "Size in m2"), ("id", "Number"),
    ]  # fmt: skip
    assert found["shed"].parts.level == "nominal" and found["id"].parts.type == "integer"


def test_the_same_as_above() -> None:
    """A cell that says that the codes are those above, or those of another variable."""
    rows = ("| name | label | codes |", "|---|---|---|", "| a1 | Gates | 1 = bad; 2 = good |", "| a2 | Paths | ditto |")
    more = (
        "| a3 | Water | (as above) |",
        "| a4 | Rents | siehe a1 |",
        "| a5 | Size | metres |",
        "| a6 | Huts | as a1 |",
        "",
    )
    found = _read("\n".join((*rows, *more)))
    assert [len(found[name].parts.codes) for name in ("a1", "a2", "a3", "a4", "a5", "a6")] == [2, 2, 2, 2, 0, 2]


def test_a_table_goes_on_in_rows_without_a_name() -> None:
    """A cell that wraps, and a list that goes on in the row below."""
    found = _read(
        "`shed` |  1= a shed or 0=none\n---|---\n`soil` |  Soil: 1=sand, 2=loam,\n|  3=clay on\nrock, 4=peat\n"
        "`size` |  Size\n"
    )
    assert _codes(found["shed"]) == [("1", "a shed"), ("0", "none")]
    assert _codes(found["soil"]) == [("1", "sand"), ("2", "loam"), ("3", "clay on rock"), ("4", "peat")]


def test_tables_drawn_with_corners() -> None:
    """Cells of several lines are one; a table of codes alone describes no variable."""
    found = _read(
        "+------+---------+-------------+\n| Name | Meaning | Encoding    |\n+======+=========+=============+\n"
        "| gate | Nearest | | N=North   |\n|      | gate    | | M=Mill    |\n+------+---------+-------------+\n"
        "| shed | Shed    | 1=Yes, 0=No |\n+------+---------+-------------+\n\n"
        "+-------+-------+\n| Value | Count |\n+=======+=======+\n| 1     | 40    |\n+-------+-------+\n"
    )
    assert list(found) == ["gate", "shed"]
    assert found["gate"].parts.label == "Nearest gate" and _codes(found["gate"]) == [("N", "North"), ("M", "Mill")]


def test_items_of_a_list_begin_with_names() -> None:
    """`- beds, number of beds`, all with the same sign; several names, and names without a meaning, among them."""
    found = _read(
        "The file holds:\n\n- plot, number of the plot\n- held\n- beds, number of beds\n- soil, 1 = sand, 2 = loam\n"
        "- visits, visits in a week\n\nIn the year:\n\n"
        "- spring, summer, autumn. Visits in that part of the year\n- fence. Has a fence\n- name. Of the holder\n"
        "- hut. Has a hut\n\nWhat do you grow?\n\n- beans, of any kind\n- kale, too\n- leeks, thick\n- mint, wild\n"
    )
    assert list(found) == [
        "plot", "held", "beds", "soil", "visits", "spring", "summer", "autumn", "fence", "name", "hut",
    ]  # fmt: skip
    assert found["beds"].parts.label == "number of beds" and _codes(found["soil"]) == [("1", "sand"), ("2", "loam")]
    assert found["autumn"].parts.label == "Visits in that part of the year"


def test_a_meaning_of_one_word_is_no_name() -> None:
    """Below a name that stands alone its meaning may be one word."""
    found = _read(
        "plot\n\nNumber of the plot\n\nyear\n\nYear\n\nname\n\nName of the holder\n\nrent\n\nRent.\n"
        "\nheld\n\nHow it is held\n"
    )
    assert [(each.name, each.parts.label) for each in found.values()] == [
        ("plot", "Number of the plot"), ("year", "Year"), ("name", "Name of the holder"), ("rent", "Rent"),
        ("held", "How it is held"),
    ]  # fmt: skip


def test_what_stands_aside_names_nothing() -> None:
    """Authors in references and remarks in examples are no variables, though the rest is short."""
    found = _read(
        "## Format\n\n**`beds`**\n: Number of beds\n\n**`A`**\n: Acres\n\n## References\n\n"
        "Spade, A.C. and Fork, D.V. (1997) Beds and Their Uses. Fennel Press.\n\n"
        "Rake, S.H, Hoe, L., Trowel, P.H. and Sieve, P.L. (1977) Beds again.\n\n## Examples\n\n    plot(beds)\n"
        "    # all of them: by acres\n    acres - all acres\n    hedge - all hedges\n"
    )
    assert list(found) == ["beds", "A"]


def test_a_list_that_names_variables_is_no_list_of_codes() -> None:
    """The names of the variables in a row are not the codes of one of them."""
    names = ("plot", "beds", "soil")
    entries = "".join(f"**{name}**\n: Meaning of {name}\n\n" for name in names)
    found = _read(f'A file with 3 variables ("plot", "beds" and "soil").\n\n{entries}')
    assert list(found) == list(names) and not any(_codes(each) for each in found.values())


RECORD = """Record of the gate wardens
One line a visit. * = treat as missing.
PART 1. THE VISIT
VISIT	1-4	Number of the visit
GATE	5	Gate
1	North
2	Mill
9*	not known
SHED	6	Has a shed
0	no
1	yes
PART 2. THE PLOT
FENCE	7	Has a fence
VALUES AS IN SHED
LENGTH	8-10	Length of the fence
metres, range 0 to 400
999*	not known
SIDE1 to SIDE2: which sides are fenced. For each of the two:
0	open
1	fenced
SIDE1	11	by the path
SIDE2	12	by the brook
"""


def test_lines_in_columns() -> None:
    """Names with their positions in a record, codes below or above several, starred ones missing, references."""
    found = _read(RECORD)
    assert list(found) == ["VISIT", "GATE", "SHED", "FENCE", "LENGTH", "SIDE1", "SIDE2"]
    assert _codes(found["SIDE1"]) == _codes(found["SIDE2"]) == [("0", "open"), ("1", "fenced")]
    assert _codes(found["GATE"]) == [("1", "North"), ("2", "Mill"), ("9", "not known")]
    assert [line.code for line in found["GATE"].parts.missing] == ["9"]
    assert _codes(found["FENCE"]) == [("0", "no"), ("1", "yes")]
    assert found["LENGTH"].parts.limits.high == "400" and found["LENGTH"].parts.label == "Length of the fence"


def test_names_run_in_and_lists_for_those_below() -> None:
    """Bold names begin their paragraphs; a list in the text above holds for the family below it, and no further."""
    found = _read(
        "## Views\n\nThree statements. Codes: 1 = agree; 2 = disagree. Missing: 9 = no answer.\n\n"
        "**vw1** Rents are fair\n\n"
        "**vw2** Gates should be shut\n\n**vwtxt** Other views\n\n## Person\n\n**age** Age in years. Range: 18-99.\n"
    )
    assert _codes(found["vw1"]) == _codes(found["vw2"]) == [("1", "agree"), ("2", "disagree"), ("9", "no answer")]
    assert not found["vwtxt"].parts.codes and found["age"].parts.limits.low == "18"


@pytest.mark.parametrize(
    ("told", "reached"),
    [
        ("The items were answered on a scale: 1 Never true 2 Seldom true 3 Often true", {"A1", "A2", "A3"}),
        ("For A1 to A2 the codes are 1 = never, 2 = often", {"A1", "A2"}),
        ("Codes for all variables except age: 1 = never, 2 = often", {"A1", "A2", "A3", "gate"}),
        ("For all variables: 9, 99, 999 represent missing values", set()),
    ],
)
def test_lists_reach_whom_they_are_told_for(told: str, reached: set[str]) -> None:
    """A list told once reaches those that it names; codes of which nobody knows for whom reach nobody."""
    names = ["A1", "A2", "A3", "age", "gate"]
    entries = "".join(f"**{name}**\n: Meaning of {name.lower()}\n\n" for name in names)
    found = _read(f"{entries}## Details\n\n{told}\n")
    assert {name for name in names if _codes(found[name])} == reached
