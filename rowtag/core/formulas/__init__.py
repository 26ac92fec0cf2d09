"""Formulas: conditions on records, rules, and what variables are derived by. One grammar, types, one evaluator."""

from rowtag.core.formulas.errors import BadFormula
from rowtag.core.formulas.figures import DOWN
from rowtag.core.formulas.functions import FUNCTIONS
from rowtag.core.formulas.grammar import WORDS
from rowtag.core.formulas.held import Meant, meant, named, taken_in, written
from rowtag.core.formulas.values import Kind, Value
from rowtag.core.rules import Formula

__all__ = [
    "WORDS",
    "BadFormula",
    "Formula",
    "Kind",
    "Meant",
    "Value",
    "known_functions",
    "meant",
    "named",
    "taken_in",
    "written",
]


def known_functions() -> dict[str, str]:
    """The functions that may stand in a formula, with what they give."""
    turned = {"reverse": "a scale turned round: its one end becomes the other"}
    return {**DOWN, **{name: each.said for name, each in FUNCTIONS.items()}, **turned}
