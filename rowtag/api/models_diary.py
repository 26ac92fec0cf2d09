"""What the HTTP interface says and takes about the diary: amending it, and what moves when it is amended."""

from typing import Annotated, Any, Literal

from pydantic import BaseModel, Field

from rowtag.api.bodies import Number
from rowtag.api.models_derive import SideModel
from rowtag.core.comparing import (
    CodebooksCompared,
    Compared,
    PartChanged,
    VariableCompared,
    codebooks_compared,
    compared,
)
from rowtag.core.derive.crossed import Side, sides
from rowtag.core.errors import BadInput
from rowtag.core.replaying import Came
from rowtag.core.study import Study
from rowtag.core.touched import TITLED
from rowtag.service.amending import MOST_EDITS, Amended, Edit, Line
from rowtag.service.editions import in_words
from rowtag.service.routines import Ran

MOST_SHOWN = 30
"""Variables whose values are shown before and after."""
MOST_PAIRS = 8
"""Pairs of old and new entries that are shown of one."""


class WrittenStep(BaseModel):
    """A step of the past as it is written with names."""

    step_id: str
    sentence: str
    at: str
    by: str
    says: dict[str, Any]


class EditModel(BaseModel):
    """What is to be otherwise at a step: it is left out, another stands instead of it, or one is put in before it."""

    at: str
    how: Literal["out", "instead", "before"]
    says: dict[str, Any] | None = None

    def as_edit(self) -> Edit:
        """The edit."""
        return Edit(self.at, self.how, self.says)


class AmendRequest(BaseModel):
    """Edits of the diary."""

    edits: Annotated[list[EditModel], Field(min_length=1, max_length=MOST_EDITS)]


class AmendNow(AmendRequest):
    """Edits that are to be kept, and the revision for which they were looked at."""

    expected: Number


class AmendedLine(BaseModel):
    """What becomes of a step: its sentence as it was (none where it is put in) and as it would be, what came of it and
    why. One that is left out has come to nothing."""

    step_id: str | None
    edited: bool
    came: Came | Literal["left out"]
    was: str
    sentence: str
    why: list[str]

    @classmethod
    def of(cls, line: Line) -> "AmendedLine":
        again, passed = line.again, line.passed
        return cls(
            step_id=None if passed is None else passed.id,
            edited=line.edited,
            came="left out" if again is None else again.came,
            was="" if passed is None else passed.sentence,
            sentence="" if again is None or again.applied is None else again.applied.full_sentence,
            why=[] if again is None else list(again.why),
        )


class BeforeAfter(BaseModel):
    """A value of a variable, and in how many records it stood and would stand."""

    value: SideModel
    before: int
    after: int


class PartModel(BaseModel):
    """A part of a tag that is not the same, in words."""

    part: str
    was: str
    now: str

    @classmethod
    def of(cls, part: PartChanged) -> "PartModel":
        return cls(part=part.part, was=in_words(part, part.was), now=in_words(part, part.now))


class PairModel(BaseModel):
    """An entry that became another, and in how many records."""

    old: str
    new: str
    count: int


class VariableMoved(BaseModel):
    """A variable that would not be the same: which parts of its tag, how many entries, how many read otherwise; and its
    values before and after, and the commonest pairs of old and new entries, where they are shown."""

    id: str
    name: str
    parts: list[PartModel]
    pairs: list[PairModel]
    entries: int
    read_otherwise: int
    values: list[BeforeAfter]


class ComparedModel(BaseModel):
    """What differs between two states: variables by name, records by number (the first), other things by kind."""

    same: bool
    came: list[str]
    gone: list[str]
    variables: list[VariableMoved]
    records_came: int
    records_gone: int
    items: list[str]
    order: bool
    entries: int

    @classmethod
    def of(cls, before: Study, after: Study, found: Compared) -> "ComparedModel":
        variables = [
            VariableMoved(
                id=each.id,
                name=after.tag(each.id).name,
                parts=list(map(PartModel.of, each.parts)),
                pairs=_pairs(each) if number < MOST_SHOWN else [],
                entries=each.entries,
                read_otherwise=each.read_otherwise,
                values=_before_after(before, after, each.id) if number < MOST_SHOWN else [],
            )
            for number, each in enumerate(found.variables)
        ]
        return cls(
            same=found.same,
            came=[after.tag(id).name for id in found.came],
            gone=[before.tag(id).name for id in found.gone],
            variables=variables,
            records_came=int(found.records_came.size),
            records_gone=int(found.records_gone.size),
            items=[
                f"{TITLED[shelf].removeprefix('the ')}: {', '.join(_counted(counts))}"
                for shelf, counts in found.items.items()
            ],
            order=found.order,
            entries=found.entries,
        )


class AmendProblem(BaseModel):
    """Why an edit cannot be understood."""

    what: str
    remedy: str

    @classmethod
    def of(cls, error: BadInput) -> "AmendProblem":
        place = f"{error.where}: " if error.where and str(error.where) else ""
        return cls(what=f"{place}{error.what}", remedy=error.remedy)


