"""Lists of terms: each variable a term, its meaning beside or below it."""

from collections.abc import Sequence

from rowtag.documents.blocks import Block
from rowtag.documents.layouts.entry import Entry, codes_in_rows, names_of


def see(blocks: Sequence[Block]) -> list[Entry]:
    """The variables of all lists of terms, where most terms are names."""
    out: list[Entry] = []
    terms = [block for block in blocks if block.kind == "entry"]
    named = [block for block in terms if names_of(block.term)]
    if len(named) < 0.7 * len(terms):
        return []
    at = 0
    while at < len(blocks):
        block = blocks[at]
        at += 1
        names = names_of(block.term, among_names=True) if block.kind == "entry" else ()
        if not names:
            continue
        entry = Entry(names, [block.text], (block.line, block.last), 0.93, "a term and its meaning")
        while at < len(blocks) and _belongs(blocks[at]):
            entry.codes += codes_in_rows(blocks[at])
            entry.lines = (entry.lines[0], blocks[at].last)
            at += 1
        out.append(entry)
    return out


def _belongs(block: Block) -> bool:
    """Whether a block behind an entry is a list of its codes."""
    return block.kind == "table" and bool(codes_in_rows(block))
