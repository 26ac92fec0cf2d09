"""Steps on code lists and missing codes. A code stands in one place only: in the list, or as missing."""

from collections.abc import Callable, Iterable
from typing import Annotated, Any, Literal, TypeVar

from pydantic import Field

from rowtag.core.errors import BadInput
from rowtag.core.reading import canonical_code, tidy_one
from rowtag.core.steps.base import Applied, Ids, Place, Step, Supplies, names_of, parts_found, register
from rowtag.core.study import Study
from rowtag.core.tag import CodeLine, CodeSpan, MissingLine, Tag
from rowtag.core.words import counted

Line = TypeVar("Line", bound=CodeSpan)
Key = tuple[str, ...]


def line_key(line: CodeSpan, kind: str) -> Key:
    """What makes two lines the same line under a type: their exact code or ends, not their spelling."""

    def spelled(code: str | None) -> str:
        return "" if code is None else canonical_code(code, kind) or tidy_one(code)

    return ("code", spelled(line.code)) if line.code is not None else ("range", spelled(line.low), spelled(line.high))


def without(lines: Iterable[Line], gone: Iterable[Key], kind: str) -> tuple[Line, ...]:
    """The lines whose keys are not among `gone`."""
    keys = set(gone)
    return tuple(line for line in lines if line_key(line, kind) not in keys)


def merged(lines: Iterable[Line], more: Iterable[Line], kind: str) -> tuple[Line, ...]:
    """The lines with `more` put in: in place of the line with the same key, else at the end."""
    out = {line_key(line, kind): line for line in lines}
    for line in more:
        out[line_key(line, kind)] = line
    return tuple(out.values())


class CodeStep(Step):
    """A step that changes code lines and missing lines of some tags."""

    variables: Ids

    def expects(self, study: Study) -> dict[Place, Any]:
        return parts_found(study, self.variables, ["codes", "missing", "type"])

    def _on_each(self, study: Study, change: Callable[[Tag], Tag], sentence: str) -> Applied:
        tags = {id: change(study.tag(id)) for id in self.variables}
        return Applied(study.with_tags(tags), sentence, self.variables)


@register
class ListCodes(CodeStep):
    """Puts lines into code lists: a new line at the end, a known one gets the new label."""

    do: Literal["list codes"] = "list codes"
    lines: Annotated[tuple[CodeLine, ...], Field(min_length=1)]

    def change(self, study: Study, supplies: Supplies) -> Applied:
        def changed(tag: Tag) -> Tag:
            keys = [line_key(line, tag.type) for line in self.lines]
            return tag.with_parts(
                codes=merged(tag.codes, self.lines, tag.type), missing=without(tag.missing, keys, tag.type)
            )

        said = ", ".join(f"{line.shown} “{line.label}”" if line.label else line.shown for line in self.lines[:4])
        more = f" and {len(self.lines) - 4} more" if len(self.lines) > 4 else ""
        return self._on_each(study, changed, f"Listed {said}{more} for {names_of(study, self.variables)}")


@register
class MarkMissing(CodeStep):
    """Makes codes, ranges or texts stand for missing answers. A listed code moves and keeps its label."""

    do: Literal["mark missing"] = "mark missing"
    lines: Annotated[tuple[MissingLine, ...], Field(min_length=1)]

    def change(self, study: Study, supplies: Supplies) -> Applied:
        def changed(tag: Tag) -> Tag:
            known: tuple[CodeLine | MissingLine, ...] = (*tag.codes, *tag.missing)
            labels = {line_key(line, tag.type): line.label for line in known}
            lines = [
                line if line.label else line.model_copy(update={"label": labels.get(line_key(line, tag.type), "")})
                for line in self.lines
            ]
            keys = [line_key(line, tag.type) for line in lines]
            return tag.with_parts(
                missing=merged(tag.missing, lines, tag.type), codes=without(tag.codes, keys, tag.type)
            )

        said = ", ".join(f"{line.shown} as missing ({line.reason})" for line in self.lines[:4])
        more = f" and {len(self.lines) - 4} more" if len(self.lines) > 4 else ""
        return self._on_each(study, changed, f"Marked {said}{more} for {names_of(study, self.variables)}")


@register
class DropCodes(CodeStep):
    """Takes lines out of code lists and missing codes. No entry changes."""

    do: Literal["drop codes"] = "drop codes"
    lines: Annotated[tuple[CodeSpan, ...], Field(min_length=1)]

    def change(self, study: Study, supplies: Supplies) -> Applied:
        def changed(tag: Tag) -> Tag:
            keys = [line_key(line, tag.type) for line in self.lines]
            return tag.with_parts(
                codes=without(tag.codes, keys, tag.type), missing=without(tag.missing, keys, tag.type)
            )

        said = ", ".join(line.shown for line in self.lines[:6])
        return self._on_each(study, changed, f"Took {said} off the list of {names_of(study, self.variables)}")


@register
class OrderCodes(CodeStep):
    """Puts the lines of code lists into another order. Lines that are not named follow in their old order."""

    do: Literal["order codes"] = "order codes"
    lines: Annotated[tuple[CodeSpan, ...], Field(min_length=1)]

    def change(self, study: Study, supplies: Supplies) -> Applied:
        def changed(tag: Tag) -> Tag:
            rank = {line_key(line, tag.type): number for number, line in enumerate(self.lines)}
            known = {line_key(line, tag.type) for line in tag.codes}
            if not known & rank.keys():
                raise BadInput(f"None of the named codes is in the list of {tag.name}.")
            ordered = sorted(tag.codes, key=lambda line: rank.get(line_key(line, tag.type), len(rank)))
            return tag.with_parts(codes=tuple(ordered))

        number = counted(len(self.lines), "code")
        return self._on_each(study, changed, f"Put {number} of {names_of(study, self.variables)} into another order")
