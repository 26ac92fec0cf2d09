"""Editions of a study: named with a fingerprint, returned to, and compared."""

import hashlib
from collections.abc import Iterator
from html import escape
from typing import BinaryIO, cast

from rowtag.core.codebook.whole import described
from rowtag.core.codebook.writing import write_notation
from rowtag.core.comparing import Compared, PartChanged, VariableCompared
from rowtag.core.same_records import compared_by_record
from rowtag.core.study import Study
from rowtag.core.tag import Limits, Marks, Skip
from rowtag.core.touched import TITLED
from rowtag.core.words import counted
from rowtag.formats.table import unwatched
from rowtag.formats.writers import Handed
from rowtag.formats.writers.csv import Csv
from rowtag.formats.written import Options
from rowtag.service.page import page, row, soft
from rowtag.store.editions import Edition, edition, keep_edition
from rowtag.store.studyfile import StudyFile

MOST_RECORDS = 40
"""Records that a report names one by one."""
MOST_PAIRS = 12
"""Pairs of old and new entries that a report shows of a variable."""


class _Digest:
    """A file of which only the sum is kept."""

    def __init__(self) -> None:
        self.sum = hashlib.sha256()

    def write(self, data: bytes) -> int:
        self.sum.update(data)
        return len(data)

    def flush(self) -> None:
        """There is nothing to flush."""


def fingerprint(study: Study) -> tuple[str, str]:
    """What tells a state of a study from others: the SHA-256 of its data as they are handed over with codes
    (`data.csv`), and of its codebook as codebook text."""
    data = _Digest()
    Csv(entries=Options()).write(Handed(study, ""), cast("BinaryIO", data), unwatched)
    codebook = write_notation(*described(study, study.order))
    return data.sum.hexdigest(), hashlib.sha256(codebook.encode()).hexdigest()


def name_edition(file: StudyFile, name: str, note: str = "", state: int | None = None, by: str = "") -> Edition:
    """Names a state of a study, that at its head where none is said."""
    at = file.head if state is None else state
    data, codebook = fingerprint(file.state(at))
    return keep_edition(file, name, note, at, data=data, codebook=codebook, by=by)


def state_of(file: StudyFile, id: str) -> tuple[Study, str]:
    """The state of an edition, and what it is called; "now" is the one at the head."""
    if id == "now":
        return file.study, "now"
    found = edition(file, id)
    return file.state(found.state), found.name


def between(file: StudyFile, one: str, other: str) -> tuple[Study, Study, Compared]:
    """Two editions (or "now"), and what differs between them."""
    before, after = state_of(file, one)[0], state_of(file, other)[0]
    return before, after, compared_by_record(before, after)


# As a report ------------------------------------------------------------------------------------


def comparison(file: StudyFile, title: str, one: str, other: str) -> str:
    """What differs between two editions, as one page that holds everything it needs."""
    (before, was), (after, now) = state_of(file, one), state_of(file, other)
    return page(f"{title}: {was} → {now}", _told(before, after, compared_by_record(before, after)))


def _told(before: Study, after: Study, found: Compared) -> Iterator[str]:
    before_size, after_size = (
        f"{counted(each.records.count, 'record')} × {counted(len(each.order), 'variable')}" for each in (before, after)
    )
    yield f'<p class="soft">{before_size} before, {after_size} after.</p>'
    if found.same:
        yield "<p>Nothing differs.</p>"
        return
    for said, study, ids in (("Variables that came", after, found.came), ("Variables that went", before, found.gone)):
        if ids:
            yield f"<p>{said}: {', '.join(f'<code>{escape(study.tag(id).name)}</code>' for id in ids)}.</p>"
    for said, numbers in (("Records that came", found.records_came), ("Records that went", found.records_gone)):
        if numbers.size:
            first = ", ".join(f"{number:,}" for number in numbers[:MOST_RECORDS].tolist())
            yield f"<p>{said}: {numbers.size:,} ({first}{' …' if numbers.size > MOST_RECORDS else ''}).</p>"
    for shelf, counts in found.items.items():
        told = [f"{n:,} {word}" for n, word in zip(counts, ("new", "gone", "changed"), strict=True) if n]
        yield f"<p>{escape(TITLED[shelf].removeprefix('the ').capitalize())}: {', '.join(told)}.</p>"
    if found.order:
        yield "<p>The variables stand in another order.</p>"
    for each in found.variables:
        yield f"<h2><code>{escape(after.tag(each.id).name)}</code> {escape(after.tag(each.id).label)}</h2>"
        yield from _variable(each)


def _variable(each: VariableCompared) -> Iterator[str]:
    if each.parts:
        yield "<table>" + row("part", "was", "is", head=True)
        for part in each.parts:
            was, now = (
                soft("nothing") if not said else escape(said).replace("\n", "<br>")
                for said in (in_words(part, part.was), in_words(part, part.now))
            )
            yield row(escape(part.part), was, now)
        yield "</table>"
    if each.read_otherwise:
        yield f"<p>{counted(each.read_otherwise, 'entry reads', 'entries read')} otherwise.</p>"
    if each.old_by_new is not None:
        yield f"<p>{counted(each.entries, 'entry', 'entries')} changed.</p>"
        yield "<table>" + row("old", "new", "records", head=True)
        for pair in each.old_by_new.pairs[:MOST_PAIRS]:
            yield row(_entry(pair.old), _entry(pair.new), f"{pair.count:,}")
        if each.old_by_new.different > MOST_PAIRS:
            yield row(soft(f"and {each.old_by_new.different - MOST_PAIRS:,} more pairs"))
        yield "</table>"


def _entry(text: str) -> str:
    return f"<code>{escape(text)}</code>" if text.strip() else soft("blank")


def in_words(part: PartChanged, value: object) -> str:
    """A part of a tag in words: its code lines, missing codes and skips line by line; nothing where it says nothing."""
    if value in (None, "", ()):
        return ""
    if isinstance(value, tuple):
        return "\n".join(_line(line) for line in value)
    if isinstance(value, Limits):
        return " to ".join(end or "…" for end in (value.low, value.high)) if value.low or value.high else ""
    if isinstance(value, Marks):
        return ", ".join(f"{name.replace('_', ' ')} “{sign}”" for name, sign in value if sign)
    if isinstance(value, bool):
        return "yes" if value else "no"
    return str(value)


def _line(line: object) -> str:
    if isinstance(line, Skip):  # the variable that it names was told by its name
        told = f"{' or '.join(line.codes)}: goes on at {line.to or 'the end'}"
        return f"{told} (proposed)" if line.proposed else told
    said = getattr(line, "label", "") or getattr(line, "reason", "")
    return f"{getattr(line, 'shown', line)} {said}".strip()
