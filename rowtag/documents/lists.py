"""Codes in running text: lists as people write them, well formed or not, and what stands around them.

Nothing is made up: where a list does not hold together, none is found.
"""

import re
from collections.abc import Sequence
from functools import lru_cache
from itertools import pairwise

from rowtag.documents.codes import NUMBER, WORD_CODE, Code, coded, tidied, unlikely
from rowtag.documents.hands.found import Said
from rowtag.documents.lines import flattened, shortened, words_in
from rowtag.documents.reasons import missing_reason

_TO = r"(?:to|-+|…|\.\.\.|through|until|,?\s*\.\.\.?,?)"
_SEVERAL = rf"(?:{NUMBER}(?:\s*+[,;]\s*+(?:(?:and|or|&)\s++)?|\s++(?:and|or|&)\s++)){{0,40}}{NUMBER}"
_SHORT = r"[A-Za-z][^(),;:=]{1,50}?"

_START = re.compile(
    rf"(?:^|(?<=[\s,;:(\[/.|]))[(\[]?(?P<code>{NUMBER}(?:\s*-\s*\d+)?|{WORD_CODE})[)\]]?"
    r"(?P<sep>\s*\.?\s*=>?\s*|\s+(?:means|stands for)\s+|\s*:(?!\d|//)\s*|\s+-{1,2}\s+|\)\s+|\.\s+=?\s*)(?=\S)"
)
_ENDS = re.compile(
    r"(?:\bfrom\s+|\b(?:on a )?scale (?:of|from)\s+|[(\[,;:]?\s*)"
    rf"(?P<a>{NUMBER})\s*(?:\((?P<x>[^()]{{1,80}})\)|=\s*(?P<x2>[^,;()=]{{1,80}}?))\s*{_TO}\s*"
    rf"(?P<b>{NUMBER})\s*(?:\((?P<y>[^()]{{1,80}})\)|=\s*(?P<y2>[^,;()=]{{1,80}}))",
    re.I,
)
_WORD_ENDS = re.compile(
    rf"(?:\bfrom\s+|^|(?<=[,;:(] )|(?<=[,;:(]))(?P<x>{_SHORT})\s*\((?P<a>{NUMBER})\)\s*(?:to|-+|…|\.\.\.)\s*"
    rf"(?P<y>{_SHORT})\s*\((?P<b>{NUMBER})\)",
    re.I,
)
_ZIP = re.compile(
    r"(?:^|(?<=[\s(:;,]))(?P<codes>[^\s/=()]{1,12}(?:/[^\s/=()]{1,12})+)\s*=\s*"
    r"(?P<labels>[^/=(),;]{1,40}(?:/[^/=(),;.]{1,40})+)"
)
_SPAN_WORDS = re.compile(r"(?:^|(?<=[\s(,;:]))(?P<a>\d{1,2})\s*(?:-|to)\s*(?P<b>\d{1,2})\s*[:=]\s*(?P<words>[^;:=()]+)")
_BACK_ITEM = re.compile(
    rf"(?P<label>[^\W\d](?:(?!\s\s)[^(),;:=?]){{0,80}}?)\s*"
    rf"(?:\((?P<p>{NUMBER})\)|\s=\s*(?P<c>{NUMBER})(?=\s*(?:[,;.)]|$)))"
)
_LEVELS = re.compile(
    r"(?:,?\s*+(?:a |an )?(?:ordered )?(?:factor|variable)?\s*+with )?(?:levels|categories)\s*+:?\s*+(?<=\s)"
    r"(?P<words>[^;()]+)",
    re.I,
)
_IN_QUOTES = r"(?:\"[^\"]{1,60}\"|'[^']{1,60}')"
_FACTOR = r"(?:,?\s*+(?:a |an )?(?:ordered )?(?:factor|variable)?\s*+(?:with )?(?:levels|categories)\s*+:?\s*+(?<=\s))?"
_BETWEEN = r"(?:\s*+(?:,|;|/|\bor\b|\band\b)++\s*+|\s++)"
_QUOTED = re.compile(rf"{_FACTOR}[(:\[]?\s*+(?P<words>{_IN_QUOTES}(?:{_BETWEEN}{_IN_QUOTES})+)\s*[)\]]?")
_LIMITS = re.compile(
    r"[(\[,;:]?\s*(?:(?:valid |possible )?(?:range|values?)(?: is| are)?\s*[:=]?\s*(?:from\s+)?|from\s+|between\s+"
    r"|\bmin(?:imum)?\s*[:=]?\s*)"
    rf"(?P<a>{NUMBER})\s*(?:-+|to|and|\.\.|…|through|,?\s*max(?:imum)?\s*[:=]?)\s*(?P<b>{NUMBER})(?![\d/]|\s*=)\s*[)\]]?",
    re.I,
)
_BARE_LIMITS = re.compile(
    rf"(?:[(\[]\s*|,\s+|^)(?:[a-z]+,\s+)?(?P<a>{NUMBER})\s*(?:to|-+|\.\.|…)\s*(?P<b>{NUMBER})\s*(?:[)\]]|$|(?=;))"
)
_MISSING = re.compile(
    rf"(?P<codes>{_SEVERAL})\s*(?:=|:|are|is|were|was|means?|denotes?|stands? for|indicates?)\s*"
    r"(?:(?:treated|coded|counted|used|set) (?:as|for|to) )?(?P<said>missing(?: values?| data)?|na|not [a-z]+)\b",
    re.I,
)
_MISSING_KEY = re.compile(
    rf"\bmissing(?: values?| codes?| data)?\s*(?:[:=]|is|are|coded(?: as)?)\s*(?P<codes>{_SEVERAL})(?![\d.]*\s*=)", re.I
)

