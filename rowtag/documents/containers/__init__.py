"""Kinds of files: one small reader each, which writes what a reader of the document sees as plain text."""
