"""What derived variables are made of."""

from collections.abc import Collection

from rowtag.core.derive.sentences import read
from rowtag.core.spans import span_key, span_now
from rowtag.core.study import Study


def sources_of(study: Study, id: str) -> tuple[str, ...]:
    """The variables that a derived one was made from, as far as they are there; none where it is not derived."""
    how = study.variable(id).origin.how if id in study.variables else None
    if how is None:
        return ()
    sentence = read(how.text)
    found = {how.names[name.name]: None for name in sentence.names if name.name in how.names}
    for first, last in sentence.ranges:
        span = how.spans.get(span_key(first.name, last.name), ())
        ends = [how.names.get(name.name, "") for name in (first, last)]
        if not span and all(end in study.variables for end in ends):
            span = span_now(study, ends[0], ends[1])
        found |= dict.fromkeys(span)
    return tuple(each for each in found if each in study.variables and each != id)


def sources_first(study: Study, ids: Collection[str]) -> list[str]:
    """Derived variables, each behind those of them that it was made from."""
    out: dict[str, None] = {}

    def put(id: str, above: frozenset[str]) -> None:
        for source in sources_of(study, id):
            if source in ids and source not in above:
                put(source, above | {source})
        out[id] = None

    for id in ids:
        put(id, frozenset((id,)))
    return list(out)


def derived_from(study: Study, ids: Collection[str]) -> list[str]:
    """The variables that were derived from some others, in codebook order."""
    wanted, variables = set(ids), study.variables
    derived = (id for id in study.order if variables[id].origin.how is not None and id not in wanted)
    return [id for id in derived if not wanted.isdisjoint(sources_of(study, id))]