_CODED = r"(?:coded(?: as)?|codes?|coding|values?)"
_PAIR = re.compile(rf"(?P<code>{NUMBER}|[A-Z][A-Za-z]{{0,2}}|{_IN_QUOTES})\s*\((?P<label>[^()=]{{1,60}})\)")
_IF = re.compile(rf"(?:^|[;,(.]\s*)(?P<code>{NUMBER})\s+(?:if|when|where)\s+(?P<label>[^;,.()]{{1,80}})\)?\s*$")
_LEAD = re.compile(r"[.;,:]?\s*\b(?:one of|coded(?: as)?|codes?|coding|values?(?: are)?)\s*:?$", re.I)

_HOLDS = re.compile(r"\d|=|:\s|\b[A-Z]\s\w+\s*[,;]|[\"'“”‘’]|\b(?:levels|categories)\b", re.I)
"""What a text must hold to declare anything."""


MOST_TEXT = 12_000
"""Characters of a text in which codes are looked for."""


def read_text(text: str) -> Said:
    """The codes and limits that a text declares, and what is left of it."""
    said = _read_text(text)
    return Said(said.rest, list(said.codes), said.limits, said.ends_only)


@lru_cache(maxsize=65_536)
def _read_text(text: str) -> Said:
    said = Said(shortened(text))
    if len(text) > MOST_TEXT:
        return said
    if _HOLDS.search(text):
        for look in (
            _zipped,
            _spanned,
            _ends_of,
            _word_ends_of,
            _paired,
            _backwards,
            _listed,
            _bare_listed,
            _categories,
            _if,
        ):
            if look(said):
                break
        _missing(said)
        _bounded(said)
    said.rest = _cleaned(said.rest, said_codes=bool(said.codes))
    return said


def _take(said: Said, start: int, end: int, codes: Sequence[Code], *, bare: bool = False) -> bool:
    """Takes codes found between two places of a text, where they hold together; `bare` ones have no labels."""
    keys = [code.key for code in codes]
    if len(set(keys)) != len(keys) or any(not code.label and code.reason is None and not bare for code in codes):
        return False
    said.codes += codes
    said.rest = f"{said.rest[:start]} {said.rest[end:]}"
    return True


def _zipped(said: Said) -> bool:
    """`0/1 = no/yes`."""
    found = _ZIP.search(flattened(said.rest))
    if not found:
        return False
    codes, labels = found["codes"].split("/"), said.rest[found.start("labels") : found.end("labels")].split("/")
    pairs = [coded(code, label) for code, label in zip(codes, labels, strict=False)]
    if len(codes) != len(labels) or None in pairs:
        return False
    return _take(said, found.start(), found.end(), [pair for pair in pairs if pair])


