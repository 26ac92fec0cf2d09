"""References: types that say what of a study a value names. Whatever a step refers to is told from its types alone.

`Ref` marks a type. From the marks of a model come its references, the same model with other ids, and the words for
what it names; no kind of step says any of this by hand.
"""

from collections.abc import Callable, Iterable, Mapping
from contextlib import suppress
from dataclasses import dataclass
from functools import cache
from types import NoneType, UnionType
from typing import Annotated, Any, Literal, TypeVar, Union, get_args, get_origin

from pydantic import AfterValidator, BaseModel, Field, ValidationInfo, ValidatorFunctionWrapHandler, WrapValidator

Kind = Literal["variable", "list", "battery", "section", "sheet", "source", "record", "view", "comment", "rule"]
Model = TypeVar("Model", bound=BaseModel)


@dataclass(frozen=True)
class Ref:
    """Marks a type whose values name something of this kind; one that `may_be_new` names what comes with it, too, and
    one that `is_gone` what was taken out and may be put back."""

    kind: Kind
    may_be_new: bool = False
    is_gone: bool = False


NAMES = "names"
"""The context in which models are read that have names in place of ids, and identifiers in place of record numbers;
under it stands what tells the names within a formula."""


def _named(info: ValidationInfo) -> bool:
    return bool(info.context and NAMES in info.context)


def _new_id(value: str, info: ValidationInfo) -> str:
    if not _named(info) and not 4 <= len(value) <= 40:
        raise ValueError("an id has 4 to 40 characters")
    return value


def _record_number(value: Any, handler: ValidatorFunctionWrapHandler, info: ValidationInfo) -> Any:
    return value if _named(info) and isinstance(value, str) else handler(value)


NewId = Annotated[str, Field(json_schema_extra={"minLength": 4, "maxLength": 40}), AfterValidator(_new_id)]
"""An id that somebody made for something new."""

VariableId = Annotated[str, Ref("variable")]
ListId = Annotated[str, Ref("list")]
BatteryId = Annotated[str, Ref("battery")]
SectionId = Annotated[str, Ref("section")]
SheetId = Annotated[str, Ref("sheet")]
ViewId = Annotated[str, Ref("view")]
CommentId = Annotated[str, Ref("comment")]
RuleId = Annotated[str, Ref("rule")]
RecordNumber = Annotated[int, WrapValidator(_record_number), Ref("record")]

RemovedRecordNumber = Annotated[int, WrapValidator(_record_number), Ref("record", is_gone=True)]

NewVariableId = Annotated[NewId, Ref("variable", may_be_new=True)]
NewListId = Annotated[NewId, Ref("list", may_be_new=True)]
NewBatteryId = Annotated[NewId, Ref("battery", may_be_new=True)]
NewSectionId = Annotated[NewId, Ref("section", may_be_new=True)]
NewSheetId = Annotated[NewId, Ref("sheet", may_be_new=True)]
NewViewId = Annotated[NewId, Ref("view", may_be_new=True)]
NewRuleId = Annotated[NewId, Ref("rule", may_be_new=True)]
NewCommentId = Annotated[NewId, Ref("comment", may_be_new=True)]
NewSourceId = Annotated[str, Ref("source", may_be_new=True)]


@dataclass(frozen=True)
class Reference:
    """What a model names: a kind of thing, and its id (or record number)."""

    ref: Ref
    id: Any


Change = Callable[[Ref, Any], Any]
_Walk = Callable[[Any, Change], Any]


def references(model: BaseModel) -> tuple[Reference, ...]:
    """Everything that a model names, each once, in the order of its parts."""
    found: dict[Reference, None] = {}

    def note(ref: Ref, id: Any) -> Any:
        found[Reference(ref, id)] = None
        return id

    mapped(model, note)
    return tuple(found)


def mapped(model: Model, change: Change) -> Model:
    """The same model with what `change` gives in place of each id; what was not given stays so."""
    walk = _walk_model(type(model))
    return model if walk is None else walk(model, change)


class Lost(Exception):
    """Raised by a change for what is not there: what cannot do without it goes with it."""


def without_lost(model: Model, change: Change) -> Model | None:
    """The same model with what `change` gives in place of each id, and without the elements of its lists and mappings
    for which it raises `Lost`; None where that leaves nothing of one of them, or the model itself names what is lost.
    """
    walk = _walk_model(type(model))
    if walk is None:
        return model
    try:
        found: Model = walk(model, _Leaving(change))
    except Lost:
        return None
    return found


@dataclass(frozen=True)
class _Leaving:
    """A change whose losses are left out of lists and mappings."""

    change: Change

    def __call__(self, ref: Ref, id: Any) -> Any:
        return self.change(ref, id)


def _each(items: Iterable[Any], work: Callable[[Any], Any], change: Change) -> list[Any]:
    """What becomes of the elements of a list or mapping; where losses are left out, of those that stay."""
    if not isinstance(change, _Leaving):
        return [work(item) for item in items]
    all_items, out = list(items), []
    for item in all_items:
        with suppress(Lost):
            out.append(work(item))
    if all_items and not out:
        raise Lost
    return out


@cache
def _walk_model(kind: type[BaseModel]) -> _Walk | None:
    walks: dict[str, _Walk] = {}
    for name, field in kind.model_fields.items():
        walk = _walk(Annotated[(field.annotation, *field.metadata)] if field.metadata else field.annotation)
        if walk is not None:
            walks[name] = walk
    if not walks:
        return None

    def whole(model: Any, change: Change) -> Any:
        given = {name: getattr(model, name) for name in walks if name in model.model_fields_set}
        new = {name: walks[name](value, change) for name, value in given.items()}
        return model.model_copy(update={name: value for name, value in new.items() if value != given[name]})

    return whole


def _walk(hint: Any) -> _Walk | None:
    """How the ids in values of a type are found and changed; None where it holds none."""
    origin, args = get_origin(hint), get_args(hint)
    if origin is Annotated:
        ref = next((mark for mark in args[1:] if isinstance(mark, Ref)), None)
        return _walk(args[0]) if ref is None else lambda value, change: change(ref, value)
    if origin in (Union, UnionType):
        return _walk_union([arg for arg in args if arg is not NoneType])
    if origin in (tuple, list):
        each = _walk(args[0])
        return (
            None if each is None else lambda value, change: origin(_each(value, lambda one: each(one, change), change))
        )
    if origin in (dict, Mapping):
        return _walk_pairs(_walk(args[0]), _walk(args[1]))
    if isinstance(hint, type) and issubclass(hint, BaseModel):
        return _walk_model(hint)
    return None


def _walk_union(hints: list[Any]) -> _Walk | None:
    walks = [walk for walk in map(_walk, hints) if walk is not None]
    assert len(walks) <= 1, "of several kinds of value only one may name something"
    if not walks:
        return None
    (only,) = walks
    return lambda value, change: None if value is None else only(value, change)


def _walk_pairs(key: _Walk | None, value: _Walk | None) -> _Walk | None:
    if key is None and value is None:
        return None

    def pairs(found: Any, change: Change) -> Any:
        def pair(item: tuple[Any, Any]) -> tuple[Any, Any]:
            name, each = item
            return (key(name, change) if key else name), (value(each, change) if value else each)

        return dict(_each(found.items(), pair, change))

    return pairs
