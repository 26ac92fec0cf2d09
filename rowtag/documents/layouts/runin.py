"""Names run in: each variable a name in bold or code face at the begin of a paragraph, its meaning behind it."""

import re
from collections.abc import Sequence
from itertools import islice

from rowtag.documents.blocks import Block, bare
from rowtag.documents.layouts.entry import Entry, codes_in_lines, names_of

FEWEST = 3
"""Names below which this is no way of writing but chance."""
_QUOTED = re.compile(r"`[^`]+`(?:\s*(?:-|–|,|/|&|\bto\b|\band\b)\s*`[^`]+`)*")
_ASIDE = re.compile(r"\s*[(\[](?P<aside>[^()\[\]]{1,60})[)\]]\s*[:–—-]\s*")


def see(blocks: Sequence[Block]) -> list[Entry]:
    """The variables whose names begin a paragraph or an item and are set apart there."""
    begun = {at: found for at, block in enumerate(blocks) if (found := _begun(block))}
    set_apart = sum(bool(block.strong) for block in blocks)
    if len(begun) < FEWEST or len(begun) < 0.6 * set_apart:
        return []
    out: list[Entry] = []
    for at, (names, text) in begun.items():
        block = blocks[at]
        aside = _ASIDE.match(text)
        texts = [text[aside.end() :], aside["aside"]] if aside else [text.lstrip(" \t:–—-.,")]
        lines, reason = (block.line, block.last), "a name set apart, its meaning behind it"
        entry = Entry(names, texts, lines, 0.9, reason, set_apart=True)
        for more in islice(blocks, at + 1, None):
            listed = codes_in_lines(more.text.split("\n"))
            if more.kind not in ("text", "item") or more.strong or not listed:
                break
            entry.codes += listed
            entry.lines = (entry.lines[0], more.last)
        out.append(entry)
    return out


def _begun(block: Block) -> tuple[tuple[str, ...], str] | None:
    """The names that begin a block and are set apart there, and what follows; None where nothing does."""
    if block.kind not in ("text", "item") or not block.strong or block.strong[0] in "\"'“":
        return None
    quoted = _QUOTED.match(block.text)
    shown = quoted[0] if quoted else block.strong
    names = names_of(bare(shown).replace("–", "-"), among_names=True)
    return (names, block.text[len(shown) :]) if names and len(block.text) > len(shown) + 1 else None
