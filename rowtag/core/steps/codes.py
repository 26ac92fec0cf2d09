"""Steps on code lists and missing codes. A code stands in one place only: in the list, or as missing.

A variable that uses a shared list has its lines there: what changes them changes the list, for all who use it.
Missing codes are always a tag's own; a shared line that one tag sets aside stays in the list for the others.
"""

from collections.abc import Callable, Sequence
from typing import Annotated, ClassVar, Literal

from pydantic import Field

from rowtag.core.codelist import line_key, merged, without
from rowtag.core.errors import BadInput
from rowtag.core.steps.base import Ids, Made, Step, Supplies, names_of, register
from rowtag.core.study import CodeList, Study
from rowtag.core.tag import CodeLine, CodeSpan, Frozen, LabelText, MissingLine, Tag
from rowtag.core.words import counted


class CodeStep(Step):
    """A step that changes code lines and missing lines of some tags."""

    variables: Ids
    changes_shared: ClassVar[bool] = True

    def _on_each(self, study: Study, change: Callable[[Tag], Tag], sentence: str) -> Made:
        """The study with each tag changed, as if the lines of a shared list were the tag's own."""
        tags: dict[str, Tag] = {}
        lists: dict[str, CodeList] = {}
        for id in self.variables:
            tag = study.tag(id)
            if tag.code_list is None:
                tags[id] = change(tag)
                continue
            shared: CodeList = lists.get(tag.code_list) or study.shelves["list"][tag.code_list]
            lent = change(tag.with_parts(codes=shared.lines))
            tags[id] = lent.with_parts(codes=tag.codes)
            if self.changes_shared and lent.codes != shared.lines:
                lists[tag.code_list] = shared.model_copy(update={"lines": lent.codes})
        changed = study.put("list", lists).with_tags(tags) if lists else study.with_tags(tags)
        others = {list_id: [id for id in study.users_of(list_id) if id not in tags] for list_id in lists}
        notes = tuple(
            f"the list “{lists[list_id].name}” changed, and {names_of(study, users)} with it"
            for list_id, users in others.items()
            if users
        )
        return Made(changed, sentence, notes=notes)


@register
class ListCodes(CodeStep):
    """Puts lines into code lists: a new line at the end, a known one gets the new label."""

    do: Literal["list codes"] = "list codes"
    lines: Annotated[tuple[CodeLine, ...], Field(min_length=1)]

    def change(self, study: Study, supplies: Supplies) -> Made:
        def changed(tag: Tag) -> Tag:
            keys = [line_key(line, tag.type) for line in self.lines]
            return tag.with_parts(
                codes=merged(tag.codes, self.lines, tag.type), missing=without(tag.missing, keys, tag.type)
            )

        said = ", ".join(f"{line.shown} “{line.label}”" if line.label else line.shown for line in self.lines[:4])
        more = f" and {len(self.lines) - 4} more" if len(self.lines) > 4 else ""
        done = f"Labelled code{'s' if len(self.lines) > 1 else ''}" if self._only_labels(study) else "Listed"
        return self._on_each(study, changed, f"{done} {said}{more} for {names_of(study, self.variables)}")

    def _only_labels(self, study: Study) -> bool:
        """Whether all its codes are listed already."""
        return all(
            {line_key(line, study.tag(id).type) for line in self.lines}
            <= {line_key(line, study.tag(id).type) for line in study.codes(id)}
            for id in self.variables
        )


def _set_aside(tag: Tag, lines: Sequence[MissingLine]) -> Tag:
    """A tag with lines as missing; a listed code moves and keeps its label."""
    known: tuple[CodeLine | MissingLine, ...] = (*tag.codes, *tag.missing)
    labels = {line_key(line, tag.type): line.label for line in known}
    labelled = [
        line if line.label else line.model_copy(update={"label": labels.get(line_key(line, tag.type), "")})
        for line in lines
    ]
    keys = [line_key(line, tag.type) for line in labelled]
    return tag.with_parts(missing=merged(tag.missing, labelled, tag.type), codes=without(tag.codes, keys, tag.type))


def _said(lines: Sequence[MissingLine]) -> str:
    said = ", ".join(f"{line.shown} as missing ({line.reason})" for line in lines[:4])
    return said + (f" and {len(lines) - 4} more" if len(lines) > 4 else "")


