"""Codes with their labels, one at a time: how they are written, and a line that declares one."""

import re
from dataclasses import dataclass
from functools import cached_property, lru_cache

from rowtag.core.tag import Reason
from rowtag.documents.lines import flattened
from rowtag.documents.reasons import missing_reason

LONGEST_LABEL = 160
"""Characters of the longest label that is believed."""

NUMBER = r"[-+]?\d{1,9}(?:\.\d+)?"
NUMBERED = re.compile(NUMBER)
"""What begins with a number."""
WORD_CODE = r"[A-Za-z][A-Za-z0-9_]{0,11}|'[^']{1,30}'|\"[^\"]{1,30}\""
_RANGE = (
    rf"{NUMBER}\s*(?:-|to|\.\.)\s*{NUMBER}|{NUMBER}\s*\+|(?:under|below|<)\s*{NUMBER}"
    rf"|{NUMBER} (?:and|or) (?:above|over|more)"
)


@dataclass(frozen=True)
class Code:
    """A code or a range with its label, and why it is missing, as found."""

    label: str
    code: str | None = None
    low: str | None = None
    high: str | None = None
    reason: Reason | None = None

    @cached_property
    def key(self) -> tuple[str | None, str | None, str | None]:
        """What it stands for, whatever it is called."""
        return self.code, self.low, self.high


_BEHIND_COUNTS = re.compile(
    r"(?<!\s)(?:\s{2,}|\t)(?:\.|[\d,.]+%?)(?:\s+[\d,.]+(?:\s*%)?){0,40}(?:\s*(?P<said>\([^()]*\)))?\s*$"
)
_BOX = re.compile(r"^(?:\[[ xX]?\]|\([ ]?\)|[□☐○◯_]+)\s*")
_LINE = re.compile(
    rf"^(?:\((?P<p>{NUMBER}|[A-Za-z])\)|(?P<c>{_RANGE}|{NUMBER}|{WORD_CODE}))"
    r"(?P<sep>\s*=>?\s*|\s*:\s*|\)\s+|\.\s+|\s+-+\s+|\t\s*|\s{2,}|\s+)(?P<label>\S.*)$"
)
_LEADERS = re.compile(rf"^(?P<label>\S.{{0,120}}?)\s*(?:\.\s?){{3,}}\s*(?:\((?P<p>{NUMBER})\)|(?P<c>{NUMBER}))$")
_BACK = re.compile(rf"^(?P<label>[^()=]{{1,120}}?)\s*(?:\((?P<p>{NUMBER})\)|\s=\s*(?P<c>{NUMBER}))$")


@lru_cache(maxsize=65_536)
def code_line(text: str, *, table: bool = False) -> tuple[Code, str] | None:
    """The code that a line of its own declares, and the kind of sign between code and label; None for other lines.

    In a `table` numbers behind the label are counts.
    """
    text = _BOX.sub("", text.strip())
    plain = flattened(text)
    counts = _BEHIND_COUNTS.search(plain) if "  " in plain or "\t" in plain else None
    said = ""
    if counts and (table or counts["said"]):
        said = text[counts.start("said") : counts.end("said")] if counts["said"] else ""
        text, plain = text[: counts.start()], plain[: counts.start()]
    at_end = (plain[-1:] == ")" or plain[-1:].isdigit()) and (".." in plain or not NUMBERED.match(plain))
    if at_end and (back := _LEADERS.match(plain) or _BACK.match(plain)):
        code = coded(back["p"] or back["c"], text[: back.end("label")])
        return (code, "back") if code else None
    if found := _LINE.match(plain):
        sign = found["sep"].strip() or ("\t" if "\t" in found["sep"] else " " * min(2, len(found["sep"])))
        if found["p"]:
            sign = "()"
        label = text[found.start("label") :]
        code = coded(found["p"] or found["c"], f"{label} {said}".strip())
        if code and unlikely(code):
            return None
        return (code, sign) if code else None
    return None


_NO_LABEL = re.compile(r"(?:c\()?[-+]?\d+(?:\s*,\s*[-+]?\d+){2}|(?:or|and)\s", re.I)
"""Begins what means nothing: figures in a row, or words that go on with something."""


def coded(span: str, label: str) -> Code | None:
    """A code with its label, tidied; None where that cannot be a label."""
    label = tidied(label)
    if not label or len(label) > LONGEST_LABEL or "\t" in label or _NO_LABEL.match(label):
        return None
    span = span.strip().strip("'\"")
    reason, explicit, label = missing_reason(label)
    low, high = _ends(span)
    marked = reason if explicit else None
    if low is None and high is None:
        return Code(label, code=span.lstrip("+"), reason=marked)
    return Code(label, low=low, high=high, reason=marked)


def _ends(span: str) -> tuple[str | None, str | None]:
    """The ends of a range; none where it is a single code."""
    if span[1:].isalnum() or not span[1:]:
        return None, None
    if found := re.fullmatch(rf"({NUMBER})\s*(?:-|to|\.\.)\s*({NUMBER})", span):
        return found[1], found[2]
    if found := re.fullmatch(rf"({NUMBER})\s*(?:\+|(?:and|or) (?:above|over|more))", span):
        return found[1], None
    if found := re.fullmatch(rf"(?:under|below|<)\s*({NUMBER})", span):
        return None, found[1]
    return None, None


_PLAIN_LABEL = re.compile(r"(?!if\s)[^\W_](?:[\w '’/-]*[\w)])?(?<!\bto)(?<!\band)(?<!\bor)(?<!\bthrough)")
_AT_BEGIN = re.compile(r"^[\s=:;,\-–—]+(?:if\s+(?=\S))?|^if\s+(?=\S)")
_ROUTING = re.compile(r"\s*(?:-+>|→|⇒|=>)\s*\S.*$")
_AT_END = re.compile(r"(?<![\s;,|/])[\s;,|/]+$")
_LEADING_ON = re.compile(r"\s*(?:\.\.\.|…|–|—|\bto|\band|\bor|\bthrough)$")
_STOP = re.compile(r"(?<=[^.])\.$")
_OPENED = re.compile(r"\s*\($")


def tidied(label: str) -> str:
    """A label without what only held the list together."""
    if "\t" not in label:
        label = " ".join(label.split())
    if _PLAIN_LABEL.fullmatch(label) and "(" not in label and ")" not in label:
        return label
    label = _AT_BEGIN.sub("", label.strip())
    label = _ROUTING.sub("", label)  # where to go on
    label = _STOP.sub("", _LEADING_ON.sub("", _AT_END.sub("", label)))
    if label.count(")") > label.count("("):
        label = label.rstrip(")")
    if label.count("(") > label.count(")"):
        label = _OPENED.sub("", label)
    if len(label) > 1 and label[0] in "\"'“‘„" and label[-1] in "\"'”’“":
        label = label[1:-1]
    return label.strip()


_ONE_OF_SEVERAL = re.compile(rf"(?:and|or|&|,)\s+{NUMBER}\b")
"""What stands behind the first of several codes: "98 and 99 are missing"."""
_NUMBERS = re.compile(rf"{NUMBER}(?:\s*-\s*\d+)?")


def unlikely(code: Code) -> bool:
    """Whether this is hardly a code of a list: a word that stands for a number, or a label as long as a paragraph."""
    if _ONE_OF_SEVERAL.match(code.label):
        return True
    word = code.code is not None and not NUMBERED.match(code.code)
    return len(code.label) > 80 or (word and bool(_NUMBERS.fullmatch(code.label)))
