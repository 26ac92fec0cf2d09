"""What somebody says of a study for it to be checked by: rules that records keep to, and how a check is set."""

from typing import Annotated, Any, Literal

from pydantic import Field, ValidationInfo, model_validator

from rowtag.core.refs import NAMES, VariableId
from rowtag.core.tag import Frozen

Severity = Literal["error", "warning", "note"]
LONGEST = 4_000
"""Characters of a formula."""
MOST_RULES = 2_000
"""Rules of a study, of a text, of a library."""


class Formula(Frozen):
    """A formula as it was written, and the variables that its names stand for, so that it survives any renaming.

    `spans`: what its spans (`a..c`, as they are written) mean, once it is kept; what is not told is what stands there.
    """

    text: Annotated[str, Field(min_length=1, max_length=LONGEST)]
    names: dict[str, VariableId] = Field(default_factory=dict)
    spans: dict[str, tuple[VariableId, ...]] = Field(default_factory=dict)

    @model_validator(mode="before")
    @classmethod
    def _of_text(cls, given: Any, info: ValidationInfo) -> Any:
        """Where names stand in place of ids, the text alone is a formula."""
        if isinstance(given, str) and info.context and NAMES in info.context:
            return {"text": given, "names": {name: name for name in info.context[NAMES](given)}}
        return given


class Rule(Frozen):
    """A condition that every record keeps to, under a title; how severe it is when one does not, and why it holds."""

    title: Annotated[str, Field(min_length=1, max_length=200, pattern=r"\S")]
    holds: Formula
    severity: Severity = "error"
    note: Annotated[str, Field(max_length=2_000)] = ""


class CheckSetting(Frozen):
    """How a check is set in a study: not run at all, or with other thresholds than usual."""

    check: Annotated[str, Field(min_length=1, max_length=200)]
    off: bool = False
    thresholds: dict[str, float] = Field(default_factory=dict)

    @property
    def title(self) -> str:
        """What it is called where it is named."""
        return self.check
