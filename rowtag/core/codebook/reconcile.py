"""Reconciliation: what a codebook and a study say differently, part by part, with what the data bear out.

What the codebook does not say is not compared. A label and a question wording are taken for the same where they
are: a document seldom tells which it gives.
"""

import re
from collections.abc import Collection, Iterable, Sequence
from functools import cached_property
from typing import Any

import numpy as np

from rowtag.core.codebook.described import Described, Onward
from rowtag.core.codebook.matching import tag_under
from rowtag.core.codebook.shelves import title_of, told_skips
from rowtag.core.codebook.telling import NONE, NOT_LISTED, PLAIN, Difference, by_key, limits_said, list_of, said_line
from rowtag.core.codelist import Key, line_key, merged, without
from rowtag.core.errors import BadName
from rowtag.core.names import check_name, key_of
from rowtag.core.naming import plain_name
from rowtag.core.reading import Fill, Reading, State, read_column
from rowtag.core.skips import between
from rowtag.core.study import Study
from rowtag.core.tag import CodeSpan, Lens, MissingLine, Parts, Span, Tag
from rowtag.core.words import counted

_IMPLIED = {"codes": ("complete", "type", "level", "use"), "type": ("level",), "limits": ("level",)}
"""Parts that go with others: what these imply where nothing is said of them."""
PLACES = ("battery", "section")
"""Places that a description gives by their titles."""
_READ = re.compile(r"(?:type|limits|list|codes)$|(?:code|missing) ")
"""Keys of differences that decide how entries are read."""


def differences(study: Study, id: str, described: Described) -> tuple[Difference, ...]:
    """What a description says otherwise than a variable's tag; none where they agree."""
    tag, target = study.tag(id), tag_under(study, id, described)
    given = described.parts.model_fields_set
    found = [] if (name := other_name(study, id, described)) is None else [Difference("name", "name", name, tag.name)]
    found += [_plain(study, id, target, part) for part in PLAIN if part in given and _differs(tag, target, part)]
    found += [
        Difference(place, place, title, now or NONE)
        for place in PLACES
        if (title := getattr(described, place)) and title != (now := title_of(study, place, getattr(tag, place)))
    ]
    if "limits" in given and target.limits != tag.limits:
        found.append(Difference("limits", "limits", limits_said(target.limits), limits_said(tag.limits)))
    here = {skip.codes: skip for skip in told_skips(study, tag)}
    found += [
        Difference(
            f"skip {', '.join(skip.codes)}", "skip", skip.shown, here[skip.codes].shown if skip.codes in here else NONE
        )
        for skip in described.skips
        if (skip.codes not in here or here[skip.codes].to != skip.to) and _leads_on(study, id, skip)
    ]
    held = _Held(study, id, target)
    if "codes" in given:
        found += _code_differences(study, id, target, held)
    if "missing" in given:
        found += _missing_differences(study, id, target, held)
    if "complete" in given and target.complete != tag.complete and study.codes(id):
        words = {True: "complete", False: "partial"}
        found.append(Difference("list", "list", words[target.complete], words[tag.complete]))
    return tuple(found)


def _leads_on(study: Study, id: str, skip: Onward) -> bool:
    """Whether a skip that a document tells leads further on among the variables of the study."""
    to = study.name_keys.get(key_of(skip.to)) if skip.to else None
    return bool((to or not skip.to) and between(study.order, id, to))


def other_name(study: Study, id: str, described: Described) -> str | None:
    """The name that a codebook gives a variable which is called here by the number of its question; else none."""
    tag, name = study.tag(id), described.name
    if (
        not described.also
        or plain_name(described.also) != plain_name(tag.name)
        or plain_name(name) == plain_name(tag.name)
    ):
        return None
    try:
        check_name(name, study.name_keys, study.naming)
    except BadName:
        return None
    return name


def taken(study: Study, id: str, described: Described, keys: Collection[str] | None = None) -> Parts:
    """The parts that a variable's tag gets when the codebook's side of some differences (or of all) is taken."""
    wanted = [each.key for each in differences(study, id, described) if keys is None or each.key in keys]
    return _parts(study, id, tag_under(study, id, described), wanted)


def effects(study: Study, id: str, described: Described, found: Iterable[Difference]) -> dict[str, Fill]:
    """How a variable would read if the codebook's side of one difference alone were taken: the fill under its key.

    Differences that do not concern how entries are read are left out.
    """
    target = tag_under(study, id, described)
    out = {}
    for each in found:
        if _READ.match(each.key):
            tag = study.tag(id).redefined(_parts(study, id, target, [each.key]))
            out[each.key] = study.with_tags({id: tag}).fill(id)
    return out


def evidence(difference: Difference, before: Fill, after: Fill) -> str:
    """What the data say of a difference, from how a variable reads now and would read then."""
    if difference.key == "limits":
        more = after.unlisted - before.unlisted
        return f"{counted(more, 'entry lies', 'entries lie')} outside" if more > 0 else "none lies outside"
    if difference.key == "type":
        would_be = counted(after.unreadable, "entry", "entries")
        return f"{would_be} would be unreadable" if after.unreadable else "all entries fit"
    return difference.data


