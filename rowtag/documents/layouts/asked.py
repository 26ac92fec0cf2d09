"""Questions that bear no number: with boxes to tick, or with room to write in, beside them or below."""

import re
from collections import Counter
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field, replace

from rowtag.documents.blocks import Block, Row, bare
from rowtag.documents.layouts.answers import BLANK, BOX, CODED, NAMED, TOLD, Question, option_on

MOST_ASKED = 400
"""Characters up to which a paragraph may be what is asked."""
_SIGN = re.compile(rf"{BOX}|{BLANK}")
_WORDED = re.compile(rf"(?:{BOX})\s*[^\W_]")
_BESIDE = re.compile(rf"^(?P<asked>[^\W_].*?\S)\s*(?P<answer>(?:{BOX}|{BLANK}).*)$")
_OTHER = re.compile(r"\b(?:other|specify|which|namely|autre|précise[rz]|andere|sonstige|welche|inne|jakie)\b", re.I)
_ANSWERED = 0.6
"""Share of what is asked that shows where to answer from which a document is a questionnaire."""
_ASKING = 0.4
"""Share of it that is a question, tells how to answer, or leaves room to write."""


@dataclass
class _Going:
    """Where somebody is who goes through a document: what was asked last, and what was said since."""

    found: list[Question] = field(default_factory=list)
    said: list[Block] = field(default_factory=list)
    answered: int = 0

    def hear(self, block: Block) -> None:
        """Something is said: it may be what is asked next, or how to answer."""
        if self.said and asks(self.said[-1].text) and not TOLD.match(block.text.lstrip("( ")):
            self.ask()
        self.said.append(block)

    def ask(self) -> bool:
        """What was said last is asked: a question, and what is told behind it about the answer."""
        asked = next((at for at in range(len(self.said) - 1, -1, -1) if asks(self.said[at].text)), None)
        if asked is None and self.said and len(self.said[-1].text) <= MOST_ASKED:
            asked = len(self.said) - 1
            asked -= bool(asked and TOLD.match(self.said[asked].text.lstrip("( ")))
        parts = [] if asked is None else self.said[asked:]
        self.said = []
        if parts:
            text = " ".join(" ".join(part.text.split()) for part in parts)
            self.found.append(Question("", text, replace(parts[0], last=parts[-1].last)))
        return bool(parts)

    def answer(self, block: Block, sign: bool) -> None:
        """An answer to what was said last, or to what was asked before."""
        fresh = self.ask() if self.said else False
        if self.found:
            self.answered += sign and (fresh or not self.found[-1].body)
            self.found[-1].body.append(block)

    def part(self) -> None:
        """What follows belongs to no question that stands above."""
        if any(asks(block.text) for block in self.said):
            self.ask()
        self.said = []


def asked(blocks: Sequence[Block]) -> list[Question]:
    """The questions of a document that shows for most of them where to answer; none of any other."""
    going = _Going()
    for block in blocks:
        if block.kind == "heading":
            going.part()
            if asks(block.text):
                going.hear(block)
        elif block.kind == "table":
            if len(block.rows) > 1 and (going.said or going.found):
                going.answer(block, sign=_is_grid(block.rows))
        elif block.kind == "item" and not asks(block.text):
            going.answer(block, sign=bool(_SIGN.search(block.text)))
        else:
            for line in _lines(block):
                _heard(going, line)
    going.part()
    asking = sum(asks(question.text) or bool(TOLD.search(question.text)) for question in going.found)
    room = sum(any(re.search(BLANK, block.text) for block in question.body) for question in going.found)
    enough = going.answered >= _ANSWERED * len(going.found)  # lists of what is to be done have boxes, too
    return going.found if enough and asking + room >= _ASKING * len(going.found) else []


def asking_in(text: str) -> int:
    """How many questions and places to answer a text shows at most."""
    return text.count("?") + text.count("？") + text.count("…") + sum(1 for _ in _SIGN.finditer(text))


def asks(text: str) -> bool:
    """Whether a text ends with a question; how to answer may be told behind it."""
    text = bare(text).rstrip(" *_\t")
    end = max(text.rfind("?"), text.rfind("…"), text.rfind("？"))
    rest = text[end + 1 :].strip(" *_()[]")
    return end > 2 and (not rest or (len(rest) < 120 and bool(TOLD.match(rest))))


