"""Definitions: tags that lack what their level and use call for."""

from rowtag.core.checks.base import FEW, Evidence, Finding, register
from rowtag.core.checks.levels import many_ordered_values
from rowtag.core.study import Study
from rowtag.core.tables import Row, frequency
from rowtag.core.words import counted
from rowtag.core.worked_out import entries, reading, words


def unlisted_valid(study: Study, id: str) -> list[Row]:
    """Valid values of a variable that no code line accounts for."""
    return [row for row in frequency(study, id).rows if row.reading == "valid" and not row.listed]


@register("label wanted", "labels", words)
def label_wanted(study: Study, id: str) -> Finding | None:
    """Variables with neither label nor wording: nobody will know in three months what they were."""
    tag = study.tag(id)
    if tag.label.strip() or tag.question.strip():
        return None
    return Finding("label wanted", "warning", id, "has no label")


@register("code list wanted", "labels", reading, words, entries)
def code_list_wanted(study: Study, id: str) -> Finding | None:
    """Coded variables whose codes have no labels. Text categories want none where none has one: they explain
    themselves."""
    tag = study.tag(id)
    if many_ordered_values(study, id):
        return None  # told as an order of too many categories
    if not tag.wants_codes or (tag.type == "text" and not study.codes(id)):
        return None
    lines = study.codes(id)
    if not lines:
        loose = unlisted_valid(study, id)
        evidence = tuple(Evidence(row.code, row.count) for row in loose[:FEW])
        said = f"is {tag.level} and has no code list; {counted(len(loose), 'code')} occur" + (
            "s" if len(loose) == 1 else ""
        )
        return Finding("code list wanted", "warning", id, said, evidence=evidence, different=len(loose))
    bare = [line.shown for line in lines if not line.label.strip()]
    if not bare or (tag.type == "text" and len(bare) == len(lines)):
        return None
    said = f"has {counted(len(bare), 'code')} without a label"
    evidence = tuple(Evidence(code, 0) for code in bare[:FEW])
    return Finding("code list wanted", "warning", id, said, evidence=evidence, different=len(bare))
