"""Reconciliation: what a codebook and a study say differently, part by part, with what the data bear out.

What the codebook does not say is not compared. A label and a question wording are taken for the same where they
are: a document seldom tells which it gives.
"""

import re
from collections.abc import Collection, Iterable, Sequence
from typing import Any

from rowtag.core.codebook.described import Described
from rowtag.core.codebook.matching import plain_name, tag_under
from rowtag.core.codebook.telling import NONE, NOT_LISTED, PLAIN, Difference, by_key, limits_said, list_of, said_line
from rowtag.core.codelist import Key, line_key, merged, without
from rowtag.core.errors import BadName
from rowtag.core.names import check_name
from rowtag.core.propose import plain_lens
from rowtag.core.reading import Fill, State, count_states, read_column
from rowtag.core.study import Study
from rowtag.core.tag import CodeLine, CodeSpan, MissingLine, Parts, Tag, Type
from rowtag.core.words import counted

_IMPLIED = ("complete", "type", "level")
_READ = re.compile(r"(?:type|limits|list|codes)$|(?:code|missing) ")
"""Keys of differences that decide how entries are read."""


def differences(study: Study, id: str, described: Described) -> tuple[Difference, ...]:
    """What a description says otherwise than a variable's tag; none where they agree."""
    tag, target = study.tag(id), tag_under(study, id, described)
    given = described.parts.model_fields_set
    found = [] if (name := other_name(study, id, described)) is None else [Difference("name", "name", name, tag.name)]
    found += [_plain(study, id, target, part) for part in PLAIN if part in given and _differs(tag, target, part)]
    if "limits" in given and target.limits != tag.limits:
        found.append(
            Difference(
                "limits", "limits", limits_said(target.limits), limits_said(tag.limits), _outside(study, id, target)
            )
        )
    if "codes" in given:
        found += _code_differences(study, id, target)
    if "missing" in given:
        found += _missing_differences(study, id, target)
    if "complete" in given and target.complete != tag.complete and study.codes(id):
        words = {True: "complete", False: "partial"}
        found.append(Difference("list", "list", words[target.complete], words[tag.complete]))
    return tuple(found)


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
    if "codes" in wanted:
        parts |= {part: getattr(target, part) for part in _IMPLIED if getattr(target, part) != getattr(tag, part)}
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
    return Difference(part, part, theirs, ours, _unreadable(study, id, target) if part == "type" else "")


def _unreadable(study: Study, id: str, target: Tag) -> str:
    """How many entries a type cannot read."""
    kind: Type = target.type
    fill = count_states(read_column(study.column(id), plain_lens(kind, target.marks)).states, study.counts(id))
    return (
        f"{counted(fill.unreadable, 'entry', 'entries')} would be unreadable" if fill.unreadable else "all entries fit"
    )


def _outside(study: Study, id: str, target: Tag) -> str:
    """How many valid numbers lie outside limits."""
    state = study.with_tags({id: study.tag(id).with_parts(limits=target.limits)})
    more = state.fill(id).unlisted - study.fill(id).unlisted
    return f"{counted(more, 'entry lies', 'entries lie')} outside" if more > 0 else "none lies outside"


def _keyed(shown: str, lines: Sequence[CodeSpan], tag: Tag) -> Key:
    return next(line_key(line, tag.type) for line in lines if line.shown == shown)


def _code_differences(study: Study, id: str, target: Tag) -> list[Difference]:
    tag = study.tag(id)
    here = study.codes(id)
    if not here:
        return [Difference("codes", "code list", list_of(target.codes), NONE, _held(study, id, target.codes))]
    ours, theirs, aside = by_key(here, tag), by_key(target.codes, tag), by_key(target.missing, tag)
    found = []
    for key, line in theirs.items():
        there = ours.get(key)
        if there is None:
            found.append(
                Difference(
                    f"code {line.shown}", f"code {line.shown}", said_line(line), NOT_LISTED, _held(study, id, [line])
                )
            )
        elif line.label and not _same(line.label, there.label):
            key_of = f"label-of {line.shown}"
            found.append(Difference(key_of, f"label of {line.shown}", line.label, there.label or NONE))
    for key, line in ours.items():
        if key not in theirs and key not in aside:
            found.append(
                Difference(
                    f"code {line.shown}", f"code {line.shown}", NOT_LISTED, said_line(line), _held(study, id, [line])
                )
            )
    return found


def _missing_differences(study: Study, id: str, target: Tag) -> list[Difference]:
    tag = study.tag(id)
    ours, listed = by_key(tag.missing, tag), by_key(study.codes(id), tag)
    found = []
    for key, line in by_key(target.missing, tag).items():
        there: MissingLine | None = ours.get(key)
        if there is None:
            now = f"listed: {said_line(listed[key])}" if key in listed else NONE
            said = f"{line.shown} {line.reason}"
            found.append(Difference(f"missing {line.shown}", "missing", said, now, _held(study, id, [line])))
        elif line.reason != "other" and there.reason != line.reason:
            found.append(Difference(f"reason-of {line.shown}", f"reason of {line.shown}", line.reason, there.reason))
    return found


def _held(study: Study, id: str, lines: Sequence[CodeSpan]) -> str:
    """How many records hold one of some codes."""
    tag = study.tag(id)
    spans = tuple(CodeLine(code=line.code, low=line.low, high=line.high) for line in lines)
    bare = Tag(name=tag.name, type=tag.type, marks=tag.marks, codes=spans, complete=True)
    state = study.with_tags({id: bare})
    counts, states = study.counts(id), state.reading(id).states
    held = int(counts[states == State.VALID].sum())
    if len(lines) == 1:
        return (
            f"{counted(held, 'record holds', 'records hold')} {lines[0].shown}"
            if held
            else f"no record holds {lines[0].shown}"
        )
    rest = int(counts[states == State.UNLISTED].sum())
    return f"{held:,} entries are among them" + (f", {rest:,} are not" if rest else "")
