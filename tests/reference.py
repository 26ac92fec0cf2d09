"""What reading means, said slowly: one record after another, with nothing shared with the package's own way.

Numbers through `decimal`, dates through `datetime`, patterns through `re`. Everything that reads entries is
compared with this.
"""

import math
import re
import unicodedata
from collections import Counter
from dataclasses import dataclass
from datetime import date, datetime, time
from decimal import Decimal

from rowtag.core.tag import CodeLine, CodeSpan, Tag

NUMBERS = {"integer", "decimal"}
DATES = {"date", "time", "datetime"}


@dataclass(frozen=True)
class Read:
    """One entry's reading: state, the label of the line that accounts for it, canonical text."""

    state: str
    label: str
    canonical: str


def trimmed(entry: str) -> str:
    return unicodedata.normalize("NFC", entry.strip())


def number(text: str, tag: Tag) -> Decimal | None:
    """A number as the tag's marks have it; with more than 18 significant digits its nearest double."""
    marks = tag.marks
    sign = re.escape(marks.sign)
    text = text.replace("\u2212", "-")
    if marks.sign:
        for pattern in (rf"^([+-]?){sign} ?(\S+)$", rf"^({sign}) ?([+-]\S+)$", rf"^()([+-]?\S+?) ?{sign}$"):
            found = re.match(pattern, text)
            if found:
                text = (found[1] if found[1] in ("+", "-") else "") + found[2]
                break
    digits = rf"([+-]?)([0-9{re.escape(marks.thousands)}]*)(?:{re.escape(marks.decimal)}([0-9]+))?"
    found = re.fullmatch(digits + "([eE][+-]?[0-9]{1,3})?", text)
    if not found or not (found[2] or found[3]):
        return None
    whole, fraction = found[2], found[3] or ""
    if marks.thousands and marks.thousands in whole:
        groups = whole.split(marks.thousands)
        if not 1 <= len(groups[0]) <= 3 or groups[0][0] == "0" or any(len(group) != 3 for group in groups[1:]):
            return None
        whole = "".join(groups)
    exact = Decimal(f"{found[1]}{whole or '0'}.{fraction or '0'}{found[4] or ''}")
    nearest = float(exact)
    if math.isinf(nearest) or (nearest == 0 and exact != 0):
        return None
    return Decimal(repr(nearest)) if len((whole + fraction).strip("0")) > 18 else exact


def plain_number(text: str) -> Decimal | None:
    """A code or limit, which is always written with a point."""
    return number(text, Tag(name="x"))


def moment(text: str, kind: str, order: str) -> date | time | datetime | None:
    """A date, time or both."""
    day = r"(\d{1,4})([-/.])(\d{1,2})\2(\d{1,4})"
    clock = r"(\d{1,2}):(\d{2})(?::(\d{2})(\.\d{1,6})?)?"
    pattern = {"date": day, "time": clock, "datetime": rf"{day}[ T]{clock}"}[kind]
    found = re.fullmatch(pattern, text, re.ASCII)
    if not found:
        return None
    try:
        made_day = _day(found, order) if kind != "time" else None
        parts = found.groups()[-4:] if kind != "date" else ("0", "0", None, None)
        made_time = time(
            int(parts[0] or 0), int(parts[1] or 0), int(parts[2] or 0), int((parts[3] or ".0")[1:].ljust(6, "0"))
        )
    except ValueError:
        return None
    if kind == "date":
        return made_day
    return made_time if kind == "time" else datetime.combine(made_day, made_time)  # type: ignore[arg-type]


def _day(found: re.Match[str], order: str) -> date:
    first, third = found[1], found[4]
    if len(first) == 4 and len(third) <= 2:
        return date(int(first), int(found[3]), int(third))
    if len(first) > 2 or len(third) != 4 or order == "ymd":
        raise ValueError
    day, month = (first, found[3]) if order == "dmy" else (found[3], first)
    return date(int(third), int(month), int(day))