def _spanned(said: Said) -> bool:
    """`1-5: poor, fair, good, very good, excellent`."""
    found = _SPAN_WORDS.search(flattened(said.rest))
    if not found:
        return False
    first, last = int(found["a"]), int(found["b"])
    words = [word for word in re.split(r",|;", said.rest[found.start("words") : found.end("words")]) if word.strip()]
    if last - first + 1 != len(words) or len(words) < 2:
        return False
    return _take(said, found.start(), found.end(), [Code(tidied(w), code=str(first + n)) for n, w in enumerate(words)])


def _ends_of(said: Said) -> bool:
    """`1 (never) to 5 (always)`, `1 = never … 5 = always`."""
    found = _ENDS.search(flattened(said.rest))
    if not found:
        return False
    places = [("a", "x" if found["x"] else "x2"), ("b", "y" if found["y"] else "y2")]
    codes = [coded(found[code], said.rest[found.start(label) : found.end(label)]) for code, label in places]
    if None in codes or float(found["b"]) - float(found["a"]) < 2:
        return False
    said.ends_only = _take(said, found.start(), found.end(), [code for code in codes if code])
    return said.ends_only


def _word_ends_of(said: Said) -> bool:
    """`very poor (1) to very good (5)`."""
    found = _WORD_ENDS.search(flattened(said.rest))
    if not found:
        return False
    codes = [coded(found[code], said.rest[found.start(w) : found.end(w)]) for code, w in (("a", "x"), ("b", "y"))]
    if None in codes:
        return False
    said.ends_only = _take(said, found.start(), found.end(), [code for code in codes if code])
    return said.ends_only


def _listed(said: Said) -> bool:
    """`1 = Yes, 2 = No`, whatever stands between; in brackets or behind the meaning."""
    plain = flattened(said.rest)
    starts = [found for found in _START.finditer(plain) if _could_be(found, plain)]
    numeric = [found for found in starts if re.match(r"[-+]?\d", found["code"])]
    if len(numeric) >= 2 or (len(numeric) == 1 and re.search(r"=|\w", numeric[0]["sep"])):
        starts = numeric
    else:
        while starts and not _worded(starts[0]):
            starts.pop(0)
        if len(starts) < 2 or not all(_worded(found) for found in starts):
            return False
    ahead = plain[: starts[0].start() + (plain[starts[0].start()] in "([")].rstrip()
    if len(starts) == 1 and not (
        ahead.endswith(("(", "[")) or (_ENDED.search(ahead) and plain[starts[0].end()].isalpha())
    ):
        return False  # an equation within a sentence
    if (
        ":" in starts[0]["sep"]
        and re.search(r"\w $|\w$", ahead + " ")
        and not plain[: starts[0].start()].endswith("  ")
    ):
        return False  # "Stage 1: …" numbers something
    before = ahead.rstrip(" (")
    if starts[0]["sep"].strip() == ")" and before and before[-1] not in ":?.;":
        return False  # an enumeration within a sentence
    codes, ends = [], []
    for found, after in zip(starts, [*starts[1:], None], strict=True):
        end = after.start() if after else _end_of_list(plain, found)
        label = said.rest[found.end() : end]
        if after is None or len(starts) == 1:
            label = said.rest[found.end() : end]
        codes.append(coded(found["code"], label))
        ends.append(end)
    if None in codes or any(unlikely(code) for code in codes if code):
        return False
    return _take(
        said, _begin_of_list(plain, starts[0].start()), _closed(plain, ends[-1]), [code for code in codes if code]
    )


def _could_be(found: re.Match[str], plain: str) -> bool:
    """Whether a list may begin here: not within a word, a decimal, a time, a ratio."""
    before = plain[: found.start()].rstrip()
    if before.endswith(("=", "<", ">", "+", "*", "/")) and not before.endswith("/"):
        return False
    return not (found["sep"].strip() in ("-", "--", ")", ".") and re.match(r"\d", plain[found.end() :]))


_ENDED = re.compile(r"(?:^|[,;:.?])$")


def _worded(found: re.Match[str]) -> bool:
    """Whether a word may be a code here: behind it an equals sign, or a colon where it is short or in quotes."""
    code = found["code"]
    short = len(code) <= 3 or code[0] in "'\"" or code.isupper()
    sign = found["sep"].strip()
    fits = "=" in sign or (":" in sign and short) or ("-" in sign and code[0] in "'\"")
    return fits and code.casefold() not in _NO_CODES


