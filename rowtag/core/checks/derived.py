"""Derived variables: whether they hold what comes out of their sentence now."""

from rowtag.core.checks.base import Finding, register
from rowtag.core.errors import BadInput
from rowtag.core.following import behind
from rowtag.core.spans import means_otherwise
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
    for key, now in means_otherwise(study, how).items():
        was = how.spans[key]
        if any(each not in study.variables for each in was):
            return None  # told as what cannot be worked out
        more, less = (", ".join(study.tag(each).name for each in one if each not in other) for one, other in
                      ((now, was), (was, now)))  # fmt: skip
        ways = [f"with {more}" if more else "", f"without {less}" if less and now else ""]
        said = " and ".join(filter(None, ways)) or ("nothing" if not now else "the same in another order")
        return Finding("span means others", "note", id, f"{key} keeps what it meant; written now it would mean {said}")
    return None
