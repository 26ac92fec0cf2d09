"""Codes before their labels, with a sign or a word between: `1 = yes, 2 = no`, `'f': female`, `1 indicates that …`."""

import re
from collections.abc import Iterator
from dataclasses import dataclass

from rowtag.documents.codes import LONGEST_LABEL
from rowtag.documents.hands.found import AHEAD, LEAD, NUMBER, QUOTED, Found, as_codes, closing, lead_before, opened
from rowtag.documents.lines import words_in

_WORD = r"[A-Za-z][A-Za-z0-9_.+]{0,11}"
_VERB = (
    r"\s+(?:means|stands for|denotes?|indicates?(?: that)?|represents?|equals|corresponds to|is|if|for|when|where)\s+"
)
_STARRED = r"\*?"
_ANCHOR = re.compile(
    rf"(?:^|(?<=[\s,;:(\[/.|<>?`-]))(?<!\d,)[(\[]?(?:(?P<number>{NUMBER}(?:\s?-\s?\d+(?!\s*[-=]))?{_STARRED})|(?P<quoted>{QUOTED})|(?P<word>{_WORD}))[)\]]?"
    rf"(?P<sep>\s*-?={{1,2}}>?\s*|\s*:\s*(?!\d\d\b|//)|\s+-{{1,2}}\s+|\)\s+|\.\s+=?\s*|{_VERB}|\s*,\s+|-\s+|\s+)(?=\S)",
    re.I,
)
_TYPE_BEHIND = re.compile(r"[,;]\s*(?:numeric|integer|character|categorical|range|string|float|binary)\b", re.I)
_SENTENCE = re.compile(r"(?<![A-Z]|\.)(?<!\b[a-z])(?<!etc)(?<!e\.g)(?<!i\.e)\.\s+(?=[A-Z\"“])|\.\s*//|\s//\s|\n\s*\n")
_OTHER = re.compile(r"\b(?:missing(?: values?| codes?)?|range|valid|source|note)\s*:\s*", re.I)
"""Words that begin something else of a variable."""
_LIST_SIGN = re.compile(r"[,;./(\[|:]\s*(?:and\s+|or\s+|&\s*)?$|\b(?:and|or|vs\.?)\s+$|^\s*$|\n\s*$|\s{2,}$")


_NO_CODES = frozenset(
    words_in(
        """
        min max minimum maximum range mean note notes see source type width missing code codes value values label format
        units unit scale level levels question item valid coded categories example default
        """
    )
)
"""Words that say what follows them, and are no codes."""
_OF_MISSING = re.compile(r"\bmissing(?: values?| codes?)?\s*[:=]$", re.I)


@dataclass(frozen=True)
class _Anchor:
    """A place where a code may stand with a sign behind it."""

    start: int
    label: int
    code: str
    kind: str
    sign: str
    value: float | None


def see(text: str) -> Iterator[Found]:
    """All lists of this hand."""
    anchors = [_anchor(found) for found in _ANCHOR.finditer(text)]
    at = 0
    while at < len(anchors):
        group = _group(text, anchors, at)
        found = _listed(text, group) if group else None
        if found is None:
            at += 1
            continue
        yield found
        while at < len(anchors) and anchors[at].start < found.end:
            at += 1


def _anchor(found: re.Match[str]) -> _Anchor:
    kind = "number" if found["number"] else "quoted" if found["quoted"] else "word"
    code = found["number"] or found["quoted"] or found["word"]
    sep = found["sep"].strip()
    sign = "=" if "=" in sep else sep[:1] if sep[:1] in (":", "-", ")", ".", ",") else "word" if sep else " "
    label = found.end() - 4 if re.search(r"\sfor\s$", found["sep"]) else found.end()
    number = re.match(NUMBER, code)
    return _Anchor(found.start(kind), label, code, kind, sign, float(number[0]) if number else None)


