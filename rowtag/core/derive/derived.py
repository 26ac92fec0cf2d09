"""Deriving: from a sentence to the variables that it makes of a study."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
import pyarrow as pa

from rowtag.core.column import EMPTY_COLUMN, Column
from rowtag.core.derive import bands, convert, expression, ranks, recode, ticks
from rowtag.core.derive import ways as says
from rowtag.core.derive.outcome import Outcome, Source
from rowtag.core.derive.sentences import read
from rowtag.core.engine import Same, engine
from rowtag.core.errors import BadInput
from rowtag.core.formulas.errors import BadFormula
from rowtag.core.formulas.grammar import spelled_name, valued_in
from rowtag.core.formulas.held import Meant
from rowtag.core.formulas.meaning import Meaning, Meanings
from rowtag.core.formulas.nodes import Name, Node
from rowtag.core.names import key_of
from rowtag.core.reading import State, read_texts
from rowtag.core.rules import Formula
from rowtag.core.spans import made_of_any, span_key
from rowtag.core.study import Study
from rowtag.core.tag import Tag, lens_of
from rowtag.core.words import counted

MOST_SHOWN = 5
"""Records that are named one by one where nothing comes out."""

LONGEST_LABEL = 200
"""Characters of a condition that is written as the label of what it makes."""


@dataclass(frozen=True)
class Derived:
    """What a sentence makes of a study: variables, in their order, and those that it looks at; `behind` which of them
    the new ones stand. `several`: whether it can make more than one. `how`: the sentence with what its spans mean."""

    how: Formula
    outcomes: tuple[Outcome, ...]
    sources: tuple[str, ...]
    behind: str | None
    several: bool
    source: str | None


def held(text: str, study: Study, before: Formula | None = None) -> Formula:
    """A sentence that somebody wrote, with the variables of a study that it names. A span between the ends of one that
    stood in the sentence `before` it goes on to mean what that meant. Raises BadFormula where it cannot be read."""
    sentence = read(text)
    found = {name.name: id for name in sentence.names if (id := study.name_keys.get(key_of(name.name)))}
    known = {} if before is None else {(ids[0], ids[-1]): ids for ids in before.spans.values()}
    spans = {
        span_key(first.name, last.name): ids
        for first, last in sentence.ranges
        if (ids := known.get((found.get(first.name, ""), found.get(last.name, "")))) is not None
    }
    return Formula(text=text, names=found, spans=spans) if spans else Formula(text=text, names=found)


def shown(how: Formula, study: Study) -> str:
    """A sentence with the names that its variables have now; those that are gone keep theirs."""
    out = how.text
    for name in sorted(read(how.text).names, key=lambda each: -each.at[0]):
        id = how.names.get(name.name)
        if id is not None and id in study.variables:
            out = out[: name.at[0]] + spelled_name(study.tag(id).name) + out[name.at[1] :]
    return out


def for_another(how: Formula, study: Study, source: str, other: str) -> Formula:
    """The same sentence about another variable in place of its source."""
    out, names = how.text, dict(how.names)
    written = spelled_name(study.tag(other).name)
    for name in sorted(read(how.text).names, key=lambda each: -each.at[0]):
        if how.names.get(name.name) == source:
            out = out[: name.at[0]] + written + out[name.at[1] :]
            names.pop(name.name, None)
    return Formula(text=out, names={**names, study.tag(other).name: other})


def derive(how: Formula, study: Study, into: str | None = None) -> Derived:
    """What a sentence makes of a study, in place of the entries of a variable (`into`) where it has a condition that
    is not met. Raises BadFormula at the characters that are wrong; nothing is changed."""
    told = (how.text, tuple(how.names.items()), tuple(how.spans.items()))
    key = ("derive", *told, into, Same(study))  # who looks at it goes on to do it
    return engine.get(key, lambda: _Deriving(how, study).made(into))


class _Deriving:
    """One sentence in one state of a study."""

    def __init__(self, how: Formula, study: Study) -> None:
        self.study, self.how = study, how
        self.sentence = read(how.text)
        self.meanings = Meanings(study, how.names.get, how.spans)

    def made(self, into: str | None) -> Derived:
        way = self.sentence.way
        several = isinstance(way, says.Indicators | says.Split | says.Mentions | says.ByRank | says.OfThings)
        outcomes = self._outcomes(way)
        behind = self._last(way)
        outcomes = [self._where(each, into) for each in outcomes]
        for each in outcomes:
            assert each.column.length <= self.study.records.arrived
        outcomes = [_told(each) for each in outcomes]
        if said := self._with_made():
            outcomes[0] = replace(outcomes[0], notes=(*outcomes[0].notes, *said))
        source = getattr(way, "source", None)
        return Derived(
            self.how.model_copy(update={"spans": self.meanings.spans}) if self.meanings.spans else self.how,
            tuple(outcomes),
            tuple(self.meanings.used),
            behind,
            several,
            self._id(source) if source is not None else None,
        )

    def _last(self, way: says.Way) -> str | None:
        """The last in the codebook of the variables whose entries go into it: neither those that part the records, nor
        those of its condition."""
        node = getattr(way, "formula", None) or getattr(way, "condition", None)
        names = valued_in(node) if node is not None else []
        ids = {self._id(name) for name in names} if names else set(self.meanings.used)
        return max(ids, key=self.study.order.index, default=None)

    def _with_made(self) -> list[str]:
        """What to say of spans that take in what was made of others in them."""
        out = []
        for span, ids in self.meanings.spans.items():
            made = sorted(made_of_any(self.study, ids, ids), key=ids.index)
            if made:
                names = ", ".join(self.study.tag(id).name for id in made)
                out.append(f"{span} takes in {names}, made of others in it")
        return out

    def _outcomes(self, way: says.Way) -> list[Outcome]:
        if isinstance(way, says.Expression | says.Indicator):
            return [self._expressed(way)]
        if isinstance(way, says.Join | says.Which | says.ByRank | says.OfThings):
            return self._of_several(way)
        source = Source(self.study, self._id(way.source))
        if isinstance(way, says.Recode):
            return [recode.recode(source, way)]
        if isinstance(way, says.Reverse):
            return [recode.reverse(source, way)]
        if isinstance(way, says.Codes):
            return [recode.codes(source, way)]
        if isinstance(way, says.Bands):
            return [bands.bands(source, way)]
        if isinstance(way, says.Convert):
            return [convert.convert(source, way)]
        if isinstance(way, says.Split):
            return ticks.split(source, way)
        if isinstance(way, says.Mentions):
            return ticks.mentions(source, way)
        return ticks.indicators(source, way)

    def _id(self, name: Name) -> str:
        return self.meanings.id_of(name)

    def _expressed(self, way: says.Expression | says.Indicator) -> Outcome:
        node = way.condition if isinstance(way, says.Indicator) else way.formula
        meant = self._meant(node)
        if isinstance(way, says.Indicator) and meant.kind != "truth":
            raise BadFormula("This is no condition.", node.at, remedy="Such as: indicator hours > 10")
        found = expression.express(meant)
        now = read(shown(self.how, self.study)).way  # with the names that its variables have now
        if not isinstance(now, says.Indicator):
            return found
        return replace(found, parts={**found.parts, "label": now.text if len(now.text) <= LONGEST_LABEL else ""})

    def _meant(self, node: Node) -> Meant:
        before = dict(self.meanings.used)
        self.meanings.used.clear()
        meaning: Meaning = self.meanings.of(node)
        used = tuple(self.meanings.used)
        self.meanings.used = {**before, **dict.fromkeys(used)}
        return Meant(self.study, meaning, used, self.meanings.spans)

    def _of_several(self, way: says.Join | says.Which | says.ByRank | says.OfThings) -> list[Outcome]:
        ids = self._items(way.items)
        numeric = [id for id in ids if self.study.tag(id).type not in ("integer", "decimal")]
        if numeric:
            name = self.study.tag(numeric[0]).name
            raise BadFormula(f"{name} holds no numbers.", way.items[0][0].at, remedy="These are 0/1 or rank variables.")
        if isinstance(way, says.Join | says.Which):
            ticks.refuse_other_than_ticks(self.study, ids, way.items[0][0].at)
        if isinstance(way, says.Join):
            return [ticks.join(self.study, ids, way.by, way.rest)]
        if isinstance(way, says.Which):
            return [ticks.which(self.study, ids)]
        return ranks.by_rank(self.study, ids) if isinstance(way, says.ByRank) else ranks.of_things(self.study, ids)

    def _items(self, items: says.Items) -> list[str]:
        out: list[str] = []
        for first, last in items:
            out += [self._id(first)] if last is None else self.meanings.between(first, last)
        if len(set(out)) < len(out) or len(out) < 2:
            raise BadFormula("This takes two variables or more, each once.", items[0][0].at, remedy="Such as: a..e")
        return out

    def _where(self, outcome: Outcome, into: str | None) -> Outcome:
        """What is derived where the condition is met; elsewhere blank, or what stood there."""
        if self.sentence.only is None:
            return outcome
        meant = self._meant(self.sentence.only)
        if meant.kind != "truth":
            raise BadFormula("This is no condition.", self.sentence.only.at, remedy="Such as: only where hours > 10")
        met = [block.positions[value.data & value.known] for block, value in meant.blocks()]
        at = np.concatenate(met) if met else np.empty(0, np.int64)
        base = EMPTY_COLUMN if into is None else self.study.column(into)
        gone = None if outcome.gone is None else np.intersect1d(outcome.gone, at)
        return replace(outcome, column=base.with_entries_of(outcome.column, at, at), gone=gone)


def worked_out_now(study: Study, id: str) -> tuple[Column, Derived]:
    """The entries that a derived variable would have now. Raises BadInput where it is not derived, or cannot be."""
    variable = study.variable(id)
    how = variable.origin.how
    if how is None:
        raise BadInput(f"{variable.tag.name} is not derived from others.")
    found = derive(how, study)
    if variable.origin.at >= len(found.outcomes):
        raise BadInput(f"{variable.tag.name} is none of what its sentence makes any more.", remedy="Derive it anew.")
    return found.outcomes[variable.origin.at].column, found


def _told(outcome: Outcome) -> Outcome:
    """An outcome that says for which records nothing came out."""
    if outcome.gone is None or not outcome.gone.size:
        return outcome
    first = ", ".join(f"{at + 1:,}" for at in outcome.gone[:MOST_SHOWN].tolist())
    more = " …" if outcome.gone.size > MOST_SHOWN else ""
    note = f"nothing comes out for {counted(outcome.gone.size, 'record')} whose answers are valid ({first}{more})"
    return replace(outcome, notes=(*outcome.notes, note))


def refuse_healed(study: Study, id: str, column: Column, tag: Tag, *, by_lines: bool) -> None:
    """Raises BadInput where an entry that was a stray or missing and stays as recorded would read otherwise under a
    new tag: 8 was a stray, and is one until somebody says what becomes of it, in a line of its own where there are
    lines for it."""
    source = Source(study, id)
    apart = np.flatnonzero((source.stray | (source.reading.states == State.MISSING)) & (source.counts > 0))
    if not apart.size or not column.token_count:
        return
    texts = source.reading.texts(apart)
    held_there = column.find(texts) >= 0
    apart = apart[held_there]
    if not apart.size:
        return
    read = read_texts(texts.filter(pa.array(held_there)), lens_of(tag, tag.codes)).states
    was = source.reading.states[apart]
    healed = ((was == State.MISSING) & (read != State.MISSING)) | ((was != State.MISSING) & (read < State.UNREADABLE))
    token = next((int(each) for each in apart[healed] if _stays(study, id, column, int(each))), None)
    if token is None:
        return
    text = source.column.texts_at(np.array([token]))[0].strip()
    what = "a missing code" if source.reading.states[token] == State.MISSING else "a stray"
    word = "missing" if what == "a missing code" else "stray"
    raise BadInput(
        f"“{text}” is {what} of {source.tag.name} and would count as something else.",
        remedy=f"Say what becomes of it, such as: {word} -> blank."
        if by_lines
        else f"Leave it out: only where {spelled_name(source.tag.name)} is not {word}.",
    )


def _stays(study: Study, id: str, column: Column, token: int) -> bool:
    """Whether a record with a token of a source has the same text in a column."""
    source = study.column(id)
    text = source.texts_at(np.array([token]))
    wanted = int(column.find(text)[0])
    for first in range(0, study.records.arrived, 65_536):
        at = np.arange(first, min(first + 65_536, study.records.arrived))
        here = at[source.tokens_at(at) == token]
        if here.size:
            return bool((column.tokens_at(here) == wanted).any())
    return False


def names_for(pattern: Sequence[str], outcomes: Sequence[Outcome]) -> list[str]:
    """The names of what a sentence makes: as many as were given, or by a pattern whose * stands for what each is
    called, or for its number where that makes no name."""
    if len(pattern) == len(outcomes) and not any("*" in name for name in pattern):
        return list(pattern)
    if len(pattern) != 1 or pattern[0].count("*") != 1:
        number = counted(len(outcomes), "variable")
        raise BadInput(
            f"This makes {number}, and there {'is' if len(pattern) == 1 else 'are'} {counted(len(pattern), 'name')}.",
            remedy="Give each a name, or one with a * that stands for what each is called: tools_*.",
        )
    called = [each.called for each in outcomes]
    plain = all(name.isascii() and name.replace("_", "").isalnum() and len(name) <= 12 for name in called)
    plain = plain and len({key_of(name) for name in called}) == len(called)
    return [pattern[0].replace("*", name.lower() if plain else str(at + 1)) for at, name in enumerate(called)]
