"""What the HTTP interface says and takes about documents beside a study."""

from dataclasses import asdict
from typing import Annotated, Any

from pydantic import BaseModel, Field

from rowtag.api.models_codebook import Chosen
from rowtag.core.codebook import Described
from rowtag.core.codebook.reconcile import evidence
from rowtag.core.steps import Step
from rowtag.core.study import Otherwise
from rowtag.core.tag import Parts
from rowtag.documents.document import Document
from rowtag.documents.variable_table import ColumnRole
from rowtag.service.sheets import Compared

SHOWN_ROWS, SHOWN_CELL = 6, 60
"""Rows of a table of variables that are shown, and characters of a cell."""


class TableSeen(BaseModel):
    """A table of variables as it was read: its heads, what each column holds, its first rows; sheets to choose from."""

    sheets: list[str]
    sheet: str | None
    heads: list[str]
    columns: list[ColumnRole]
    rows: list[list[str]]

    @classmethod
    def of(cls, document: Document) -> "TableSeen | None":
        table = document.table
        if table is None:
            return None
        rows = [[cell[:SHOWN_CELL] for cell in row] for row in table.rows[:SHOWN_ROWS]]
        heads, columns = list(table.heads), list(table.columns)
        return cls(sheets=list(document.sheets), sheet=table.sheet, heads=heads, columns=columns, rows=rows)


class SheetText(BaseModel):
    """A document that was handed in, as text; nothing is kept yet."""

    name: str
    text: str
    table: TableSeen | None


class CodebookOffer(BaseModel):
    """A sheet of a workbook that describes the columns of the one that is brought in: how many of how many."""

    sheet: str
    text: str
    described: int
    columns: int


class CodeLinesRequest(BaseModel):
    """Code lines as somebody typed or pasted them."""

    text: Annotated[str, Field(max_length=1_000_000)]


class SheetLine(BaseModel):
    """A document in the list of them."""

    id: str
    name: str
    lines: int


class DescribedVariable(BaseModel):
    """A variable as a document describes it: which lines, how sure, and the variable of the study it belongs to."""

    name: str
    parts: dict[str, Any]
    first: int
    last: int
    certainty: float
    reason: str
    battery: str | None
    skips: list[str]
    variable: str | None

    @classmethod
    def of(cls, each: Described, variable: str | None) -> "DescribedVariable":
        return cls(
            name=each.name,
            parts=given_of(each.parts),
            first=each.lines[0],
            last=each.lines[1],
            certainty=each.certainty,
            reason=each.reason,
            battery=each.battery,
            skips=[skip.shown for skip in each.skips],
            variable=variable,
        )


def given_of(parts: Parts) -> dict[str, Any]:
    """Only the parts that were given."""
    return parts.model_dump(mode="json", exclude_unset=True)


class SheetPage(BaseModel):
    """A document with what was understood of it, and what was said otherwise of its lines. Lines count from 1."""

    id: str
    name: str
    lines: list[str]
    variables: list[DescribedVariable]
    unplaced: list[int]
    otherwise: list[Otherwise]


class SheetLines(BaseModel):
    """Some lines of a document, both ends included, and the variables that they are to be compared with."""

    first: int = Field(ge=1)
    last: int = Field(ge=1)
    variables: list[str] = []


class Change(BaseModel):
    """Strays and valid entries of a variable, now and then, and what its data say of the difference."""

    strays_before: int
    strays_after: int
    valid_before: int
    valid_after: int
    data: str


def change_of(each: Compared) -> Change | None:
    """What taking one difference does to the readings; none where it does not concern them."""
    was, now = each.before, each.after
    if now is None:
        return None
    return Change(
        strays_before=was.stray,
        strays_after=now.stray,
        valid_before=was.valid,
        valid_after=now.valid,
        data=evidence(each.difference, was, now),
    )


class DifferenceModel(BaseModel):
    """One part that a document and the study say differently; `adds`: the study has nothing there.

    `effect`: what taking the document's side would do to the readings, where it concerns them.
    """

    key: str
    part: str
    sheet: str
    study: str
    data: str
    adds: bool
    effect: Change | None

    @classmethod
    def of(cls, each: Compared) -> "DifferenceModel":
        return cls(**asdict(each.difference), adds=each.difference.adds, effect=change_of(each))


class LinesDiffer(BaseModel):
    """What some lines say otherwise than a variable's tag."""

    variable: str
    differences: list[DifferenceModel]


class SheetParts(BaseModel):
    """What some lines say of one variable, how some variables differ from that, and the step that takes it all."""

    parts: dict[str, Any]
    differs: list[LinesDiffer]
    step: dict[str, Any] | None


class Effects(BaseModel):
    """Per variable what taking each of its differences would do to the readings, where it concerns them."""

    effects: dict[str, dict[str, Change]]


class Matches(BaseModel):
    """Which names of a document mean which variables, where somebody has said so (name → variable id)."""

    matches: dict[str, str] = {}


class Differing(BaseModel):
    """A variable that a document and the study describe differently."""

    variable: str
    name: str
    certainty: float
    reason: str
    first: int
    last: int
    differences: list[DifferenceModel]


class Reconciliation(BaseModel):
    """A document against the study, in four groups; `near` are names that may mean a variable (name → id)."""

    revision: int
    agrees: list[str]
    differs: list[Differing]
    only_sheet: list[DescribedVariable]
    only_data: list[str]
    near: dict[str, str]


class EffectsRequest(Matches):
    """The variables whose effects are wanted."""

    variables: list[str]


class NewText(Matches):
    """What variables that only the document has are to be called instead."""

    called: dict[str, str] = {}


class TakeRequest(NewText):
    """The differences whose sheet side is taken: per variable their keys, null for all. `added`: names of variables
    that only the document has and that are added."""

    chosen: dict[str, list[str] | None] = {}
    added: list[str] = []


def step_json(step: Step) -> dict[str, Any]:
    """A step as it is previewed and taken."""
    return {"do": step.do, **step.model_dump(mode="json", exclude_unset=True)}  # type: ignore[attr-defined]


class NotationText(BaseModel):
    """Codebook text."""

    text: str


class NotationRequest(Chosen):
    """Codebook text, and the variables it is for: as a `whole` it says all there is to say of them, else it is put
    onto them."""

    text: str
    whole: bool


class NotationReading(BaseModel):
    """What codebook text means: what is otherwise on which tags, names that are new, variables asked for that are not
    in it and stay as they are, and the step, unless the text says what stands there."""

    differs: list[LinesDiffer]
    new: list[str]
    absent: list[str]
    step: dict[str, Any] | None


class SheetStep(BaseModel):
    """The step that would take what was chosen, to be previewed or taken like any other."""

    step: dict[str, Any]
