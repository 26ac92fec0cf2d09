"""Names run in: each variable a name in bold or code face at the begin of a paragraph, its meaning behind it."""

from collections.abc import Sequence
from itertools import islice

from rowtag.documents.blocks import Block
from rowtag.documents.layouts.entry import Entry, codes_in_lines, names_of

FEWEST = 3
"""Names below which this is no way of writing but chance."""


def see(blocks: Sequence[Block]) -> list[Entry]:
    """The variables whose names begin a paragraph or an item and are set apart there."""
    heads = [at for at, block in enumerate(blocks) if _names(block)]
    set_apart = sum(bool(block.strong) for block in blocks)
    if len(heads) < FEWEST or len(heads) < 0.6 * set_apart:
        return []
    out: list[Entry] = []
    for at in heads:
        block = blocks[at]
        text = block.text[len(_shown(block)) :].lstrip(" \t:–—-.,")
        entry = Entry(_names(block), [text], (block.line, block.last), 0.9, "a name set apart, its meaning behind it")
        for more in islice(blocks, at + 1, None):
            listed = codes_in_lines(more.text.split("\n"))
            if more.kind not in ("text", "item") or more.strong or not listed:
                break
            entry.codes += listed
            entry.lines = (entry.lines[0], more.last)
        out.append(entry)
    return out


def _shown(block: Block) -> str:
    """The words set apart as they stand in the text."""
    quoted = f"`{block.strong}`"
    return quoted if block.text.startswith(quoted) else block.strong


def _names(block: Block) -> tuple[str, ...]:
    """The names that begin a block, where something follows them."""
    if block.kind not in ("text", "item") or not block.strong or len(block.text) <= len(_shown(block)) + 1:
        return ()
    return names_of(block.strong)
