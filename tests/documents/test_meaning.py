"""Texts about a variable: what they mean, their codes, limits and missing codes, in many hands."""

import pytest

from rowtag.documents.meaning import read_meaning

Pairs = list[tuple[str, str]]
HANDS: list[tuple[str, str, Pairs]] = [
    # codes before their labels
    ("has a shed 1=yes;0= no", "has a shed", [("1", "yes"), ("0", "no")]),
    ("state of soil (1=loose, 2=firm, 3=hard)", "state of soil", [("1", "loose"), ("2", "firm"), ("3", "hard")]),
    ("kind: 1=plot,2=hut", "kind", [("1", "plot"), ("2", "hut")]),
    ("the gate used. 1 = North bank, not the islands. 2 = South bank. 3 = Mill", "the gate used",
     [("1", "North bank, not the islands"), ("2", "South bank"), ("3", "Mill")]),
    ("size of the plot. 1 = 0-50 square metres. 2 = 51-100. 3 = 101-250.", "size of the plot",
     [("1", "0-50 square metres"), ("2", "51-100"), ("3", "101-250")]),
    ("'f' = fennel, 'b' = beans", "", [("f", "fennel"), ("b", "beans")]),
    ("A factor with levels: `N`, North; `S`, South side.", "", [("N", "North"), ("S", "South side")]),
    ("The fence. 1 indicates that it stands, 2 indicates that it leans and 3 that it is down", "The fence",
     [("1", "it stands"), ("2", "it leans")]),
    ("1 equals a whole plot, 2 is a half plot", "", [("1", "a whole plot"), ("2", "a half plot")]),
    ("Indicator for which 1 = keeps bees.", "", [("1", "keeps bees")]),
    ("water, numeric, range: 0 = none, 1 = a tap #4", "water", [("0", "none"), ("1", "a tap #4")]),
    ("shade: 1=none; 2-=some; 3=much", "shade", [("1", "none"), ("2", "some"), ("3", "much")]),
    ("1=pond; 0 no pond", "", [("1", "pond"), ("0", "no pond")]),
    ("1 = one, 2 = two beds 3= three, 4- more", "", [("1", "one"), ("2", "two beds"), ("3", "three"), ("4", "more")]),
    ("fence, coded as (1) for wood, (2) for wire and (3) for a hedge", "fence",
     [("1", "wood"), ("2", "wire"), ("3", "a hedge")]),
    ("state of the path 1-Firm 2-Soft 3-Under water", "state of the path",
     [("1", "Firm"), ("2", "Soft"), ("3", "Under water")]),
    ("kind of hut, a factor with levels w wood, b brick, s stone", "kind of hut",
     [("w", "wood"), ("b", "brick"), ("s", "stone")]),
    ("gate used, one of nb (North bank), mi (the mill), sb (South bank)", "gate used",
     [("nb", "North bank"), ("mi", "the mill"), ("sb", "South bank")]),
    ("water, 0/1/2 for none, a butt, a tap", "water", [("0", "none"), ("1", "a butt"), ("2", "a tap")]),
    # labels before their codes
    ("Own=1 Let=2", "", [("1", "Own"), ("2", "Let")]),
    ("rent (under 30 = 0, over 30 =1)", "rent", [("0", "under 30"), ("1", "over 30")]),
    ("kept out=1; 0=let in", "", [("1", "kept out"), ("0", "let in")]),
    ("help (paid (0) vs. friends (1))", "help", [("0", "paid"), ("1", "friends")]),
    ("Is it fenced? yes (1), in part (2), no (3)", "Is it fenced?", [("1", "yes"), ("2", "in part"), ("3", "no")]),
    # categories that stand for themselves
    ("tool used, a factor with levels `spade` and `fork`", "tool used", [("spade", ""), ("fork", "")]),
    ("tools. (Factor, levels \"Spd\" (spade), \"Frk\" (fork), \"None\".)", "tools",
     [("Spd", "spade"), ("Frk", "fork"), ("None", "")]),
    ("soil - a factor with levels `S`, `L` and `C` representing sand, loam and clay", "soil",
     [("S", "sand"), ("L", "loam"), ("C", "clay")]),
    ("a factor with levels `c(\"old\", \"new\")`, the kind of hut", "the kind of hut", [("old", ""), ("new", "")]),
    ("ordered factor with levels `2` < `4` < `6`", "", [("2", ""), ("4", ""), ("6", "")]),
    ("(1/0) grows fennel", "grows fennel", [("1", ""), ("0", "")]),
    ("integer (value 0 or 1) saying whether it floods", "saying whether it floods", [("0", ""), ("1", "")]),
    ("yes or no", "", [("yes", ""), ("no", "")]),
    ("soil, levels (sand,loam,clay)", "soil", [("sand", ""), ("loam", ""), ("clay", "")]),
    ('fence ("wood" or"wire")', "fence", [("wood", ""), ("wire", "")]),
    ("beds coded as 1, 2 or 4", "beds", [("1", ""), ("2", ""), ("4", "")]),
    ("number of huts: 0, 1, or 3", "number of huts", [("0", ""), ("1", ""), ("3", "")]),
    ("floods, 0/1", "floods", [("0", ""), ("1", "")]),
    # nothing but a blank between
    ("kind of ticket: 1 single, 2 day, 9 refused", "kind of ticket", [("1", "single"), ("2", "day"), ("9", "refused")]),
    ("ward: A (upper), B (lower)", "ward", [("A", "upper"), ("B", "lower")]),
    ("Answers on a scale: 1 Never true 2 Seldom true 3 Often true", "Answers",
     [("1", "Never true"), ("2", "Seldom true"), ("3", "Often true")]),
    # indicators and ends
    ("=1 if it has a pond", "it has a pond", [("1", "it has a pond")]),
    ('"lit" if it has a lamp, "dark" otherwise', "", [("lit", "it has a lamp"), ("dark", "otherwise")]),
    ("dummy: 1 if fenced", "fenced", [("1", "fenced")]),
    ("1 if lit, 0 otherwise", "", [("1", "lit"), ("0", "otherwise")]),
    ("shaded (= 1 if by trees; 0 otherwise)", "shaded", [("1", "by trees"), ("0", "otherwise")]),
    ("state of the hut (ruin=0-new=10)", "state of the hut", [("0", "ruin"), ("10", "new")]),
    ("noise: 0=none to 4=much", "noise", [("0", "none"), ("4", "much")]),
    ("How glad are you, on a scale from 0, not at all, to 10, fully?", "How glad are you",
     [("0", "not at all"), ("10", "fully")]),
]  # fmt: skip


