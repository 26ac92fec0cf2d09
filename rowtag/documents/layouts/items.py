"""Items: each variable an item of a list, its name first, a sign behind it: `- plots, number of plots`."""

import re
from collections import Counter
from collections.abc import Iterator, Mapping, Sequence

from rowtag.documents.blocks import Block
from rowtag.documents.layouts.entry import Entry, names_of

FEWEST = 4
"""Items of a list below which their signs are chance."""
_ONE = re.compile(r"(?P<names>[^\W\d][\w.$ &/-]{0,60}?)(?P<sign>\.|,|;|:|\s[-–—]+)\s+(?P<text>\S.*)", re.S)
_SEVERAL = re.compile(r"(?P<names>[^\W\d][\w, $&/-]{0,200})(?P<sign>\.|;|:)\s+(?P<text>\S.*)", re.S)
_Begun = Mapping[str, tuple[tuple[str, ...], str]]
"""The names that begin an item and what follows, under the sign between; under none, a name alone."""


def see(blocks: Sequence[Block]) -> list[Entry]:
    """The variables of lists nearly all of whose items begin with a name and the same sign."""
    out: list[Entry] = []
    for run in _lists(blocks):
        begun = [_begun(block) for block in run]
        signs = Counter(sign for each in begun for sign in each if sign)
        sign = max(signs, key=lambda one: signs[one], default="")
        found = [(block, each.get(sign) or each.get("")) for block, each in zip(run, begun, strict=True)]
        named = [(block, *each) for block, each in found if each]
        names = [name for _, several, _ in named for name in several]
        listed = len(named) >= max(FEWEST, 0.8 * len(run)) and signs[sign] >= 0.5 * len(named)
        if listed and len(set(names)) == len(names) and _like_names(names):
            out += [
                Entry(several, [text], (block.line, block.last), 0.8, "an item that begins with a name")
                for block, several, text in named
            ]
    return out


def _lists(blocks: Sequence[Block]) -> Iterator[list[Block]]:
    """The items of each list that does not stand below a question."""
    run: list[Block] = []
    asked = False
    for block in blocks:
        if block.kind == "item" and (not run or block.depth == run[0].depth):
            run.append(block)
        elif block.kind != "item":
            if run and not asked:
                yield run
            run, asked = [], block.text.rstrip().endswith("?")
    if run and not asked:
        yield run


def _begun(block: Block) -> _Begun:
    """The ways in which an item may begin with names."""
    if len(alone := names_of(block.text.rstrip("."), among_names=True)) == 1:
        return {"": (alone, "")}
    out = {}
    for pattern in (_ONE, _SEVERAL):
        if (found := pattern.fullmatch(block.text)) and (names := names_of(found["names"], among_names=True)):
            out[found["sign"].strip()] = (names, found["text"])
    return out


def _like_names(names: Sequence[str]) -> bool:
    """Whether most words are written as names are, not as words that begin a sentence."""
    return sum(name.islower() or name.isupper() or not name.isalpha() for name in names) >= 0.9 * len(names)
