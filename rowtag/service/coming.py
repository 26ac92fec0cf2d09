"""Files that come in once more: how a routine writes them, and how another file meets what is written.

Another file is one of the same questionnaire: next year's, or a corrected one. Its columns are met by their heads.
"""

import hashlib
import secrets
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from difflib import get_close_matches
from pathlib import Path
from typing import Annotated, Any, Literal, TypeVar

from pydantic import Field, TypeAdapter

from rowtag.core.errors import BadInput
from rowtag.core.meeting import Doubled
from rowtag.core.names import key_of, suggest
from rowtag.core.naming import plain_name
from rowtag.core.steps.beside import PutBeside
from rowtag.core.steps.bring_in import AddRecords, Arrival, BringIn, Known
from rowtag.core.study import Source, Study
from rowtag.core.tag import Frozen, Tag
from rowtag.core.words import whole_number
from rowtag.formats import intake
from rowtag.formats.intake import Holding
from rowtag.formats.table import Settings
from rowtag.service.settings_again import rows_left_out, settings_again
from rowtag.store.studyfile import now

T = TypeVar("T")

NEAR = 0.7
"""How alike the heads of a column that is gone and of a new one are for one to be thought of as the other."""


# Written ----------------------------------------------------------------------------------------


class Column(Frozen):
    """A column of a file that becomes a variable: its head, and the tag that it gets."""

    column: str
    tag: Tag


class BringInAgain(Frozen):
    """A file that is brought in, and how it is read. `sha256` tells whether it is the very same: in another one,
    records are not told by number."""

    do: Literal["bring in"] = "bring in"
    file: str
    sha256: str = ""
    settings: Settings = Settings()
    columns: tuple[Column, ...]
    left_out: tuple[str, ...] = ()


class AddRecordsAgain(Frozen):
    """A file whose records are added: per head of a column the name of the variable that it belongs to."""

    do: Literal["add records"] = "add records"
    file: str
    sha256: str = ""
    settings: Settings = Settings()
    matched: dict[str, str]
    columns: tuple[Column, ...] = ()
    identifier: str | None = None
    known: Known = "keep both"
    left_out: tuple[str, ...] = ()


class PutBesideAgain(Frozen):
    """A file whose columns are put beside the records that it holds, too: by the column of which head they are told,
    and which variable identifies them."""

    do: Literal["put beside"] = "put beside"
    file: str
    sha256: str = ""
    settings: Settings = Settings()
    column: str
    identifier: str
    columns: tuple[Column, ...]
    doubled: Doubled = "first"
    left_out: tuple[str, ...] = ()


Coming = BringInAgain | AddRecordsAgain | PutBesideAgain
CameIn = BringIn | AddRecords | PutBeside
"""The kinds of step by which a file came in."""
COMING: TypeAdapter[Coming] = TypeAdapter(Annotated[Coming, Field(discriminator="do")])


def coming_of(step: CameIn, before: Study) -> Coming:
    """A step by which a file came in, with heads and names."""
    columns = tuple(Column(column=each.name, tag=each.tag) for each in step.variables)
    file, settings = step.source.name, Settings.model_validate(step.source.settings)
    left_out, digest = step.source.left_out, step.source.sha256
    if isinstance(step, BringIn):
        return BringInAgain(file=file, sha256=digest, settings=settings, columns=columns, left_out=left_out)
    if isinstance(step, PutBeside):
        return PutBesideAgain(
            file=file,
            sha256=digest,
            settings=settings,
            column=step.head or f"#{step.column}",
            identifier=before.tag(step.identifier).name,
            columns=columns,
            doubled=step.doubled,
            left_out=left_out,
        )
    return AddRecordsAgain(
        file=file,
        sha256=digest,
        settings=settings,
        matched={step.heads.get(id) or f"#{number}": before.tag(id).name for id, number in step.matched.items()},
        columns=columns,
        identifier=None if step.identifier is None else before.tag(step.identifier).name,
        known=step.known,
        left_out=left_out,
    )


def directly(_name: str, work: Callable[..., Any], *args: Any) -> Any:
    """Reads a file in this very process."""
    return work(*args)


@dataclass(frozen=True)
class File:
    """A file that lies somewhere, and what it is called; `reads` does what reads it, such as in a process beside."""

    path: Path
    name: str
    reads: Callable[..., Any] = directly

    @classmethod
    def at(cls, path: Path) -> "File":
        """A file that is called as where it lies."""
        return cls(path, path.name)

    def beside(self, name: str) -> "File | None":
        """A file of another name in the same folder, if it is there."""
        path = self.path.parent / Path(name).name
        try:
            return File(path, path.name, self.reads) if path.is_file() else None
        except OSError:  # a name that no file can have
            return None

    def read(self, work: Callable[..., T], *args: Any) -> T:
        """What comes of reading it: `work` takes its path, its name, and what is given besides."""
        found: T = self.reads(self.name, work, self.path, self.name, *args)
        return found


