"""Against the codebook: what a document that is kept beside a study says otherwise of its variables.

Documents are read above the core; whoever can read them says so once, by `read_by`.
"""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

from rowtag.core.answers import folded
from rowtag.core.checks.base import Finding, register_across
from rowtag.core.codebook.described import Described
from rowtag.core.codebook.telling import Difference
from rowtag.core.rules import Severity
from rowtag.core.study import Study
from rowtag.core.tag import CodeLine
from rowtag.core.words import counted
from rowtag.core.worked_out import entries, reading, sheets, words

MOST_SAID = 3
"""Differences that a finding names."""


@dataclass(frozen=True)
class Said:
    """What a document says of a variable, and what of that is otherwise than in the study."""

    described: Described
    differences: tuple[Difference, ...]


Reader = Callable[[Study, str], Mapping[str, Said]]
"""Gives what a document beside a study says of its variables, by their ids."""
_readers: list[Reader] = []


def read_by(reader: Reader) -> None:
    """Says who reads the documents beside a study."""
    _readers[:] = [reader]


def said_of(study: Study, sheet: str) -> Mapping[str, Said]:
    """What a document says of the variables of a study; nothing where nobody reads documents."""
    return _readers[0](study, sheet) if _readers else {}


@register_across("codebook says otherwise", "codebook", reading, words, entries, sheets, scope="records")
def says_otherwise(study: Study, ids: tuple[str, ...]) -> Sequence[Finding]:
    """Variables of which a document beside the study says otherwise. Where a code means there what another one means
    here, or stands for a missing answer, one of the two is wrong; all else is worth knowing."""
    found = []
    for sheet, kept in study.shelves["sheet"].items():
        for id, said in said_of(study, sheet).items():
            if not said.differences or id not in study.variables:
                continue
            against = [each for each in said.differences if _contradicts(study, id, each)]
            named = [f"{each.part}: {each.sheet}" for each in (against or said.differences)[:MOST_SAID]]
            more = len(said.differences) - len(named)
            told = "; ".join(named) + (f" and {counted(more, 'more difference')}" if more > 0 else "")
            severity: Severity = "warning" if against else "note"
            message = f"differs from “{kept.name}”: {told}"
            found.append(Finding("codebook says otherwise", severity, id, message, which=sheet))
    return found


def _contradicts(study: Study, id: str, difference: Difference) -> bool:
    """Whether a code means something else there: what another code means here, or that the answer is missing. Labels
    that are only worded otherwise contradict nothing; what is not listed here is told as unlisted."""
    if difference.key.startswith("missing "):
        return difference.study.startswith("listed: ")
    if not difference.key.startswith("label-of "):
        return False
    labels = {folded(line.label) for line in study.codes(id) if line.shown != difference.key[len("label-of ") :]}
    return folded(difference.sheet) in labels


def lines_for(study: Study, id: str, codes: Sequence[str]) -> tuple[CodeLine, ...]:
    """The lines that a document beside a study has for some codes of a variable; nothing unless it has all of them."""
    for sheet in study.shelves["sheet"]:
        said = said_of(study, sheet).get(id)
        known = {} if said is None else {line.code: line for line in said.described.parts.codes if line.code}
        if codes and all(code in known for code in codes):
            return tuple(CodeLine(code=code, label=known[code].label) for code in codes)
    return ()
