"""Lines that begin a variable: the ways in which people name one and say what it means.

A single line may look like a head and be prose. So heads are believed by their style: lines of one document
that are set alike stand or fall together.
"""

import re
from bisect import bisect_left
from collections import Counter, defaultdict
from collections.abc import Collection, Iterator, Sequence
from dataclasses import dataclass

from rowtag.documents.codes import NUMBERED, code_line
from rowtag.documents.lines import Line, words_in
from rowtag.documents.meaning import read_meaning
from rowtag.documents.saying import LEVELS, TYPES

MOST_NAMES = 200
"""Variables that one line may name by a range."""

_NAME = r"[^\W\d][\w.]{0,63}"
_STEM = r"[^\W\d](?:[\w.]*[^\W\d])?_?"
_RANGE = rf"(?P<stem>{_STEM})(?P<first>\d+)\s*(?:-+|to|\.\.\.?|…|through)\s*(?P<stem2>{_STEM})?(?P<last>\d+)"
_LETTERS = r"(?P<base>[^\W\d][\w.]*\d_?)(?P<one>[A-Za-z])\s*(?:-+|to)\s*(?P<base2>[^\W\d][\w.]*\d_?)(?P<other>[A-Za-z])"
_IN_NUMBERS, _IN_LETTERS, _ONE_NAME = (re.compile(f"^(?:{each})") for each in (_RANGE, _LETTERS, _NAME))
_NAMES = re.compile(rf"(?:{_RANGE}|{_LETTERS}|{_NAME}(?:\s*(?:,|/|&|\band\b)\s*{_NAME})*)")
_SEP = r"(?P<sep>\s*:{1,2}\s+|\s*:$|\s+=$|\s+-{1,2}\s+|\s*=\s+|\s*\t\s*|\s{2,}|\s+-{1,2}$)"
_ASIDE = r"(?:\s*[(\[](?P<aside>[^()\[\]]{1,40})[)\]])?"
_HEAD = re.compile(rf"^(?P<names>{_NAMES.pattern}){_ASIDE}{_SEP}(?P<rest>.*)$")
_BARE = re.compile(rf"^(?P<names>{_NAMES.pattern}){_ASIDE}\s(?P<rest>\S.*)$")
_ALONE = re.compile(rf"^(?P<names>{_NAMES.pattern}){_ASIDE}\s*:?$")
_BEHIND = re.compile(
    rf"^(?:(?P<number>[A-Za-z]{{0,3}}\d+[a-z]?)[.:)]?\s+)?(?P<rest>\S.*?)\s*[(\[](?P<names>{_NAME})[)\]]\s*[.:]?$"
)
_AHEAD = re.compile(
    rf"^(?P<number>[A-Za-z]{{0,3}}\d+[a-z]?)[.:)]?\s*[(\[](?P<names>{_NAME})[)\]]\s*[.:]?\s+(?P<rest>\S.*)$"
)
_QUESTION = re.compile(r"^(?P<names>[A-Za-z]{1,3}\d{1,3}[a-z]?)[.:)]\s+(?P<rest>\S.*)$")
_SECOND = re.compile(r"(?P<name>[A-Z][A-Z0-9_]{1,31})\s{2,}(?P<rest>\S.*)$")
_RANGED = re.compile(rf"^(?P<names>{_RANGE})[.:)]?\s+(?P<rest>\S.*)$")
_PARTED = re.compile(r"[:=\t-]|\s\s")
"""What any sign between a name and its meaning has."""
_ROWED = re.compile(rf"^(?:\d+[.)]?\s+)(?P<inner>{_NAME}.*)$")
_COLUMNS = re.compile(r"^(?:\d+(?:\s*-\s*\d+)?\s{2,}|\[\s*,\s*\d+\]\s+)(?P<inner>\S.*)$")
_KEYED = re.compile(
    rf"^(?:variable(?: name)?|name|field|item|column)\s*(?::|=|\s)\s*(?P<names>{_NAME})"
    r"(?P<rest>(?:\s{2,}|\s*[,;]\s*|\t|\s*$).*)$",
    re.I,
)
_TYPED = re.compile(
    rf"[(\[](?:{'|'.join([*LEVELS, *TYPES, 'numeric', 'continuous', 'factor', 'optional'])})[)\]]$", re.I
)
_TYPE_WORDS = frozenset([*LEVELS, *TYPES, "numeric", "str", "bool", "boolean", "number", "factor", "category"])
_LABELLED = re.compile(r"\b(?:label|meaning|description|text|question)\s*[:=]\s*(?P<label>.+)$", re.I)