@register
class MarkMissing(CodeStep):
    """Makes codes, ranges or texts stand for missing answers. A listed code moves and keeps its label."""

    changes_shared: ClassVar[bool] = False

    do: Literal["mark missing"] = "mark missing"
    lines: Annotated[tuple[MissingLine, ...], Field(min_length=1)]

    def change(self, study: Study, supplies: Supplies) -> Made:
        said = f"Marked {_said(self.lines)} for {names_of(study, self.variables)}"
        return self._on_each(study, lambda tag: _set_aside(tag, self.lines), said)


class Mark(Frozen):
    """One code, range or text that stands for a missing answer in some variables."""

    line: MissingLine
    variables: Ids


@register
class MarkMissingWhere(Step):
    """Makes codes, ranges or texts stand for missing answers, each in variables of its own: one look over a study."""

    do: Literal["mark missing where"] = "mark missing where"
    marks: Annotated[tuple[Mark, ...], Field(min_length=1)]

    def change(self, study: Study, supplies: Supplies) -> Made:
        lines: dict[str, list[MissingLine]] = {}
        for mark in self.marks:
            for id in mark.variables:
                lines.setdefault(id, []).append(mark.line)
        tags = {}
        for id, here in lines.items():
            tag = study.tag(id)
            aside = _set_aside(tag.with_parts(codes=study.codes(id)), here)
            tags[id] = aside if tag.code_list is None else aside.with_parts(codes=tag.codes)
        said = f"Marked {_said([mark.line for mark in self.marks])} in {names_of(study, tags)}"
        return Made(study.with_tags(tags), said)


@register
class DropCodes(CodeStep):
    """Takes lines out of code lists and missing codes. No entry changes."""

    do: Literal["drop codes"] = "drop codes"
    lines: Annotated[tuple[CodeSpan, ...], Field(min_length=1)]

    def change(self, study: Study, supplies: Supplies) -> Made:
        def changed(tag: Tag) -> Tag:
            keys = {line_key(line, tag.type) for line in self.lines}
            aside = {line_key(line, tag.type) for line in tag.missing}  # of a shared list, whose line stays
            return tag.with_parts(
                codes=without(tag.codes, keys - aside, tag.type), missing=without(tag.missing, keys, tag.type)
            )

        said = ", ".join(line.shown for line in self.lines[:6])
        return self._on_each(study, changed, f"Took {said} off the list of {names_of(study, self.variables)}")


@register
class OrderCodes(CodeStep):
    """Puts the lines of code lists into another order. Lines that are not named follow in their old order."""

    do: Literal["order codes"] = "order codes"
    lines: Annotated[tuple[CodeSpan, ...], Field(min_length=1)]

    def change(self, study: Study, supplies: Supplies) -> Made:
        def changed(tag: Tag) -> Tag:
            rank = {line_key(line, tag.type): number for number, line in enumerate(self.lines)}
            known = {line_key(line, tag.type) for line in tag.codes}
            if not known & rank.keys():
                raise BadInput(f"None of the named codes is in the list of {tag.name}.")
            ordered = sorted(tag.codes, key=lambda line: rank.get(line_key(line, tag.type), len(rank)))
            return tag.with_parts(codes=tuple(ordered))

        number = counted(len(self.lines), "code")
        return self._on_each(study, changed, f"Put {number} of {names_of(study, self.variables)} into another order")


@register
class Relabel(Step):
    """Gives a code another label wherever it stands under the same one: in own and in shared lists."""

    do: Literal["relabel"] = "relabel"
    line: CodeSpan
    was: LabelText
    label: LabelText

    def change(self, study: Study, supplies: Supplies) -> Made:
        users = self._users(study)
        if not users:
            raise BadInput(f"No tag has {self.line.shown} under the label “{self.was}”.")
        tags, lists = {}, {}
        for id in users:
            tag = study.tag(id)
            lines = tuple(
                line.model_copy(update={"label": self.label}) if self._is(line, tag.type) else line
                for line in study.codes(id)
            )
            if tag.code_list is None:
                tags[id] = tag.with_parts(codes=lines)
            else:
                tags[id] = tag
                lists[tag.code_list] = study.shelves["list"][tag.code_list].model_copy(update={"lines": lines})
        said = f"Labelled {self.line.shown} “{self.label}” in place of “{self.was}” on {names_of(study, users)}"
        return Made(study.put("list", lists).with_tags(tags), said)

    def _is(self, line: CodeLine, kind: str) -> bool:
        return line.label == self.was and line_key(line, kind) == line_key(self.line, kind)

    def _users(self, study: Study) -> list[str]:
        return [id for id in study.order if any(self._is(line, study.tag(id).type) for line in study.codes(id))]
