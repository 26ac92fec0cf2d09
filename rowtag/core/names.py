"""The rules for variable names, and names that work in place of names that do not."""

import re
import unicodedata
from collections.abc import Container, Iterable
from dataclasses import dataclass

from rowtag.core.errors import BadName


@dataclass(frozen=True)
class Rule:
    """One way of naming: what a name may be made of, how long, and that said in words."""

    pattern: re.Pattern[str]
    longest: int
    said: str


RULES = {
    "portable": Rule(re.compile(r"[A-Za-z][A-Za-z0-9_]*"), 32, "a letter first, then letters a–z, digits and _"),
    "short": Rule(re.compile(r"[A-Za-z][A-Za-z0-9_]*"), 12, "a letter first, then letters a–z, digits and _"),
    "open": Rule(re.compile(r"[^\W\d_]\w*"), 64, "a letter first, then letters of any script, digits and _"),
}


def key_of(name: str) -> str:
    """Two names with the same key count as the same name."""
    return unicodedata.normalize("NFC", name).casefold()


def check_name(name: str, taken: Container[str], naming: str = "portable") -> None:
    """Raises BadName, with a suggestion, unless `name` may be used beside the keys in `taken`."""
    rule = RULES[naming]
    if not name.strip():
        problem = "A variable needs a name."
    elif len(name) > rule.longest:
        problem = f"“{name}” has {len(name)} characters; a name has at most {rule.longest}."
    elif not rule.pattern.fullmatch(name):
        problem = f"“{name}” cannot be a name: {rule.said}."
    elif key_of(name) in taken:
        problem = f"Another variable is called “{name}” already."
    else:
        return
    suggestion = suggest(name, taken, naming)
    raise BadName(problem, remedy=f"“{suggestion}” would work.", suggestion=suggestion)


def suggest(name: str, taken: Container[str] = (), naming: str = "portable") -> str:
    """A name close to `name` that keeps the rules and is not among the keys in `taken`."""
    rule = RULES[naming]
    text = unicodedata.normalize("NFC" if naming == "open" else "NFKD", name.strip())
    if naming != "open":
        text = text.encode("ascii", "ignore").decode()
    text = re.sub(r"_+", "_", re.sub(r"\W", "_", text)).strip("_")
    if not text or not re.match(r"[^\W\d_]", text):
        text = f"v{text}" if text[:1].isdigit() else f"v_{text}".rstrip("_")
    text = text[: rule.longest].rstrip("_")
    return _untaken(text, taken, rule.longest)


def _untaken(text: str, taken: Container[str], longest: int) -> str:
    """`text`, or `text` with a free number behind it, the first where those in use have no gaps."""
    if key_of(text) not in taken:
        return text

    def numbered(number: int) -> str:
        return f"{text[: longest - len(str(number)) - 1]}_{number}"

    used, free = 1, 2
    while key_of(numbered(free)) in taken:
        used, free = free, 2 * free
    while free - used > 1:  # thousands of columns may share a name: not every number is tried
        middle = (used + free) // 2
        used, free = (middle, free) if key_of(numbered(middle)) in taken else (used, middle)
    return numbered(free)


def working_names(heads: Iterable[str], naming: str = "portable") -> list[str]:
    """A working name for each column head, in order; heads that are names already stay as they are."""
    heads = list(heads)
    rule = RULES[naming]
    fine = [bool(rule.pattern.fullmatch(head)) and len(head) <= rule.longest for head in heads]
    taken: set[str] = set()
    first_use: set[str] = set()
    for head, good in zip(heads, fine, strict=True):
        if good:
            taken.add(key_of(head))
    names = []
    for number, (head, good) in enumerate(zip(heads, fine, strict=True), 1):
        if good and key_of(head) not in first_use:
            first_use.add(key_of(head))
            names.append(head)
            continue
        names.append(suggest(head.strip() or f"column_{number}", taken, naming))
        taken.add(key_of(names[-1]))
    return names
