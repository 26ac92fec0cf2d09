"""What is keyed: questions in codebook order, batteries as one, ticks and rankings told."""

from rowtag.core.column import column_of_texts
from rowtag.core.keying import questions
from rowtag.core.study import Records, Study, Titled, Variable
from rowtag.core.tag import CodeLine, MissingLine, Skip, Tag

SCALE = tuple(
    CodeLine(code=str(code), label=word) for code, word in enumerate(("Poor", "Fair", "Good", "Very good"), 1)
)
DONT_KNOW = MissingLine(code="-8", label="Don't know", reason="don't know")


def study_of(*tags: Tag, entries: tuple[list[str], ...] = ()) -> Study:
    columns = [*entries, *([[]] * (len(tags) - len(entries)))]
    size = max(map(len, columns), default=0)
    study = Study(records=Records(size)).put(
        "battery", {"bat1": Titled(title="The site"), "bat2": Titled(title="Crops")}
    )
    return study.with_variables(
        [(tag.name, Variable(tag=tag), column_of_texts(texts)) for tag, texts in zip(tags, columns, strict=True)]
    )


def item(name: str, **parts: object) -> Tag:
    return Tag.model_validate({"name": name, "type": "integer", "codes": SCALE, "battery": "bat1", **parts})


def test_questions_in_their_order() -> None:
    """A battery with answers in common is one grid; one that stands apart, or alone, is a question of its own."""
    study = study_of(
        Tag(name="plot", use="identifier"), item("site_1", question="How good?"), item("site_2", question="How good?"),
        Tag(name="hours", type="decimal", level="ratio"), item("site_3"),
    )  # fmt: skip
    found = questions(study)
    assert [(each.kind, [one.name for one in each.variables]) for each in found] == [
        ("one", ["plot"]), ("grid", ["site_1", "site_2"]), ("one", ["hours"]), ("one", ["site_3"]),
    ]  # fmt: skip
    assert (found[1].title, found[1].wording) == ("The site", "How good?")
    assert [each.kind for each in questions(study, ["site_2", "gone", "site_1"])] == ["grid"]
    assert [one.name for one in questions(study, ["site_2", "site_1"])[0].variables] == ["site_2", "site_1"]


def test_what_can_be_answered() -> None:
    """Codes with their labels, missing ones with their reasons, and what an answer passes by."""
    skip = Skip(codes=("2",), to="age")
    study = study_of(
        item("holds", battery=None, missing=(DONT_KNOW,), skips=(skip,)), Tag(name="crop"), Tag(name="age")
    )
    (holds,) = questions(study)[0].variables
    assert [(each.code, each.label, each.reason) for each in holds.answers][3:] == [
        ("4", "Very good", None), ("-8", "Don't know", "don't know"),
    ]  # fmt: skip
    assert holds.coded and holds.skips == {"2": ("crop",)}
    assert not questions(study)[1].variables[0].coded


def test_ticks_and_rankings() -> None:
    """Things to tick by their use; things to rank by the codes of the ends, or by entries that are never the same."""
    ticks = [item(f"crop_{n}", battery="bat2", use="several answers") for n in range(2)]
    ends = (CodeLine(code="1", label="most"), CodeLine(code="3", label="least"))
    ranked = [item(f"rank_{n}", codes=ends) for n in range(3)]
    assert [each.kind for each in questions(study_of(*ticks, *ranked))] == ["ticks", "ranks"]
    yes = (CodeLine(code="1", label="Yes"), CodeLine(code="0", label="No"))
    told = [item(f"grown_{n}", battery="bat2", codes=yes, question="What do you grow? Tick all.") for n in range(2)]
    asked = [item(f"has_{n}", battery="bat2", codes=yes, question="Do you have these?") for n in range(2)]
    assert [questions(study_of(*each))[0].kind for each in (told, asked)] == ["ticks", "grid"]
    bare = [Tag(name=f"r{n}", type="integer", battery="bat1", codes=SCALE[:3]) for n in range(3)]
    apart = tuple([str((n + at) % 3 + 1) for at in range(12)] for n in range(3))
    assert questions(study_of(*bare, entries=apart))[0].kind == "ranks"
    assert questions(study_of(*bare, entries=([*apart[0]], [*apart[0]], [*apart[2]])))[0].kind == "grid"
    assert questions(study_of(*bare))[0].kind == "grid"
