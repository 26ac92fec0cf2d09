"""The diary filtered: by what a step concerns, its kind, who took it, and the day."""

from dataclasses import dataclass

from rowtag.store.diary import DiaryLine
from rowtag.store.studyfile import StudyFile

AT_ONCE, MOST_AT_ONCE = 500, 8_000
"""Steps that are looked at together where only some are wanted: more each time, since what leads to the head is
followed anew each time."""


@dataclass(frozen=True)
class Wanted:
    """Which steps are wanted: those that changed a variable (by id), are of a kind, by somebody, of a day (ISO 8601, in
    UTC); whatever is not said does not matter."""

    variable: str | None = None
    kind: str | None = None
    by: str | None = None
    day: str | None = None

    def meets(self, line: DiaryLine) -> bool:
        """Whether a step is wanted."""
        return (
            self.variable in (None, *line.account["variables"])
            and self.kind in (None, line.do)
            and self.by in (None, line.by)
            and (self.day is None or line.at.startswith(self.day))
        )


def looked_back(file: StudyFile, wanted: Wanted, most: int, before: int | None) -> tuple[list[DiaryLine], int | None]:
    """The newest steps that are wanted, and the revision behind which there may be more (None where there are none)."""
    found: list[DiaryLine] = []
    size = most if wanted == Wanted() else AT_ONCE
    while lines := file.diary(size, before):
        for line in lines:
            before = line.revision
            if wanted.meets(line):
                found.append(line)
                if len(found) == most:
                    return found, before
        if len(lines) < size:
            break
        size = size if wanted == Wanted() else min(2 * size, MOST_AT_ONCE)
    return found, None
