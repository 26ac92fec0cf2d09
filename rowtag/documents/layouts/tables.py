"""Tables: a row for each variable, or one for each code; columns are told by their heads, else by what they hold."""

import re
from collections.abc import Mapping, Sequence

from rowtag.documents.blocks import Block, Row, bare, wide
from rowtag.documents.codes import NUMBER
from rowtag.documents.layouts.entry import Entry, codes_in_rows, names_of
from rowtag.documents.meaning import read_meaning
from rowtag.documents.saying import LEVELS, TYPES
from rowtag.documents.table import Role, is_codebook, roles_of


def see(blocks: Sequence[Block]) -> list[Entry]:
    """The variables of all tables that describe some; a table that breaks over pages goes on in the next."""
    out: list[Entry] = []
    for block in _whole(blocks):
        out += _described(block)
    return out


def _whole(blocks: Sequence[Block]) -> list[Block]:
    """Tables, those that go on behind a page or a heading under the same heads put together."""
    out: list[Block] = []
    for block in blocks:
        if block.kind != "table":
            continue
        last = out[-1] if out else None
        if (
            last is not None
            and last.rows
            and block.rows
            and wide(last.rows) == wide(block.rows)
            and any(block.rows[0].cells)
            and last.rows[0].cells == block.rows[0].cells
        ):
            out[-1] = Block("table", "", last.line, block.last, rows=(*last.rows, *block.rows[1:]), headed=last.headed)
        else:
            out.append(block)
    return out


def _described(block: Block) -> list[Entry]:
    rows = [row for row in block.rows if any(row.cells)]
    if len(rows) < 2:
        return []
    heads = [bare(cell).replace("\n", " ") for cell in rows[0].cells]
    below = [[bare(cell) for cell in row.cells] for row in rows[1:]]
    roles = roles_of(heads, below)
    if is_codebook(roles) and not names_below_are_prose(below, roles["name"]):
        telling = _tells(below, roles)
        return rows_read(rows[1:], roles, 0.95 if telling else 0.4, "a row of a table with headings", headed=True)
    roles = {} if codes_in_rows(block) else _by_contents(rows)
    if not roles:
        return []
    first = 1 if not _fits(rows[0], roles) else 0
    return rows_read(rows[first:], roles, 0.9 if first else 0.85, "a row of a table")


def with_names_in(block: Block, column: int) -> list[Entry]:
    """The variables of a table whose names stand in a column (from 0), whatever it looks like."""
    rows = [row for row in block.rows if any(row.cells)]
    heads = [bare(cell).replace("\n", " ") for cell in rows[0].cells] if rows else []
    below = [[bare(cell) for cell in row.cells] for row in rows[1:]]
    told: dict[Role, int] = {role: at for role, at in roles_of(heads, below).items() if at != column and role != "name"}
    roles: dict[Role, int] = {**(told or _by_contents(rows, column)), "name": column}
    first = 1 if told or (block.headed and len(rows) > 1) else 0
    return rows_read(rows[first:], roles, 1.0, "a row of a table, as was said of its names", headed=True)


def _tells(rows: Sequence[Sequence[str]], roles: dict[Role, int]) -> bool:
    """Whether a table says more of its variables than what they are called elsewhere."""
    said = [
        at
        for role, at in roles.items()
        if role in ("label", "question", "codes", "code", "code label", "limits", "type")
    ]
    cells = [row[at].strip() for at in said for row in rows if at < len(row) and row[at].strip()]
    return sum(not names_of(cell) for cell in cells) > 0.4 * len(rows)


def names_below_are_prose(rows: Sequence[Sequence[str]], at: int) -> bool:
    """Whether a column holds words, not names."""
    cells = [row[at] for row in rows if at < len(row) and row[at].strip()]
    return not cells or sum(bool(names_of(cell)) for cell in cells) < 0.6 * len(cells)


def _by_contents(rows: Sequence[Row], named: int | None = None) -> dict[Role, int]:
    """Which column holds what, by what stands in it; where that of the names is not given it is told too."""
    width = wide(rows)
    columns = [[bare(row.cells[at]).strip() if at < len(row.cells) else "" for row in rows] for at in range(width)]
    if named is None:
        named = next((at for at, cells in enumerate(columns) if _all_names(cells)), None)
    if named is None:
        return {}
    roles: dict[Role, int] = {"name": named}
    rest = [at for at in range(width) if at != named and any(columns[at][1:])]
    codes = next((at for at in rest if at > named and _all_codes(columns[at][1:])), None)
    if codes is not None:
        roles["code"] = codes
        labels = [at for at in rest if at > codes]
        if labels:
            roles["code label"] = labels[0]
        rest = [at for at in rest if at not in (codes, *labels[:1])]
    kinds = next((at for at in rest if _all_kinds(columns[at])), None)
    if kinds is not None:
        roles["type"] = kinds
        rest.remove(kinds)
    rest = [
        at for at in rest if sum(bool(_WORD.search(cell)) for cell in columns[at]) > 0.4 * sum(map(bool, columns[at]))
    ]
    listed = [at for at in rest if _lists(columns[at])]
    if codes is None and len(rest) > 1 and listed:
        roles["codes"] = listed[-1]
        rest.remove(listed[-1])
    if rest:
        longest = max(rest, key=lambda at: (sum(len(cell) for cell in columns[at]), -at))
        roles["label"] = longest if len(rest) < 3 else rest[0]
    return roles if len(roles) > 1 else {}


