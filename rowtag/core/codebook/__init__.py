"""Codebooks: what is said of variables, Row Tag's own notation for it, and how it agrees with a study."""

from rowtag.core.codebook.described import Described, Understood
from rowtag.core.codebook.notation import read_notation
from rowtag.core.codebook.writing import write_notation

__all__ = ["Described", "Understood", "read_notation", "write_notation"]