def _group(text: str, anchors: list[_Anchor], at: int) -> list[_Anchor]:
    """The places that go on the list that begins at one of them."""
    first = anchors[at]
    if not _may_begin(text, first):
        return []
    if "-" in first.code[1:] and any(
        each.start == first.label and each.kind == "number" for each in anchors[at + 1 : at + 3]
    ):
        return []  # "1-3: 1 = white" says how far the codes go
    group, codes = [first], {first.code}
    for each in anchors[at + 1 :]:
        if each.start < group[-1].label or each.code in codes:
            continue
        if each.kind != first.kind and not (each.kind == "number" and first.kind == "quoted"):
            continue
        if each.start - group[-1].label > LONGEST_LABEL + 40:
            break
        if _goes_on(text, group, each):
            group.append(each)
            codes.add(each.code)
    return group


def _may_begin(text: str, first: _Anchor) -> bool:
    if first.kind == "word" and (first.sign not in ("=", ":") or first.code.casefold() in _NO_CODES):
        return False
    ahead = text[max(0, first.start - AHEAD) : first.start]
    if first.kind == "word" and not _LIST_SIGN.search(ahead) and not LEAD.search(ahead):
        return False
    if first.sign == "," and first.kind != "quoted":
        return False
    if first.sign == " " and not _begins(text, first):
        return False
    before = ahead.rstrip()
    if first.sign == "word":
        enclosed = text[first.start + len(first.code) : first.start + len(first.code) + 1] in (")", "]")
        opens = not before or before[-1] in "([.;:,?!"
        if enclosed or not (opens or LEAD.search(ahead)):
            return False  # "used (1) for dances" numbers something
    return not before.endswith(("=", "<", ">", "+", "*", "$", "€", "£", "#")) and not _OF_MISSING.search(before[-20:])


def _goes_on(text: str, group: list[_Anchor], each: _Anchor) -> bool:
    """Whether a place is the next item: a new code, set off from the label before, that counts on or is set alike."""
    first, last = group[0], group[-1]
    between = text[last.label : each.start]
    if _OTHER.search(between):
        return False
    if not between.strip(" (["):
        return False  # the label itself begins with a number
    if between.count("(") > between.count(")") and not between.rstrip().endswith("("):
        return False  # within a bracket of the label
    set_off = bool(_LIST_SIGN.search(between))
    counts = _counts_on(group, each)
    if first.kind != "number":
        return each.sign == first.sign and (set_off or (first.kind == "quoted" and first.sign == "="))
    if first.sign == " " and each.sign == " ":
        return counts and (set_off or each.value == (last.value or 0) + 1)
    if each.sign == first.sign:
        strong = first.sign in ("=", ":", "word")
        return (set_off and (strong or counts)) or (
            counts and strong and first.sign != "word" and not between.endswith("-")
        )
    if first.sign in ("=", ":", "word", "-") and each.sign in ("=", ":", "-", " ", ".", "word"):
        return set_off and counts
    return False


def _counts_on(group: list[_Anchor], each: _Anchor) -> bool:
    value, last = each.value, group[-1].value
    if value is None or last is None:
        return False
    if len(group) == 1:
        return value >= last - 1
    step = 1 if (group[-2].value or 0) <= last else -1
    return value == last + step or (step > 0 and value > last) or value < 0


