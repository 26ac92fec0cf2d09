"""What the HTTP interface says of the codebook: pages of one or many tags, and what a change would come to."""

from collections.abc import Sequence
from typing import Annotated

from pydantic import BaseModel, Field

from rowtag.api.models import FindingModel, former_names
from rowtag.core.aside import Candidate, suspects
from rowtag.core.checks import findings_on
from rowtag.core.codelist import Alike
from rowtag.core.derive import shown
from rowtag.core.frame import Frame
from rowtag.core.propose.facts import Suspect
from rowtag.core.renaming import NamePattern, NewName
from rowtag.core.skips import kept, passed_by
from rowtag.core.study import Study
from rowtag.core.tables import decimals_found, histogram
from rowtag.core.tag import CodeLine, Marks, MissingLine, Skip, Tag, Type
from rowtag.core.together import Together, together
from rowtag.core.views import FillCounts
from rowtag.core.views.distribution import MOST_ROWS, Distribution, VariableTable, rows_of
from rowtag.core.widths import longest_entry, needed_width


class Kept(BaseModel):
    """An entry that was kept as is, and why."""

    check: str
    entry: str
    reason: str


class ListName(BaseModel):
    """The shared list that a tag uses, and all variables that use it."""

    id: str
    name: str
    variables: list[str]


class SkipShown(BaseModel):
    """A skip: the variables that it passes by, how many records take it, and how many have entries there all the
    same."""

    skip: Skip
    passes: list[str]
    takes: int
    breaks: int

    @classmethod
    def of(cls, study: Study, id: str, skip: Skip) -> "SkipShown":
        """A skip of a variable as the records keep to it."""
        found = kept(study, id, skip)
        return cls(skip=skip, passes=list(passed_by(study, id, skip)), takes=found.takes, breaks=found.breaks)


class CodebookPage(BaseModel):
    """Everything the codebook's page shows of one tag, or of several as one.

    Of several the parts in `differs` are not the same in all; those of the first are given.
    """

    revision: int
    ids: list[str]
    tag: Tag
    differs: list[str]
    codes: list[CodeLine]
    shared: ListName | None
    proposed: bool
    source_name: str | None
    former: list[str]
    derived: str | None
    table: VariableTable
    needed_width: int
    longest: str
    decimals_found: int | None
    suspects: list[Suspect]
    findings: list[FindingModel]
    kept: list[Kept]
    skips: list[SkipShown]


def page_of(study: Study, revision: int, ids: Sequence[str]) -> CodebookPage:
    """The page of one variable, or of several together."""
    alone = len(ids) == 1
    first = study.variable(ids[0])
    joined = together(study, ids) if not alone else None
    differs = joined.differs if joined else frozenset()
    list_id = None if "code_list" in differs else first.tag.code_list
    source = study.shelves["source"].get(first.origin.source or "") if alone else None
    accepted = [each for each in study.shelves["accepted"].values() if each.variable == ids[0]] if alone else []
    decimals = [found for id in ids if (found := decimals_found(study, id)) is not None]
    apart = suspects(study, ids[0]) if alone else ()
    return CodebookPage(
        revision=revision,
        ids=list(ids),
        tag=first.tag,
        differs=sorted(differs),
        codes=[] if "codes" in differs else list(study.codes(ids[0])),
        shared=list_name(study, list_id) if list_id else None,
        proposed=any(study.variable(id).proposed for id in ids),
        source_name=source.name if source else None,
        former=former_names(first) if alone else [],
        derived=shown(first.origin.how, study) if alone and first.origin.how is not None else None,
        table=_joined_table(study, ids, joined) if joined else _table(study, ids[0], apart),
        needed_width=max(needed_width(study, id) for id in ids),
        longest=longest_entry(study, ids[0])[:MOST_ROWS] if alone else "",
        decimals_found=max(decimals, default=None),
        suspects=list(apart),
        findings=[FindingModel.of(finding) for finding in findings_on(study, ids[0])] if alone else [],
        skips=[SkipShown.of(study, ids[0], skip) for skip in first.tag.skips] if alone else [],
        kept=[Kept(check=each.check, entry=each.entry, reason=each.reason) for each in accepted],
    )


def _table(study: Study, id: str, apart: Sequence[Suspect]) -> VariableTable:
    """The table of one variable; its picture leaves out what stands apart."""
    table = Distribution(variable=id).look(Frame(study))
    if not table.histogram:
        return table
    values = {float(each.entry) for each in apart if each.number}
    return table.model_copy(update={"histogram": histogram(study, id, beyond=True, apart=values)})


def _joined_table(study: Study, ids: Sequence[str], joined: Together) -> VariableTable:
    """The table of several variables as one: their values side by side, no figures."""
    rows = rows_of(joined.values)
    for number, row in enumerate(rows):
        row.within, row.mixed = joined.within[number], number in joined.mixed
    first = study.tag(ids[0])
    return VariableTable(
        id=ids[0],
        name=first.name,
        label=first.label,
        question=first.question,
        level=first.level,
        type=first.type,
        pattern=first.pattern,
        coded=any(study.tag(id).wants_codes for id in ids),
        fill=FillCounts.of(joined.values.fill),
        records=study.records.count * len(ids),
        rows=rows,
        row_count=len(joined.values.rows),
    )


def list_name(study: Study, id: str) -> ListName:
    """A shared list and who uses it."""
    return ListName(id=id, name=study.shelves["list"][id].name, variables=list(study.users_of(id)))


class Chosen(BaseModel):
    """Some variables; all of them where none is named."""

    variables: list[str] = Field(default_factory=list)

    def ids(self, study: Study) -> list[str]:
        """Their ids, in codebook order. NotThere where one is gone."""
        for id in self.variables:
            study.variable(id)
        wanted = set(self.variables)
        return [id for id in study.order if not wanted or id in wanted]


class NamesRequest(Chosen):
    """New names by a pattern, or by lines of old and new names."""

    pattern: NamePattern | None = None
    pairs: Annotated[str, Field(max_length=1_000_000)] = ""


class NamesPreview(BaseModel):
    names: list[NewName]
    unknown: list[str]


class OccurrencesRequest(Chosen):
    lines: Annotated[list[MissingLine], Field(min_length=1, max_length=50)]


class Occurrences(BaseModel):
    """Per variable how often each line occurs, in the order of the lines."""

    counts: dict[str, list[int]]


class Candidates(BaseModel):
    candidates: list[Candidate]


class Lists(BaseModel):
    """The shared lists of a study with their lines and users, and lists that could be shared."""

    lists: list["SharedList"]
    alike: list[Alike]


class SharedList(ListName):
    lines: list[CodeLine]


class Width(BaseModel):
    id: str
    declared: int | None
    needed: int


class WidthSaving(BaseModel):
    """What trimming would save: per variable the declared and the needed width, and characters per record."""

    widths: list[Width]
    saving: int
    records: int


class TypeReading(BaseModel):
    """How the entries of a variable read under one type, written as it fits best."""

    type: Type
    marks: Marks
    fill: FillCounts
    unreadable: list[str]


class Readings(BaseModel):
    readings: list[TypeReading]


class KeptList(BaseModel):
    """A code list of the library, which is kept across studies."""

    name: Annotated[str, Field(min_length=1, max_length=64, pattern=r"\S")]
    lines: Annotated[list[CodeLine], Field(min_length=1, max_length=2_000)]


class Changed(BaseModel):
    """Variables that steps have changed since a moment."""

    variables: list[str]