_DOCUMENT = frozenset(
    words_in(
        """
        title author authors date source sources note notes description format usage reference references
        record records field fields keyword keywords detail details example examples abstract version
        contact file files question questions answer section page variables variable codebook content
        contents name names value values label labels type width range missing data dataset summary
        instances attributes number mode remark remarks warning see where if the a an and or for scale items
        item part block identification instructions interviewer subject total response responses creator
        donor history past relevant class category categories level levels default min max mean median sd
        frequency percent best hello dear regards thanks copyright license licence url doi email phone
        position columns cols col meaning code codes what results costs ps footnote footnotes legend table
        figure appendix chapter sampling fieldwork weighting background
        """
    )
)
"""Words that begin lines about a document, not about a variable, unless much speaks for them."""


Style = tuple[str, int, bool, bool, str]
"""How a head is set: its kind, indent, whether it has a bullet or markup, the case of its name."""


@dataclass(frozen=True)
class Head:
    """A line that may begin one variable or several: their names, what stands behind, and how the line is set."""

    line: Line
    names: tuple[str, ...]
    rest: str
    kind: str
    asked: bool = False
    other: str = ""

    @property
    def style(self) -> Style:
        """What heads of one hand have in common."""
        return self.kind, self.line.indent, bool(self.line.bullet), self.line.marked, self.case

    @property
    def case(self) -> str:
        """How its first name is written: "upper", "title" or "lower"."""
        name = self.names[0]
        return "upper" if name.isupper() and len(name) > 1 else "title" if name[0].isupper() else "lower"

    @property
    def like_a_name(self) -> bool:
        """Whether no word of prose looks like this."""
        name = self.names[0]
        inner = any(sign.isdigit() or sign in "_." for sign in name)
        called = self.kind == "sep:"  # "NOTE: …" is no variable because it is in capitals
        return inner or self.line.marked or len(self.names) > 1 or (name.isupper() and len(name) > 1 and not called)


Standing = dict[int, tuple[Head, float, str]]
"""Heads under the numbers of their lines, each with how sure it is and why."""


def names_in(text: str) -> tuple[str, ...]:
    """The names that `q1`, `q1, q2`, `q1-q6`, `B1 to B6` or `q1a-q1c` stand for."""
    if found := _IN_LETTERS.fullmatch(text.strip()):
        first, last = ord(found["one"]), ord(found["other"])
        if found["base"] != found["base2"] or not first < last:
            return ()
        return tuple(f"{found['base']}{chr(letter)}" for letter in range(first, last + 1))
    if found := _IN_NUMBERS.fullmatch(text.strip()):
        first, last = int(found["first"]), int(found["last"])
        if found["stem2"] not in (None, found["stem"]) or not first < last < first + MOST_NAMES:
            return ()
        width = len(found["first"]) if found["first"].startswith("0") else 0
        return tuple(f"{found['stem']}{number:0{width}d}" for number in range(first, last + 1))
    return tuple(name.rstrip(".") for name in re.split(r"\s*(?:,|/|&|\band\b)\s*", text.strip()) if name)


def candidates(lines: Sequence[Line], known: Collection[str] = ()) -> list[Head]:
    """All lines that may begin a variable, believed or not."""
    found = []
    for number, line in enumerate(lines):
        if line.empty or line.cells or line.heading:
            continue
        head = _head(line, lines[number + 1 : number + 4], known)
        if head and head.names:
            found.append(head)
    return found