_NO_CODES = frozenset(words_in("min max minimum maximum range mean note notes see source type width missing"))


def _end_of_list(plain: str, last: re.Match[str]) -> int:
    """Where the last label ends: at the bracket that the list stands in, else at the end of its sentence."""
    depth = 0
    for at in range(last.end(), len(plain)):
        if plain[at] == "(":
            depth += 1
        elif plain[at] == ")":
            if depth == 0:
                return at
            depth -= 1
        elif depth == 0 and (plain[at] == ";" or (plain[at] == "." and re.match(r"\.\s+[A-Z]", plain[at:]))):
            return at
    return len(plain)


def _begin_of_list(plain: str, start: int) -> int:
    while start > 0 and plain[start - 1] in "([= ":
        start -= 1
    return start


def _closed(plain: str, end: int) -> int:
    while end < len(plain) and plain[end] in ")]. ":
        end += 1
    return end


_NOTHING_BETWEEN = re.compile(r"[01]\s+[^\W\d][^\d,;:=()]{0,40}(?:\s\d{1,2}\s+[^\W\d][^\d,;:=()]{0,40})+")
"""`1 male 2 female`."""


def _bare_listed(said: Said) -> bool:
    """`gloves worn: 0 never, 1 sometimes, 2 always`."""
    plain = flattened(said.rest)
    if _NOTHING_BETWEEN.fullmatch(plain.strip()):
        pairs = re.findall(r"(\d+)\s+([^\d]+)", plain)
        if [int(number) for number, _ in pairs] == list(range(int(pairs[0][0]), int(pairs[0][0]) + len(pairs))):
            return _take(said, 0, len(plain), [Code(tidied(label), code=number) for number, label in pairs])
    found = re.search(rf"(?:^|[:;(=]\s*|[.?]\s+|\b{_CODED}\s+)(?=(?:{NUMBER}|[A-Z])\s+[A-Za-z])", plain)
    while found:
        end = plain.find(")", found.end()) if found[0].startswith("(") else len(plain)
        body = said.rest[found.end() : end if end >= 0 else len(plain)]
        pieces = [piece.strip() for piece in re.split(rf"[,;]|\s{{2,}}(?={NUMBER}\s)", body)]
        limits = re.fullmatch(rf"({NUMBER})\s*(?:to|-)\s*({NUMBER})", flattened(pieces[0]))
        pieces = pieces[1:] if limits else pieces
        matches = [re.match(rf"({NUMBER}|[A-Z])\s+(?=[^\W\d])(.+)$", flattened(piece)) for piece in pieces]
        if len(pieces) >= (1 if limits else 2) and all(matches):
            codes = [coded(m[1], piece[m.start(2) :]) for m, piece in zip(matches, pieces, strict=True) if m]
            if None not in codes:
                said.limits = (limits[1], limits[2]) if limits else None
                start = _begin_of_list(plain, found.start())
                return _take(said, start, found.end() + len(body), [code for code in codes if code])
        found = re.compile(rf"(?:[:;(=]\s*|[.?]\s+|\b{_CODED}\s+)(?=(?:{NUMBER}|[A-Z])\s+[A-Za-z])").search(
            plain, found.end() + 1
        )
    return False


def _paired(said: Said) -> bool:
    """`A (surgery), B (medicine)`: codes with their labels in brackets behind them."""
    plain = flattened(said.rest)
    found = list(_PAIR.finditer(plain))
    if len(found) < 2 or not re.search(r"(?:^|[:;,(]\s*|\bof\s+)$", plain[: found[0].start()]):
        return False
    between = [plain[before.end() : after.start()] for before, after in pairwise(found)]
    if not all(re.fullmatch(r"\s*(?:[,;/]|\bor\b|\band\b|\s)+\s*", text) for text in between):
        return False
    codes = [coded(item["code"], said.rest[item.start("label") : item.end("label")]) for item in found]
    if None in codes:
        return False
    return _take(said, found[0].start(), _closed(plain, found[-1].end()), [code for code in codes if code])


