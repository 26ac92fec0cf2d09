"""Rules as text: Row Tag's own notation for what records keep to, so that rules travel from study to study.

A rule begins at the margin, with its title in quotes and how severe it is where that is no error; indented below stand
its condition and, behind #, why it holds. A condition alone at the margin is a rule, too, and its own title.
"""

import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from itertools import islice

from rowtag.core.errors import Place, UnreadableFile
from rowtag.core.formulas import BadFormula
from rowtag.core.formulas.grammar import parse
from rowtag.core.rules import MOST_RULES, Severity

_HEAD = re.compile(r'"(?P<title>(?:[^"\\]|\\.)*)"[ \t]*(?P<severity>\S*)[ \t]*')
_SEVERITIES: tuple[Severity, ...] = ("error", "warning", "note")


@dataclass(frozen=True)
class WrittenRule:
    """A rule as it is written: its title, its condition with the names of variables, how severe it is, and why it
    holds. `line` is where it begins, from 1."""

    title: str
    condition: str
    severity: Severity = "error"
    note: str = ""
    line: int = 1


def read_rules(text: str) -> list[WrittenRule]:
    """The rules of a text, in their order. Raises UnreadableFile with the line and character that is wrong."""
    each = list(islice(_each(re.split(r"\r\n|\r|\n", text.removeprefix("\ufeff"))), MOST_RULES + 1))
    if len(each) > MOST_RULES:
        raise UnreadableFile(
            f"There are more than {MOST_RULES:,} rules.",
            remedy="Part the text, or put several conditions into one rule.",
            where=Place(row=each[-1][0][0]),
        )
    found = [_read(lines) for lines in each]
    seen: dict[str, int] = {}
    for rule in found:
        if rule.title.casefold() in seen:
            raise UnreadableFile(
                f"The rule “{rule.title}” stands here twice.",
                remedy=f"It begins in line {seen[rule.title.casefold()]}, too; give one of them another title.",
                where=Place(row=rule.line),
            )
        seen[rule.title.casefold()] = rule.line
    return found


def write_rules(rules: Sequence[WrittenRule]) -> str:
    """Rules as text, which reads back as the same."""
    return "\n".join(_written(rule) for rule in rules)


def _written(rule: WrittenRule) -> str:
    title = re.sub(r'(["\\])', r"\\\1", " ".join(rule.title.split()))
    lines = [f'"{title}"' + (f"  {rule.severity}" if rule.severity != "error" else "")]
    lines += [f"  # {line}".rstrip() for line in rule.note.split("\n")] if rule.note else []
    lines += [f"  {line.strip()}" for line in re.split(r"\r\n|\r|\n", rule.condition) if line.strip()]
    return "\n".join(lines) + "\n"


_Numbered = tuple[int, str]


def _each(lines: Sequence[str]) -> Iterator[list[_Numbered]]:
    """The lines of one rule after the other; comments at the margin and blank lines are none."""
    rule: list[_Numbered] = []
    for number, line in enumerate(lines, 1):
        if not line.strip() or line.startswith("#"):
            continue
        if not line[0].isspace() and rule:
            yield rule
            rule = []
        rule.append((number, line))
    if rule:
        yield rule


def _read(lines: list[_Numbered]) -> WrittenRule:
    first, head = lines[0]
    if head[0].isspace():
        raise UnreadableFile(
            "A rule begins at the margin.", remedy="Take the blanks in front away.", where=Place(row=first)
        )
    if not head.startswith('"'):
        condition, _ = _condition(lines)
        return WrittenRule(" ".join(condition.split())[:200], condition, line=first)
    found = _HEAD.fullmatch(head)
    if found is None:
        raise UnreadableFile(
            "This is no title of a rule.",
            remedy='A title stands in quotes, and behind it error, warning or note: "Few hours"  warning',
            where=Place(row=first),
        )
    title = " ".join(re.sub(r"\\(.)", r"\1", found["title"]).split())
    severity = found["severity"] or "error"
    if severity not in _SEVERITIES or not title or len(title) > 200:
        what = f"“{severity}” is no severity." if severity not in _SEVERITIES else "A title has 1 to 200 characters."
        raise UnreadableFile(
            what, remedy="Say error, warning or note." if title else "", where=Place(row=first, character=1)
        )
    condition, note = _condition(lines[1:])
    if not condition:
        raise UnreadableFile(
            f"The rule “{title}” has no condition.", remedy="Write it below, indented.", where=Place(row=first)
        )
    return WrittenRule(title, condition, _SEVERITIES[_SEVERITIES.index(severity)], note, first)


def _condition(lines: Sequence[_Numbered]) -> tuple[str, str]:
    """What a rule wants, and why; a condition that cannot be read is told by its line and character."""
    notes = [line.strip()[1:].strip() for _, line in lines if line.strip().startswith("#")]
    rest = [(number, line) for number, line in lines if not line.strip().startswith("#")]
    condition = "\n".join(line.strip() for _, line in rest)
    try:
        if condition:
            parse(condition)
    except BadFormula as error:
        raise UnreadableFile(error.what, remedy=error.remedy, where=_place(rest, error.span[0])) from None
    return condition, "\n".join(notes)


def _place(lines: Sequence[_Numbered], at: int) -> Place:
    """Where a character of a condition stands in the text."""
    for number, line in lines:
        size = len(line.strip())
        if at <= size:
            return Place(row=number, character=len(line) - len(line.lstrip()) + at + 1)
        at -= size + 1
    number, line = lines[-1]
    return Place(row=number, character=len(line) + 1)