class AmendLook(BaseModel):
    """What an amendment would make, nothing being kept: what becomes of each step from there on (oldest first), and
    what would differ; or why it cannot be understood."""

    revision: int
    problem: AmendProblem | None = None
    lines: list[AmendedLine] = []
    compared: ComparedModel | None = None

    @classmethod
    def of(cls, revision: int, found: Amended) -> "AmendLook":
        return cls(
            revision=revision,
            lines=list(map(AmendedLine.of, found.lines)),
            compared=ComparedModel.of(found.before, found.after, found.compared),
        )


class NewEdition(BaseModel):
    """A name for a state: that at the head, where none is said."""

    name: Annotated[str, Field(max_length=400)]
    note: Annotated[str, Field(max_length=10_000)] = ""
    state: Number | None = None


class RoutineRequest(BaseModel):
    """The text of a routine, and the name of its file."""

    text: str
    name: Annotated[str, Field(max_length=300)] = "the routine"


class RoutineNow(RoutineRequest):
    """A routine that is to be done, and the revision for which it was looked at."""

    expected: Number


class RoutineLine(BaseModel):
    """What would come of a step of a routine: the line where it stands, what it does, and why it is not done whole."""

    line: int
    do: str
    came: Came
    sentence: str
    why: list[str]

    @classmethod
    def all_of(cls, ran: Ran) -> "list[RoutineLine]":
        """All steps of a routine."""
        return [
            cls(line=each.line, do=each.do, came=each.again.came, sentence=each.sentence, why=list(each.again.why))
            for each in ran.lines
        ]


class RoutineLook(BaseModel):
    """What a routine would do on a study, nothing being kept; or why it cannot be understood."""

    revision: int
    problem: AmendProblem | None = None
    lines: list[RoutineLine] = []
    notes: list[str] = []
    compared: ComparedModel | None = None

    @classmethod
    def of(cls, revision: int, before: Study, ran: Ran) -> "RoutineLook":
        found = ComparedModel.of(before, ran.study, compared(before, ran.study))
        return cls(revision=revision, lines=RoutineLine.all_of(ran), notes=ran.notes, compared=found)


class NextWaveRequest(BaseModel):
    """The file of the next wave (its id), by which head a column goes there (per head in the diary), from which sheet
    it is read, and which routine is followed: its text, or the diary of the study itself, with what concerns single
    records where that is asked for."""

    file: Annotated[str, Field(max_length=80)]
    columns: dict[str, str] = {}
    sheet: Annotated[str, Field(max_length=200)] | None = None
    routine: RoutineRequest | None = None
    single_records: bool = False


class NextWaveNow(NextWaveRequest):
    """The next wave as a study of its own, under a title."""

    title: Annotated[str, Field(max_length=400)]


class TagCompared(BaseModel):
    """A variable that two codebooks have otherwise."""

    name: str
    parts: list[PartModel]


class CodebooksModel(BaseModel):
    """What differs between two codebooks whose variables meet by name."""

    came: list[str]
    gone: list[str]
    changed: list[TagCompared]

    @classmethod
    def of(cls, found: CodebooksCompared) -> "CodebooksModel":
        return cls(
            came=list(found.came),
            gone=list(found.gone),
            changed=[
                TagCompared(name=name, parts=list(map(PartModel.of, parts))) for name, parts in found.parts.items()
            ],
        )


class NextWaveLook(BaseModel):
    """What the next wave would be, nothing being kept; or why its file or routine cannot be understood.

    `likely` says what columns that are gone may be called now, `strays` are entries that
    the tags cannot account for and of which there were none before.
    """

    problem: AmendProblem | None = None
    records: int = 0
    variables: int = 0
    lines: list[RoutineLine] = []
    columns_gone: list[str] = []
    likely: dict[str, str] = {}
    columns_new: list[str] = []
    strays: dict[str, list[str]] = {}
    notes: list[str] = []
    left_out: int = 0
    """Steps that are left out, since they concern single records of the first file."""
    codebooks: CodebooksModel | None = None

    @classmethod
    def of(cls, before: Study, ran: Ran) -> "NextWaveLook":
        return cls(
            records=ran.study.records.count,
            variables=len(ran.study.order),
            lines=RoutineLine.all_of(ran),
            columns_gone=ran.gone,
            likely=ran.likely,
            columns_new=ran.new,
            strays=ran.strays,
            notes=ran.notes,
            left_out=ran.left_out,
            codebooks=CodebooksModel.of(codebooks_compared(before, ran.study)),
        )


def _counted(counts: tuple[int, int, int]) -> list[str]:
    return [f"{number:,} {word}" for number, word in zip(counts, ("new", "gone", "changed"), strict=True) if number]


def _pairs(each: VariableCompared) -> list[PairModel]:
    told = each.old_by_new.pairs[:MOST_PAIRS] if each.old_by_new is not None else ()
    return [PairModel(old=pair.old, new=pair.new, count=pair.count) for pair in told]


def _before_after(before: Study, after: Study, id: str) -> list[BeforeAfter]:
    """The values of a variable in two states, those of the later one first."""
    was, now = sides(before, id), sides(after, id)

    def key(side: Side) -> tuple[str, str, bool]:
        return side.code, side.reading, side.different > 1

    old = {key(side): side for side in was}
    new = {key(side): side for side in now}
    return [
        BeforeAfter(
            value=SideModel.of(side), before=old[at].count if at in old else 0, after=new[at].count if at in new else 0
        )
        for at, side in {**new, **{at: side for at, side in old.items() if at not in new}}.items()
    ]
