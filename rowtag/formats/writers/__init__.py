"""All kinds of writer, each in a module of its own; importing this package registers them."""

from rowtag.formats.writers import csv, datapackage, comments, readme  # isort: skip  (their order is that of an archive)
from rowtag.formats.writers.base import WRITERS, Handed, Preview, Writer

__all__ = ["WRITERS", "Handed", "Preview", "Writer", "comments", "csv", "datapackage", "readme"]