def _head(line: Line, following: Sequence[Line], known: Collection[str]) -> Head | None:
    """What a line may begin, by the first way of naming variables that it is written in."""
    below = next((after for after in following if not after.blank), None)
    nested = below is not None and below.indent > line.indent
    first = line.plain[0]
    if first.isdigit() or first == "[":
        return _ahead(line) or _behind(line) or _counted(line)
    if not first.isalpha():
        return None
    head = _keyed(line) or _ahead(line) or _behind(line)
    said = not line.plain.endswith("=") and all(word in _DOCUMENT for word in words_in(line.plain))
    if head is not None or said:
        return head
    return _separated(line, nested) or _numbered(line) or _alone(line, nested, known) or _bare(line, known)


def _keyed(line: Line) -> Head | None:
    """`Variable: tenure   Label: How held`."""
    found = _KEYED.match(line.plain)
    if not found:
        return None
    label = _LABELLED.search(line.plain, found.start("rest"))
    rest = line.text[label.start("label") :] if label else line.text[found.start("rest") :]
    return Head(line, (found["names"],), rest.strip(), "keyed")


def _ahead(line: Line) -> Head | None:
    """`A2 (tenure) How do you hold it?`."""
    found = _AHEAD.match(line.plain)
    if not found:
        return None
    return Head(line, (found["names"],), line.text[found.start("rest") :], "ahead", asked=True, other=found["number"])


def _behind(line: Line) -> Head | None:
    """`Q12. How do you hold it? (tenure)`."""
    plain = line.plain
    if not plain.rstrip(" .:").endswith((")", "]")) or _TYPED.search(plain):
        return None
    found = _BEHIND.match(plain)
    if not (found and (found["number"] or found["rest"].endswith(("?", ".", ":"))) and _unlike_prose(found["names"])):
        return None
    text = line.text[found.start("rest") : found.end("rest")]
    return Head(line, (found["names"],), text, "behind", asked=True, other=found["number"] or "")


def _counted(line: Line) -> Head | None:
    """`3. tenure - how held`, `5-6  tenure  how held`: a number or columns first."""
    for pattern, kind in ((_COLUMNS, "columns"), (_ROWED, "rowed")):
        if not (found := pattern.match(line.plain)):
            continue
        inner = _HEAD.match(found["inner"]) if _PARTED.search(found["inner"]) else None
        if inner and (kind == "rowed" or not inner["sep"].strip()):
            rest = line.text[found.start("inner") + inner.start("rest") :]
            return Head(line, names_in(inner["names"]), rest, kind)
        if kind == "rowed" and (alone := _ALONE.match(found["inner"])):
            return Head(line, names_in(alone["names"]), "", kind)
    return None


def _separated(line: Line, nested: bool) -> Head | None:
    """`tenure - how held`, with any sign or columns between; `tenure : integer` with its meaning beneath."""
    found = _HEAD.match(line.plain)
    names = names_in(found["names"]) if found else ()
    if not (found and names):
        return None
    if nested and found["rest"].casefold().split(",")[0].strip() in _TYPE_WORDS:
        return Head(line, names, "", "alone")
    sign = found["sep"].strip()[:1] or ("\t" if "\t" in found["sep"] else " ")
    if (
        sign == "="
        and NUMBERED.match(found["rest"])
        and not read_meaning(found["rest"]).codes
        and not read_meaning(found["rest"]).limits
    ):
        return None
    other = found["aside"] or ""
    rest = line.text[found.start("rest") :]
    if sign == " " and (second := _SECOND.match(rest)):  # a number, then the name, then the meaning
        return Head(line, names, second["rest"], "sep ", other=second["name"])
    return Head(line, names, rest, f"sep{sign}", other=other if _ONE_NAME.fullmatch(other) else "")


def _numbered(line: Line) -> Head | None:
    """`B1-B6 How good is it?`, `Q12. How do you hold it?`."""
    if (found := _RANGED.match(line.plain)) and (names := names_in(found["names"])):
        return Head(line, names, line.text[found.start("rest") :], "ranged")
    if found := _QUESTION.match(line.plain):
        return Head(line, (found["names"],), line.text[found.start("rest") :], "question", asked=True)
    return None