def proposed(file: File, sheet: str | None = None) -> BringInAgain:
    """A file, or a sheet of it, as it would come in by itself."""
    return file.read(_proposed, sheet)


def _proposed(path: Path, name: str, sheet: str | None) -> BringInAgain:
    with intake.opened(path, name) as opened:
        settings = opened.guess()
        if sheet is not None:
            settings = opened.heads(settings.model_copy(update={"sheet": sheet, "range": ""}))
        holding = opened.read(settings)
    columns = zip(holding.table.heads, holding.proposals, strict=True)
    return BringInAgain(
        file=name,
        settings=settings,
        columns=tuple(Column(column=head, tag=proposal.tag) for head, proposal in columns),
    )


# Met --------------------------------------------------------------------------------------------


def read_as(file: File, step: Coming, sheet: str | None = None) -> tuple[Holding, list[str]]:
    """A file, read as a step tells, or as its heads stand in it (on a `sheet` that somebody chose); and what is to be
    noted of that: what is read otherwise, and every row that is left out."""
    return file.read(_read_as, step, sheet)


def _read_as(path: Path, name: str, step: Coming, sheet: str | None) -> tuple[Holding, list[str]]:
    with intake.opened(path, name) as opened:
        again = settings_again(opened, step.settings, heads_of(step), sheet)
        holding = opened.read(again.settings)
    return holding, [*again.notes, *rows_left_out(again.settings), *holding.table.notes]


def heads_of(step: Coming) -> list[str]:
    """The heads of the columns that a step wants of its file."""
    heads = [each.column for each in step.columns]
    if isinstance(step, BringInAgain):
        return heads
    return [*(step.matched if isinstance(step, AddRecordsAgain) else [step.column]), *heads]


def digest_of(file: File) -> str:
    """What tells a file from all others."""
    with file.path.open("rb") as data:
        return hashlib.file_digest(data, "sha256").hexdigest()


def source_at(file: File, holding: Holding) -> Source:
    """A file as a source."""
    return Source(
        name=file.name,
        size=file.path.stat().st_size,
        sha256=digest_of(file),
        kind=holding.table.settings.kind,
        records=holding.table.records,
        settings=holding.table.settings.model_dump(exclude_defaults=True),
        brought_at=now(),
    )


@dataclass(frozen=True)
class Came:
    """A file as it comes in once more: the step and what comes with it; heads of columns that it lacks (with those
    under which they may go now) and that it has more, the ids of the variables of the latter, which are as they were
    proposed, and what is to be noted."""

    step: CameIn
    supplies: dict[str, Any]
    gone: list[str]
    likely: dict[str, str]
    new: list[str]
    proposed: list[str]
    notes: list[str]


def come(
    study: Study,
    step: Coming,
    holding: Holding,
    source: Source,
    renamed: Mapping[str, str],
    known: CameIn | None = None,
) -> Came:
    """Meets the columns of a file with those that a step tells. `renamed` says by which head a column goes now, per
    head in the step. Of the step that it was, where it is `known`, the ids stay."""
    met = _met(step, holding, renamed)
    ids = None if known is None else [each.id for each in known.variables]
    arrivals, supplies, more = _arrivals(study, step, holding, met, ids)
    source_id = secrets.token_hex(4) if known is None else known.source_id
    source = source.model_copy(update={"left_out": tuple(holding.table.heads[at] for at in met.left_out)})
    made: CameIn
    if isinstance(step, BringInAgain):
        made = BringIn(source_id=source_id, source=source, variables=tuple(arrivals))
    else:
        at = {number: id for number, name in met.joins.items() if (id := study.name_keys.get(key_of(name)))}
        supplies |= {id: holding.table.columns[number] for number, id in at.items()}
        identifier = None if step.identifier is None else study.name_keys.get(key_of(step.identifier))
        if isinstance(step, AddRecordsAgain):
            made = AddRecords(
                source_id=source_id,
                source=source,
                matched={id: number + 1 for number, id in at.items()},
                heads={id: holding.table.heads[number] for number, id in at.items()},
                variables=tuple(arrivals),
                identifier=identifier,
                known=step.known,
            )
        else:
            if identifier not in supplies:
                raise BadInput(
                    f"{source.name} has no column “{step.column}”, by which its records are told.",
                    remedy="Say which of its columns that is.",
                )
            (number,) = at
            made = PutBeside(
                source_id=source_id,
                source=source,
                variables=tuple(arrivals),
                identifier=identifier,
                column=holding.table.numbers[number],
                head=holding.table.heads[number],
                doubled=step.doubled,
            )
    fresh = [each.id for each in arrivals[len(arrivals) - len(more) :]]
    return Came(made, supplies, met.gone, met.likely, more, fresh, met.notes)


