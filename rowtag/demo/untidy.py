"""The demo's data as people hand it on: with title, wordings and totals, and a second file that came late."""

import csv
from pathlib import Path

from rowtag.demo.generator import rows
from rowtag.demo.questions import QUESTIONS, TITLE

COLUMNS = 14
"""Columns of the untidy table."""
LATE = 60
"""Records of the late file; every other one is known already."""


def write_untidy(path: Path) -> None:
    """A semicolon table in Windows-1252, with decimal commas, wordings, a blank row, a total and a remark."""
    heads, *body = (row[:COLUMNS] for row in rows())
    blank = ("",) * COLUMNS
    wordings = [question.question or question.label for question in QUESTIONS[:COLUMNS]]
    decimal = [question.type == "decimal" for question in QUESTIONS[:COLUMNS]]
    written = [
        tuple(
            entry.replace(".", ",") if comma and entry != "." else entry
            for entry, comma in zip(row, decimal, strict=True)
        )
        for row in body
    ]
    table = [(f"{TITLE}, as kept in the site hut",), blank, heads, wordings, *written[:300], blank, *written[300:]]
    foot = [blank, ("Total", "", "", "189 204,6"), ("Source: the allotment committee, keyed in May 2026",)]
    with path.open("w", newline="", encoding="cp1252", errors="replace") as file:
        csv.writer(file, delimiter=";").writerows([*table, *foot])


def write_late(path: Path) -> None:
    """Late returns of the same survey: known and new plots, two columns called otherwise, one new, some gone."""
    heads, *body = (row[:COLUMNS] for row in rows())
    renamed = {"q4": "Q-4", "q5": "q5_"}
    with path.open("w", newline="", encoding="utf-8") as file:
        writer = csv.writer(file)
        writer.writerow([*(renamed.get(head, head) for head in heads[:8]), "q99"])
        for number, row in enumerate(body[:LATE]):
            plot = row[0] if number % 2 else f"9{number:03d}"
            writer.writerow([plot, *row[1:8], "yes" if number % 3 else "no"])
