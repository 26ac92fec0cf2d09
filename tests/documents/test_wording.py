"""Names from wordings: key words in several languages, told apart, and names that wordings spell."""

from collections.abc import Callable

import pytest
from hypothesis import given
from hypothesis import strategies as st

from rowtag.core.names import RULES
from rowtag.documents.wording import LONGEST, name_from, spelt
from tests.cost import grows_in_proportion


@pytest.mark.parametrize(
    ("wording", "name"),
    [
        ("How many hours in a usual week do you spend on your plot?", "hours_week"),
        ("Do you have a hut?", "hut"),
        ("In which year were you born? (four figures)", "year_born"),
        ("Combien d’heures par semaine ?", "heures_semaine"),
        ("Wie groß ist Ihr Garten?", "gross_garten"),
        ("Jaka jest płaca w działce?", "placa_dzialce"),
        ("2026: which gate?", "gate_2026"),
        ("And you?", ""),
        ("42?", ""),
    ],
)
def test_key_words(wording: str, name: str) -> None:
    """The words that say what a question is about, without accents; nothing where there are none."""
    assert name_from(wording) == name


def test_names_are_told_apart() -> None:
    """One that is taken gets another word, then initials, then a number."""
    taken: set[str] = set()
    for wording, name in [
        ("Hours in the garden?", "hours_garden"),
        ("Hours in the garden in winter?", "hours_garden_winter"),
        ("Hours in the garden in winter, digging?", "hgwd"),
        ("Hours in the garden?", "hours_garden_2"),
        ("Hours in the garden?", "hours_garden_3"),
    ]:
        assert name_from(wording, taken) == name
        taken.add(name)


@given(st.text(max_size=60), st.sets(st.text(max_size=8), max_size=4))
def test_any_wording(wording: str, taken: set[str]) -> None:
    """Whatever the wording, the name is one that works, short, and not taken."""
    name = name_from(wording, taken)
    assert not name or (RULES["open"].pattern.fullmatch(name) and len(name) <= LONGEST + 4 and name not in taken)


def test_spelt_names() -> None:
    """Whole words, beginnings of them and initials spell a name; short parts, and names that two spell, do not."""
    wordings = ["How large is your household?", "How content are you with the water?", "When were you born?", "Water?"]
    assert spelt(wordings, ["household_large", "hhld", "contwater", "cont_wat", "wwyb", "water"]) == {
        0: "household_large", 1: "cont_wat", 2: "wwyb",
    }  # fmt: skip
    assert spelt(["What is your age?", "Any shed?"], ["age", "she"]) == {0: "age"}


def test_many_names_and_wordings() -> None:
    """Four times as many of both take in proportion, whatever words they have in common."""

    def spelling(n: int) -> Callable[[], object]:
        words = ["water", "hours", "garden", "plot", "fence", "path"]
        wordings = [f"How many {words[at % 6]} in the {words[at // 6 % 6]} of item {at}?" for at in range(n)]
        names = [f"{words[at % 6]}_{words[at // 6 % 6]}_{words[at // 36 % 6]}{'x' * (at % 9)}" for at in range(n)]
        return lambda: spelt(wordings, names)

    assert grows_in_proportion(spelling, (1_000, 4_000))
