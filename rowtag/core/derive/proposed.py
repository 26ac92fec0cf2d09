"""What could be made of a variable: for each way that suits it, a sentence to begin with."""

from collections.abc import Sequence

import numpy as np
import pyarrow.compute as pc

from rowtag.core.derive import ways as says
from rowtag.core.derive.bands import bands_of, equal_counts, equal_widths
from rowtag.core.derive.outcome import Source
from rowtag.core.derive.saying import say
from rowtag.core.derive.ticks import proposed_answers, proposed_themes, sign_between
from rowtag.core.formulas.grammar import spelled_name
from rowtag.core.formulas.nodes import Name
from rowtag.core.grammar import parse_numbers
from rowtag.core.keying import is_ranking, is_ticked
from rowtag.core.names import suggest
from rowtag.core.propose.orders import natural_order
from rowtag.core.reading import canonical_code
from rowtag.core.study import Study
from rowtag.core.tag import NUMBER_TYPES, CodeLine, Marks
from rowtag.core.tokens import large_texts

MOST_TEXTS = 40
"""Texts that get codes of their own at once; the rarer ones are left for "other"."""
MOST_STEPS = 11
"""How far the ends of a scale lie apart at most."""
MOST_CODES = 60
"""Values that are recoded one by one."""
_ENDINGS = {
    "recode": "r", "bands": "b", "codes": "c", "reverse": "rev", "split": "*", "indicators": "*", "labels": "text",
    "number": "n", "text": "text", "formula": "new", "mentions": "*", "figures": "mean",
}  # fmt: skip


def proposals(
    study: Study, id: str, *, bands: int = 4, equal: str = "counts", rare: int = 0, like: str | None = None
) -> dict[str, tuple[str, str]]:
    """Per way that suits a variable a name and a sentence that can be done as it stands. Texts in fewer than `rare`
    records are left for "other". Bands are those of the list `like` (see `lists_of_ranges`) where one is named."""
    source, name = Source(study, id), Name(study.tag(id).name, (0, 0))
    tag, found = source.tag, dict[str, says.Way]()
    if recoded := _recode(source, name):
        found["recode"] = recoded
    if tag.use in ("identifier", "weight"):
        found.clear()
    elif tag.type == "text":
        if coded := _codes(source, name, rare):
            found["codes"] = coded
        if themes := proposed_themes(source):
            found["mentions"] = says.Mentions(name, tuple(themes))
        if (sign := sign_between(source)) and (answers := proposed_answers(source, sign)):
            found["split"] = says.Split(name, sign, tuple(answers))
        if parse_numbers(source.reading.canonical(np.flatnonzero(source.valid)), Marks()).fits.any():
            found["number"] = says.Convert(name, "number")
    elif tag.type not in ("time", "datetime"):
        cut = equal_counts if equal == "counts" else equal_widths
        of_codes = any(line.code is not None for line in source.lines)
        ranges = bands_of(_lines(study, like)) if like is not None else bands_of(source.lines) or cut(study, id, bands)
        if not of_codes and ranges:
            found["bands"] = says.Bands(name, tuple(ranges))
    if tag.type in NUMBER_TYPES:
        if ends := _ends(source):
            found["reverse"] = says.Reverse(name, *ends)
        found["text"] = says.Convert(name, "text")
    if any(line.code is not None for line in source.lines):
        found["indicators"] = says.Indicators(name)
    if any(line.label for line in source.lines):
        found["labels"] = says.Convert(name, "labels")
    out = {way: (_named(study, tag.name, way), say(each) + _spared(source, each)) for way, each in found.items()}
    out |= _of_sets(study, id)
    if tag.type in NUMBER_TYPES and tag.use == "answer" and (group := _group(study, id)):
        out["figures"] = (_named(study, tag.name, "figures"), f"mean({spelled_name(tag.name)}) over {group}")
    written = spelled_name(tag.name)
    out["formula"] = (
        _named(study, tag.name, "formula"),
        f"year({written})" if tag.type in ("date", "datetime") else written,
    )
    return out


def lists_of_ranges(study: Study) -> dict[str, tuple[str, int]]:
    """The code lists that are ranges alone, by the id of the variable or shared list: what each is called, and how many
    ranges it has."""
    shared = {id: (each.name, each.lines) for id, each in study.shelves["list"].items()}
    own = {
        id: (study.tag(id).name, study.tag(id).codes)
        for id in study.order
        if study.tag(id).code_list is None and study.variable(id).origin.how is None
    }
    return {
        id: (name, len(lines))
        for id, (name, lines) in {**shared, **own}.items()
        if len(lines) > 1 and all(line.code is None for line in lines)
    }


def _lines(study: Study, like: str) -> tuple[CodeLine, ...]:
    """The lines of a shared list or a variable."""
    shared = study.shelves["list"].get(like)
    return shared.lines if shared is not None else study.codes(like)


def _spared(source: Source, way: says.Way) -> str:
    """Leaves strays out where one of them would count as a code of what is derived."""
    if isinstance(way, says.Bands):
        codes = {str(at + 1) for at in range(len(way.bands))}
    elif isinstance(way, says.Codes):
        codes = {line.code for line in way.lines} | ({way.rest.code} if way.rest is not None else set())
    elif isinstance(way, says.Indicators | says.Split | says.Mentions):
        codes = {"0", "1"}
    else:
        return ""
    strays = source.reading.canonical(np.flatnonzero(source.stray & (source.counts > 0)))
    met = pc.is_in(strays, large_texts(sorted(codes))).to_numpy(zero_copy_only=False).any()
    return f" only where {spelled_name(source.tag.name)} is not stray" if met else ""


