"""A document's lines without their markup: what stays is what is said."""

import pytest

from rowtag.documents.lines import Line, lines_of


def one(text: str) -> Line:
    (line,) = lines_of(text)
    return line


@pytest.mark.parametrize(
    ("raw", "said", "marked"),
    [
        ("- **site**: where it is", "site: where it is", True),
        ("* `site` – where it is", "site – where it is", True),
        ("``site``", "site", True),
        (r"\item{\code{site}}{where it is}", "site: where it is", True),
        (r"\item{site}{where \emph{exactly} it is}", "site: where exactly it is", True),
        ("## Variables ##", "Variables", False),
        ("<b>site</b> &ndash; where", "site – where", False),
        ("'site' where it is", "site where it is", True),
        ("site_1 and site_2 (1 = yes)", "site_1 and site_2 (1 = yes)", False),
        ("Q1  How old are you?                 page 3", "Q1  How old are you?", False),
    ],
)
def test_markup_goes(raw: str, said: str, marked: bool) -> None:
    """Bullets, bold, code, tags, commands and page numbers are no content; a name set apart is noticed."""
    assert (one(raw).text, one(raw).marked) == (said, marked)


NOTHING = ["-----", "====", "***", "- 3 -", "Page 4 of 12", "```", r"\keyword{datasets}", "%x", ":Records: 12"]


@pytest.mark.parametrize("raw", NOTHING)
def test_what_says_nothing(raw: str) -> None:
    """Rules, page numbers, fences and layout commands are no lines to be placed."""
    assert one(raw).empty


def test_front_matter_is_about_the_document() -> None:
    """Between two rules at the beginning, and only there."""
    lines = lines_of("---\ntitle: Hens\n---\nname: hen\n---\n")
    assert [line.empty for line in lines] == [True, True, True, False, True, True]
    assert not lines_of("---\nnot closed\n")[1].empty


def test_rows_of_tables() -> None:
    """Bars make cells; so do columns under a ruler, as far as the table goes."""
    assert one("| `a` | **b** |  |").cells == ("a", "b", "")
    assert one("a | b").cells == (), "a single bar may be anything"
    table = "Name   Type  What\n-----  ----  ----------\nage    int   age in years\nsex          1 man, 2 woman\n"
    lines = lines_of(f"{table}\nno row here\n")
    assert [line.cells for line in lines if line.cells] == [
        ("Name", "Type", "What"), ("age", "int", "age in years"), ("sex", "", "1 man, 2 woman"),
    ]  # fmt: skip
    assert lines[5].text == "no row here"


def test_numbers_and_indents_are_those_of_the_document() -> None:
    """Whatever the line ends; tabs count as eight blanks."""
    lines = lines_of("a\r\n\tb\r  c\n")
    assert [(line.number, line.indent, line.text) for line in lines[:3]] == [(1, 0, "a"), (2, 8, "b"), (3, 2, "c")]
    assert one("“x” – y").plain == '"x" - y' and one("“x” – y").text == "“x” – y"
