"""Names alone: each variable a name in a paragraph of its own, its meaning in the paragraphs below."""

from collections.abc import Sequence
from itertools import islice

from rowtag.documents.blocks import Block
from rowtag.documents.layouts.entry import Entry, codes_in_lines, codes_in_rows, names_of

FEWEST = 2
"""Names below which this is no way of writing but chance."""


def see(blocks: Sequence[Block]) -> list[Entry]:
    """The variables whose names stand alone; a name is alone in its paragraph, with running text below."""
    names = {at: names for at, block in enumerate(blocks) if (names := _name(block))}
    heads = [at for at in names if at + 1 < len(blocks) and at + 1 not in names and _tells(blocks[at + 1])]
    if len(heads) < FEWEST:
        return []
    set_apart = sum(bool(blocks[at].strong) for at in heads) * 2 > len(heads)
    out: list[Entry] = []
    for at in heads:
        if set_apart and not blocks[at].strong:
            continue
        entry = Entry(
            names[at],
            [],
            (blocks[at].line, blocks[at].last),
            0.9 if set_apart else 0.8,
            "a name alone, its meaning below",
        )
        for block in islice(blocks, at + 1, None):
            if block.kind == "heading" or _name(block):
                break
            if block.kind == "table":
                entry.codes += codes_in_rows(block)
            elif entry.texts and block.kind == "text":
                if not codes_in_lines(block.text.split("\n")):
                    break
                entry.codes += codes_in_lines(block.text.split("\n"))
            else:
                entry.texts.append(block.text)
            entry.lines = (entry.lines[0], block.last)
        out.append(entry)
    return out


def _name(block: Block) -> tuple[str, ...]:
    return names_of(block.text) if block.kind == "text" and "\n" not in block.text else ()


def _tells(block: Block) -> bool:
    return block.kind in ("text", "table", "item")
