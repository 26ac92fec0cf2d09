"""What the HTTP interface says and takes. The front end's types are generated from these."""

from collections.abc import Iterable, Sequence
from functools import reduce
from operator import or_
from typing import TYPE_CHECKING, Annotated, Any, Literal

from pydantic import BaseModel, BeforeValidator, ConfigDict, Field

from rowtag.api.bodies import Number, StepId
from rowtag.core.checks import FAMILIES, Evidence, Finding, findings_on, is_ready
from rowtag.core.checks.base import CHECKS
from rowtag.core.keying import is_tick
from rowtag.core.remedies import remedies
from rowtag.core.steps import STEPS, Step, dump, up_to_date
from rowtag.core.study import Study, Variable
from rowtag.core.tag import Level, Pattern, Type, Use
from rowtag.core.touched import OldByNew, parts_between
from rowtag.core.views import FillCounts
from rowtag.core.worked_out import accepted, entries, reading, records, settings, words, worked_out
from rowtag.formats.writers import WRITERS, Writer
from rowtag.formats.written import Options
from rowtag.service.handover import usual_writers
from rowtag.service.looking import Share
from rowtag.store.workspace import Entry

_ALONE = tuple(kind for kind in STEPS.values() if not kind.needs_supplies)


def _read_step(given: Any) -> Any:
    """A written step as `load` reads it: brought up to date, what was not given left out."""
    known = isinstance(given, dict) and isinstance(given.get("do"), str) and given["do"] in STEPS
    return up_to_date(given) if known else given


if TYPE_CHECKING:
    AnyStep = Step
    AnyWriter = Writer
else:
    AnyStep = Annotated[reduce(or_, _ALONE), Field(discriminator="do"), BeforeValidator(_read_step)]
    """Every step that needs nothing but itself (bringing in goes through the intake)."""
    AnyWriter = Annotated[reduce(or_, WRITERS.values()), Field(discriminator="writer")]
    """Every kind of writer."""


class NewStudy(BaseModel):
    title: str


class CopyRequest(NewStudy):
    """The title of a copy, and whether it holds everything or the codebook alone."""

    records: bool = True


class RescuedStudy(BaseModel):
    """What could be read of a damaged study: a study of its own, with how many of its steps, of how many."""

    entry: Entry
    steps: int
    of: int


class TagStrip(BaseModel):
    """What a tag shows wherever it stands."""

    id: str
    name: str
    label: str
    question: str
    level: Level
    type: Type
    use: Use
    pattern: Pattern
    battery: str | None
    fill: FillCounts
    findings: int
    ready: bool
    wants_codes: bool
    proposed: bool
    has_codes: bool
    ticks: bool
    """Whether it says of a thing that it was ticked (1) or not (0), and nothing else."""
    former: list[str]


class TouchedParts(BaseModel):
    """What is otherwise since: variables whose tags or entries are, shelves, and whether order or records are."""

    tags: list[str] = []
    entries: list[str] = []
    shelves: list[str] = []
    order: bool = False
    records: bool = False


class Overview(BaseModel):
    """A study at its head, or as it was in an edition: everything the frame shows. `order` names all tags, `variables`
    holds those asked for; `touched` says what is otherwise since the revision that was named, where that is known."""

    id: str
    title: str
    revision: int
    state: int
    records: int
    fill: FillCounts
    touched: TouchedParts | None = None
    order: list[str]
    variables: list[TagStrip]
    batteries: dict[str, str]
    lists: dict[str, str]
    findings: int
    ready: int
    undo: str | None
    redo: str | None
    kept_at: str
    edition: str | None


class RemedyModel(BaseModel):
    """A way to put a finding right: in a few words, and the step, whose effect can be asked for beforehand."""

    word: str
    step: dict[str, Any]


class FindingModel(BaseModel):
    """One finding, with at most the first entries of its evidence."""

    check: str
    family: str
    severity: Literal["error", "warning", "note"]
    variable: str
    others: list[str]
    message: str
    count: int
    evidence: list[Evidence]
    evidence_count: int
    leads: bool
    """Whether it leads to records."""
    of_records: bool = False
    """Whether it is about whole records, rather than about its variables."""
    which: str = ""
    before: str = ""
    table: list[list[str]] = Field(default_factory=list)
    remedies: list["RemedyModel"] = Field(default_factory=list)

    @classmethod
    def of(cls, finding: Finding, most: int = 50, study: Study | None = None) -> "FindingModel":
        """A finding; with its remedies where the study is given."""
        found = remedies(study, finding) if study is not None else ()
        return cls(
            remedies=[RemedyModel(word=each.word, step=dump(each.step)) for each in found],
            check=finding.check,
            family=CHECKS[finding.check].family,
            severity=finding.severity,
            variable=finding.variable,
            others=list(finding.others),
            message=finding.message,
            count=finding.count,
            which=finding.which,
            before=finding.before,
            table=[list(row) for row in finding.table],
            evidence=list(finding.evidence[:most]),
            evidence_count=finding.different,
            of_records=CHECKS[finding.check].scope == "records" and CHECKS[finding.check].family == "records",
            leads=bool(finding.count and (CHECKS[finding.check].tokens or CHECKS[finding.check].records)),
        )


class StepRequest(BaseModel):
    """A step under the id its client gave it, the revision it was made for, and own steps that were laid over it."""

    id: StepId
    base: Number
    over: list[str] = []
    step: AnyStep


class PreviewRequest(BaseModel):
    step: AnyStep


class Account(BaseModel):
    """What a step changed. `arrived` is the number of the newest record there was then (0 where it is not known)."""

    variables: list[str]
    entries: int
    before: FillCounts
    after: FillCounts
    touched: TouchedParts = TouchedParts()
    arrived: int = 0
    evidence: list[OldByNew] = []


