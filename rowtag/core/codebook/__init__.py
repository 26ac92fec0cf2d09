"""Codebooks as text: Row Tag's own notation, and reading of documents as people write them."""

from rowtag.core.codebook.described import Described, Understood
from rowtag.core.codebook.notation import read_notation
from rowtag.core.codebook.tolerant import read_document
from rowtag.core.codebook.writing import write_notation

__all__ = ["Described", "Understood", "read_document", "read_notation", "write_notation"]
