"""Labels and wordings: the same on two variables, cut off, or missing where all others have one."""

import re
from collections import Counter
from collections.abc import Sequence

from rowtag.core.checks.base import Finding, Threshold, register, register_across, threshold
from rowtag.core.study import Study
from rowtag.core.words import counted
from rowtag.core.worked_out import words

USUAL = 0.8
"""The share of answers with a wording from which its absence is worth knowing."""
LONGEST = 160
"""Characters of a label up to which it is one."""
FEWEST_CUT, SHORTEST_CUT = 3, 24
"""Labels of one and the same greatest length, and that length, from which they were probably cut there."""


@register(
    "label too long",
    "labels",
    words,
    thresholds={"characters": Threshold(LONGEST, "characters of a label", 20, 2_000)},
)
def label_too_long(study: Study, id: str) -> Finding | None:
    """Labels longer than tables and charts can show: the wording has a place of its own."""
    label = study.tag(id).label
    most = threshold(study, "label too long", "characters")
    if len(label) <= most:
        return None
    return Finding("label too long", "note", id, f"has a label of {counted(len(label), 'character')}")


@register_across("same label twice", "labels", words, scope="records")
def same_label(study: Study, ids: tuple[str, ...]) -> Sequence[Finding]:
    """Variables of one battery, or of none, that have the same label: tables and charts do not tell them apart."""
    by_label: dict[tuple[str | None, str], list[str]] = {}
    for id in ids:
        tag = study.tag(id)
        if label := " ".join(tag.label.casefold().split()):
            by_label.setdefault((tag.battery, label), []).append(id)
    return [
        Finding(
            "same label twice",
            "warning",
            same[0],
            f"has the same label as {', '.join(study.tag(id).name for id in same[1:4])}{' …' if len(same) > 4 else ''}",
            others=tuple(same[1:]),
        )
        for same in by_label.values()
        if len(same) > 1
    ]


@register_across("wording missing", "labels", words, scope="records")
def wording_missing(study: Study, ids: tuple[str, ...]) -> Sequence[Finding]:
    """Answers without a question wording, where nearly all others have one."""
    answers = [id for id in ids if study.tag(id).use in ("answer", "several answers", "open-ended")]
    bare = [id for id in answers if not study.tag(id).question.strip()]
    if not bare or len(answers) - len(bare) < USUAL * len(answers):
        return []
    said = "has no question wording, and nearly all others have one"
    return [Finding("wording missing", "note", id, said) for id in bare]


@register_across("label beside the wording", "labels", words, scope="records")
def label_beside(study: Study, ids: tuple[str, ...]) -> Sequence[Finding]:
    """Variables with a question wording and no label, all of them at once: tables and files show labels."""
    bare = [id for id in ids if study.tag(id).question.strip() and not study.tag(id).label.strip()]
    if not bare:
        return []
    like = f", like {counted(len(bare) - 1, 'other variable')}" if bare[1:] else ""
    said = f"has a question wording and no label{like}"
    return [Finding("label beside the wording", "warning", bare[0], said, len(bare), others=tuple(bare[1:]))]


@register_across("label cut off", "labels", words, scope="records")
def cut_off(study: Study, ids: tuple[str, ...]) -> Sequence[Finding]:
    """Labels that end in dots, or several of the same greatest length that end within a sentence."""
    labels = {id: study.tag(id).label.rstrip() for id in ids}
    lengths = Counter(len(label) for label in labels.values())
    longest = max(lengths, default=0)
    cut_there = longest >= SHORTEST_CUT and lengths[longest] >= FEWEST_CUT
    return [
        Finding("label cut off", "note", id, f"has a label that was probably cut: “…{label[-20:]}”")
        for id, label in labels.items()
        if re.search(r"(…|\.\.\.)$", label)
        or (cut_there and len(label) == longest and not re.search(r"[.?!)]$", label))
    ]
