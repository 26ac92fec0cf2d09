"""Routines: the steps of a study saved as a file, and done again on another file or another study."""

import hashlib
import secrets
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from difflib import get_close_matches
from pathlib import Path
from typing import Annotated, Any, Literal

import numpy as np
from pydantic import Field, TypeAdapter, ValidationError

from rowtag.core.errors import BadInput, Place, UnreadableFile
from rowtag.core.names import key_of, suggest
from rowtag.core.naming import plain_name
from rowtag.core.problems import problems
from rowtag.core.reading import State
from rowtag.core.replaying import Again, Replay
from rowtag.core.steps import Step, Supplies
from rowtag.core.steps.bring_in import AddRecords, Arrival, BringIn, Known
from rowtag.core.study import Source, Study
from rowtag.core.tag import Frozen, Tag
from rowtag.core.translation import ByNames, Spelled, spelled, understood
from rowtag.core.words import counted
from rowtag.formats import intake
from rowtag.formats.intake import Holding
from rowtag.formats.routine import Routine, WrittenStep, read
from rowtag.formats.table import Settings, unwatched
from rowtag.formats.writers import Handed
from rowtag.formats.written import Options
from rowtag.service.codebook import under_codebook
from rowtag.service.handover import usual_writers
from rowtag.store.sources import compressed_pieces
from rowtag.store.studyfile import Redone, StudyFile, now
from rowtag.store.workspace import Entry, Workspace

MOST_STRAYS = 200
"""Different strays of a variable that a routine names."""
NEAR = 0.7
"""How alike the heads of a column that is gone and of a new one are for one to be thought of as the other."""


# How files that come in are written -------------------------------------------------------------


class Column(Frozen):
    """A column of a file that becomes a variable: its head, and the tag that it gets."""

    column: str
    tag: Tag


class BringInAgain(Frozen):
    """A file that is brought in, and how it is read."""

    do: Literal["bring in"] = "bring in"
    file: str
    settings: Settings = Settings()
    columns: tuple[Column, ...]


class AddRecordsAgain(Frozen):
    """A file whose records are added: per head of a column the name of the variable that it belongs to."""

    do: Literal["add records"] = "add records"
    file: str
    settings: Settings = Settings()
    matched: dict[str, str]
    columns: tuple[Column, ...] = ()
    identifier: str | None = None
    known: Known = "keep both"


Coming = BringInAgain | AddRecordsAgain
_COMING: TypeAdapter[Coming] = TypeAdapter(Annotated[Coming, Field(discriminator="do")])


# Saved ------------------------------------------------------------------------------------------


def saved(file: StudyFile, title: str, chosen: Sequence[str] | None = None) -> Routine:
    """The steps that led a study to where it is, or some of them (by id), as a routine."""
    steps = []
    for passed in file.way():
        if chosen is None or passed.id in chosen:
            before, after = file.state(passed.parent), file.state(passed.state)
            steps.append(WrittenStep(_written(passed.step, before, after)))
    return Routine(title, tuple(steps), strays_in(file.study), {"entries": Options().model_dump(exclude_defaults=True)})


def _written(step: Step, before: Study, after: Study) -> dict[str, Any]:
    if isinstance(step, BringIn | AddRecords):
        columns = tuple(Column(column=each.name, tag=each.tag) for each in step.variables)
        settings = Settings.model_validate(step.source.settings)
        coming: Coming
        if isinstance(step, BringIn):
            coming = BringInAgain(file=step.source.name, settings=settings, columns=columns)
        else:
            heads = _heads_of(step, before)
            identifier = None if step.identifier is None else before.tag(step.identifier).name
            coming = AddRecordsAgain(
                file=step.source.name, settings=settings, matched=heads, columns=columns, identifier=identifier,
                known=step.known,
            )  # fmt: skip
        return {"do": coming.do, **coming.model_dump(mode="json", exclude_defaults=True)}
    return spelled(step, before, after)