@dataclass
class _Met:
    """How the columns of a file meet those that a step tells: per place in the file (from 0) the number of that column
    in the step, or the name of the variable that it joins; which are left out, which gone and what they may be called
    now, and what is to be noted."""

    columns: dict[int, int] = field(default_factory=dict)
    joins: dict[int, str] = field(default_factory=dict)
    left_out: list[int] = field(default_factory=list)
    gone: list[str] = field(default_factory=list)
    likely: dict[str, str] = field(default_factory=dict)
    notes: list[str] = field(default_factory=list)


def _met(step: Coming, holding: Holding, renamed: Mapping[str, str]) -> _Met:
    """Heads meet exactly, or by what somebody said; else but for case and signs, which is noted. Each is met once."""
    heads = [head.strip() for head in holding.table.heads]
    free = list(range(len(heads)))
    met = _Met()
    wanted: list[tuple[str, int | str]] = [(column.column.strip(), at) for at, column in enumerate(step.columns)]
    if not isinstance(step, BringInAgain):
        joins = step.matched if isinstance(step, AddRecordsAgain) else {step.column: step.identifier}
        wanted = [*((head.strip(), name) for head, name in joins.items()), *wanted]
    left = []
    for head, what in wanted:
        at = _place(head, heads, free, holding, renamed)
        if at is None:
            left.append((head, what))
        else:
            _take(met, free, at, what)
    for head, what in left:
        near = [at for at in free if plain_name(heads[at]) == plain_name(head) and plain_name(head)]
        if len(near) == 1:
            met.notes.append(f"“{heads[near[0]]}” was taken for “{head}”")
            _take(met, free, near[0], what)
        else:
            met.gone.append(head)
    for head in step.left_out:
        at = next((at for at in free if heads[at] == head.strip()), None)
        if at is not None:
            free.remove(at)
            met.left_out.append(at)
    for head in met.gone:
        likely = _likely(head, [heads[at] for at in free])
        if likely:
            met.likely[head] = likely
    return met


def _likely(head: str, others: Sequence[str]) -> str | None:
    """The only one of some heads that goes on as another does, as q4_size does as q4; else the one most like it."""

    def goes_on(one: str, other: str) -> bool:
        return other.startswith(one) and not other[len(one) :][:1].isalnum()

    going_on = [other for other in others if goes_on(head, other) or goes_on(other, head)]
    if len(going_on) == 1:
        return going_on[0]
    return next(iter(get_close_matches(head, others, n=1, cutoff=NEAR)), None)


def _place(
    head: str, heads: Sequence[str], free: Sequence[int], holding: Holding, renamed: Mapping[str, str]
) -> int | None:
    """The place of a column by its head, or by its number where that is what is told (#3)."""
    if head.startswith("#") and (number := whole_number(head[1:])) in holding.table.numbers:
        at = list(holding.table.numbers).index(number)
        return at if at in free else None
    wanted = renamed.get(head, head)
    return next((at for at in free if heads[at] == wanted), None)


def _take(met: _Met, free: list[int], at: int, what: int | str) -> None:
    free.remove(at)
    if isinstance(what, str):
        met.joins[at] = what
    else:
        met.columns[at] = what


def _arrivals(
    study: Study, step: Coming, holding: Holding, met: _Met, ids: Sequence[str] | None
) -> tuple[list[Arrival], dict[str, Any], list[str]]:
    """The columns that become variables: those that are told with their tags, and the ids that these have; then those
    that the file has more."""
    arrivals, supplies, more = [], {}, []
    taken = {*study.name_keys, *(key_of(step.columns[number].tag.name) for number in met.columns.values())}
    told = {*met.columns, *met.joins, *met.left_out}
    fresh = [at for at in range(len(holding.table.heads)) if at not in told]
    for at in [*sorted(met.columns, key=met.columns.__getitem__), *fresh]:
        known = None
        if at in met.columns:
            number = met.columns[at]
            tag, known = step.columns[number].tag, None if ids is None else ids[number]
        else:
            tag = holding.proposals[at].tag
            tag = tag.with_parts(name=suggest(tag.name, taken, study.naming))
            taken.add(key_of(tag.name))
            more.append(holding.table.heads[at])
        arrival = Arrival(
            id=known or secrets.token_hex(4), column=holding.table.numbers[at], name=holding.table.heads[at], tag=tag
        )
        arrivals.append(arrival)
        supplies[arrival.id] = holding.table.columns[at]
    return arrivals, supplies, more
