"""Skips: who gave some answer goes on elsewhere."""

from typing import Annotated, Literal

from pydantic import Field

from rowtag.core.errors import BadInput, NothingToDo
from rowtag.core.refs import VariableId
from rowtag.core.skips import passed_by
from rowtag.core.steps.base import Made, Step, Supplies, register
from rowtag.core.study import Study
from rowtag.core.tag import Skip


@register
class SetSkips(Step):
    """Says where a variable's answers lead: all of its skips, none being no more than that they go on in order."""

    do: Literal["set skips"] = "set skips"
    variable: VariableId
    skips: Annotated[tuple[Skip, ...], Field(max_length=100)] = ()

    def change(self, study: Study, supplies: Supplies) -> Made:
        tag = study.tag(self.variable)
        if self.skips == tag.skips:
            raise NothingToDo(f"{tag.name} leads there already.")
        refuse_leading_back(study, self.variable, self.skips)
        changed = study.with_tags({self.variable: tag.with_parts(skips=self.skips)})
        fresh = [skip for skip in self.skips if skip not in tag.skips]
        gone = [skip for skip in tag.skips if skip not in self.skips and not _again(skip, self.skips)]
        said = [f"{_codes(skip)} of {tag.name} goes on at {_where(study, skip)}" for skip in fresh]
        said += [f"{_codes(skip)} of {tag.name} skips nothing" for skip in gone]
        return Made(changed, f"Said that {'; '.join(said) or f'the skips of {tag.name} stand in another order'}")


def refuse_leading_back(study: Study, id: str, skips: tuple[Skip, ...]) -> None:
    """Raises BadInput where a skip passes nothing by, or leads to no variable of the study."""
    for skip in skips:
        if skip.to is not None:
            study.variable(skip.to)
        if not passed_by(study, id, skip):
            raise BadInput(
                f"Between {study.tag(id).name} and {_where(study, skip)} stands nothing to be skipped.",
                remedy="Name a variable further on in the codebook, or the end.",
            )


def _again(skip: Skip, skips: tuple[Skip, ...]) -> bool:
    return any(skip.codes == other.codes for other in skips)


def _codes(skip: Skip) -> str:
    return " or ".join(skip.codes)


def _where(study: Study, skip: Skip) -> str:
    return "the end" if skip.to is None else study.tag(skip.to).name
