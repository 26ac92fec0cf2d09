"""What the HTTP interface says and takes about deriving variables."""

from typing import Annotated, Literal

from pydantic import BaseModel, Field

from rowtag.api.models_rules import FormulaProblem
from rowtag.core.checks import findings_on
from rowtag.core.derive import read, shown, sources_of
from rowtag.core.derive.crossed import Crossed, Side
from rowtag.core.derive.score import Reliability
from rowtag.core.derive.ways import Bands, Mentions
from rowtag.core.formulas import Formula
from rowtag.core.rules import LONGEST
from rowtag.core.study import FOLLOWING, Study
from rowtag.core.summary import Summary
from rowtag.core.tag import CodeLine, LabelText, Level, Type
from rowtag.core.views import FillCounts
from rowtag.service.derive import Look


class ThenRequest(BaseModel):
    """That what is made is to be parted into bands in the same step: the name for these, and their sentence; where it
    is empty, so many with equal counts or widths."""

    name: Annotated[str, Field(max_length=64)]
    text: Annotated[str, Field(max_length=LONGEST)] = ""
    number: Annotated[int, Field(ge=2, le=30)] = 3
    equal: Literal["counts", "widths"] = "counts"


class DeriveRequest(BaseModel):
    """A sentence as it is typed, the names of what it is to make (parted by commas, or one with a *), and the id of the
    variable that it is to be derived into, where it is to be in place. It is done for the variables `also`, too."""

    text: Annotated[str, Field(max_length=2 * LONGEST)]
    names: Annotated[str, Field(max_length=20_000)] = ""
    into: str | None = None
    label: LabelText = ""
    also: Annotated[list[str], Field(max_length=200)] = []
    then: ThenRequest | None = None


class SideModel(BaseModel):
    """A value of one side of old by new; of many values together the lowest and the highest."""

    code: str
    label: str
    reading: Literal["valid", "missing", "blank", "stray"]
    count: int
    low: str | None
    high: str | None
    different: int

    @classmethod
    def of(cls, side: Side) -> "SideModel":
        return cls.model_validate(side, from_attributes=True)


class RibbonModel(BaseModel):
    """How many records go from one old value to one new, by their places; of many old values their ends."""

    old: int
    new: int
    count: int
    low: str | None
    high: str | None


class OldByNewModel(BaseModel):
    """Old by new: both sides, and the ribbons between them, which add up to both."""

    old: list[SideModel]
    new: list[SideModel]
    ribbons: list[RibbonModel]
    records: int

    @classmethod
    def of(cls, found: Crossed) -> "OldByNewModel":
        ribbons = [RibbonModel.model_validate(each, from_attributes=True) for each in found.ribbons]
        return cls(
            old=list(map(SideModel.of, found.old)),
            new=list(map(SideModel.of, found.new)),
            ribbons=ribbons,
            records=found.records,
        )


class Figures(BaseModel):
    """Figures over valid numbers."""

    n: int
    mean: float | None
    sd: float | None
    min: float | None
    median: float | None
    max: float | None

    @classmethod
    def of(cls, found: Summary | None) -> "Figures | None":
        return None if found is None else cls.model_validate(found, from_attributes=True)


class NewVariableModel(BaseModel):
    """A variable that a sentence makes: what its tag says, its fill, and what became of what."""

    name: str
    label: str
    type: Type
    level: Level
    codes: list[CodeLine]
    fill: FillCounts
    old_by_new: OldByNewModel | None
    before: Figures | None
    after: Figures | None


class ItemModel(BaseModel):
    """An item of a score: its correlation with the sum of the others, and alpha without it."""

    said: str
    rest: float | None
    without: float | None


class ReliabilityModel(BaseModel):
    """How the items of a score go together."""

    alpha: float | None
    records: int
    items: list[ItemModel]

    @classmethod
    def of(cls, found: Reliability | None) -> "ReliabilityModel | None":
        return None if found is None else cls.model_validate(found, from_attributes=True)