def _heads_of(step: AddRecords, before: Study) -> dict[str, str]:
    """The columns of a file of more records by number, since their heads are not kept, and the variable of each."""
    return {f"#{number}": before.tag(id).name for id, number in step.matched.items()}


def strays_in(study: Study) -> dict[str, tuple[str, ...]]:
    """The strays of a study, as they were recorded, by variable."""
    out = {}
    for id in study.order:
        reading, counts = study.reading(id), study.counts(id)
        at = np.flatnonzero((reading.states >= State.UNREADABLE) & (counts > 0))
        if at.size:
            out[study.tag(id).name] = tuple(dict.fromkeys(reading.canonical(at[:MOST_STRAYS]).to_pylist()))
    return out


def opened(path: Path) -> Routine:
    """A routine from its file. Raises BadInput, with line and column where it is none."""
    try:
        return read(path.read_bytes().decode("utf-8-sig"), path.name)
    except UnicodeDecodeError:
        raise UnreadableFile("This is no text in UTF-8.", where=Place(path.name)) from None


# Run --------------------------------------------------------------------------------------------


@dataclass(frozen=True)
class Line:
    """What came of a step of a routine: the line where it stands, what it does, and how it was done."""

    line: int
    do: str
    again: Again

    @property
    def sentence(self) -> str:
        """What it came to, in a sentence; nothing where it was not done."""
        return self.again.applied.full_sentence if self.again.applied is not None else ""


@dataclass(frozen=True)
class Taken:
    """A step that was done, with what came with it, and the file that it was read from."""

    step: Step
    again: Again
    supplies: Supplies | None = None
    path: Path | None = None


@dataclass
class Ran:
    """What a routine has made of a file or a study: its steps, columns of files that it lacks or has more, and strays
    that there were none of where it was saved."""

    study: Study
    lines: list[Line] = field(default_factory=list)
    taken: list[Taken] = field(default_factory=list)
    gone: list[str] = field(default_factory=list)
    new: list[str] = field(default_factory=list)
    proposed: list[str] = field(default_factory=list)
    """Ids of variables of new columns, which are as they were proposed."""
    notes: list[str] = field(default_factory=list)
    strays: dict[str, list[str]] = field(default_factory=dict)

    @property
    def whole(self) -> bool:
        """Whether every step was done whole."""
        return all(line.again.whole for line in self.lines)


def run(
    routine: Routine,
    name: str,
    *,
    file: Path | None = None,
    base: Study | None = None,
    codebook: Path | None = None,
    columns: Mapping[str, str] | None = None,
) -> Ran:
    """Does the steps of a routine on a file that is brought in, or on a state. Nothing is kept.

    With a codebook the file is read under that, as it would be without a routine, and the routine's own bringing in is
    left. `columns` says by which head a column goes in this file, per head in the routine. Raises BadInput, before
    anything is done, where a step cannot be understood.
    """
    steps = list(understood_steps(routine, name))
    replay = Replay(base or Study())
    ran, names = Ran(replay.study), ByNames(lambda: secrets.token_hex(4))
    if file is not None and codebook is not None:
        replay = Replay(under_codebook(file, codebook)[0])
    elif file is not None and not any(isinstance(each, BringInAgain) for _, each in steps):
        _come_in(ran, replay, _proposed(file), file, {}, 0)
    for written, step in steps:
        if isinstance(step, BringInAgain | AddRecordsAgain):
            _come_in(ran, replay, step, file, columns or {}, written.line)
            continue
        again = replay.do(step.step, meet=names.of(step, replay.study))
        ran.lines.append(Line(written.line, str(written.says["do"]), again))
        if again.step is not None:
            ran.taken.append(Taken(again.step, again))
    ran.study = replay.study
    known = {key_of(variable): set(texts) for variable, texts in routine.strays.items()}
    new = {replay.study.tag(id).name for id in ran.proposed if id in replay.study.variables}
    for variable, texts in strays_in(replay.study).items():
        fresh = [text for text in texts if text not in known.get(key_of(variable), ()) and variable not in new]
        if fresh:
            ran.strays[variable] = fresh
    return ran