@pytest.mark.parametrize(("text", "rest", "codes"), HANDS)
def test_hands(text: str, rest: str, codes: Pairs) -> None:
    """Each way of writing codes is read, and what is left is the meaning."""
    said = read_meaning(text)
    assert [(code.code, code.label) for code in said.codes][: len(codes)] == codes
    assert said.rest.rstrip("?") == rest.rstrip("?")


@pytest.mark.parametrize(
    "text",
    [
        "ln(max(1, rent paid in a year))",
        "0 <= rent <= 100",
        "equal to `first + second/2`",
        "whether `hut1` was preferred to `hut2`",
        "$15,000 < income <= $25,000",
        "Years since 1988: 12 on average",
        "used (1) for beans, (2) for kale",
        "of the 40 plots, 12 = 30 % were let",
        "a normal yield is between 8 and 10",
        "length^2",
        "# huts < 6 years",
        "rent (in $1,000): what was paid",
        "the plot has 100 beds and 4 gates",
        "There were 500 growers and 600 visitors.",
        "a bed of (1/70) acre",
        "open from 0800 to 1200 hours",
        "temperature (C = Celsius)",
        "the plan of 1998-2007, drawn for 2008-2011",
    ],
)
def test_nothing_is_made_up(text: str) -> None:
    """Formulas, counts and sentences declare no code and no limit."""
    said = read_meaning(text)
    assert not said.codes and not said.limits


@pytest.mark.parametrize(
    ("text", "limits", "rest"),
    [
        ("age of the holder: 14-45", ("14", "45"), "age of the holder"),
        ("visits during the year (0-121)", ("0", "121"), "visits during the year"),
        ("length, numeric, range: 11- 60", ("11", "60"), "length"),
        ("Size of the plot. Range: 1–400.", ("1", "400"), "Size of the plot"),
        ("liczba, od 1 do 26", ("1", "26"), "liczba"),
        ("weight in grams: 709 - 4990 gr", ("709", "4990"), "weight in grams"),
    ],
)
def test_limits(text: str, limits: tuple[str, str], rest: str) -> None:
    """Limits are told as people tell them."""
    said = read_meaning(text)
    assert (said.limits, said.rest) == (limits, rest) and not said.codes


def test_codes_and_their_missing_ones_stand_in_two_lists() -> None:
    """What is called missing is missing, whatever it says; limits beside codes are kept where they are called so."""
    said = read_meaning(
        "Shift. Codes: 1 = early, before five; 2 = late. Missing: 8 = at sea; 9 = no answer. Range: 1-9"
    )
    assert [(code.code, code.label, code.reason) for code in said.codes] == [
        ("1", "early, before five", None),
        ("2", "late", None),
        ("8", "at sea", "other"),
        ("9", "no answer", "no answer"),
    ]
    assert said.rest == "Shift" and said.limits == ("1", "9") and said.bounded


def test_what_is_asked_is_the_meaning() -> None:
    """A statement in quotes is the meaning of an item that answers it."""
    said = read_meaning(
        "ordered factor with levels `No` and `Yes`, in response to the statement, “The gates should be shut.”"
    )
    assert said.rest == "The gates should be shut." and [code.code for code in said.codes] == ["No", "Yes"]