def _alone(line: Line, nested: bool, known: Collection[str]) -> Head | None:
    """A name on a line of its own with its meaning beneath."""
    found = _ALONE.match(line.plain)
    names = names_in(found["names"]) if found else ()
    if not (found and names):
        return None
    if nested or names[0] in known:
        return Head(line, names, "", "alone", other=found["aside"] or "")
    ranged = len(names) > 1 and names[0][-1].isdigit() and _IN_NUMBERS.fullmatch(found["names"].strip())
    return Head(line, names, "", "alone") if ranged else None


def _bare(line: Line, known: Collection[str]) -> Head | None:
    """`RATE burglaries by town`: a name that no word of prose looks like, and a blank."""
    found = _BARE.match(line.plain)
    names = names_in(found["names"]) if found else ()
    if not (found and names):
        return None
    telling = line.marked or (names[0].isupper() and len(names[0]) > 1) or names[0] in known or len(names) > 2
    return Head(line, names, line.text[found.start("rest") :], "bare") if telling else None


def _unlike_prose(name: str) -> bool:
    """Whether a word in brackets may be a name: not "see", "years", "optional" alone in a sentence."""
    return name.casefold() not in _DOCUMENT and (
        name.islower() or any(c.isdigit() or c == "_" for c in name) or name.isupper()
    )


def believed(heads: Sequence[Head], lines: Sequence[Line], known: Collection[str] = ()) -> Standing:
    """The heads that stand, under the numbers of their lines, with how sure that is and why."""
    groups: dict[Style, list[Head]] = defaultdict(list)
    for head in heads:
        groups[head.style].append(head)
    merged = _one_hand(groups)
    keys = {name.casefold() for name in known}
    worth = {style: _worth(group, lines, keys) for style, group in merged.items()}
    out: Standing = {}
    main = max(worth.values(), key=lambda each: each[0], default=(0.0, ""))[0]
    for style, group in merged.items():
        score, reason = worth[style]
        if score < 0.5 or _nested(group, merged, worth):
            continue
        for head in group:
            named = head.names[0].casefold()
            sure = head.line.marked or _coded_below(head, lines) or (score >= 0.8 and head.kind != "sep:")
            if named in _DOCUMENT and named not in keys and not sure:
                continue
            if score < main * 0.6 and not (head.like_a_name or named in keys or _coded_below(head, lines)):
                continue
            there = out.get(head.line.number)
            if there is None or there[1] < score:
                out[head.line.number] = (head, min(score, 1.0), reason)
    out.update(_between(heads, out, lines))
    return out


def _between(heads: Sequence[Head], stand: Standing, lines: Sequence[Line]) -> Standing:
    """Heads that stand right beside sure ones, set as far in as they, with another sign only."""
    out = {}
    for head in heads:
        number = head.line.number
        beside = [stand[at][0] for at in (number - 1, number + 1) if at in stand]
        alike = any(other.style[1:] == head.style[1:] for other in beside)
        if number not in stand and alike and head.names[0].casefold() not in _DOCUMENT:
            out[number] = (head, 0.6, "set like the lines beside it")
    return out


def _one_hand(
    groups: dict[Style, list[Head]],
) -> dict[Style, list[Head]]:
    """Styles that differ in the case of names only are one where their names mingle."""
    merged: dict[Style, list[Head]] = {}
    for style, group in groups.items():
        loose = next((other for other in merged if other[:4] == style[:4] and style[0] not in ("sep:", "bare")), None)
        merged.setdefault(loose or style, []).extend(group)
    return merged


_SENTENCES = re.compile(r"^[A-Z].*[a-z)]\. +[A-Z].*[.:]$|^(?:\S+ ){9,}\S+\.$")
"""Prose: two sentences, or a long one with its stop."""


