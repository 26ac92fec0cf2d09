"""Formulas as a study holds them: as they were written, with the variables that their names stand for.

Variables are named by their ids beside the text, so that a formula survives any renaming; it is shown with the names
that they have now.
"""

from collections.abc import Iterator
from dataclasses import dataclass
from functools import lru_cache

from rowtag.core.formulas.grammar import named_in, parse, spelled_name
from rowtag.core.formulas.meaning import Meaning, Meanings
from rowtag.core.formulas.nodes import Node
from rowtag.core.formulas.values import Kind, Value
from rowtag.core.frame import Block, Frame
from rowtag.core.names import key_of
from rowtag.core.rules import MOST_RULES, Formula
from rowtag.core.spans import Spans
from rowtag.core.study import Study

parsed = lru_cache(maxsize=2 * MOST_RULES)(parse)
"""The tree of a formula; trees never change."""


@dataclass(frozen=True, eq=False)
class Meant:
    """What a formula means in a state of a study: the kind of what it gives, the variables that it looks at, and what
    its spans mean."""

    study: Study
    meaning: Meaning
    variables: tuple[str, ...]
    spans: Spans

    @property
    def kind(self) -> Kind:
        """What it gives."""
        return self.meaning.kind

    def blocks(self) -> Iterator[tuple[Block, Value]]:
        """What it gives for the records that are there, block by block."""
        for block in Frame(self.study).blocks():
            yield block, self.meaning.work(block)


def named(text: str, study: Study) -> Formula:
    """A formula that somebody wrote, with the variables of a study that it names, as far as they are there. Raises
    BadFormula where it cannot be read."""
    names = {name.name: id for name in named_in(parsed(text)) if (id := study.name_keys.get(key_of(name.name)))}
    return Formula(text=text, names=names)


def taken_in(text: str, study: Study) -> Formula:
    """A formula that somebody wrote, checked to mean something in a study. Raises BadFormula."""
    held = named(text, study)
    meant(held, study)
    return held


def meant(formula: Formula, study: Study) -> Meant:
    """What a formula means in a study. Raises BadFormula, where a variable of it is gone, too."""
    node: Node = parsed(formula.text)
    meanings = Meanings(study, formula.names.get, formula.spans)
    meaning = meanings.of(node)
    return Meant(study, meaning, tuple(id for id in study.order if id in meanings.used), meanings.spans)


def written(formula: Formula, study: Study) -> str:
    """A formula with the names that its variables have now; those that are gone keep theirs."""
    out = formula.text
    for name in sorted(named_in(parsed(formula.text)), key=lambda each: -each.at[0]):
        id = formula.names.get(name.name)
        if id is not None and id in study.variables:
            out = out[: name.at[0]] + spelled_name(study.tag(id).name) + out[name.at[1] :]
    return out
