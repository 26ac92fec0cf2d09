"""Code lines as they are typed or pasted into a code list: every line is one, however it is written."""

import re

from rowtag.core.tag import CodeSpan, Frozen, LabelText, Reason
from rowtag.documents.codes import NUMBER, code_line
from rowtag.documents.reasons import missing_reason

_RANGE = re.compile(rf"({NUMBER})?\s*\.\.\s*({NUMBER})?(?:\s*[=:\t]\s*|\s+|$)(.*)")


class TypedLine(CodeSpan):
    """A code or a range, its label, and the reason where the label says that it stands for a missing answer."""

    label: LabelText = ""
    reason: Reason | None = None


class TypedLines(Frozen):
    """What was typed, line by line."""

    lines: tuple[TypedLine, ...]


def typed_lines(text: str) -> TypedLines:
    """The code lines of a text, one a line: "3 Waiting list", "1. Yes", "2) No", "35 .. 59 = Middle", ".. 34 Young".

    The first word is the code where nothing else tells it apart.
    """
    return TypedLines(lines=tuple(_typed(line.strip()) for line in text.splitlines() if line.strip()))


def _typed(line: str) -> TypedLine:
    ranged = _RANGE.fullmatch(line)
    if ranged and (ranged[1] or ranged[2]):
        label = ranged[3].strip()
        return TypedLine(low=ranged[1], high=ranged[2], label=label, reason=missing_reason(label)[0])
    read = code_line(line)
    if read is not None and not (read[1] == " " and read[0].code not in (line.split()[0], None)):
        code = read[0]
        reason = code.reason or missing_reason(code.label)[0]
        return TypedLine(code=code.code, low=code.low, high=code.high, label=code.label, reason=reason)
    first, _, rest = line.partition(" ")
    return TypedLine(code=first, label=rest.strip(), reason=missing_reason(rest.strip())[0])
