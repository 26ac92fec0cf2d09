"""A codebook beside a study: which descriptions belong to which variables, and tags read under them."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from rowtag.core.codebook.described import Described
from rowtag.core.naming import Called, meet
from rowtag.core.propose import plain_lens
from rowtag.core.reading import canonical_code, count_states, read_column
from rowtag.core.study import Study, Titled
from rowtag.core.tag import CODED_LEVELS, DATE_TYPES, NUMBER_TYPES, UNLISTABLE_USES, CodeLine, Tag


@dataclass(frozen=True)
class Match:
    """Descriptions under the ids of their variables, those that no variable fits, variables that nothing describes,
    and near names: a description's name and the id of the variable it may mean, which nobody has confirmed."""

    found: Mapping[str, Described]
    only_described: tuple[Described, ...]
    only_data: tuple[str, ...]
    near: Mapping[str, str]


def match(study: Study, described: Sequence[Described]) -> Match:
    """Which variables the descriptions belong to, by their names."""
    met = meet(study, [Called(each.name, each.also) for each in described])
    found = {id: described[number] for number, (id, _) in met.found.items()}
    return Match(
        {id: found[id] for id in study.order if id in found},
        tuple(each for number, each in enumerate(described) if number not in met.found),
        tuple(id for id in study.order if id not in found),
        {described[number].name: id for number, id in met.near.items()},
    )


def tag_under(study: Study, id: str, described: Described) -> Tag:
    """A variable's tag with all that a description says of it, as the entries bear it out.

    Its codes make a complete list unless the description says otherwise, or they are the ends of a scale only.
    Where the entries are the labels themselves, these are the codes. Where nothing is said of the type of a text
    whose codes are numbers, it is a whole number if most entries are.
    """
    tag = study.tag(id)
    parts = described.parts.given()
    codes: tuple[CodeLine, ...] = parts.get("codes", ())
    if codes and "complete" not in parts:
        parts["complete"] = not _ends_only(codes)
    if codes and tag.type == "text" and "type" not in parts:
        if _share(study, id, [line.label for line in codes]) > 0.5:
            parts["codes"] = tuple(CodeLine(code=line.label) for line in codes if line.label)
        elif all(_whole(line) for line in codes) and _whole_share(study, id) > 0.5:
            parts["type"] = "integer"
    return tag.with_parts(**{**_implied(tag, parts), **parts})


def _implied(tag: Tag, parts: Mapping[str, Any]) -> dict[str, Any]:
    """What the parts that are said imply of level and use, where those a tag has, which are guessed, contradict it."""
    kind, codes, limits = parts.get("type", tag.type), parts.get("codes"), parts.get("limits")
    coded = tag.level in CODED_LEVELS
    out: dict[str, Any] = {}
    if (codes and parts["complete"] and not coded) or (kind == "text" and not coded and not codes):
        out["level"] = "nominal"
    elif kind in DATE_TYPES and coded:
        out["level"] = "interval"
    elif limits and not codes and coded and kind in NUMBER_TYPES:
        low = canonical_code(limits.low, "decimal") if limits.low else None
        out["level"] = "interval" if low is None or low.startswith("-") else "ratio"
    if codes and tag.use in UNLISTABLE_USES:
        out["use"] = "answer"
    return out


def new_tag(described: Described, name: str) -> Tag:
    """The tag of a variable that only a description knows, with no entries to bear it out."""
    parts = described.parts.given()
    codes: tuple[CodeLine, ...] = parts.get("codes", ())
    if codes:
        parts = {"complete": not _ends_only(codes), "type": "integer" if all(map(_whole, codes)) else "text"} | parts
    elif "limits" in parts and "type" not in parts:
        ends = [end for end in (parts["limits"].low, parts["limits"].high) if end is not None]
        if all(canonical_code(end, "decimal") is not None for end in ends):
            kind = "decimal" if any("." in end for end in ends) else "integer"
            parts = {"type": kind, "level": "ratio"} | parts
    return Tag(**{"name": name, **parts})


def _whole(line: CodeLine) -> bool:
    return line.code is not None and canonical_code(line.code, "integer") is not None and "." not in line.code


def _share(study: Study, id: str, texts: Sequence[str]) -> float:
    """Share of a variable's entries, blanks aside, that are one of some texts."""
    column, counts = study.column(id), study.counts(id)
    tokens = column.find([text for text in dict.fromkeys(texts) if text])
    filled = int(counts.sum()) - study.fill(id).blank
    return float(counts[tokens[tokens >= 0]].sum()) / filled if filled else 0.0


def _whole_share(study: Study, id: str) -> float:
    """Share of a variable's entries, blanks aside, that are whole numbers."""
    fill = count_states(read_column(study.column(id), plain_lens("integer")).states, study.counts(id))
    filled = fill.valid + fill.stray
    return fill.valid / filled if filled else 0.0


def _ends_only(codes: Sequence[CodeLine]) -> bool:
    """Whether codes are one value, or the two ends of a scale whose steps have no labels."""
    if not all(line.code is not None and canonical_code(line.code, "decimal") is not None for line in codes):
        return False
    values = sorted(float(canonical_code(line.code or "", "decimal") or 0) for line in codes)
    return len(values) == 1 or (len(values) == 2 and values[1] - values[0] > 2)


def study_under(study: Study, matched: Match) -> Study:
    """The study with its tags read under a codebook, in the batteries and sections that it names."""
    tags = {}
    for id, each in matched.found.items():
        tag = tag_under(study, id, each)
        for place, title in (("battery", each.battery), ("section", each.section)):
            if title is not None:
                there = f"{place} {title}"
                study = study if there in study.shelves[place] else study.put(place, {there: Titled(title=title)})
                tag = tag.with_parts(**{place: there})
        tags[id] = tag
    return study.with_tags(tags)
