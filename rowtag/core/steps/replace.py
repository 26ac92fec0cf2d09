"""Find and replace: whole entries, parts of them, or what a pattern matches; among entries as recorded or as labels."""

import re
from typing import Annotated, Literal

import numpy as np
import numpy.typing as npt
import pyarrow as pa
import pyarrow.compute as pc
from pydantic import Field

from rowtag.core.answers import code_of_label, folded
from rowtag.core.errors import BadInput, NothingToDo
from rowtag.core.reading import State
from rowtag.core.steps.base import Ids, Made, Step, Supplies, names_of, register
from rowtag.core.steps.entries import matching
from rowtag.core.study import Study
from rowtag.core.tokens import large_texts
from rowtag.core.touched import became
from rowtag.core.words import counted

_SIGN = re.compile(r"[!-/:-@\[-`{-~]")
Wanted = Annotated[str, Field(max_length=10_000)]
How = Literal["whole", "part", "pattern"]


@register
class ReplaceFound(Step):
    """Replaces what is found in some variables, everywhere.

    `how`: a `whole` entry, compared as it is read (8, 08 and 8.0 are one number; nothing finds blanks); a `part` of an
    entry as recorded; or a `pattern`, a regular expression that runs in time linear in the text (RE2: no look-around,
    no back references), whose groups `by` names as \\1, \\2. Parts and patterns find capitals and small letters alike
    unless `case` counts. With `labels`, what is looked at and put in place is the label; entries become its code.
    """

    do: Literal["replace found"] = "replace found"
    variables: Ids
    find: Wanted
    by: Wanted
    how: How = "whole"
    case: bool = False
    labels: bool = False

    def change(self, study: Study, supplies: Supplies) -> Made:
        if self.how != "whole" and not self.find:
            raise BadInput(
                "A part of an entry has at least one character.", remedy="Blanks are found as whole entries."
            )
        columns, replaced, evidence = {}, 0, []
        for id in self.variables:
            tokens, texts = self._in(study, id)
            counts = study.counts(id)[tokens]
            if counts.any():
                columns[id] = study.column(id).with_each_replaced(tokens, texts, study.records.arrived)
                replaced += int(counts.sum())
                evidence.append(became(id, study.column(id).texts_at(tokens), texts, counts))
        if not replaced:
            what = f"“{self.find}”" if self.find.strip() else "blank"
            raise NothingToDo(f"Nothing is {what} in {names_of(study, self.variables)}.", remedy="Nothing is replaced.")
        nothing = "a blank" if self.how == "whole" else "nothing"
        shown = [f"“{text}”" if text.strip() else nothing for text in (self.find, self.by)]
        kind = {"whole": "", "part": "the part ", "pattern": "the pattern "}[self.how] + (
            "label " if self.labels else ""
        )
        sentence = f"Replaced {kind}{shown[0]} by {shown[1]} in {names_of(study, columns)}"
        notes = (f"{counted(replaced, 'entry', 'entries')} changed",)
        return Made(study.with_columns(columns), sentence, replaced, notes, tuple(evidence))

    def _in(self, study: Study, id: str) -> tuple[npt.NDArray[np.int64], list[str]]:
        """The tokens of a variable that are found and become another text, and these texts."""
        if self.labels:
            among, shown = _labelled(study, id)
        else:
            among, shown = None, study.column(id).texts()
        if self.how != "whole":
            found, new = self._parts(shown)
        else:
            found = self._same_labels(shown) if self.labels else matching(study, id, (self.find,))
            new = [self.by] * found.size
        if among is not None:
            codes = code_of_label(study, id)
            found, new = among[found], [codes.get(folded(text), text) for text in new]
        old = study.column(id).texts_at(found)
        other = np.array([before != after for before, after in zip(old, new, strict=True)], bool)
        return found[other], [text for text, keep in zip(new, other.tolist(), strict=True) if keep]

    def _same_labels(self, shown: pa.Array) -> npt.NDArray[np.int64]:
        wanted = folded(self.find)
        return np.array(
            [at for at, label in enumerate(shown.to_pylist()) if wanted and folded(label) == wanted], np.int64
        )

    def _parts(self, shown: pa.Array) -> tuple[npt.NDArray[np.int64], list[str]]:
        """Where a part or pattern is found, and what comes of it."""
        pattern = self.find if self.how == "pattern" else _SIGN.sub(r"\\\g<0>", self.find)
        pattern = pattern if self.case else f"(?i){pattern}"
        by = self.by if self.how == "pattern" else self.by.replace("\\", "\\\\")
        try:
            found = np.flatnonzero(pc.match_substring_regex(shown, pattern).to_numpy(False))
            new = pc.replace_substring_regex(pc.take(shown, pa.array(found)), pattern, by).to_pylist()
        except pa.ArrowInvalid as error:
            said = str(error).split(": ", 1)[-1].strip()
            raise BadInput(
                f"The pattern cannot be used: {said}.",
                remedy="Look-around and back references are not possible; groups go by \\1, \\2 in what replaces them.",
            ) from None
        return found, new


def _labelled(study: Study, id: str) -> tuple[npt.NDArray[np.int64], pa.Array]:
    """The tokens of a variable that stand for a line of its lists, and the label that is shown for each."""
    reading, codes, missing = study.reading(id), study.codes(id), study.tag(id).missing
    tokens = np.flatnonzero(reading.lines >= 0)
    lines, aside = reading.lines[tokens].tolist(), (reading.states[tokens] == State.MISSING).tolist()
    labels = [
        missing[line].label or missing[line].reason if is_missing else codes[line].label
        for line, is_missing in zip(lines, aside, strict=True)
    ]
    return tokens, large_texts(labels)
