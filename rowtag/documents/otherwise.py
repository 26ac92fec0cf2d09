"""A document read again with what somebody said of its lines: these are codes, they belong to others, and the like."""

import re
from collections.abc import Collection, Iterable, Sequence
from dataclasses import replace

from rowtag.core.codebook import Described, Understood
from rowtag.core.codelist import merged
from rowtag.core.study import Otherwise
from rowtag.core.tag import Parts
from rowtag.documents.blocks import bare
from rowtag.documents.codes import Code
from rowtag.documents.document import understand
from rowtag.documents.hands.found import Said
from rowtag.documents.layouts.entry import codes_in_lines, names_of
from rowtag.documents.layouts.tables import with_names_in
from rowtag.documents.meaning import read_meaning
from rowtag.documents.once import each_once
from rowtag.documents.plain import blocks_of
from rowtag.documents.saying import parts_from
from rowtag.documents.settling import described, settled

SAID = 1.0
"""How sure is what somebody said."""


def read_otherwise(text: str, known: Collection[str], said: Sequence[Otherwise]) -> Understood:
    """What a document says of variables, as `understand` tells it, but for what was said otherwise, in order."""
    found = understand(text, known)
    lines = text.splitlines()  # as they are counted where something is said of them
    for each in said:
        variables = list(found.variables)
        if each.are == "codes":
            variables = _as_codes(variables, lines, each)
        elif each.are == "to":
            variables = _belonging(variables, lines, each)
        elif each.are == "names":
            variables = _named_in(variables, text, each)
        else:
            variables = [one for one in variables if not each.first <= one.lines[0] <= each.last]
        found = replace(found, variables=tuple(sorted(variables, key=lambda one: one.lines)))
    if not said:
        return found
    placed = {line for one in found.variables for line in range(one.lines[0], one.lines[1] + 1)}
    numbered = [number for number, line in enumerate(lines, 1) if line.strip()]
    return replace(found, unplaced=tuple(number for number in numbered if number not in placed))


# These are codes --------------------------------------------------------------------------------


def _as_codes(found: Sequence[Described], lines: Sequence[str], said: Otherwise) -> list[Described]:
    """These lines become codes of the variable above, and so do lines set like them right below other variables;
    where variables begin on these lines, so do all that begin on such lines."""
    within = range(said.first, said.last + 1)
    shapes = {_shape(lines[line - 1]) for line in within if lines[line - 1].strip()}
    begun = any(each.lines[0] in within for each in found)
    heads = [
        each
        for each in sorted(found, key=lambda each: each.lines)
        if each.lines[0] not in within and not (begun and _shape(lines[each.lines[0] - 1]) in shapes)
    ]
    if not heads:
        return list(found)  # codes of nothing
    ends = [*(each.lines[0] for each in heads[1:]), len(lines) + 1]
    out = []
    for each, end in zip(heads, ends, strict=True):
        taken = [line for line in within if each.lines[0] < line < end and lines[line - 1].strip()]
        for line in range(each.lines[0] + 1, end):
            text = lines[line - 1]
            if text.strip() and _shape(text) in shapes:
                taken.append(line)
            elif text.strip() and line > each.lines[1]:
                break
        texts = [lines[line - 1] for line in sorted(set(taken))]
        out.append(_with_codes(each, texts, max(taken)) if taken else each)
    return out


def _with_codes(each: Described, texts: Sequence[str], last: int) -> Described:
    """A variable with the codes that some lines say, beside those that it has."""
    parts = parts_from(Said(codes=_codes(texts)), {})
    codes = merged(merged(parts.codes, each.parts.codes, "text"), parts.codes, "text")
    missing = merged(merged(parts.missing, each.parts.missing, "text"), parts.missing, "text")
    given = each.parts.given() | {name: those for name, those in (("codes", codes), ("missing", missing)) if those}
    lines = (each.lines[0], max(each.lines[1], last))
    return replace(each, parts=Parts(**given), lines=lines, certainty=SAID, reason="as was said of its codes")


_FIRST = re.compile(r"(?:[-*•+]\s+|\(?)(?P<code>[^\s:=)]{1,40})\s*(?:[:=)]+|\s-+\s|\.\s|\s)\s*(?P<label>.*)")


def _codes(texts: Sequence[str]) -> list[Code]:
    """The codes that lines say: as a list, else in running text, else a word and what stands behind it."""
    plain = [bare(text).strip() for text in texts]
    if listed := codes_in_lines(list(plain), fewest=1):
        return listed
    out: dict[object, Code] = {}
    for text in plain:
        several = read_meaning(text).codes
        first = _FIRST.fullmatch(text)
        alone = [Code(first["label"].strip(" ,;."), code=first["code"].strip("\"'"))] if first else []
        for code in several or alone:
            out.setdefault(code.key, code)
    return list(out.values())


def _shape(line: str) -> tuple[int, str, str]:
    """How a line is set: how far in, what it begins with, and the first sign behind that."""
    body = line.lstrip()
    word = re.match(r"[^\W\d_]+|\d+|\W", body)
    begin = word[0] if word else ""
    kind = "number" if begin.isdigit() else "small" if begin.islower() else "letters" if begin.isalpha() else begin
    sign = re.search(r"[:=)|\t]|\s-+\s|\s{2,}", body)
    return len(line) - len(body), kind, sign[0].strip() or "gap" if sign else ""


# They belong to others --------------------------------------------------------------------------


def _belonging(found: Sequence[Described], lines: Sequence[str], said: Otherwise) -> list[Described]:
    """What some lines say of codes is said of some variables, whether or not these were found."""
    texts = [line for line in lines[said.first - 1 : said.last] if line.strip()]
    parts = parts_from(Said(codes=_codes_told(texts)), {})
    told = {name: those for name, those in (("codes", parts.codes), ("missing", parts.missing)) if those}
    several = [name for each in said.names for name in names_of(each) or (each.strip(),)]
    names = {name.casefold() for name in several}
    out = []
    for each in found:
        if each.name.casefold() in names:
            given = each.parts.given() | told
            out.append(replace(each, parts=Parts(**given), certainty=SAID, reason="as was said of its codes"))
        elif not said.first <= each.lines[0] <= said.last:
            out.append(each)
    there = {each.name.casefold() for each in found}
    return out + [
        Described(name, Parts(**told), lines=(said.first, said.last), certainty=SAID, reason="as was said")
        for name in dict.fromkeys(several)
        if name.casefold() not in there
    ]


def _codes_told(texts: Sequence[str]) -> list[Code]:
    """Codes of lines of which some may only lead over to them."""
    whole = read_meaning("\n".join(map(bare, texts))).codes
    listed = _codes([text for text in texts if codes_in_lines([bare(text).strip()], fewest=1)])
    return max(whole, listed, key=len) or _codes(texts)


# Names are in this column ------------------------------------------------------------------------


def _named_in(found: Iterable[Described], text: str, said: Otherwise) -> list[Described]:
    """The variables of a table whose names stand in a column, in place of what was understood of it."""
    block = next(
        (
            each
            for each in blocks_of(text)
            if each.kind == "table" and each.line <= said.last and said.first <= each.last
        ),
        None,
    )
    if block is None:
        return list(found)
    entries = [settled(entry) for entry in with_names_in(block, said.column - 1)]
    read = [replace(each, certainty=SAID) for entry in entries for each in described(entry)]
    names = {each.name for each in read}
    others = [each for each in found if not block.line <= each.lines[0] <= block.last and each.name not in names]
    return [*others, *each_once(read)]