def _worth(group: Sequence[Head], lines: Sequence[Line], known: Collection[str]) -> tuple[float, str]:
    """How surely heads of one style are heads, and why."""
    names = [head.names[0].casefold() for head in group]
    distinct = len(set(names)) / len(names)
    coded = sum(_coded_below(head, lines) for head in group) / len(group)
    like = sum(head.like_a_name for head in group) / len(group)
    there = sum(name in known for name in names) / len(names)
    talk = sum(name in _DOCUMENT for name in names) / len(names)
    short = sum(len(name) == 1 for name in names) / len(names)
    many = 1 - 0.5 ** (len(group) - 1)
    sure = {
        "keyed": 0.6,
        "ahead": 0.5,
        "behind": 0.35,
        "question": 0.2,
        "columns": 0.4,
        "ranged": 0.5,
        "rowed": 0.25,
    }.get(group[0].kind, 0.1)
    if group[0].line.marked:
        sure += 0.2
    places = {head.line.number for head in group}
    beside = sum(bool({at - 1, at + 1} & places) for at in places) / len(places)
    columns = Counter(len(head.line.text) - len(head.rest) for head in group if head.rest)
    aligned = (
        len(group) >= 3
        and len({len(name) for name in names}) > 1
        and max(columns.values(), default=0) >= 0.8 * len(group)
    )
    sure += 0.2 * aligned
    score = sure + 0.15 * beside + 0.35 * many + 0.4 * coded + 0.35 * like + 0.6 * there - 0.7 * talk - 0.5 * short
    if group[0].kind == "rowed" and not any(head.rest for head in group):
        score -= 1
    if sum(not re.search(r"[^\W\d]", head.rest) for head in group if head.rest) > 0.5 * len(group):
        score -= 1  # rows of figures
    told = sum(bool(_SENTENCES.search(head.rest)) for head in group) / len(group)
    score -= 0.4 * told * (1 - like)
    if distinct < 0.75 and len(group) > 3:
        score -= 1
    why = [f"{len(group)} lines are set alike"] if len(group) > 1 else ["a single line of its kind"]
    why += ["codes follow"] if coded > 0.3 else []
    why += ["the study has such names"] if there > 0.3 else []
    return score, ", ".join(why)


def _coded_below(head: Head, lines: Sequence[Line]) -> bool:
    """Whether codes stand in the line of a head, or right beneath it."""
    if read_meaning(head.rest).codes:
        return True
    for line in lines[head.line.number : head.line.number + 3]:
        if line.blank:
            return False
        if line.empty or not (found := code_line(line.text)):
            continue
        if NUMBERED.match(found[0].code or found[0].low or found[0].high or ""):
            return line.indent >= head.line.indent
        if (
            line.indent > head.line.indent
            and found[1] in ("=", ":", "-", "  ", "\t")
            and len(found[0].label.split()) < 6
        ):
            return True
    return False


def _nested(
    group: Sequence[Head],
    groups: dict[Style, list[Head]],
    worth: dict[Style, tuple[float, str]],
) -> bool:
    """Whether these are lines within other variables: more indented than surer heads, and in runs below them."""
    style = group[0].style
    within = 0
    outer = sorted(
        (
            head.line.number
            for other, heads in groups.items()
            if worth[other][0] >= 0.5 and other[1] < style[1]
            for head in heads
        )
    )
    if not outer:
        return False
    for head in group:
        above = bisect_left(outer, head.line.number)
        within += above > 0 and head.line.number - outer[above - 1] <= 12
    short = sum(len(head.names[0]) <= 3 for head in group) / len(group)
    names = Counter(head.names[0].casefold() for head in group)
    repeated = max(names.values()) > 1
    return within == len(group) and (short > 0.5 or repeated or len(group) < len(outer) / 2)


def heads_of(lines: Sequence[Line], known: Collection[str] = ()) -> Iterator[tuple[Head, float, str]]:
    """The heads of a document in order, with how sure each is and why."""
    found = believed(candidates(lines, known), lines, known)
    for number in sorted(found):
        yield found[number]