def value(text: str, tag: Tag):  # type: ignore[no-untyped-def]
    """What an entry is worth under the tag's type; None where it does not fit."""
    if tag.type == "text":
        return text
    if tag.type in DATES:
        return moment(text, tag.type, tag.marks.date_order)
    found = number(text, tag)
    if found is not None and tag.type == "integer":
        return found if found == int(found) and abs(found) < 10**18 and "e" not in text.lower() else None
    return found


def code_value(code: str, tag: Tag):  # type: ignore[no-untyped-def]
    """What a code or limit is worth under the tag's type."""
    code = trimmed(code)
    if tag.type in NUMBERS:
        return plain_number(code)
    return moment(code, tag.type, "ymd") if tag.type in DATES else code


def canonical(entry: str, tag: Tag) -> str:
    """One spelling per value for what fits the type, else the trimmed text."""
    text = trimmed(entry)
    worth = value(text, tag)
    if worth is None or tag.type == "text":
        return text
    if isinstance(worth, Decimal):
        shown = f"{worth:f}"
        shown = shown.rstrip("0").rstrip(".") if "." in shown else shown
        return "0" if shown in ("-0", "") else shown
    shown = worth.isoformat()
    if isinstance(worth, time | datetime):
        shown = shown.rstrip("0").rstrip(".") if "." in shown else shown
        shown = shown.removesuffix(":00") if re.search(r"\d\d:\d\d:00$", shown) else shown
    return shown


def matches(text: str, worth: object, line: CodeSpan, tag: Tag) -> bool:
    """Whether a code line allows an entry."""
    if line.code is not None:
        code = code_value(line.code, tag)
        return worth == code if code is not None and worth is not None else text == trimmed(line.code)
    if worth is None or tag.type == "text":
        return False
    ends = [end for end in (line.low, line.high) if end is not None]
    return all(code_value(end, tag) is not None for end in ends) and within(worth, line.low, line.high, tag)


def within(worth, low: str | None, high: str | None, tag: Tag) -> bool:  # type: ignore[no-untyped-def]
    ends = [None if end is None else code_value(end, tag) for end in (low, high)]
    return (ends[0] is None or worth >= ends[0]) and (ends[1] is None or worth <= ends[1])


def missing_matches(text: str, line: CodeSpan, tag: Tag) -> bool:
    """Whether a missing line matches: codes by value under number types, ranges by number under every type."""
    found = number(text, tag)
    if line.code is not None:
        code = plain_number(trimmed(line.code))
        if tag.type in NUMBERS and code is not None and found is not None:
            return found == code
        return text == trimmed(line.code)
    if found is None:
        return False
    low, high = (None if end is None else plain_number(trimmed(end)) for end in (line.low, line.high))
    fitting = (line.low is None or low is not None) and (line.high is None or high is not None)
    return fitting and (low is None or found >= low) and (high is None or found <= high)


def read(entry: str, tag: Tag, codes: tuple[CodeLine, ...] | None = None) -> Read:
    """One entry under a tag, by the order that is law."""
    codes = tag.codes if codes is None else codes
    text = trimmed(entry)
    shown = canonical(entry, tag)
    if not text:
        return Read("blank", "", "")
    for line in tag.missing:
        if missing_matches(text, line, tag):
            return Read("missing", line.label or line.reason, shown)
    worth = value(text, tag)
    if worth is None:
        return Read("unreadable", "", shown)
    single = [line for line in codes if line.code is not None and matches(text, worth, line, tag)]
    ranged = [line for line in codes if line.code is None and matches(text, worth, line, tag)]
    allowing = (single + ranged)[:1]
    outside = tag.type != "text" and not within(worth, tag.limits.low, tag.limits.high, tag)
    if outside or (tag.complete and codes and not allowing):
        return Read("unlisted", "", shown)
    return Read("valid", allowing[0].label if allowing else "", shown)


def fill(entries: list[str], tag: Tag) -> Counter[str]:
    """How many entries are in each state."""
    return Counter(read(entry, tag).state for entry in entries)
