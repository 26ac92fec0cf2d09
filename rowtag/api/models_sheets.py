"""What the HTTP interface says and takes about documents beside a study."""

from typing import Any

from pydantic import BaseModel, Field

from rowtag.core.codebook import Described
from rowtag.core.codebook.reconcile import Difference
from rowtag.core.tag import Parts


class SheetText(BaseModel):
    """A document that was handed in, as text; nothing is kept yet."""

    name: str
    text: str


class SheetLine(BaseModel):
    """A document in the list of them."""

    id: str
    name: str
    lines: int


class DescribedVariable(BaseModel):
    """A variable as a document describes it: which lines, how sure, and the variable of the study it belongs to."""

    name: str
    parts: dict[str, Any]
    lines: tuple[int, int]
    certainty: float
    reason: str
    variable: str | None

    @classmethod
    def of(cls, each: Described, variable: str | None) -> "DescribedVariable":
        return cls(
            name=each.name,
            parts=given_of(each.parts),
            lines=each.lines,
            certainty=each.certainty,
            reason=each.reason,
            variable=variable,
        )


def given_of(parts: Parts) -> dict[str, Any]:
    """Only the parts that were given."""
    return parts.model_dump(mode="json", exclude_unset=True)


class SheetPage(BaseModel):
    """A document with what was understood of it. Lines count from 1."""

    id: str
    name: str
    lines: list[str]
    variables: list[DescribedVariable]
    unplaced: list[int]


class SheetLines(BaseModel):
    """Some lines of a document, both ends included."""

    first: int = Field(ge=1)
    last: int = Field(ge=1)


class SheetParts(BaseModel):
    """What some lines say of one variable."""

    parts: dict[str, Any]


class Matches(BaseModel):
    """Which names of a document mean which variables, where somebody has said so (name → variable id)."""

    matches: dict[str, str] = {}


class Differing(BaseModel):
    """A variable that a document and the study describe differently."""

    variable: str
    name: str
    certainty: float
    lines: tuple[int, int]
    differences: list[Difference]


class Reconciliation(BaseModel):
    """A document against the study, in four groups; `near` are names that may mean a variable (name → id)."""

    revision: int
    agrees: list[str]
    differs: list[Differing]
    only_sheet: list[DescribedVariable]
    only_data: list[str]
    near: dict[str, str]


class TakeRequest(Matches):
    """The differences whose sheet side is taken: per variable their keys, null for all."""

    chosen: dict[str, list[str] | None]


class SheetStep(BaseModel):
    """The step that would take what was chosen, to be previewed or taken like any other."""

    step: dict[str, Any]