def _lines(block: Block) -> Iterator[Block]:
    """The lines of a block; those without any sign of an answer that follow each other are one."""
    run: list[str] = []
    for number, line in enumerate(block.text.split("\n")):
        at = block.line + number
        if _SIGN.search(line) or CODED.match(line.strip()):
            if run:
                yield replace(block, text="\n".join(run), line=at - len(run), last=at - 1)
                run = []
            yield replace(block, text=line.strip(), line=at, last=at)
        else:
            run.append(line)
    if run:
        yield replace(block, text="\n".join(run), line=block.last - len(run) + 1, last=block.last)


def _heard(going: _Going, block: Block) -> None:
    """One line, or several that show no answer."""
    text = block.text.strip()
    beside = _BESIDE.match(text)
    if beside and _stands_beside(going, beside["asked"]):
        going.part()
        going.hear(replace(block, text=beside["asked"]))
        going.answer(replace(block, text=beside["answer"]), sign=True)
    elif _SIGN.search(text) or CODED.match(text):
        going.answer(option_on(text, block.line), sign=True)
    else:
        going.hear(block)


def _stands_beside(going: _Going, said: str) -> bool:
    """Whether a line holds what is asked and its answers, rather than an answer with room behind it."""
    if asks(said):
        return True
    ticking = bool(going.found and any(_WORDED.search(block.text) for block in going.found[-1].body))
    return said.rstrip().endswith(":") and not (ticking and not going.said and _OTHER.search(said))


def _is_grid(rows: Sequence[Row]) -> bool:
    """Whether a table is one to tick in: beside what each row asks there are boxes, room, or the same in every row."""
    below = [tuple(cell.strip() for cell in row.cells[1:]) for row in rows[1:]]
    cells = [cell for row in below for cell in row]
    told = [cell for cell in cells if cell]
    if not cells or not all(row.cells and row.cells[0].strip() for row in rows[1:]):
        return False
    return not told or all(_SIGN.search(cell) for cell in told) or (len(below) > 1 and len(set(below)) == 1)


# Questions set in tables -------------------------------------------------------------------------


def rows_apart(blocks: Sequence[Block]) -> list[Block]:
    """Blocks, where a table of questions beside their answers is what it sets: a question, its answers, and so on."""
    out: list[Block] = []
    for block in blocks:
        found = [_asked_in(row) for row in block.rows] if block.kind == "table" else []
        pairs = [pair for pair in found if pair]
        if not pairs or len(pairs) < _ANSWERED * sum(any(row.cells) for row in block.rows):
            out.append(block)
            continue
        for row, pair in zip(block.rows, found, strict=True):
            texts = pair or ("\t".join(filter(None, row.cells)),)
            out += [Block("text", text, row.line, row.line) for text in texts]
    return out


def _asked_in(row: Row) -> tuple[str, str] | None:
    """What a row of a table asks, and the answers beside it that are worded or leave room."""
    cells = [bare(cell).strip() for cell in row.cells]
    at = next((at for at, cell in enumerate(cells) if _SIGN.search(cell)), 0)
    said, answers = "\t".join(filter(None, cells[:at])), cells[at:]
    room = len(answers) == 1 and re.search(BLANK, answers[0]) and (asks(said) or said.endswith(":"))
    if not said or not re.search(r"[^\W\d_]{2}", said) or not (room or any(map(_WORDED.search, answers))):
        return None
    return said, "\n".join(filter(None, answers))


# Whether anything is to be answered --------------------------------------------------------------


def shows_answers(questions: Sequence[Question]) -> bool:
    """Whether numbered questions show where to answer: boxes, room, codes, names, how to; or the same answers return.

    Questions that people ask, answered below, are numbered too.
    """
    lists: Counter[tuple[str, ...]] = Counter()
    signs = 0
    for question in questions:
        texts = [question.text, *(block.text for block in question.body)]
        told = [TOLD.match(part.strip(" (")) for part in re.split(r"(?<=[?.…:])\s+|\(", question.text)]
        coded = any(CODED.match(f"{block.mark} {block.text}".strip()) for block in question.body)
        signs += bool(
            coded
            or any(told)
            or any(_SIGN.search(text) or NAMED.search(text) for text in texts)
            or any(block.kind == "table" for block in question.body)
        )
        options = tuple(block.text.strip().casefold() for block in question.body if block.kind == "item")
        lists[options] += len(options) > 1
    returning = sum(count for count in lists.values() if count > 1)
    return signs + returning >= 0.2 * len(questions)
