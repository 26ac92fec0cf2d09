"""Names alone: each variable a name in a paragraph of its own, its meaning in the paragraphs below."""

from collections.abc import Sequence
from itertools import count, islice

from rowtag.documents.blocks import Block
from rowtag.documents.layouts.entry import Entry, codes_in_lines, codes_in_rows, names_of

FEWEST = 2
"""Names below which this is no way of writing but chance."""


def see(blocks: Sequence[Block]) -> list[Entry]:
    """The variables whose names stand alone; a name is alone in its paragraph, with running text below."""
    names = _named(blocks)
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
        below = count(at + 1)
        for block in islice(blocks, at + 1, None):
            if block.kind == "heading" or next(below) in names:
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


def _named(blocks: Sequence[Block]) -> dict[int, tuple[str, ...]]:
    """The names that stand alone, by where they do; a word right below a name may be its meaning: `sex`, `Sex.`"""
    names = {at: names for at, block in enumerate(blocks) if (names := _name(block))}
    usual = sum(at + 1 not in names for at in names) * 2 > len(names)
    for at in sorted(names):
        above, text = blocks[at - 1].text, blocks[at].text
        if at - 1 not in names or blocks[at].strong:
            continue
        meant = text.endswith(".") or (text[0].isupper() and not above[0].isupper())
        if meant or (usual and (at + 1 in names or at + 1 == len(blocks) or blocks[at + 1].kind == "heading")):
            del names[at]
    return names


def _name(block: Block) -> tuple[str, ...]:
    return names_of(block.text, among_names=True) if block.kind == "text" and "\n" not in block.text else ()


def _tells(block: Block) -> bool:
    return block.kind in ("text", "table", "item")
