"""What the interface says of views, and takes for them."""

from functools import reduce
from operator import or_
from typing import TYPE_CHECKING, Annotated, Literal, get_type_hints

from pydantic import BaseModel, ConfigDict, Field

from rowtag.core.basis import Weights
from rowtag.core.refs import VariableId
from rowtag.core.rules import LONGEST
from rowtag.core.views import VIEWS, View


class ViewRefused(BaseModel):
    """A view that cannot be: in its place stands why."""

    view: Literal["refused"] = "refused"
    title: str
    detail: str


_SHOWN = tuple(get_type_hints(kind.look)["return"] for kind in VIEWS.values())
if TYPE_CHECKING:
    AnyView = View
    Shown = BaseModel
else:
    AnyView = Annotated[reduce(or_, VIEWS.values()), Field(discriminator="view")]
    """Every kind of view."""
    Shown = Annotated[reduce(or_, (*_SHOWN, ViewRefused)), Field(discriminator="view")]
    """What every kind of view shows."""


class ViewsRequest(BaseModel):
    """What somebody wants to look at: of all records or `only` those that meet a condition, each with the `weight` that
    a variable says."""

    views: Annotated[list[AnyView], Field(max_length=2_000)]
    only: Annotated[str, Field(max_length=LONGEST)] | None = None
    weight: VariableId | None = None


class BasisModel(BaseModel):
    """Which records views are made of: of all `records` those `met` by the condition (for `unknown` it cannot be told),
    and of these all but the `unweighed`, by the reading of their weight (0: it is none)."""

    model_config = ConfigDict(from_attributes=True)

    records: int
    met: int
    unknown: int
    unweighed: dict[str, int]
    weights: Weights | None


class ViewsReply(BaseModel):
    """What each view shows, in their order, and the revision it holds for."""

    revision: int
    basis: BasisModel
    shown: list[Shown]
