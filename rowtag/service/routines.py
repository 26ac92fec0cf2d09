"""Routines: the steps of a study saved as a file, and done again on another file or another study."""

import secrets
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import Any, get_args

import numpy as np
from pydantic import ValidationError

from rowtag.core.errors import BadInput, Place, UnreadableFile
from rowtag.core.names import key_of
from rowtag.core.problems import problems
from rowtag.core.reading import State
from rowtag.core.refs import references
from rowtag.core.replaying import Again, Came, Replay
from rowtag.core.steps import Step, Supplies
from rowtag.core.steps.bring_in import BringIn
from rowtag.core.steps.entries import AddBlankRecords, SetBlock
from rowtag.core.study import Source, Study
from rowtag.core.translation import ByNames, Spelled, spelled, understood
from rowtag.core.words import counted
from rowtag.formats.routine import Routine, WrittenStep, read
from rowtag.formats.table import unwatched
from rowtag.formats.writers import Handed
from rowtag.formats.written import Options
from rowtag.service.codebook import as_step
from rowtag.service.coming import (
    COMING,
    BringInAgain,
    CameIn,
    Coming,
    File,
    come,
    coming_of,
    digest_of,
    proposed,
    read_as,
    source_at,
)
from rowtag.service.handover import usual_writers
from rowtag.store.sources import compressed_pieces
from rowtag.store.studyfile import Redone, StudyFile
from rowtag.store.workspace import Entry, Workspace

MOST_STRAYS = 200
"""Different strays of a variable that a routine names."""
COME_IN = tuple(kind.model_fields["do"].default for kind in get_args(CameIn))
"""What steps do by which a file comes in."""


# Saved ------------------------------------------------------------------------------------------


def saved(file: StudyFile, title: str, chosen: Sequence[str] | None = None) -> Routine:
    """The steps that led a study to where it is, or some of them (by id), as a routine."""
    routine = saving(file, title, chosen)
    return replace(routine, steps=tuple(routine.steps))


def saving(file: StudyFile, title: str, chosen: Sequence[str] | None = None) -> Routine:
    """The same with steps that are looked up as they are asked for, once: of many that takes its time."""
    if chosen is None:
        way = file.along()
    else:
        some = [passed for passed in file.way() if passed.id in chosen]
        way = ((passed, file.state(passed.parent), file.state(passed.state)) for passed in some)
    steps = (WrittenStep(_written(passed.step, before, after)) for passed, before, after in way)
    return Routine(title, steps, strays_in(file.study), {"entries": Options().model_dump(exclude_defaults=True)})


def _written(step: Step, before: Study, after: Study) -> dict[str, Any]:
    if isinstance(step, CameIn):
        coming = coming_of(step, before)
        return {"do": coming.do, **coming.model_dump(mode="json", exclude_defaults=True)}
    return spelled(step, before, after, elsewhere=True)


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
    likely: dict[str, str] = field(default_factory=dict)
    """What columns that are gone may be called now."""
    new: list[str] = field(default_factory=list)
    proposed: list[str] = field(default_factory=list)
    """Ids of variables of new columns, which are as they were proposed."""
    notes: list[str] = field(default_factory=list)
    strays: dict[str, list[str]] = field(default_factory=dict)
    other_file: bool = False
    """Whether this is not the file that the routine was made of."""
    left_out: int = 0
    """Steps that are none of it, since they concern single records of that file."""

    @property
    def whole(self) -> bool:
        """Whether every step was done whole."""
        return all(line.again.whole for line in self.lines)


def run(
    routine: Routine,
    name: str,
    *,
    file: File | None = None,
    base: Study | None = None,
    codebook: Path | None = None,
    columns: Mapping[str, str] | None = None,
    sheet: str | None = None,
    single_records: bool = False,
) -> Ran:
    """Does the steps of a routine on a file that is brought in, or on a state. Nothing is kept.

    What concerns single records, such as entries that were typed and records that were keyed, is of the file that the
    routine was made of: on another one it is left out unless `single_records` are asked for, and then done where these
    are told for sure, by their identifier.

    With a codebook the file is read under that, as it would be without a routine, and the routine's own bringing in is
    left. `columns` says by which head a column goes in this file, per head in the routine, and `sheet` which sheet of a
    workbook is meant. Raises BadInput, before anything is done, where a step cannot be understood.
    """
    steps = list(understood_steps(routine, name))
    replay = Replay(base or Study())
    ran, names = Ran(replay.study), ByNames(lambda: secrets.token_hex(4))
    known = {each.sha256 for _, each in steps if isinstance(each, BringInAgain) and each.sha256}
    there = {digest_of(file)} if file is not None else {each.sha256 for each in replay.study.shelves["source"].values()}
    ran.other_file, left_out = bool(known) and known.isdisjoint(there), 0
    own = any(isinstance(each, BringInAgain) for _, each in steps)
    if file is not None and (codebook is not None or not own):
        _come_in(ran, replay, proposed(file, sheet), file, {}, 0)
    if codebook is not None and (laid := as_step(replay.study, codebook)) is not None:
        _did(ran, replay.do(laid), 0, laid.do)
    for written, step in steps:
        if isinstance(step, Coming):
            _come_in(ran, replay, step, file, columns or {}, written.line, sheet)
            continue
        if ran.other_file and _concerns_single_records(step.step):
            if not single_records:
                left_out += 1
                continue
            if step.records_by is None and _names_records(step.step):
                _did(ran, _left(step.step, "its records are told by number, and this is another file"), *_at(written))
                continue
        _did(ran, replay.do(step.step, meet=names.of(step, replay.study)), *_at(written))
    ran.study = replay.study
    if left_out:
        about = counted(left_out, "step that concerns", "steps that concern")
        ran.notes.append(f"{about} single records of the first file {'is' if left_out == 1 else 'are'} left out")
    ran.left_out = left_out
    told = {key_of(variable): set(texts) for variable, texts in routine.strays.items()}
    new = {replay.study.tag(id).name for id in ran.proposed if id in replay.study.variables}
    for variable, texts in strays_in(replay.study).items():
        fresh = [text for text in texts if text not in told.get(key_of(variable), ()) and variable not in new]
        if fresh:
            ran.strays[variable] = fresh
    return ran