def understood_steps(routine: Routine, name: str) -> Iterator[tuple[WrittenStep, Spelled | Coming]]:
    """The steps of a routine. Raises BadInput with the line of one that cannot be understood."""
    for written in routine.steps:
        try:
            if written.says.get("do") in ("bring in", "add records"):
                yield written, _COMING.validate_python(dict(written.says))
            else:
                yield written, understood(written.says)
        except ValidationError as error:
            what = f"Step “{written.says['do']}” is not complete: {problems(error)}."
            raise BadInput(what, where=Place(name, row=written.line)) from None
        except BadInput as error:
            where = Place(name, row=written.line)
            raise BadInput(error.what, remedy=error.remedy, where=where, suggestion=error.suggestion) from None


# Files that come in -----------------------------------------------------------------------------


def _proposed(file: Path) -> BringInAgain:
    """A file as it would come in by itself."""
    with intake.opened(file, file.name) as opened:
        settings = opened.guess()
        holding = opened.read(settings)
    columns = zip(holding.table.heads, holding.proposals, strict=True)
    return BringInAgain(
        file=file.name,
        settings=settings,
        columns=tuple(Column(column=head, tag=proposal.tag) for head, proposal in columns),
    )


def _come_in(ran: Ran, replay: Replay, step: Coming, file: Path | None, columns: Mapping[str, str], line: int) -> None:
    """Brings a file in, or its records, as far as its columns are there; what it has more comes as it is proposed."""
    study = replay.study
    if isinstance(step, BringInAgain) and (study.order or study.records.arrived):
        again = Again(_nothing(step), "nothing to do", why=("the study has data already",))
        ran.lines.append(Line(line, step.do, again))
        return
    path = _path_of(step, file)
    if path is None:
        again = Again(_nothing(step), "not possible", why=(f"there is no file {step.file} here",))
        ran.lines.append(Line(line, step.do, again))
        return
    holding, notes = _read(path, step.settings)
    ran.notes += notes
    meeting = _met(step, holding, columns)
    ran.notes += meeting.notes
    ran.gone += meeting.gone
    arrivals, supplies, more = _arrivals(study, step, holding, meeting)
    ran.new += more
    ran.proposed += [each.id for each in arrivals[len(arrivals) - len(more) :]]
    source = _source(path, holding)
    made: Step
    if isinstance(step, BringInAgain):
        made = BringIn(source_id=secrets.token_hex(4), source=source, variables=tuple(arrivals))
    else:
        ids = {number: id for number, name in meeting.joins.items() if (id := study.name_keys.get(key_of(name)))}
        supplies |= {id: holding.table.columns[number] for number, id in ids.items()}
        made = AddRecords(
            source_id=secrets.token_hex(4),
            source=source,
            matched={id: holding.table.numbers[number] for number, id in ids.items()},
            variables=tuple(arrivals),
            identifier=None if step.identifier is None else study.name_keys.get(key_of(step.identifier)),
            known=step.known,
        )
    again = replay.do(made, supplies)
    if again.came == "done" and meeting.gone:
        why = tuple(f"no column is called “{head}”" for head in meeting.gone)
        again = Again(again.asked, "in part", again.step, why, again.applied)
    ran.lines.append(Line(line, step.do, again))
    if again.step is not None:
        ran.taken.append(Taken(again.step, again, supplies, path))


def _nothing(step: Coming) -> Step:
    """A step that stands for a file that is not there."""
    source = Source(name=step.file, size=0, sha256="", kind=step.settings.kind, records=0)
    return BringIn(source_id="none", source=source, variables=())


def _path_of(step: Coming, file: Path | None) -> Path | None:
    """Where the file of a step lies: the one that is given, for more records one of its name beside that."""
    if file is None:
        return None
    if isinstance(step, BringInAgain):
        return file
    beside = file.parent / Path(step.file).name
    return beside if beside.is_file() else None


