"""Keying records in: the questions of a questionnaire in their order, with what can be answered to each."""

import re
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import groupby
from typing import Literal

import numpy as np

from rowtag.core.answers import answers
from rowtag.core.reading import State, canonical_code
from rowtag.core.skips import passed_by
from rowtag.core.study import Study
from rowtag.core.tag import NUMBER_TYPES, Type, Use

Kind = Literal["one", "grid", "ticks", "ranks"]
FEWEST_RANKED, RANKED = 10, 0.8
"""Records from which entries tell that a battery is a ranking, and the share of them in which no rank is used twice."""
MOST_LOOKED = 20_000
"""Records that are looked at for that."""


@dataclass(frozen=True)
class KeyedAnswer:
    """An answer that can be keyed: its code and label; why it is missing, where it is."""

    code: str
    label: str
    reason: str | None = None


@dataclass(frozen=True)
class KeyedVariable:
    """A variable to be keyed. `coded`: one of its answers is wanted. `low` and `high` bound what can be. `skips`: the
    variables that a code passes by."""

    id: str
    name: str
    label: str
    question: str
    type: Type
    use: Use
    coded: bool
    complete: bool
    low: str | None
    high: str | None
    decimal: str
    date_order: str
    answers: list[KeyedAnswer]
    skips: dict[str, tuple[str, ...]]


@dataclass(frozen=True)
class KeyedQuestion:
    """One question: a variable alone, a battery with answers in common, things to tick, or things to rank."""

    kind: Kind
    title: str
    wording: str
    section: str
    variables: list[KeyedVariable]


def questions(study: Study, ids: Sequence[str] = ()) -> list[KeyedQuestion]:
    """The questions that some variables are, in their order; where none is named all but what is derived from others,
    which nobody was asked."""
    asked = (id for id in study.order if study.variable(id).origin.how is None)
    chosen = [id for id in ids if id in study.variables] or list(asked)
    out = []
    for battery, run in groupby(chosen, key=lambda id: study.tag(id).battery):
        members = list(run)
        kind: Kind = "one" if battery is None or len(members) < 2 else _kind(study, members)
        parts = [[id] for id in members] if kind == "one" else [members]
        out += [_question(study, kind, part) for part in parts]
    return out


def _question(study: Study, kind: Kind, ids: Sequence[str]) -> KeyedQuestion:
    tags = [study.tag(id) for id in ids]
    battery = study.shelves["battery"].get(tags[0].battery or "")
    section = study.shelves["section"].get(tags[0].section or "")
    wordings = {tag.question for tag in tags}
    wording = tags[0].question if len(wordings) == 1 else ""
    title = battery.title if battery is not None else ""
    return KeyedQuestion(kind, title, wording, section.title if section else "", [_variable(study, id) for id in ids])


def _variable(study: Study, id: str) -> KeyedVariable:
    tag = study.tag(id)
    reasons = {line.code: line.reason for line in tag.missing}
    given = [
        KeyedAnswer(each.code, each.label, reasons.get(each.code) if each.missing else None)
        for each in answers(study, id)
    ]
    skips = {code: passed_by(study, id, skip) for skip in tag.skips for code in skip.codes}
    coded = tag.wants_codes and any(each.reason is None for each in given)
    return KeyedVariable(
        id=id,
        name=tag.name,
        label=tag.label,
        question=tag.question,
        type=tag.type,
        use=tag.use,
        coded=coded,
        complete=tag.complete,
        low=tag.limits.low,
        high=tag.limits.high,
        decimal=tag.marks.decimal,
        date_order=tag.marks.date_order,
        answers=given,
        skips=skips,
    )


def _kind(study: Study, ids: Sequence[str]) -> Kind:
    """What the variables of a battery are together."""
    tags = [study.tag(id) for id in ids]
    if is_ticked(study, ids):
        return "ticks"
    if is_ranking(study, ids):
        return "ranks"
    shared = {tuple((line.shown, line.label) for line in study.codes(id)) for id in ids}
    coded = all(tag.wants_codes for tag in tags)
    return "grid" if coded and len(shared) == 1 and any(shared) else "one"


_TICKED = re.compile(
    r"\b(?:tick|check|mark|circle|choose|select)\b.{0,30}\b(?:all|any|each)\b|\b(?:all|any|those) that appl"
    r"|several answers|more than one|plusieurs réponses|mehrfachnennung|mehrere antworten|kilka odpowiedzi",
    re.IGNORECASE,
)


def is_tick(study: Study, id: str) -> bool:
    """Whether a variable says of one thing that it was ticked (1) or not (0), and nothing else: by its use, or its
    codes."""
    tag, codes = study.tag(id), {canonical_code(line.code or "", "integer") for line in study.codes(id)}
    return tag.type in NUMBER_TYPES and (tag.use == "several answers" or (bool(codes) and codes <= {"0", "1"}))


def is_ticked(study: Study, ids: Sequence[str]) -> bool:
    """Whether the variables of a battery are things to tick: by their use; or coded 0 and 1, and told to be that in
    the title, a wording or a note."""
    if all(study.tag(id).use == "several answers" for id in ids):
        return True
    if any({canonical_code(line.code or "", "integer") for line in study.codes(id)} - {"0", "1"} for id in ids):
        return False
    first = study.tag(ids[0])
    battery = study.shelves["battery"].get(first.battery or "")
    title = battery.title if battery is not None else ""
    return all(study.codes(id) for id in ids) and bool(_TICKED.search(f"{title}; {first.question}; {first.note}"))


def is_ranking(study: Study, ids: Sequence[str]) -> bool:
    """Whether the variables of a battery hold ranks: each of n things is given one of 1 … n, and no two the same.

    It is told from the codes where these are the first and the last rank, or are all called ranks; else from the
    entries.
    """
    wanted = {str(rank) for rank in range(1, len(ids) + 1)}
    lists = [{canonical_code(line.code or "", "integer") for line in study.codes(id)} for id in ids]
    if len(ids) < 3 or any(codes - wanted for codes in lists):
        return False
    if all(codes == {"1", str(len(ids))} for codes in lists):
        return True
    labels = {line.label.casefold() for id in ids for line in study.codes(id)}
    if labels and all("rank" in label for label in labels):
        return True
    return _never_twice(study, ids)


def _never_twice(study: Study, ids: Sequence[str]) -> bool:
    """Whether hardly any record has the same value in two of some variables that are all valid in it."""
    size = study.records.arrived
    if size < FEWEST_RANKED:
        return False
    at = np.arange(min(size, MOST_LOOKED))
    values = []
    for id in ids:
        found = study.reading(id)
        tokens = study.column(id).tokens_at(at)
        if found.values is None:
            return False
        values.append(np.where(found.states[tokens] == State.VALID, found.values[tokens], np.nan))
    table = np.sort(np.stack(values, axis=1), axis=1)
    whole = table[~np.isnan(table).any(axis=1)]
    apart = (np.diff(whole, axis=1) > 0).all(axis=1)
    return whole.shape[0] >= FEWEST_RANKED and float(apart.mean()) >= RANKED