def _at(written: WrittenStep) -> tuple[int, str]:
    return written.line, str(written.says["do"])


def _concerns_single_records(step: Step) -> bool:
    """Whether a step is about records one by one: it names some, or makes some that come by no file."""
    return _names_records(step) or isinstance(step, AddBlankRecords | SetBlock)


def _names_records(step: Step) -> bool:
    return any(each.ref.kind == "record" for each in references(step))


def _left(step: Step, why: str) -> Again:
    """A step that is not done, and why."""
    return Again(step, "not possible", why=(why,))


def _did(ran: Ran, again: Again, line: int, do: str) -> None:
    """Takes down what came of a step."""
    ran.lines.append(Line(line, do, again))
    if again.step is not None:
        ran.taken.append(Taken(again.step, again))


def understood_steps(routine: Routine, name: str) -> Iterator[tuple[WrittenStep, Spelled | Coming]]:
    """The steps of a routine. Raises BadInput with the line of one that cannot be understood."""
    for written in routine.steps:
        try:
            if written.says.get("do") in COME_IN:
                yield written, COMING.validate_python(dict(written.says))
            else:
                yield written, understood(written.says)
        except ValidationError as error:
            what = f"Step “{written.says['do']}” is not complete: {problems(error)}."
            raise BadInput(what, where=Place(name, row=written.line)) from None
        except BadInput as error:
            where = Place(name, row=written.line)
            raise BadInput(error.what, remedy=error.remedy, where=where, suggestion=error.suggestion) from None


# Files that come in -----------------------------------------------------------------------------


def _come_in(
    ran: Ran,
    replay: Replay,
    step: Coming,
    file: File | None,
    columns: Mapping[str, str],
    line: int,
    sheet: str | None = None,
) -> None:
    """Brings a file in as far as its columns are there; what it has more comes as it is proposed."""

    def left(came: Came, why: str) -> None:
        ran.lines.append(Line(line, step.do, Again(_nothing(step), came, why=(why,))))

    if isinstance(step, BringInAgain) and (replay.study.order or replay.study.records.arrived):
        return left("nothing to do", "the study has data already")
    own = _file_of(step, file)
    if own is None:
        return left("not possible", f"there is no file {step.file} here")
    holding, notes = read_as(own, step, sheet if isinstance(step, BringInAgain) else None)
    try:
        came = come(replay.study, step, holding, source_at(own, holding), columns)
    except BadInput as error:
        return left("not possible", error.what.rstrip("."))
    ran.notes += [*notes, *came.notes]
    ran.gone += came.gone
    ran.likely |= came.likely
    ran.new += came.new
    ran.proposed += came.proposed
    again = replay.do(came.step, came.supplies)
    if again.came == "done" and came.gone:
        again = replace(again, came="in part", why=tuple(f"no column is called “{head}”" for head in came.gone))
    ran.lines.append(Line(line, step.do, again))
    if again.step is not None:
        ran.taken.append(Taken(again.step, again, came.supplies, own.path))
    return None


def _nothing(step: Coming) -> Step:
    """A step that stands for a file that is not there."""
    source = Source(name=step.file, size=0, sha256="", kind=step.settings.kind, records=0)
    return BringIn(source_id="none", source=source, variables=())


def _file_of(step: Coming, file: File | None) -> File | None:
    """The file of a step: the one that is given, for what comes to it one of its name beside that."""
    if file is None:
        return None
    return file if isinstance(step, BringInAgain) else file.beside(step.file)


# Kept -------------------------------------------------------------------------------------------


def kept_as_study(ran: Ran, workspace: Workspace, title: str, by: str = "") -> Entry:
    """A study of its own, made by the steps that were done."""

    def fill(file: StudyFile) -> None:
        for taken in ran.taken:
            source = None
            if taken.path is not None and isinstance(taken.step, CameIn):
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
        "notes": [*ran.notes, *(f"perhaps “{old}” is called “{new}” now" for old, new in ran.likely.items())],
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