def _listed(text: str, group: list[_Anchor]) -> Found | None:
    """The list that some places make."""
    first, last = group[0], group[-1]
    counting = [first.value + n if first.value is not None else None for n in range(len(group))]
    if first.sign == " " and (len(group) < 2 or [one.value for one in group] != counting):
        return None
    if (
        first.sign == "word"
        and len(group) == 1
        and first.label < len(text)
        and "=" in text[first.label : first.label + 40]
    ):
        return None  # an equation
    if (
        first.sign in (".", ")", ",", "-", "word")
        and len(group) < 2
        and not (first.sign == "word" and _alone(text, first))
    ):
        return None
    bracket = opened(text, first.start)
    inside = bracket is not None and bracket >= first.start - 60
    end = _end(text, last, inside)
    pairs = [
        (one.code, text[one.label : after.start if after else end].strip())
        for one, after in zip(group, [*group[1:], None], strict=True)
    ]
    pairs = [
        (code.rstrip("*"), _trimmed(label) + (" (missing)" if code.endswith("*") else "")) for code, label in pairs
    ]
    codes = as_codes(pairs)
    if not codes or (first.kind == "word" and all(re.fullmatch(NUMBER, label) for _, label in pairs)):
        return None
    if first.kind == "word" and any(re.fullmatch(NUMBER, label) for _, label in pairs):
        return None
    if first.sign != "=" and all(one.value is not None and 1800 <= one.value < 2100 for one in group):
        return None  # years, and what happened in them
    if len(group) == 1 and (not _alone(text, first) or "=" in pairs[0][1]):
        return None
    start = bracket if inside and bracket is not None and not text[bracket + 1 : first.start].strip() else first.start
    if inside and bracket is not None and LEAD.search(text[bracket + 1 : first.start]):
        start = bracket
    if inside and end < len(text) and text[end] in ")]" and start == bracket:
        end += 1
    return Found(lead_before(text, start), end, codes, sure=_sure(text, group, codes))


def _begins(text: str, first: _Anchor) -> bool:
    """Whether `1 male 2 female` may begin here: at the begin of a text or behind a colon, from nought or one."""
    before = text[max(0, first.start - AHEAD) : first.start].rstrip(" ")
    return first.value in (0, 1) and (not before.strip() or before[-1] in ":(\n;?.")


def _alone(text: str, first: _Anchor) -> bool:
    """Whether one code alone may be declared here: at the begin, in a bracket of its own, behind words that lead."""
    ahead = text[max(0, first.start - AHEAD) : first.start]
    before = ahead.rstrip()
    if first.kind != "number":
        return first.sign == "=" and (not before or (first.kind == "quoted" and before.endswith("(")))
    led = bool(LEAD.search(ahead))
    if first.sign == "word":
        return not before or before.endswith(("(", ";")) or led
    worded = bool(re.match(r"[^\W\d]", text[first.label :])) or not before
    return first.sign in ("=", ":") and worded and (not before or before[-1] in "([;,.:?-" or led)


def _end(text: str, last: _Anchor, inside: bool) -> int:
    """Where the last label ends."""
    end = closing(text, last.label)
    if not inside and end < len(text) and text[last.label : end].count("(") == 0:
        end = end if opened(text, last.label) is not None else len(text)
    body = text[last.label : end]
    for pattern in (_TYPE_BEHIND, _SENTENCE, _OTHER):
        if found := pattern.search(body):
            body = body[: found.start()]
    body = body.partition(";")[0]
    return last.label + len(body)


_LED_ON = re.compile(r"[,;\s](?:and|or|&|vs\.?)$")
_BEGUN = re.compile(r"^(?:that|if|for)\s+(?=\S)")


def _trimmed(label: str) -> str:
    """A label without the signs and words that led on to the next."""
    label, before = " ".join(label.split()), None
    while label != before:
        before = label
        label = _LED_ON.sub("", label.rstrip(" ,;/|")).rstrip(" ,;/|")
        label = label.removesuffix("(").removesuffix("[")
    return _BEGUN.sub("", label)


def _sure(text: str, group: list[_Anchor], codes: tuple[object, ...]) -> float:
    sure = 0.7 if len(group) > 1 else 0.6
    sure += 0.1 if group[0].sign in ("=", ":") else 0.0
    values = [one.value for one in group]
    if None not in values and len(values) > 1:
        ordered = sorted(value for value in values if value is not None)
        sure += 0.1 if ordered in (values, values[::-1]) or ordered[0] < 0 else 0.0
    return min(sure + 0.02 * len(codes), 0.97)
