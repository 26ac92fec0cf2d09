"""What somebody says of a document's lines goes before what was understood of them."""

from typing import Any

import pytest

from rowtag.core.codebook import Described
from rowtag.core.study import Otherwise
from rowtag.documents.document import understand
from rowtag.documents.otherwise import read_otherwise


def _read(text: str, *said: Otherwise) -> dict[str, Described]:
    return {each.name: each for each in read_otherwise(text, (), said).variables}


def _codes(each: Described) -> list[tuple[str | None, str]]:
    return [(line.code, line.label) for line in (*each.parts.codes, *each.parts.missing)]


WORDS = """gate: the gate used
  north: the North bank
  south: the South bank
fence: what the fence is of
  wood: of planks
  wire: of wire
  refused: refused
water: source of water
"""


def test_these_are_codes_and_so_are_those_set_like_them() -> None:
    """One place says it; what is set alike below other variables becomes codes there too."""
    assert "wire" in {each.name for each in understand(WORDS).variables}
    found = _read(WORDS, Otherwise(first=2, last=2, are="codes"))
    assert list(found) == ["gate", "fence", "water"]
    assert _codes(found["gate"]) == [("north", "the North bank"), ("south", "the South bank")]
    assert _codes(found["fence"]) == [("wood", "of planks"), ("wire", "of wire"), ("refused", "refused")]
    assert found["fence"].lines == (4, 7) and found["fence"].certainty == 1.0


def test_lines_that_said_nothing_are_codes() -> None:
    """Words below a variable that no list looks like, and those below the others; what stands further off stays."""
    text = WORDS.replace(": of", "  ..of").replace(": the N", "  ..the N").replace(": the S", "  ..the S")
    found = _read(f"{text}\n  thanks  ..to all\n", Otherwise(first=5, last=6, are="codes"))
    assert [line.code for line in found["fence"].parts.codes][:2] == ["wood", "wire"]
    assert [line.code for line in found["gate"].parts.codes] == ["north", "south"]


SITES = """site_1 - the paths
site_2 - the gates
site_3 - the hedges

The statements were answered so:

1 = bad
2 = fair
3 = good
"""


def test_these_lines_belong_to_others() -> None:
    """A list reaches the variables that were named, whether they are found or not, and nobody else."""
    found = _read(SITES, Otherwise(first=5, last=9, are="to", names=("site_1", "site_3", "site_9")))
    expected = [("1", "bad"), ("2", "fair"), ("3", "good")]
    assert [_codes(found[name]) for name in ("site_1", "site_3", "site_9")] == [expected] * 3
    assert not _codes(found["site_2"]) and found["site_9"].lines == (5, 9)
    ranged = _read(SITES, Otherwise(first=5, last=9, are="to", names=("site_1 to site_3",)))
    assert list(ranged) == ["site_1", "site_2", "site_3"] and _codes(ranged["site_2"]) == expected


TABLE = """| Part | Meaning | Called |
|---|---|---|
| plot | Number of the plot | nr |
| plot | Has a hut: 1 = yes, 2 = no | 2nd hut |
| holder | Age | age |
"""


def test_names_are_in_this_column() -> None:
    """The table is read anew with its names in another column."""
    found = _read(TABLE, Otherwise(first=4, last=4, are="names", column=3))
    assert list(found) == ["nr", "2nd hut", "age"]
    assert _codes(found["2nd hut"]) == [("1", "yes"), ("2", "no")] and found["age"].parts.label == "Age"


def test_nothing_is_named_here() -> None:
    """Lines that were taken for a variable name none; what is taken back is as before."""
    text = "hut - has a hut (1 = yes)\nrent - rent paid (1 = little, 2 = much)\nthanks - to all who helped\n"
    said = Otherwise(first=3, last=3, are="nothing")
    found = read_otherwise(text, (), [said])
    assert [each.name for each in found.variables] == ["hut", "rent"] and 3 in found.unplaced
    assert read_otherwise(text, (), []) == understand(text)


def test_several_things_said_hold_together() -> None:
    """Each goes on from what those before it made of the document."""
    said = [Otherwise(first=2, last=3, are="codes"), Otherwise(first=8, last=8, are="nothing")]
    assert list(_read(WORDS, *said)) == ["gate", "fence"]


@pytest.mark.parametrize("sign", ["\f", "\r\n", "\u2028", "\x0b"])
@pytest.mark.parametrize("are", ["codes", "to", "names", "nothing"])
def test_lines_are_counted_as_they_are_shown(sign: str, are: Any) -> None:
    """Whatever ends a line, what is said of the last one can be read."""
    text = WORDS.replace("\n", sign)
    last = len(text.splitlines())
    read_otherwise(text, (), [Otherwise(first=1, last=last, are=are, names=("gate",))])
    read_otherwise(text, (), [Otherwise(first=last, last=last, are=are, names=("gate",))])
