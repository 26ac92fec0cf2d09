"""Steps on tags: define parts of them, rename variables."""

from typing import Annotated, Any, Literal

from pydantic import Field

from rowtag.core.errors import BadInput, NothingToDo
from rowtag.core.names import check_name, key_of
from rowtag.core.refs import VariableId
from rowtag.core.steps.base import Ids, Made, Step, Supplies, names_of, register
from rowtag.core.study import Study
from rowtag.core.tag import Parts, Tag
from rowtag.core.words import counted


@register
class Define(Step):
    """Sets parts of one or many tags. No entry changes, only how entries are read."""

    do: Literal["define"] = "define"
    variables: Ids
    parts: Parts

    def change(self, study: Study, supplies: Supplies) -> Made:
        given = self.parts.given()
        if not given:
            raise BadInput("Nothing was given to be set.", remedy="Name at least one part, such as the label.")
        tags = {id: study.tag(id).redefined(self.parts) for id in self.variables}
        changed = study.with_tags(tags)
        said = ", ".join(_said(part, value) for part, value in self.parts.given().items())
        return Made(changed, f"Set {said} on {names_of(study, self.variables)}")


def _said(part: str, value: Any) -> str:
    """A part and its new value in words."""
    if part in ("codes", "missing"):
        word = {"codes": "code line", "missing": "missing code"}[part]
        return counted(len(value), word)
    if part == "complete":
        return "code list complete" if value else "code list partial"
    if part == "limits":
        return f"limits {value.low or ''} .. {value.high or ''}".rstrip()
    if part == "marks":
        return "how entries are written"
    if value in ("", None):
        return f"no {part}"
    return f"{part} “{value}”" if part in ("label", "question", "note") else f"{part} {value}"


@register
class Rename(Step):
    """Gives variables other names (variable id → name); nothing refers to a variable by its name."""

    do: Literal["rename"] = "rename"
    names: Annotated[dict[VariableId, str], Field(min_length=1)]

    def change(self, study: Study, supplies: Supplies) -> Made:
        olds = {id: study.tag(id).name for id in self.names}
        taken = {key for key, id in study.name_keys.items() if id not in self.names}
        for name in self.names.values():
            check_name(name, taken, study.naming)
            taken.add(key_of(name))
        pairs = [f"{olds[id]} to {name}" for id, name in self.names.items()]
        more = f" and {len(pairs) - 3} more" if len(pairs) > 3 else ""
        return Made(study.with_names(self.names), f"Renamed {', '.join(pairs[:3])}{more}")


Clearable = Literal["label", "question", "codes", "missing", "limits", "display", "note"]
CLEARED: dict[Clearable, tuple[str, ...]] = {
    "label": ("label",),
    "question": ("question",),
    "codes": ("codes", "code_list", "complete"),
    "missing": ("missing",),
    "limits": ("limits",),
    "display": ("width", "decimals", "pattern"),
    "note": ("note",),
}
"""What can be cleared in one go, and the parts of a tag that it means."""


@register
class ClearParts(Step):
    """Clears some parts of tags, such as labels or code lists. No entry changes."""

    do: Literal["clear parts"] = "clear parts"
    variables: Ids
    parts: Annotated[tuple[Clearable, ...], Field(min_length=1)]

    def change(self, study: Study, supplies: Supplies) -> Made:
        names = [name for part in self.parts for name in CLEARED[part]]
        plain = {name: Tag.model_fields[name].default for name in names}
        changed = {}
        for id in self.variables:
            tag = study.tag(id)
            if any(getattr(tag, name) != value for name, value in plain.items()):
                changed[id] = tag.with_parts(**plain)
        said = " and ".join(dict.fromkeys(_CLEARED_WORDS[part] for part in self.parts))
        if not changed:
            raise NothingToDo(f"There is nothing to clear: no {said} on {names_of(study, self.variables)}.")
        return Made(study.with_tags(changed), f"Cleared {said} of {names_of(study, changed)}")


_CLEARED_WORDS: dict[Clearable, str] = {
    "label": "labels",
    "question": "question wordings",
    "codes": "code lists",
    "missing": "missing codes",
    "limits": "limits",
    "display": "widths, decimals and patterns",
    "note": "notes",
}
