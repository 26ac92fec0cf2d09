"""Reversed items: said beside one, told once for several; other sentences say nothing of the kind."""

import pytest

from rowtag.documents.document import understand
from rowtag.documents.turned import REVERSED

ITEMS = "".join(f"- **bel_{at}**: {said}\n" for at, said in enumerate(["At home", "A stranger", "Alone", "Welcome"], 1))
SCALE = "# Belonging\n\nAll items are coded 1 = disagree to 5 = agree."


def _turned(text: str) -> str:
    found = understand(text).variables
    assert [each.name for each in found] == ["bel_1", "bel_2", "bel_3", "bel_4"]
    return "".join(each.name[-1] for each in found if REVERSED in each.parts.note)


@pytest.mark.parametrize(
    ("told", "turned"),
    [
        ("Items 2 and 3 are reverse-scored.", "23"),
        ("bel_2 and `bel_3` were reversed before they were added up.", "23"),
        ("Reversed: bel_2 to bel_4.", "234"),
        ("Items 2, 4 sind umgepolt.", "24"),
        ("No items are reversed.", ""),
        ("Items 2 and 3 were asked in reverse order.", ""),
        ("Item 9 is reversed.", ""),
    ],
)
def test_told_once(told: str, turned: str) -> None:
    """By numbers, names or ranges, in front or behind; the list of the same paragraph still reaches all items."""
    assert _turned(f"{SCALE} {told}\n\n{ITEMS}") == turned
    assert _turned(f"{SCALE}\n\n{ITEMS}\n## Scoring\n\n{told}\n") == turned
    assert all(len(each.parts.codes) == 2 for each in understand(f"{SCALE} {told}\n\n{ITEMS}").variables)


@pytest.mark.parametrize("mark", ["(R)", "[reversed]", "(reverse-coded)", "(negatively worded)"])
def test_said_beside(mark: str) -> None:
    """A mark behind the words of an item says so, and stays there; letters in brackets elsewhere do not."""
    text = f"{SCALE}\n\n{ITEMS}".replace("A stranger", f"A stranger {mark}").replace("Alone", "Alone (r2)")
    assert _turned(text) == "2"
    assert understand(text).variables[1].parts.label == f"A stranger {mark}"


def test_notes_are_added_to() -> None:
    """What else is noted of an item stays."""
    rows = "".join(f"| bel_{at} | Item {at} | kept |\n" for at in range(1, 5))
    found = understand(f"| Name | Meaning | Remark |\n|---|---|---|\n{rows}\nItem 2 is reversed.\n").variables
    assert [each.parts.note for each in found] == ["kept", f"kept; {REVERSED}", "kept", "kept"]
