"""Labels before their codes, or both ways in one list: `no (0) vs. yes (1)`, `none = 0; some = 1`, `a = 1; 0 = b`."""

import re
from collections.abc import Iterator

from rowtag.documents.hands.found import NUMBER, Found, as_codes, lead_before

_PART = re.compile(r"\s{2,}|\t|\s*(?:[,;]|\bvs\.?|\bversus\b|\bor\b|\band\b|/)\s*")
_FORWARDS = re.compile(rf"(?P<code>{NUMBER})\s*=\s*(?P<label>\D.{{0,80}})", re.S)
_BACKWARDS = re.compile(
    rf"(?P<label>[^\d=(]?[^=()]{{0,80}}?)\s*(?:=\s*(?P<code>{NUMBER})|\((?P<inner>{NUMBER})\))\.?", re.S
)
_BRACKET = re.compile(r"[(\[](?P<body>(?:[^()\[\]]|\([^()]*\)){3,400})[)\]]?")


_SIGNED = re.compile(rf"(?P<label>[^\W\d][^=\d]{{0,60}}?)\s?=\s?(?P<code>{NUMBER})(?=\s|$)")
_STOP = re.compile(r"\.\s+(?=[A-Z])")


def see(text: str) -> Iterator[Found]:
    """All lists of this hand: in a bracket, behind a colon, or as the whole text."""
    if not re.search(rf"=\s*{NUMBER}|\({NUMBER}\)", text):
        return
    for found in _BRACKET.finditer(text):
        if one := _listed(text, found.start("body"), found.end("body")):
            yield Found(lead_before(text, found.start()), found.end(), one.codes, sure=one.sure)
    starts = [0, *(found.end() for found in re.finditer(r":\s+|\?\s+|\.\s+|\s-\s|,\s+", text))]
    best: Found | None = None
    for start in starts[:12]:  # the latest that tells as many codes begins the list, not its meaning
        stop = _STOP.search(text, start)
        end = stop.start() if stop else len(text)
        one = _listed(text, start, end)
        if one and (best is None or len(one.codes) >= len(best.codes)):
            best = Found(lead_before(text, start), end, one.codes, sure=one.sure)
    if best is not None:
        yield best
    yield from _with_blanks(text)


def _with_blanks(text: str) -> Iterator[Found]:
    """Labels before their codes with nothing but blanks between: `owned=1 leased=2`."""
    run: list[re.Match[str]] = []
    for found in [*_SIGNED.finditer(text), None]:
        if found and run and not text[run[-1].end() : found.start()].strip():
            run.append(found)
            continue
        if len(run) > 1 and (codes := as_codes([(one["code"], one["label"]) for one in run])):
            yield Found(lead_before(text, run[0].start()), run[-1].end(), codes, sure=0.86)
        run = [found] if found else []


def _listed(text: str, start: int, end: int) -> Found | None:
    body = text[start:end].strip(" .")
    parts = [part for part in _PART.split(body) if part.strip()]
    parts = _joined(parts)
    pairs, back = [], 0
    for part in parts:
        forwards, backwards = _FORWARDS.fullmatch(part.strip()), _BACKWARDS.fullmatch(part.strip())
        if forwards:
            pairs.append((forwards["code"], forwards["label"]))
        elif backwards and backwards["label"].strip():
            pairs.append((backwards["code"] or backwards["inner"], backwards["label"]))
            back += 1
        else:
            return None
    if len(pairs) < 2 or not back:
        return None
    codes = as_codes(pairs)
    return Found(start, end, codes, sure=0.88) if codes else None


def _joined(parts: list[str]) -> list[str]:
    """Parts put together again where a label holds a sign that parts items: `one, or two = 1`."""
    out: list[str] = []
    held = ""
    for part in parts:
        whole = f"{held}, {part}" if held else part
        if re.search(rf"=\s*{NUMBER}\s*\.?$|\({NUMBER}\)\s*\.?$|^{NUMBER}\s*=", whole.strip()):
            out.append(whole)
            held = ""
        else:
            held = whole
    return [*out, held] if held else out
