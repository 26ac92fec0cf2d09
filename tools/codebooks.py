"""Reads the codebooks of the corpus and says how much of each was found, and what was made up."""

import sys
from collections import Counter
from dataclasses import dataclass, field
from pathlib import Path

from rowtag.core.codebook import Described, read_notation
from rowtag.documents.document import understand as read_document

CORPUS = Path(__file__).parent.parent / "tests" / "corpus"
REPORT = Path(__file__).parent.parent / "docs" / "corpus.md"
KINDS = ("names", "labels", "codes", "missing codes", "limits")
Facts = dict[str, set[tuple[object, ...]]]


@dataclass
class Score:
    """Facts found, made up and overlooked, by kind."""

    right: Counter[str] = field(default_factory=Counter)
    invented: Counter[str] = field(default_factory=Counter)
    overlooked: Counter[str] = field(default_factory=Counter)

    def add(self, expected: Facts, found: Facts) -> None:
        """Counts the facts of one document."""
        for kind in KINDS:
            self.right[kind] += len(expected[kind] & found[kind])
            self.invented[kind] += len(found[kind] - expected[kind])
            self.overlooked[kind] += len(expected[kind] - found[kind])

    def precision(self, kind: str) -> float:
        """Share of what was found that is right."""
        return self.right[kind] / max(self.right[kind] + self.invented[kind], 1)

    def recall(self, kind: str) -> float:
        """Share of what stands there that was found."""
        return self.right[kind] / max(self.right[kind] + self.overlooked[kind], 1)


def facts_of(described: tuple[Described, ...]) -> Facts:
    """What descriptions say, fact by fact. A question's wording and a label are one kind; codes go with labels."""
    facts: Facts = {kind: set() for kind in KINDS}
    for each in described:
        parts = each.parts
        facts["names"].add((each.name,))
        facts["labels"] |= {(each.name, _plain(text)) for text in (parts.label or parts.question,) if text}
        facts["codes"] |= {(each.name, line.code, line.low, line.high, _plain(line.label)) for line in parts.codes}
        facts["missing codes"] |= {(each.name, line.code, line.low, line.high) for line in parts.missing}
        if parts.limits.low is not None or parts.limits.high is not None:
            facts["limits"].add((each.name, parts.limits.low, parts.limits.high))
    return facts


def _plain(text: str) -> str:
    return " ".join(text.replace("’", "'").casefold().split()).strip(" .,;:")


def documents(part: str) -> list[Path]:
    """The documents of one part of the corpus."""
    return sorted(path for path in (CORPUS / part).iterdir() if path.suffix != ".expected")


def score(part: str, *, tell: bool = False) -> Score:
    """How a part of the corpus is read."""
    total = Score()
    for path in documents(part):
        expected = facts_of(read_notation(path.with_suffix(".expected").read_text("utf-8")).variables)
        found = facts_of(read_document(path.read_text("utf-8")).variables)
        total.add(expected, found)
        if tell:
            print(path.name)
            for kind in KINDS:
                for sign, those in (
                    ("made up", found[kind] - expected[kind]),
                    ("missed", expected[kind] - found[kind]),
                ):
                    for fact in sorted(those, key=str):
                        print(f"   {sign:8} {kind:14} {fact}")
    return total


HEAD = """# How well codebooks are read

Written by `make corpus`. Precision is the share of what was found that is right, recall the share of what stands there
that was found. A label counts as found whether it is taken as label or as question wording; a code with its label.
"""
PARTS = {"known": "to learn from", "apart": "written before the reader, never learned from"}


def report() -> str:
    """The figures of both parts of the corpus."""
    lines = [HEAD]
    for part, what in PARTS.items():
        found = score(part)
        lines += [f"## {len(documents(part))} documents {what}", "", "| | precision | recall | facts |"]
        lines.append("|---|---|---|---|")
        for kind in KINDS:
            of = found.right[kind] + found.overlooked[kind]
            lines.append(f"| {kind} | {found.precision(kind):.3f} | {found.recall(kind):.3f} | {of} |")
        lines.append("")
    return "\n".join(lines)


def main() -> None:
    """Writes and prints the figures; with `known`, also what was missed and made up in those documents."""
    if "known" in sys.argv[1:]:
        score("known", tell=True)
    REPORT.write_text(report(), encoding="utf-8")
    print(report())


if __name__ == "__main__":
    main()