_WORD = re.compile(r"[^\W\d_]{2}")


def _lists(cells: Sequence[str]) -> bool:
    """Whether a column holds codes or limits: lists in some cells, or one code a row in many."""
    said = [read_meaning(cell) for cell in cells if cell]
    several = sum(len(each.codes) > 1 for each in said)
    some = sum(bool(each.codes or each.limits) and not each.rest for each in said)
    return several > len(cells) / 8 or some > len(said) / 3


def _all_kinds(cells: Sequence[str]) -> bool:
    """Whether a column names the types of variables."""
    said = [cell for cell in cells[1:] if cell]
    return len(said) > 1 and sum(cell.casefold().strip(" .") in _KINDS for cell in said) > 0.7 * len(said)


_KINDS = frozenset(
    [*TYPES, *LEVELS, "ordered", "numeric", "number", "logical", "boolean", "num", "chr", "str", "bool", "character"]
)


def _all_names(cells: Sequence[str]) -> bool:
    said = [cell for cell in cells if cell]
    named = [cell for cell in said if names_of(cell) and cell.casefold() not in _KINDS]
    return len(named) >= 2 and len(named) >= 0.8 * len(said) and len(set(named)) > 1


def _all_codes(cells: Sequence[str]) -> bool:
    said = [cell for cell in cells if cell]
    coded = [cell for cell in said if re.fullmatch(rf"{NUMBER}\*?", cell)]
    return len(coded) >= 3 and len(coded) >= 0.9 * len(said) and len(set(coded)) < len(coded)


def _fits(row: Row, roles: dict[Role, int]) -> bool:
    """Whether a first row describes a variable like those below, or says what its columns hold."""
    cells = [bare(cell).strip() for cell in row.cells]
    if not names_of(cells[roles["name"]]):
        return False
    return "code" not in roles or not cells[roles["code"]] or bool(re.fullmatch(NUMBER, cells[roles["code"]]))


def rows_read(
    rows: Sequence[Row], roles: dict[Role, int], certainty: float, reason: str, *, headed: bool = False
) -> list[Entry]:
    """The variables that rows describe; a row without a name goes on with the variable above.

    Below a heading that says that names stand there, the head of a column of data is one whatever signs it has.
    """
    out: list[Entry] = []
    for row in rows:
        cells = {role: row.cells[at].strip() for role, at in roles.items() if at < len(row.cells)}
        names = names_of(cells.get("name", ""), among_names=True)
        if not names and headed and _is_head(cells):
            names = (bare(cells["name"]).strip(),)
        if not names and cells.get("name"):
            continue
        if names and not (out and out[-1].names == names):
            out.append(Entry(names, [], (row.line, row.line), certainty, reason))
        if not out:
            continue
        entry = out[-1]
        entry.lines = (entry.lines[0], row.line)
        _take(entry, cells, bool(names))
    return out


MOST_HEAD = 120
"""Characters of a column's head that is met as the name of a variable."""


def _is_head(cells: Mapping[Role, str]) -> bool:
    """Whether a cell for names holds the head of a column of data (`2nd job`), not a heading within the table."""
    name = cells.get("name", "")
    told = {text for role, text in cells.items() if role != "name" and text}
    return 0 < len(name) <= MOST_HEAD and "\n" not in name and name[-1] not in ".:" and bool(told - {name})


def _take(entry: Entry, cells: dict[Role, str], named: bool) -> None:
    said = entry.given.setdefault("cells", {})
    assert isinstance(said, dict)
    for role, text in cells.items():
        if not text or role == "name":
            continue
        if role in ("code", "code label"):
            continue
        if named and role not in said:
            said[role] = text
        elif said.get(role) != text:
            said[role] = (
                f"{said.get(role, '')}\n{text}".strip()
                if role in ("codes", "missing")
                else f"{said.get(role, '')} {text}".strip()
            )
    if cells.get("code") or cells.get("code label"):
        said.setdefault("rows", []).append((cells.get("code", ""), cells.get("code label", "")))