def _read(path: Path, settings: Settings) -> tuple[Holding, list[str]]:
    """A file, read as it was then; as it is guessed now where it is of another kind."""
    with intake.opened(path, path.name) as opened:
        guessed = opened.guess()
        if guessed.kind == settings.kind and guessed.kind != "workbook":
            return opened.read(settings), []
        if guessed.kind == settings.kind:
            sheet = settings.sheet if settings.sheet == guessed.sheet else guessed.sheet
            return opened.read(settings.model_copy(update={"sheet": sheet})), []
        return opened.read(guessed), [f"{path.name} is no {settings.kind} file and was read as it is guessed"]


@dataclass
class _Met:
    """How the columns of a file meet those that a step tells: per place in the file (from 0) the column, or the name of
    the variable that it joins; which are gone, and what is to be noted."""

    columns: dict[int, Column] = field(default_factory=dict)
    joins: dict[int, str] = field(default_factory=dict)
    gone: list[str] = field(default_factory=list)
    notes: list[str] = field(default_factory=list)


def _met(step: Coming, holding: Holding, renamed: Mapping[str, str]) -> _Met:
    """Heads meet exactly, or by what somebody said; else but for case and signs, which is noted. Each is met once."""
    heads = [head.strip() for head in holding.table.heads]
    free = list(range(len(heads)))
    met = _Met()
    wanted: list[tuple[str, Column | str]] = [(column.column.strip(), column) for column in step.columns]
    if isinstance(step, AddRecordsAgain):
        wanted = [*((head.strip(), name) for head, name in step.matched.items()), *wanted]
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
    for head in met.gone:
        likely = _likely(head, [heads[at] for at in free])
        if likely:
            met.notes.append(f"perhaps “{head}” is called “{likely}” now")
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
    if head.startswith("#") and head[1:].isdigit() and int(head[1:]) in holding.table.numbers:
        at = list(holding.table.numbers).index(int(head[1:]))
        return at if at in free else None
    wanted = renamed.get(head, head)
    return next((at for at in free if heads[at] == wanted), None)


def _take(met: _Met, free: list[int], at: int, what: Column | str) -> None:
    free.remove(at)
    if isinstance(what, str):
        met.joins[at] = what
    else:
        met.columns[at] = what


def _arrivals(
    study: Study, step: Coming, holding: Holding, met: _Met
) -> tuple[list[Arrival], dict[str, Any], list[str]]:
    """The columns that become variables: those that are told with their tags, then those that the file has more."""
    arrivals, supplies, more = [], {}, []
    order = {id(column): number for number, column in enumerate(step.columns)}
    taken = {*study.name_keys, *(key_of(column.tag.name) for column in met.columns.values())}
    fresh = [at for at in range(len(holding.table.heads)) if at not in met.columns and at not in met.joins]
    for at in [*sorted(met.columns, key=lambda at: order[id(met.columns[at])]), *fresh]:
        if at in met.columns:
            tag = met.columns[at].tag
        else:
            tag = holding.proposals[at].tag
            tag = tag.with_parts(name=suggest(tag.name, taken, study.naming))
            taken.add(key_of(tag.name))
            more.append(holding.table.heads[at])
        arrival = Arrival(
            id=secrets.token_hex(4), column=holding.table.numbers[at], name=holding.table.heads[at], tag=tag
        )
        arrivals.append(arrival)
        supplies[arrival.id] = holding.table.columns[at]
    return arrivals, supplies, more


def _source(path: Path, holding: Holding) -> Source:
    with path.open("rb") as data:
        digest = hashlib.file_digest(data, "sha256").hexdigest()
    return Source(
        name=path.name,
        size=path.stat().st_size,
        sha256=digest,
        kind=holding.table.settings.kind,
        records=holding.table.records,
        settings=holding.table.settings.model_dump(exclude_defaults=True),
        brought_at=now(),
    )