class BandModel(BaseModel):
    """A range of values as a sentence has it; ends that are above or below do not belong to it themselves."""

    low: str | None
    high: str | None
    above: bool
    below: bool
    label: str | None


class ThemeModel(BaseModel):
    """A theme of open answers as a sentence has it."""

    label: str
    words: list[str]
    whole: list[str]


class MakesModel(BaseModel):
    """A sentence as steps take it, and the names of what it makes under ids that stand for them, in the sentences that
    follow, too."""

    how: Formula
    into: dict[str, str]


class DeriveLook(BaseModel):
    """What a sentence would make of all records, nothing being kept: either a problem, or what there would be."""

    revision: int
    problem: FormulaProblem | None = None
    makes: list[MakesModel] = []
    source: str | None = None
    sources: list[str] = []
    said: str = ""
    notes: list[str] = []
    variables: list[NewVariableModel] = []
    reliability: ReliabilityModel | None = None
    bands: list[BandModel] = []
    then: str = ""
    several: bool = False
    themes: list[ThemeModel] = []
    left: list[str] = []

    @classmethod
    def of(cls, revision: int, look: Look) -> "DeriveLook":
        first = look.step.variables[0]
        after, way = look.applied.study, read(first.how.text).way
        last = read(look.step.variables[-1].how.text).way
        bands = last.bands if isinstance(last, Bands) else ()
        themes = way.themes if isinstance(way, Mentions) else ()
        return cls(
            revision=revision,
            makes=[MakesModel(how=each.how, into=each.into) for each in look.step.variables],
            source=look.derived.source,
            sources=list(look.derived.sources),
            said=look.applied.full_sentence,
            notes=list(look.applied.made.notes),
            variables=[
                NewVariableModel(
                    name=after.tag(new.id).name,
                    label=after.tag(new.id).label,
                    type=after.tag(new.id).type,
                    level=after.tag(new.id).level,
                    codes=list(after.codes(new.id)),
                    fill=FillCounts.of(after.fill(new.id)),
                    old_by_new=None if new.crossed is None else OldByNewModel.of(new.crossed),
                    before=Figures.of(new.before),
                    after=Figures.of(new.after),
                )
                for new in look.new
            ],
            reliability=ReliabilityModel.of(look.reliability),
            bands=[BandModel.model_validate(each, from_attributes=True) for each in bands],
            then=look.step.variables[-1].how.text if look.then else "",
            several=look.derived.several,
            themes=[ThemeModel.model_validate(each, from_attributes=True) for each in themes],
            left=list(look.left),
        )


class Proposal(BaseModel):
    """A way that suits a variable, with a name and a sentence that can be done as it stands."""

    way: str
    name: str
    text: str


class RangeList(BaseModel):
    """A code list that is ranges alone: of a variable, or shared."""

    id: str
    name: str
    ranges: int


class DerivedVariable(BaseModel):
    """A variable that was derived: how, with the names of now, which of what that makes it is, what it was made from,
    and whether it holds other entries than come out now."""

    id: str
    sentence: str
    at: int
    sources: list[str]
    behind: bool


class DerivedList(BaseModel):
    """All derived variables of a study, in codebook order; and whether they follow what they are made of."""

    follows: bool
    variables: list[DerivedVariable]

    @classmethod
    def of(cls, study: Study) -> "DerivedList":
        out = []
        for id in study.order:
            origin = study.variable(id).origin
            if origin.how is None:
                continue
            behind = any(each.check == "not what comes out" for each in findings_on(study, id))
            out.append(
                DerivedVariable(
                    id=id,
                    sentence=shown(origin.how, study),
                    at=origin.at,
                    sources=list(sources_of(study, id)),
                    behind=behind,
                )
            )
        return cls(follows=FOLLOWING in study.shelves["habit"], variables=out)
