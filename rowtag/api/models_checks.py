"""What the HTTP interface says of gaps in a study, and of checks under way."""

from base64 import b64encode

from pydantic import BaseModel

from rowtag.core.gaps import Gaps


class CheckWork(BaseModel):
    """The share that is done of what is worked out beside; nothing where nothing is."""

    done: float | None


class GapPattern(BaseModel):
    """Gaps that records have in common: the ids of the variables, how many records, and the number of the first."""

    variables: list[str]
    count: int
    first: int


class GapMap(BaseModel):
    """Which records miss what. Rows are records with gaps alike, `sizes` of them each; `blank` and `coded` are the
    shares per row and variable, one byte each (0 to 255), row by row, in base64."""

    revision: int
    variables: list[str]
    sizes: list[int]
    blank: str
    coded: str
    patterns: list[GapPattern]
    different: int

    @classmethod
    def of(cls, revision: int, found: Gaps) -> "GapMap":
        return cls(
            revision=revision,
            variables=list(found.variables),
            sizes=found.sizes.tolist(),
            blank=b64encode(found.blank.tobytes()).decode(),
            coded=b64encode(found.coded.tobytes()).decode(),
            patterns=[
                GapPattern(variables=list(each.variables), count=each.count, first=each.first)
                for each in found.patterns
            ],
            different=found.different,
        )