# Kept -------------------------------------------------------------------------------------------


def kept_as_study(ran: Ran, workspace: Workspace, title: str, by: str = "") -> Entry:
    """A study of its own, made by the steps that were done."""

    def fill(file: StudyFile) -> None:
        for taken in ran.taken:
            source = None
            if taken.path is not None and isinstance(taken.step, BringIn | AddRecords):
                source = (taken.step.source.sha256, compressed_pieces(taken.path))
            file.take(taken.step, secrets.token_hex(8), by=by, supplies=taken.supplies, source=source)

    return workspace.make(title, fill=fill)


def kept_on(ran: Ran, file: StudyFile, *, expected: int, by: str = "") -> int:
    """Does on a study what was looked at, all of it or nothing; gives the new revision. Undo leads back before it."""
    redone = [Redone(taken.step, taken.again.applied, by=by) for taken in ran.taken if taken.again.applied is not None]
    if not redone:
        raise BadInput("None of these steps can be done here.", remedy="Look at what each of them lacks.")
    return file.amend(file.head, redone, expected=expected, by=by)


def handed_over(ran: Ran, routine: Routine, title: str, folder: Path) -> list[str]:
    """Writes the files of a handover into a folder, as the routine says; gives notes."""
    try:
        options = Options.model_validate((routine.hand_over or {}).get("entries") or {})
    except ValidationError as error:
        raise BadInput(f"The routine's “hand over” is not complete: {problems(error)}.") from None
    handed = Handed(ran.study, title)
    try:
        folder.mkdir(parents=True, exist_ok=True)
        for writer in usual_writers(options):
            with (folder / writer.file).open("wb") as out:
                notes = writer.write(handed, out, unwatched)
            handed = Handed(ran.study, title, [*handed.notes, *notes])
    except OSError as error:
        raise BadInput(f"{folder} cannot be written to: {error.strerror}.", remedy="Name another folder.") from None
    return handed.notes


# Told -------------------------------------------------------------------------------------------


def told(ran: Ran) -> dict[str, Any]:
    """What a routine came to, as JSON data."""
    return {
        "records": ran.study.records.count,
        "variables": len(ran.study.order),
        "whole": ran.whole,
        "steps": [
            {"line": line.line, "do": line.do, "came": line.again.came, "sentence": line.sentence,
             "why": list(line.again.why)}
            for line in ran.lines
        ],
        "columns gone": ran.gone,
        "columns new": ran.new,
        "strays": ran.strays,
        "notes": ran.notes,
    }  # fmt: skip


def in_words(found: Mapping[str, Any]) -> str:
    """What a routine came to, for people: what was not done whole first."""
    signs = {"done": " ", "nothing to do": "=", "in part": "~", "not possible": "×"}
    lines = [f"{counted(found['records'], 'record')} × {counted(found['variables'], 'variable')}", ""]
    for step in found["steps"]:
        said = step["sentence"] or step["do"]
        why = f" [{step['came']}: {'; '.join(step['why'])}]" if step["came"] != "done" else ""
        lines.append(f"{signs[step['came']]} {step['line']:>4}  {said}{why}")
    lines.append("")
    if found["columns gone"]:
        lines.append(f"Columns that are not in this file: {', '.join(found['columns gone'])}.")
    if found["columns new"]:
        lines.append(f"Columns that are new in this file: {', '.join(found['columns new'])}.")
    for variable, texts in found["strays"].items():
        lines.append(f"New strays of {variable}: {', '.join(texts[:10])}{' …' if len(texts) > 10 else ''}.")
    lines += [f"{note[0].upper()}{note[1:]}." for note in found["notes"]]
    if "file" in found:
        lines.append(f"Written to {found['file']}.")
    if "study" in found:
        lines.append(f"Kept as the study “{found['study']}”.")
    lines.append("All steps were done whole." if found["whole"] else "Not all steps were done whole.")
    return "\n".join(lines)
