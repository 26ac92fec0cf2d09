"""A variable as a document sets it, before its text is read."""

import re
from dataclasses import dataclass, field, replace

from rowtag.documents.blocks import Block, bare
from rowtag.documents.codes import NUMBER, Code, code_line
from rowtag.documents.heads import names_in
from rowtag.documents.lines import words_in
from rowtag.documents.reasons import missing_reason

NAME = r"[^\W\d_][\w.$]{0,63}|_\w{1,60}"
_NAMES = re.compile(rf"(?:{NAME})(?:\s*(?:,|/|&|-|to)\s*(?:{NAME}))*", re.I)
_ONE = re.compile(NAME)
REFERENCE = re.compile(
    r"\b(?:(?:same|identical)\s+(?:\w+\s+){0,3}(?:as|to)|see|as (?:in|for|with)|like(?: in)?|cf\.?|ditto|siehe"
    r"|wie(?: in| bei)?|voir|comme|zob\.|jak(?: w)?)\s+(?:under\s+|variable\s+|question\s+|item\s+)?"
    r"`?(?P<name>[^\W\d]\w*(?:\.\w+)*)`?",
    re.I,
)
"""Says that what holds for another variable holds here."""
_PROSE = frozenset(
    words_in(
        """
        note notes source sources references reference details description format usage value values arguments
        examples example author authors see also the a an this these and or if for of variable variables name names
        """
    )
)


@dataclass
class Entry:
    """One variable or several: their names, the text about them, what is known without reading it.

    `texts` in order: the meaning first. `lines`: first and last line, from 1. `codes` were set as a list of their own.
    """

    names: tuple[str, ...]
    texts: list[str]
    lines: tuple[int, int]
    certainty: float
    reason: str
    codes: list[Code] = field(default_factory=list)
    given: dict[str, object] = field(default_factory=dict)
    limits: tuple[str | None, str | None] | None = None
    bounded: bool = False
    """Limits are said beside codes."""
    also: str = ""
    battery: str = ""
    proposed: bool = False
    """No name is printed: it is made of a number or a wording."""
    leads: list[tuple[str, str]] = field(default_factory=list)
    """Answers, and in what words each leads on to another question."""
    skips: list[tuple[tuple[str, ...], "Entry | None", str]] = field(default_factory=list)
    """Codes, the entry at which those go on who gave one of them (None: the end), and the words that say so."""
    set_apart: bool = False
    """Its names are set apart within their line: nothing else of that line is a name."""


def names_of(term: str, *, among_names: bool = False) -> tuple[str, ...]:
    """The names that a term gives: one, several, or a range of them; none where it is no name.

    Words that documents use for themselves, such as "source", are names in code face, or small `among_names`.
    """
    text = bare(term).strip().rstrip(":").strip().strip("\"'").strip()
    word = text.casefold() in _PROSE and not (term.startswith("`") or (among_names and text.islower()))
    if not text or len(text) > 120 or word:
        return ()
    if _ONE.fullmatch(text):
        return (text,)
    if not _NAMES.fullmatch(text):
        return ()
    found = names_in(text)
    return found if all(_ONE.fullmatch(name) for name in found) else ()


def codes_in_rows(block: Block) -> list[Code]:
    """The codes that a table lists, one a row; none where not every row does, its head aside."""
    out: list[Code] = []
    for number, row in enumerate(block.rows):
        cells = [cell for cell in row.cells if cell]
        line = code_line(bare("\t".join(cells[:2]))) if len(cells) >= 2 else None
        if line is None or (line[0].code is None and line[0].low is None and line[0].high is None):
            if number == 0:
                continue
            return []
        out.append(line[0])
    told = all(re.match(NUMBER, code.code or "0") or len(code.code or "") <= 2 for code in out)
    return out if told and len({code.key for code in out}) == len(out) else []


_UNSAID = re.compile(rf"(?P<code>{NUMBER}|[A-Za-z]{{1,6}})\s*=")
_STARRED = re.compile(rf"(?P<code>{NUMBER})\*(?P<rest>\s.*)")


def _one_code(text: str) -> Code | None:
    """The code of a line, which may have a bullet; one without a label ends with its sign, a star says missing."""
    text = re.sub(r"^(?:[•*]\s*|-\s+)", "", text.strip())
    if found := _UNSAID.fullmatch(text):
        return Code("", code=found["code"])
    if found := _STARRED.fullmatch(text):
        line = code_line(found["code"] + found["rest"])
        return replace(line[0], reason=line[0].reason or missing_reason(line[0].label)[0] or "other") if line else None
    line = code_line(text)
    if line is None:
        return None
    number = re.match(NUMBER, line[0].code or line[0].low or line[0].high or "")
    return line[0] if number or (line[1] == "=" and len(line[0].code or "") <= 6) else None


def codes_in_lines(texts: list[str], fewest: int = 2) -> list[Code]:
    """The codes that lines list, one each; none where not every line does, or where there are too few."""
    out = []
    for text in texts:
        line = _one_code(bare(text))
        if line is None:
            return []
        out.append(line)
    return out if len(out) >= fewest and len({code.key for code in out}) == len(out) else []