def _parts(study: Study, id: str, target: Tag, wanted: Collection[str]) -> Parts:
    """The parts of a tag when what some keys stand for is as in another."""
    tag = study.tag(id)
    parts: dict[str, Any] = {part: getattr(target, part) for part in (*PLAIN, "limits") if part in wanted}
    codes, missing = study.codes(id), tag.missing
    listed, aside = by_key(target.codes, tag), by_key(target.missing, tag)
    for key in wanted:
        word, _, shown = key.partition(" ")
        if key == "codes":
            codes = target.codes
        elif word in ("code", "label-of"):
            at = _keyed(shown, (*target.codes, *codes), tag)
            codes = merged(codes, [listed[at]], tag.type) if at in listed else without(codes, [at], tag.type)
            missing = without(missing, [at], tag.type) if at in listed else missing
        elif word in ("missing", "reason-of"):
            at = _keyed(shown, target.missing, tag)
            missing, codes = merged(missing, [aside[at]], tag.type), without(codes, [at], tag.type)
    if codes != study.codes(id):
        parts["codes"] = codes
    if missing != tag.missing:
        parts["missing"] = missing
    if "list" in wanted:
        parts["complete"] = target.complete
    implied = {part for key in wanted for part in _IMPLIED.get(key, ())}
    parts |= {part: getattr(target, part) for part in implied if getattr(target, part) != getattr(tag, part)}
    return Parts(**parts)


# Parts -------------------------------------------------------------------------------------------


def _same(one: str, other: str) -> bool:
    return _bare(one) == _bare(other)


def _bare(text: str) -> str:
    return " ".join(text.replace("’", "'").casefold().split()).rstrip(" .:")


def _differs(tag: Tag, target: Tag, part: str) -> bool:
    """Whether a part is another. Words agree whatever their case; a label agrees with the same question wording."""
    was, now = getattr(tag, part), getattr(target, part)
    if part in ("label", "question"):
        other = tag.question if part == "label" else tag.label
        return not _same(was, now) and not (not was and other and _same(other, now))
    return bool(was != now)


def _plain(study: Study, id: str, target: Tag, part: str) -> Difference:
    was, now = getattr(study.tag(id), part), getattr(target, part)
    theirs, ours = (str(value) if value not in ("", None) else NONE for value in (now, was))
    return Difference(part, part, theirs, ours)


def _keyed(shown: str, lines: Sequence[CodeSpan], tag: Tag) -> Key:
    return next(line_key(line, tag.type) for line in lines if line.shown == shown)


def _code_differences(study: Study, id: str, target: Tag, held: "_Held") -> list[Difference]:
    tag = study.tag(id)
    here = study.codes(id)
    if not here:
        return [Difference("codes", "code list", list_of(target.codes), NONE, held.among(target.codes))]
    ours, theirs, aside = by_key(here, tag), by_key(target.codes, tag), by_key(target.missing, tag)
    found = []
    for key, line in theirs.items():
        there = ours.get(key)
        if there is None:
            code = f"code {line.shown}"
            found.append(Difference(code, code, said_line(line), NOT_LISTED, held.of(line)))
        elif line.label and not _same(line.label, there.label):
            key_of = f"label-of {line.shown}"
            found.append(Difference(key_of, f"label of {line.shown}", line.label, there.label or NONE))
    for key, line in ours.items():
        if key not in theirs and key not in aside:
            code = f"code {line.shown}"
            found.append(Difference(code, code, NOT_LISTED, said_line(line), held.of(line)))
    return found


def _missing_differences(study: Study, id: str, target: Tag, held: "_Held") -> list[Difference]:
    tag = study.tag(id)
    ours, listed = by_key(tag.missing, tag), by_key(study.codes(id), tag)
    found = []
    for key, line in by_key(target.missing, tag).items():
        there: MissingLine | None = ours.get(key)
        if there is None:
            now = f"listed: {said_line(listed[key])}" if key in listed else NONE
            said = f"{line.shown} {line.reason}"
            found.append(Difference(f"missing {line.shown}", "missing", said, now, held.of(line)))
        elif line.reason != "other" and there.reason != line.reason:
            found.append(Difference(f"reason-of {line.shown}", f"reason of {line.shown}", line.reason, there.reason))
    return found


class _Held:
    """How many records of a variable hold which codes: single ones are counted in one reading, once they are wanted."""

    def __init__(self, study: Study, id: str, target: Tag) -> None:
        self._study, self._id = study, id
        self._lines: tuple[CodeSpan, ...] = (*target.codes, *target.missing, *study.codes(id))

    def of(self, line: CodeSpan) -> str:
        """Records that hold one code or range, in words."""
        if line.code is None:
            held = self._read([line])[0]
        else:
            held = self._single.get(line_key(line, self._study.tag(self._id).type), 0)
        if not held:
            return f"no record holds {line.shown}"
        return f"{counted(held, 'record holds', 'records hold')} {line.shown}"

    def among(self, lines: Sequence[CodeSpan]) -> str:
        """Entries that are among some codes, and those that are not, in words."""
        held, rest = self._read(lines)
        return f"{held:,} entries are among them" + (f", {rest:,} are not" if rest else "")

    @cached_property
    def _single(self) -> dict[Key, int]:
        singles = by_key((line for line in self._lines if line.code is not None), self._study.tag(self._id))
        reading, counts = self._under(list(singles.values())), self._study.counts(self._id)
        valid = reading.states == State.VALID
        found = np.bincount(reading.lines[valid], weights=counts[valid], minlength=len(singles))
        return dict(zip(singles, found.astype(np.int64).tolist(), strict=True))

    def _read(self, lines: Sequence[CodeSpan]) -> tuple[int, int]:
        counts, states = self._study.counts(self._id), self._under(lines).states
        return int(counts[states == State.VALID].sum()), int(counts[states == State.UNLISTED].sum())

    def _under(self, lines: Sequence[CodeSpan]) -> Reading:
        """The entries as they read where these lines are a complete list, and nothing else is said."""
        tag = self._study.tag(self._id)
        spans = tuple(Span(line.code, line.low, line.high) for line in lines)
        return read_column(self._study.column(self._id), Lens(tag.type, tag.marks, spans, True, None, None, ()))
