"""What a view is: a small frozen specification of what somebody wants to see, with one function over a frame."""

from abc import ABC, abstractmethod
from collections.abc import Mapping
from typing import Any

from pydantic import BaseModel, ConfigDict, ValidationError

from rowtag.core.errors import BadInput
from rowtag.core.frame import Frame
from rowtag.core.problems import problems
from rowtag.core.reading import Fill
from rowtag.core.tag import Frozen


class FillCounts(BaseModel):
    """The four shares of a variable; strays in their two kinds too."""

    model_config = ConfigDict(from_attributes=True)

    valid: int
    missing: int
    blank: int
    stray: int
    unreadable: int
    unlisted: int

    @classmethod
    def of(cls, fill: Fill) -> "FillCounts":
        """A fill as it is told."""
        return cls.model_validate(fill)


class View(Frozen, ABC):
    """One thing to look at. A kind of view is one class under one registered name (`view`)."""

    @abstractmethod
    def look(self, frame: Frame) -> BaseModel:
        """What it shows of the records of a frame; its part `view` says of which kind it is. Raises NotThere where a
        variable is gone."""


VIEWS: dict[str, type[View]] = {}
"""All kinds of view under their registered names."""


def register(kind: type[View]) -> type[View]:
    """Makes a kind of view known under the name its `view` carries."""
    VIEWS[kind.model_fields["view"].default] = kind
    return kind


def load_view(data: Mapping[str, Any]) -> View:
    """A view read strictly from JSON data."""
    kind = VIEWS.get(str(data.get("view")))
    if kind is None:
        raise BadInput(f"There is no view called “{data.get('view')}”.", remedy=f"Views: {', '.join(sorted(VIEWS))}.")
    try:
        return kind.model_validate(data)
    except ValidationError as error:
        raise BadInput(f"This view is not complete: {problems(error)}.") from None