def _named(study: Study, name: str, way: str) -> str:
    ending = _ENDINGS[way]
    stem = suggest(f"{name}_{ending.replace('*', 'x')}", set(study.name_keys), study.naming)
    return f"{suggest(name, (), study.naming)}_*" if ending == "*" else stem


def _recode(source: Source, name: Name) -> says.Recode | None:
    """Each code as it is, to be changed; other values where they are few."""
    codes = [(line.code, line.label) for line in source.lines if line.code is not None]
    if not codes:
        used = np.flatnonzero(source.valid & (source.counts > 0))
        texts = dict.fromkeys(source.reading.canonical(used).to_pylist())
        if not texts or len(texts) > MOST_CODES or source.tag.type == "text":
            return None
        values = source.reading.values
        assert values is not None
        order = np.argsort(values[used], kind="stable")
        codes = [(text, "") for text in dict.fromkeys(source.reading.canonical(used[order]).to_pylist())]
    if len(codes) > MOST_CODES:
        return None
    lines = []
    for code, label in codes:
        assert code is not None
        plain = source.tag.type != "text" and canonical_code(code, source.tag.type) is not None
        match = says.Match("code", low=code) if plain else says.Match("text", text=code)
        lines.append(says.Line((match,), says.Becomes("code", code, label)))
    return says.Recode(name, tuple(lines))


def _codes(source: Source, name: Name, rare: int) -> says.Codes | None:
    """Texts in an order of their own where they have one (from none to all, by their numbers), else by how common they
    are; spellings that differ in case, accents and blanks as one; rare ones as "other"."""
    used = np.flatnonzero(source.valid & (source.counts > 0))
    if not used.size:
        return None
    families: dict[str, dict[str, int]] = {}
    for text, count in zip(source.reading.canonical(used).to_pylist(), source.counts[used].tolist(), strict=True):
        family = families.setdefault(" ".join(text.casefold().split()), {})
        family[text] = family.get(text, 0) + count
    ranked = sorted(families.values(), key=lambda each: -sum(each.values()))
    common = [each for each in ranked[:MOST_TEXTS] if sum(each.values()) >= rare] or ranked[:1]
    several = [tuple(sorted(each, key=lambda text: -each[text])) for each in common]
    lines = [says.Coded(texts, str(at + 1)) for at, texts in enumerate(_in_order(several))]
    rest = says.Becomes("code", str(len(lines) + 1), "Other") if len(ranked) > len(several) else None
    return says.Codes(name, tuple(lines), rest)


def _in_order(families: Sequence[tuple[str, ...]]) -> list[tuple[str, ...]]:
    found = natural_order([each[0] for each in families])
    if found is None or None in found[1]:
        return list(families)
    ranks = [rank for rank in found[1] if rank is not None]
    return [families[at] for at in sorted(range(len(families)), key=lambda at: -ranks[at])][::-1]


def _of_sets(study: Study, id: str) -> dict[str, tuple[str, str]]:
    """What could be made of the battery of a variable: of things to tick one text or code, of ranks the thing of each,
    of other items their mean, two thirds of which must be valid. Items that lie apart are named one by one."""
    battery = study.tag(id).battery
    items = [each for each in study.order if battery is not None and study.tag(each).battery == battery]
    if len(items) < 3 or any(study.tag(each).type not in NUMBER_TYPES for each in items):
        return {}
    names = [spelled_name(study.tag(each).name) for each in items]
    first = study.order.index(items[0])
    follow = list(study.order[first : first + len(items)]) == items
    said = f"{names[0]}..{names[-1]}" if follow else ", ".join(names)
    stem = study.tag(items[0]).name.rstrip("0123456789").rstrip("_") or study.tag(items[0]).name

    def named(ending: str) -> str:
        return suggest(f"{stem}_{ending}", set(study.name_keys), study.naming)

    if is_ticked(study, items):
        return {"join": (named("text"), f"join {said} by '; '"), "which": (named("one"), f"which of {said}")}
    if is_ranking(study, items):
        return {"by rank": (f"{suggest(stem, (), study.naming)}_at_*", f"things by rank {said}")}
    return {"score": (named("mean"), f"mean({said}, needs {-(-2 * len(items) // 3)})")}


def _group(study: Study, id: str) -> str | None:
    """A variable by whose codes records could be grouped: the first nominal one with a list."""
    for other in study.order:
        tag = study.tag(other)
        if other != id and tag.level == "nominal" and tag.use == "answer" and 2 <= len(study.codes(other)) <= 20:
            return spelled_name(tag.name)
    return None


def _ends(source: Source) -> tuple[str, str] | None:
    """The ends of a scale: of its code list, else of a few whole numbers that occur."""
    codes = [canonical_code(line.code or "", "integer") for line in source.lines]
    known = [int(code) for code in codes if code is not None and "." not in code]
    if not known and source.tag.level in ("ordinal", "interval"):
        values, _ = source.study.values(source.id)
        known = [int(value) for value in values.tolist() if value == int(value)] if values.size <= 11 else []
    return (str(min(known)), str(max(known))) if len(known) > 1 and max(known) - min(known) <= MOST_STEPS else None