class StepOutcome(BaseModel):
    step_id: str
    revision: int
    state: int
    sentence: str
    account: Account
    at: str
    by: str


class TagChange(BaseModel):
    """Which parts of a tag a step would change, and its strays before and after."""

    id: str
    parts: list[str]
    strays_before: int
    strays_after: int


class StepPreview(BaseModel):
    """What a step would do. `changes` names the tags that would be other than they are."""

    sentence: str
    account: Account
    changes: list[TagChange]


class SeveralRequest(BaseModel):
    """Steps that are to be taken one after the other."""

    steps: Annotated[list[AnyStep], Field(min_length=1, max_length=1_000)]


class SeveralPreview(BaseModel):
    """What steps would do one after the other: shares of the variables that they change, before the first and after the
    last; and the sentences of those that cannot be done."""

    done: int
    before: FillCounts
    after: FillCounts
    refused: list[str]


class HandoverRequest(BaseModel):
    """How a study is handed over: the files, or the usual ones with entries written as `options` say; as it is now, or
    as it was in an edition."""

    edition: str = "now"
    options: Options = Options()
    writers: list[AnyWriter] | None = None

    def chosen(self) -> Sequence[Writer]:
        """The writers of the files."""
        return usual_writers(self.options) if self.writers is None else self.writers


class HeadRequest(BaseModel):
    """Where the head should go; `expected` is the revision that the client sees, `over` own steps laid over it."""

    to: Literal["undo", "redo", "go"]
    expected: Number
    over: list[str] = []
    state: Number | None = None


class HeadReply(BaseModel):
    revision: int
    touched: TouchedParts


class DiaryLineModel(StepOutcome):
    model_config = ConfigDict(from_attributes=True)

    current: bool
    do: str
    again: bool
    instead: str | None


class DiaryRun(BaseModel):
    """Steps of one run of work, newest first, and the sentence that tells them together."""

    sentence: str
    lines: list[DiaryLineModel]


class DiaryPage(BaseModel):
    """Runs, newest first; `more` is the revision behind which the next page continues, if there is one."""

    runs: list[DiaryRun]
    count: int
    more: int | None


class MapRow(BaseModel):
    """One family of checks across all variables: per variable the worst severity found, or nothing."""

    family: str
    marks: list[Literal["", "note", "warning", "error"]]


class CheckReport(BaseModel):
    """All findings. Those across variables and records are worked out beside: `across` is the revision they hold for,
    nothing where they have not been worked out yet."""

    revision: int
    across: int | None
    findings: list[FindingModel]
    map: list[MapRow]
    accepted: int
    readiness: list[Literal["ready", "accepted", "open"]]
    """Per variable: nothing is open; nothing but what was accepted; or something is."""
    set: int
    """Checks that are not done as usual."""


class RecordNumbers(BaseModel):
    """Record numbers, and the rows in which these records stand (from 0); null where one is not among those shown."""

    records: list[int]
    positions: list[int | None]


class NextStray(BaseModel):
    """A stray on the walk through all: its record, the row in which that stands (from 0; null where it is not among
    those shown), its variable, and the how-manieth (from 1) of how many it is."""

    record: int
    position: int | None
    variable: str
    number: int
    of: int


@worked_out(reading, words, entries, records, accepted, settings)
def strip_of(study: Study, id: str) -> TagStrip:
    """A tag as its strip; remembered for as long as nothing that it shows changes."""
    variable = study.variable(id)
    tag = variable.tag
    return TagStrip(
        id=id,
        name=tag.name,
        label=tag.label,
        question=tag.question,
        level=tag.level,
        type=tag.type,
        use=tag.use,
        pattern=tag.pattern,
        battery=tag.battery,
        fill=FillCounts.of(study.fill(id)),
        findings=sum(finding.severity != "note" for finding in findings_on(study, id)),
        ready=is_ready(study, id),
        wants_codes=tag.wants_codes,
        proposed=variable.proposed,
        has_codes=bool(study.codes(id)),
        ticks=is_tick(study, id),
        former=former_names(variable),
    )


def former_names(variable: Variable) -> list[str]:
    """Names a variable had before, in its file too."""
    names = dict.fromkeys((variable.origin.name, *variable.former))
    return [name for name in names if name and name != variable.tag.name]


def changes_of(before: Study, after: Study, ids: Iterable[str]) -> list[TagChange]:
    """The tags among some that differ between two states, in codebook order; new and removed ones left out."""
    out = []
    wanted = set(ids)
    for id in before.order:
        if id not in wanted or id not in after.variables:
            continue
        was, now = before.tag(id), after.tag(id)
        parts = list(parts_between(was, now))
        if before.codes(id) != after.codes(id) and "codes" not in parts:
            parts.append("codes")
        if parts:
            strays = before.fill(id).stray, after.fill(id).stray
            out.append(TagChange(id=id, parts=parts, strays_before=strays[0], strays_after=strays[1]))
    return out


def share_of(study: Study, id: str) -> Share:
    """What one variable adds to the totals of a study."""
    strip = strip_of(study, id)
    open_findings = sum(finding.severity != "note" for finding in findings_on(study, id))
    return Share(study.fill(id), open_findings, int(strip.ready))


def map_of(study: Study, findings: Sequence[Finding]) -> list[MapRow]:
    """The coding map: families of checks by variables, the worst severity in each place."""
    worst: dict[tuple[str, str], Any] = {}
    for finding in reversed(findings):  # worst first, so the worst is written last
        worst[CHECKS[finding.check].family, finding.variable] = finding.severity
    return [MapRow(family=family, marks=[worst.get((family, id), "") for id in study.order]) for family in FAMILIES]