def _if(said: Said) -> bool:
    """`…; -1 if the station was closed`."""
    found = _IF.search(flattened(said.rest))
    if not found:
        return False
    code = coded(found["code"], said.rest[found.start("label") : found.end("label")])
    return code is not None and _take(said, found.start(), found.end(), [code])


def _backwards(said: Said) -> bool:
    """`Yes (1), No (2)`, `Yes = 1, No = 2`: labels first, up to the end of the text."""
    plain = flattened(said.rest)
    if not re.search(rf"(?:\({NUMBER}\)|=\s*{NUMBER})\W*$", plain):
        return False
    found = list(_BACK_ITEM.finditer(plain))
    if len(found) < 2 or re.search(r"\w", plain[found[-1].end() :]):
        return False
    between = (plain[before.end() : after.start()] for before, after in pairwise(found))
    if any(re.search(r"\w", re.sub(r"\b(?:and|or|to)\b", "", text)) for text in between):
        return False
    codes = [
        coded(item["p"] or item["c"], said.rest[item.start("label") : item.end("label")].strip(" ,;")) for item in found
    ]
    if None in codes:
        return False
    return _take(said, found[0].start(), found[-1].end(), [code for code in codes if code])


def _categories(said: Said) -> bool:
    """`"no", "yes"` or `with levels bad, fair, good`: categories that stand for themselves."""
    plain = flattened(said.rest)
    if found := _QUOTED.search(plain):
        words = re.findall(r"\"([^\"]+)\"|'([^']+)'", found["words"])
        codes = [Code("", code=(one or other).strip()) for one, other in words]
        return _take(said, found.start(), found.end(), codes, bare=True)
    if found := _LEVELS.search(plain):
        words = [word.strip(" .") for word in re.split(r",|/|\band\b|\bor\b", found["words"]) if word.strip(" .")]
        if len(words) >= 2 and all(len(word.split()) <= 4 for word in words):
            return _take(said, found.start(), found.end(), [Code("", code=word) for word in words], bare=True)
    return False


def _missing(said: Said) -> None:
    """`99 = missing`, `8 and 9 are missing`, `missing: 9999`."""
    for pattern in (_MISSING, _MISSING_KEY):
        found = pattern.search(flattened(said.rest))
        if found:
            word = found.groupdict().get("said")
            reason = missing_reason(word)[0] if word else None
            if word and reason is None:
                continue
            label = word if word and not word.lower().startswith(("missing", "na")) else ""
            known = {code.code: code for code in said.codes}
            for code in re.findall(NUMBER, found["codes"]):
                there = known.get(code)
                new = Code(there.label if there else label or "", code=code, reason=reason or "other")
                said.codes = [*(each for each in said.codes if each.code != code), new]
            said.rest = said.rest[: found.start()] + said.rest[found.end() :]


def _bounded(said: Said) -> None:
    """`range: 0-80`, `(min: 1, max: 12)`, `(0 to 100)`, `from 1 to 14`."""
    if said.limits:
        return
    for pattern in (_LIMITS, _BARE_LIMITS):
        found = pattern.search(flattened(said.rest))
        if found and float(found["a"]) < float(found["b"]):
            listed = [code for code in said.codes if code.reason is None]
            said.limits = None if listed else (found["a"], found["b"])
            said.rest = said.rest[: found.start()] + said.rest[found.end() :]
            return


def _cleaned(rest: str, *, said_codes: bool) -> str:
    """What is left of a text once its codes are taken out, without empty brackets and loose signs."""
    rest = re.sub(r"[(\[][\s;,]*[)\]]", "", rest)
    rest = re.sub(r"([(\[])\s*[;,]\s*", r"\1", rest)
    rest = " ".join(rest.split())
    rest = re.sub(r"\s+([,;.?!])", r"\1", rest)
    rest = re.sub(r"(?<!\.)\.\s*\.(?!\.)", ".", rest)
    rest = re.sub(r"[\s,;:=\-–—(\[|]+$", "", rest)
    rest = _LEAD.sub("", rest) if said_codes else rest
    if rest.count("(") > rest.count(")"):
        rest = re.sub(r"\s*\((?=[^(]*$)", ", ", rest)
    if rest.count(")") > rest.count("(") and rest.endswith(")"):
        rest = rest[:-1].rstrip(" ,;:")
    return rest.strip()
