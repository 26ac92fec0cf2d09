"""Derived variables: whether they hold what comes out of their sentence now."""

from rowtag.core.checks.base import Finding, register
from rowtag.core.errors import BadInput
from rowtag.core.following import behind
from rowtag.core.spans import said_otherwise
from rowtag.core.study import Study
from rowtag.core.words import counted
from rowtag.core.worked_out import entries, made_of, spans_now


@register("not what comes out", "derived", made_of, entries)
def not_what_comes_out(study: Study, id: str) -> Finding | None:
    """Derived variables that hold other entries than come out of their sentence now: what they were made from has
    changed since, or they have; and those that cannot be worked out any more."""
    if study.variable(id).origin.how is None:
        return None
    try:
        count = behind(study, id)
    except BadInput as error:
        return Finding("not what comes out", "note", id, f"cannot be worked out any more: {error}")
    if not count:
        return None
    said = f"{counted(count, 'entry is', 'entries are')} not what comes out now of what it is derived from"
    return Finding("not what comes out", "warning", id, said, count)


@register("span means others", "derived", made_of, spans_now)
def span_means_others(study: Study, id: str) -> Finding | None:
    """Derived variables whose span of neighbours, such as a..c, would mean others were it written now: some came to
    stand between its ends, or stand there no more. What it meant when it was written is kept."""
    how = study.variable(id).origin.how
    if how is None:
        return None
    said = said_otherwise(study, how)
    return Finding("span means others", "note", id, said) if said else None
