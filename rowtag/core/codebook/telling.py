"""Parts of tags in words, and what is otherwise on a tag from one state of a study to another."""

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass
from typing import Any

from rowtag.core.codebook.shelves import SHELVES, title_of, told_skips
from rowtag.core.codelist import Key, line_key
from rowtag.core.study import Study
from rowtag.core.tag import CodeLine, Limits, Tag

PLAIN = ("label", "question", "type", "level", "use", "width", "decimals", "note")
"""Parts of a tag that are one word, number or text."""
NONE, NOT_LISTED = "none", "not listed"


@dataclass(frozen=True)
class Difference:
    """One part that a codebook and a study say differently. `key` tells it from the others of its variable;
    `sheet`, `study` and `data` say in words what stands where; `data` only what is told without reading anew."""

    key: str
    part: str
    sheet: str
    study: str
    data: str = ""

    @property
    def adds(self) -> bool:
        """Whether the study has nothing there that would be replaced."""
        return self.study in (NONE, NOT_LISTED)


def by_key(lines: Iterable[Any], tag: Tag) -> dict[Key, Any]:
    """Lines under the keys by which two of them are the same."""
    return {line_key(line, tag.type): line for line in lines}


def limits_said(limits: Limits) -> str:
    """Limits in words."""
    if limits.low is None and limits.high is None:
        return NONE
    return f"{limits.low or ''} .. {limits.high or ''}".strip()


def said_line(line: CodeLine) -> str:
    """A line in words: its code or range, and its label."""
    return f"{line.shown} {line.label}".strip()


def list_of(lines: Sequence[CodeLine]) -> str:
    """A list in words: all of a short one, the ends of a long one."""
    if len(lines) <= 3:
        return ", ".join(said_line(line) for line in lines)
    return f"{said_line(lines[0])} … {said_line(lines[-1])} ({len(lines)})"


def changed(before: Study, after: Study, id: str) -> tuple[Difference, ...]:
    """What is otherwise on a variable's tag in another state: `sheet` says what stands there then, `study` now."""
    was, now = before.tag(id), after.tag(id)
    found = []
    for part in ("name", *PLAIN, "pattern"):
        if getattr(was, part) != getattr(now, part):
            texts = (
                str(value) if value not in ("", None) else NONE for value in (getattr(now, part), getattr(was, part))
            )
            found.append(Difference(part, part, *texts))
    if was.limits != now.limits:
        found.append(Difference("limits", "limits", limits_said(now.limits), limits_said(was.limits)))
    if was.marks != now.marks:
        found.append(Difference("marks", "marks", _marks(now), _marks(was)))
    if was.complete != now.complete:
        words = {True: "complete", False: "partial"}
        found.append(Difference("list", "list", words[now.complete], words[was.complete]))
    for place, shelf in SHELVES.items():
        ids = (getattr(now, place), getattr(was, place))
        if ids[0] != ids[1]:
            states = zip((after, before), ids, strict=True)
            then, here = (title_of(state, place, each) or NONE for state, each in states)
            found.append(Difference(place, "shared list" if shelf == "list" else place, then, here))
    skips = {
        state: {skip.codes: skip.shown for skip in told_skips(state, tag)}
        for state, tag in ((before, was), (after, now))
    }
    found += [
        Difference(f"skip {', '.join(codes)}", "skip", new or NONE, old or NONE)
        for codes in dict.fromkeys((*skips[before], *skips[after]))
        if (old := skips[before].get(codes)) != (new := skips[after].get(codes))
    ]
    found += _lines_changed("code", before.codes(id), after.codes(id), was, said_line, NOT_LISTED)
    found += _lines_changed(
        "missing", was.missing, now.missing, was, lambda line: f"{said_line(line)} ({line.reason})", NONE
    )
    return tuple(found)


def _marks(tag: Tag) -> str:
    marks = tag.marks
    return ", ".join(f"{word} {sign}" for word, sign in (
        ("decimal", marks.decimal), ("thousands", marks.thousands), ("sign", marks.sign), ("dates", marks.date_order),
    ) if sign)  # fmt: skip


def _lines_changed(
    word: str, was: Sequence[Any], now: Sequence[Any], tag: Tag, said: Callable[[Any], str], none: str
) -> list[Difference]:
    """Lines that are new, gone or otherwise; and their order, where only that is other."""
    here, then = by_key(was, tag), by_key(now, tag)
    found = []
    for key in dict.fromkeys((*here, *then)):
        old, new = here.get(key), then.get(key)
        if old != new:
            shown = (new if old is None else old).shown  # type: ignore[union-attr]
            found.append(
                Difference(f"{word} {shown}", f"{word} {shown}", said(new) if new else none, said(old) if old else none)
            )
    if not found and tuple(was) != tuple(now):
        found.append(Difference(f"{word}s", f"order of {word}s", list_of(now), list_of(was)))
    return found
