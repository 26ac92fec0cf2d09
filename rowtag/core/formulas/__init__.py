"""Formulas: conditions on records, rules, and what variables are derived by. One grammar, types, one evaluator."""

from rowtag.core.formulas.errors import BadFormula
from rowtag.core.formulas.held import Meant, meant, named, taken_in, written
from rowtag.core.formulas.values import Kind, Value
from rowtag.core.rules import Formula

__all__ = ["BadFormula", "Formula", "Kind", "Meant", "Value", "meant", "named", "taken_in", "written"]
