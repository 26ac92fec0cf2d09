"""Reads the codebooks of the corpus and says how much of each was found, and what was made up.

    python -m tools.codebooks [known | FOLDER]

With `known`, also what was missed and made up in the documents to learn from. Of another FOLDER, one folder a document
with document.<ending> and expected.json ({"variables": [{"name", "label", "codes": [{"code", "label"}], "limits"}]}),
the same figures are printed and nothing is written.
"""

import json
import sys
from collections import Counter, defaultdict
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from rowtag.core.codebook import Described, read_notation
from rowtag.core.errors import RowTagError
from rowtag.core.tag import Parts
from rowtag.documents.document import read_codebook, understand

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
    sure: dict[int, list[bool]] = field(default_factory=lambda: defaultdict(list))
    """Whether what was said of a variable was all right, by how sure it was, in tenths."""

    def add(self, expected: Facts, described: tuple[Described, ...]) -> None:
        """Counts the facts of one document."""
        found = facts_of(described)
        for each in described:
            facts = facts_of((each,))
            right = all(facts[kind] <= expected[kind] for kind in KINDS if kind != "missing codes")
            self.sure[min(int(10 * each.certainty), 9)].append(right)
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
        lines = (*parts.codes, *parts.missing)
        facts["codes"] |= {(each.name, line.code, line.low, line.high, _plain(line.label)) for line in lines}
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
        described = understand(path.read_text("utf-8")).variables
        found = facts_of(described)
        total.add(expected, described)
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
        lines += [f"## {len(documents(part))} documents {what}", "", *figures(score(part))]
    return "\n".join(lines)


def figures(found: Score) -> list[str]:
    """Precision and recall of each kind of fact, and how often what was so sure was right."""
    lines = ["| | precision | recall | facts |", "|---|---|---|---|"]
    for kind in KINDS:
        of = found.right[kind] + found.overlooked[kind]
        lines.append(f"| {kind} | {found.precision(kind):.3f} | {found.recall(kind):.3f} | {of} |")
    lines += ["", "| how sure | variables | entirely right |", "|---|---|---|"]
    for tenth, right in sorted(found.sure.items(), reverse=True):
        lines.append(f"| {tenth / 10:.1f} to {(tenth + 1) / 10:.1f} | {len(right)} | {sum(right) / len(right):.2f} |")
    return [*lines, ""]


def elsewhere(folder: Path) -> Score:
    """How the documents of another folder are read. Any wording that the reading calls as good counts as right."""
    total = Score()
    for path in sorted(folder.glob("*/expected.json")):
        document = next(each for each in sorted(path.parent.iterdir()) if each.stem == "document")
        try:
            found = read_codebook(document, document.name).variables
        except RowTagError as error:
            print(f"{path.parent.name}: {error}")
            found = ()
        reading = json.loads(path.read_text("utf-8"))["variables"]
        total.add(_as_read(reading, {each.name: each for each in found}), found)
    return total


def _as_read(reading: list[dict[str, Any]], found: dict[str, Described]) -> Facts:
    """An expected reading as facts; where several wordings are as good, the one that was found."""
    facts: Facts = {kind: set() for kind in KINDS}
    for each in reading:
        parts = found[each["name"]].parts if each["name"] in found else Parts()
        said = _plain(parts.label or parts.question or "")
        facts["names"].add((each["name"],))
        good = [_plain(text) for text in (each.get("label"), *each.get("also", ())) if text]
        if good or said:
            facts["labels"].add((each["name"], said if said in good or not good else good[0]))
        labels = {line.code: _plain(line.label) for line in (*parts.codes, *parts.missing)}
        missing = {line.code for line in parts.missing}
        for code in each.get("codes", ()):
            good = [_plain(text) for text in (code.get("label"), *code.get("also", ())) if text]
            label = labels.get(code["code"], "")
            said = label if label in good or not good else good[0]
            facts["codes"].add((each["name"], code["code"], None, None, said))
            if code["code"] in missing:
                facts["missing codes"].add((each["name"], code["code"], None, None))
        if limits := each.get("limits"):
            facts["limits"].add((each["name"], *(f"{end:g}" for end in limits)))
    return facts


def main() -> None:
    """Writes and prints the figures; with `known`, also what was missed and made up in those documents."""
    asked = sys.argv[1] if sys.argv[1:] else ""
    if asked and asked != "known":
        print("\n".join(figures(elsewhere(Path(asked)))))
        return
    if asked:
        score("known", tell=True)
    REPORT.write_text(report(), encoding="utf-8")
    print(report())


if __name__ == "__main__":
    main()
