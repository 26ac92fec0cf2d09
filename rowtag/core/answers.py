"""Answers as people write them where codes belong: a label of a variable's list becomes its code."""

import unicodedata
from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from rowtag.core.reading import canonical_code, tidy_one
from rowtag.core.study import Study


def folded(text: str) -> str:
    """A text without what nobody minds when they type an answer: case, accents, kinds of apostrophes, loose blanks."""
    return " ".join(without_accents(text.replace("’", "'").casefold()).split())


def without_accents(text: str) -> str:
    """A text with plain letters for those with accents."""
    if text.isascii():
        return text
    return "".join(sign for sign in unicodedata.normalize("NFKD", text) if not unicodedata.combining(sign))


@dataclass(frozen=True)
class Answer:
    """One answer that a variable's list offers: its code, label, and whether it stands for a missing one."""

    code: str
    label: str
    missing: bool


def answers(study: Study, id: str) -> list[Answer]:
    """What can be answered under a variable's tag, in the order of its list, missing codes behind; no ranges."""
    listed = [Answer(line.code, line.label, False) for line in study.codes(id) if line.code is not None]
    return listed + [
        Answer(line.code, line.label or line.reason, True) for line in study.tag(id).missing if line.code is not None
    ]


def code_of_label(study: Study, id: str) -> dict[str, str]:
    """The code of each folded label of a variable, missing ones too; without labels that several codes have."""
    found: dict[str, str | None] = {}
    listed = [(line.label, line.code) for line in study.codes(id)]
    listed += [(line.label, line.code) for line in study.tag(id).missing]
    for said, code in listed:
        if code is not None and (label := folded(said)):
            found[label] = code if found.get(label, code) == code else None
    return {label: code for label, code in found.items() if code is not None}


def in_codes(study: Study, id: str, entries: Iterable[str]) -> Mapping[str, str]:
    """What of some entries are labels of a variable, with the codes that they mean. What is a code itself is none."""
    meant = code_of_label(study, id)
    if not meant:
        return {}
    kind = study.tag(id).type
    listed = {canonical_code(line.code, kind) for line in (*study.codes(id), *study.tag(id).missing) if line.code}
    out = {}
    for entry in dict.fromkeys(entries):
        code = meant.get(folded(entry))
        if code is not None and tidy_one(entry) != code and canonical_code(entry, kind) not in listed:
            out[entry] = code
    return out
