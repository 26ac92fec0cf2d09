"""Generators for properties: entries as people make them, tags, studies and steps."""

from hypothesis import strategies as st

from rowtag.core.arrangement import Arrangement, RecordView, SortKey
from rowtag.core.column import column_of_texts
from rowtag.core.rules import CheckSetting, Formula, Rule
from rowtag.core.steps import Step
from rowtag.core.steps.accept import Accept
from rowtag.core.steps.codes import DropCodes, ListCodes, Mark, MarkMissing, MarkMissingWhere, OrderCodes, Relabel
from rowtag.core.steps.decide import Decide
from rowtag.core.steps.derive import Derive, Into, LetFollow, WorkOutAgain
from rowtag.core.steps.entries import AddBlankRecords, ReplaceEntries, SetBlock, SetEntries
from rowtag.core.steps.groups import Group, Ungroup
from rowtag.core.steps.lists import DetachList, NameList, ShareList, UseList
from rowtag.core.steps.records import CopyRecords, Remark, RemoveRecords, RestoreRecords, TakeRemarksBack
from rowtag.core.steps.replace import ReplaceFound
from rowtag.core.steps.rules import KeepRule, RemoveRules, SetCheck
from rowtag.core.steps.sheets import Describe, KeepSheet, ReadOtherwise, RemoveSheet
from rowtag.core.steps.skips import SetSkips
from rowtag.core.steps.stamp import STAMPED, Stamp
from rowtag.core.steps.start import AddVariables, NewVariable, Places
from rowtag.core.steps.tags import CLEARED, ClearParts, Define, Rename
from rowtag.core.steps.turn import TurnRound
from rowtag.core.steps.variables import Arrange, CopyVariables, RemoveVariables
from rowtag.core.steps.views import KeepView, RemoveView
from rowtag.core.steps.widths import TrimWidths
from rowtag.core.study import CodeList, Comment, Decision, Otherwise, Records, Study, Titled, Variable
from rowtag.core.tag import CodeLine, CodeSpan, Limits, Marks, MissingLine, Parts, Skip, Tag
from rowtag.core.touched import OneEntry

ODD = [
    "", " ", "\t", "1", "01", "+1", "1.0", "-9", "\u22129", "-9.0", " 2 ", "2", "3", "8", "99", "2.5", ".5", "5.",
    "1,5", "1.234,5", "1,234", "12 hrs", "n/a", "N/A", ".", "nan", "inf", "1e5", "1_000", "-0", "0", "£5", "-£5",
    "5 £", "5%", "2026-05-03", "2026-02-30", "3.5.2026", "05/03/2026", "2026-5-3", "10:30", "24:00",
    "2026-05-03 10:30", "2026-05-03T10:30:15", "Y", "y", "é", "e\u0301", "Дуже", "=1+1", "1-2", "--",
    "999999999999999999", "999999999999999997", "9999999999999999999", "0.1000000000000000055", "0.100000000000000005",
    "0.1", "1e-05", "2.5E+03", "-4.12300000080115e-05", "-0.0000412300000080115", "1e999", "1e-999", "2500", "1e+5",
    "0.10000000000000000555111512312578", "1000000000000000000000", "1e21", "E5", "5e", "1e5.0",
]  # fmt: skip
entries = (
    st.sampled_from(ODD) | st.text(max_size=6) | st.integers(-99, 99).map(str) | st.decimals(-9, 99, places=2).map(str)
)
codes = st.sampled_from(
    ["1", "2", "3", "8", "-9", "99", "2.5", "Y", "n/a", "é", "2026-05-03", "10:30", "0.1", "01", "1e5", "2500",
     "999999999999999999", "0.1000000000000000055", ".."]
)  # fmt: skip
ends = st.none() | st.sampled_from(["0", "1", "2.5", "80", "-5", "0.1", "2026-05-03", "10:30", "999999999999999999"])
labels = st.sampled_from(["", "Yes", "In my own name", "Дуже"])
reasons = st.sampled_from(["refused", "don't know", "not asked", "other"])
spans = st.builds(lambda code: {"code": code}, codes) | st.tuples(ends, ends).filter(any).map(
    lambda both: {"low": both[0], "high": both[1]}
)
code_lines = st.builds(lambda span, label: CodeLine(**span, label=label), spans, labels)
missing_lines = st.builds(
    lambda span, reason, label: MissingLine(**span, reason=reason, label=label), spans, reasons, labels
)
marks = st.sampled_from(
    [Marks(), Marks(decimal=","), Marks(decimal=",", thousands="."), Marks(thousands=","), Marks(sign="£"),
     Marks(date_order="dmy"), Marks(date_order="mdy")]
)  # fmt: skip
types = st.sampled_from(["integer", "decimal", "text", "date", "time", "datetime"])
levels = st.sampled_from(["nominal", "ordinal", "interval", "ratio"])
tags = st.builds(
    Tag,
    name=st.just("x"),
    label=labels,
    type=types,
    level=levels,
    use=st.sampled_from(["answer", "answer", "identifier", "weight", "several answers", "open-ended"]),
    marks=marks,
    codes=st.lists(code_lines, max_size=4).map(tuple),
    complete=st.booleans(),
    limits=st.builds(Limits, low=ends, high=ends),
    missing=st.lists(missing_lines, max_size=3).map(tuple),
)


@st.composite
def studies(draw: st.DrawFn) -> Study:
    """A study of one to three variables called a, b, c under the ids v0, v1, v2, some with short columns."""
    size = draw(st.integers(1, 12))
    variables = []
    for number in range(draw(st.integers(1, 3))):
        tag = draw(tags).with_parts(name="abc"[number])
        reach = draw(st.integers(1, size))
        column = column_of_texts(draw(st.lists(entries, min_size=reach, max_size=reach)))
        variables.append((f"v{number}", Variable(tag=tag, proposed=True), column))
    return Study(records=Records(size)).with_variables(variables)


def steps(study: Study) -> st.SearchStrategy[Step]:
    """Any step that concerns this study, possible or not."""
    one = st.sampled_from(study.order)
    some = st.lists(one, min_size=1, max_size=3).map(tuple)
    records = st.integers(1, study.records.arrived)
    line_lists = {kind: st.lists(lines, min_size=1, max_size=3).map(tuple) for kind, lines in
                  {"code": code_lines, "missing": missing_lines}.items()}  # fmt: skip
    bare = st.lists(spans.map(lambda span: CodeSpan(**span)), min_size=1, max_size=2).map(tuple)
    parts = st.fixed_dictionaries(
        {}, optional={"label": labels, "type": types, "level": levels, "complete": st.booleans(), "marks": marks,
                      "limits": st.builds(Limits, low=ends, high=ends)}
    ).filter(bool)  # fmt: skip
    names = st.sampled_from(["site_1", "tenure", "a", "B", "hours"])
    return st.one_of(
        st.builds(Define, variables=some, parts=parts.map(Parts.model_validate)),
        st.builds(Rename, names=st.dictionaries(one, names, min_size=1, max_size=1)),
        st.builds(ListCodes, variables=some, lines=line_lists["code"]),
        st.builds(MarkMissing, variables=some, lines=line_lists["missing"]),
        st.builds(
            MarkMissingWhere,
            marks=st.lists(st.builds(Mark, line=missing_lines, variables=some), min_size=1, max_size=3).map(tuple),
        ),
        st.builds(Relabel, line=spans.map(lambda span: CodeSpan(**span)), was=labels, label=labels),
        st.builds(DropCodes, variables=some, lines=bare),
        st.builds(OrderCodes, variables=some, lines=bare),
        st.builds(SetEntries, variable=one, entries=st.dictionaries(records, entries, min_size=1, max_size=3)),
        st.builds(
            SetBlock, records=st.lists(records, min_size=1, max_size=2, unique=True).map(tuple), more=st.just(1),
            entries=st.dictionaries(one, st.tuples(entries, entries), min_size=1, max_size=2), labels=st.booleans(),
        ),
        st.builds(
            ReplaceEntries, variables=some, entries=st.lists(entries, min_size=1, max_size=2).map(tuple), by=entries
        ),
        st.builds(
            ReplaceFound, variables=some, find=st.sampled_from(["1", "", "a", "8", "Yes", "."]), by=entries,
            how=st.sampled_from(["whole", "part", "pattern"]), labels=st.booleans(), case=st.booleans(),
        ),
        st.builds(
            Accept, check=st.just("unlisted codes"), variable=one, entries=st.lists(codes, max_size=2).map(tuple),
            reason=st.just("known"),
        ),
        st.builds(Group, battery=st.just("bat1"), title=st.just("The site"), variables=some),
        st.builds(Ungroup, variables=some),
        st.builds(
            ClearParts, variables=some,
            parts=st.lists(st.sampled_from(list(CLEARED)), min_size=1, max_size=3).map(tuple),
        ),
        st.builds(
            Stamp, source=one, variables=some,
            parts=st.lists(st.sampled_from(list(STAMPED)), min_size=1, max_size=4).map(tuple),
        ),
        st.builds(
            Describe,
            tags=st.dictionaries(
                one, parts.map(Parts.model_validate) | st.builds(Parts, codes=line_lists["code"]),
                min_size=1, max_size=2,
            ),
        ),
        st.builds(
            Describe,
            places=st.dictionaries(
                one, st.builds(Places, battery=st.just("bat1")) | st.builds(Places, code_list=st.none()), max_size=2
            ),
            batteries=st.just({"bat1": Titled(title="The site")}),
            lists=st.dictionaries(
                st.just("list1"), st.builds(CodeList, name=st.just("agree5"), lines=line_lists["code"]),
                min_size=1,
            ),
            add=st.builds(
                lambda tag, name: (NewVariable(id=f"new_{name}", tag=tag.with_parts(name=name)),),
                tags, st.sampled_from(["bed", "tap"]),
            ),
        ),
        st.builds(KeepSheet, sheet=st.sampled_from(["sheet1", "sheet2"]), name=labels.filter(bool), text=labels),
        st.builds(
            ReadOtherwise, sheet=st.sampled_from(["sheet1", "sheet2"]),
            said=st.just((Otherwise(first=1, last=1, are="nothing"),)) | st.just(()),
        ),
        st.builds(RemoveSheet, sheet=st.sampled_from(["sheet1", "sheet2"])),
        st.builds(
            SetSkips, variable=one,
            skips=st.lists(
                st.builds(Skip, codes=st.lists(codes, min_size=1, max_size=2).map(tuple), to=st.none() | one,
                          proposed=st.booleans()), max_size=2,
            ).map(tuple),
        ),
        st.builds(RemoveRecords, records=st.lists(records, min_size=1, max_size=2).map(tuple)),
        st.builds(RestoreRecords, records=st.lists(records, min_size=1, max_size=2).map(tuple)),
        st.builds(CopyRecords, records=st.lists(records, min_size=1, max_size=2).map(tuple)),
        st.builds(
            Remark, comment=st.sampled_from(["note1", "note2"]),
            on=st.builds(Comment, record=records, variable=st.none() | one, text=st.just("see paper")),
        ),
        st.builds(TakeRemarksBack, comments=st.just(("note1",))),
        st.builds(
            KeepView, view=st.sampled_from(["view1", "view2"]),
            shows=st.builds(
                RecordView, name=st.sampled_from(["First", "Second"]), variables=some,
                arrangement=st.builds(
                    Arrangement, sort=st.builds(lambda id: (SortKey(variable=id),), one), alike=st.just(()) | some
                ),
            ),
        ),
        st.builds(TurnRound, variables=some),
        st.builds(
            lambda id, text: Derive(variables=(Into(how=Formula(text=text, names={"x": id}), into={"made1": "made"}),)),
            one, st.sampled_from(["recode x: 1 -> 2; blank -> 3", "indicator x is valid", "reverse x from 1 to 3",
                                  "codes x: '1', 'Y' 1", "bands x: .. 5", "x is missing only where x is not blank"]),
        ),
        st.builds(WorkOutAgain, variables=some),
        st.builds(LetFollow, on=st.booleans()),
        st.builds(RemoveView, view=st.just("view1")),
        st.builds(
            KeepRule, rule=st.sampled_from(["rule1", "rule2"]),
            says=st.builds(
                lambda title, how, one: Rule(title=title, holds=Formula(text=f"x is {how}", names={"x": one})),
                st.sampled_from(["Whole", "Asked"]), st.sampled_from(["valid", "not stray", "blank"]), one,
            ),
        ),
        st.builds(RemoveRules, rules=st.just(("rule1",))),
        st.builds(
            lambda off, share: SetCheck(says=CheckSetting(check="nearly empty", off=off, thresholds={"share": share})),
            st.booleans(), st.sampled_from([0.1, 0.5, 0.95]),
        ),
        st.builds(
            lambda id, record, kept: Decide(
                decisions=(Decision(record=record, variable=id, own=_entry_of(study, id, record), kept=kept),)
            ),
            one, records, entries,
        ),
        st.builds(TrimWidths, variables=some),
        st.builds(Arrange, variables=some, before=st.none() | one),
        st.builds(
            CopyVariables, copies=st.dictionaries(one, st.sampled_from(["copy1", "copy2", "copy3"]), min_size=1),
            entries=st.booleans(),
        ),
        st.builds(
            ShareList, list=st.sampled_from(["list1", "list2"]), name=st.sampled_from(["agree5", "yes or no"]),
            variables=some, lines=st.none() | line_lists["code"],
        ),
        st.builds(UseList, list=st.just("list1"), variables=some),
        st.builds(DetachList, variables=some),
        st.builds(NameList, list=st.just("list1"), name=st.none() | st.just("agree7")),
        *([st.builds(RemoveVariables, variables=one.map(lambda id: (id,)))] if len(study.order) > 1 else []),
        st.builds(AddBlankRecords, count=st.integers(1, 5)),
        st.builds(
            lambda tag, name: AddVariables(variables=(NewVariable(id=f"new_{name}", tag=tag.with_parts(name=name)),)),
            tags, st.sampled_from(["a", "shed", "path"]),
        ),
    )  # fmt: skip


def _entry_of(study: Study, id: str, record: int) -> str:
    return str(OneEntry(id, record).value(study))


def contents(study: Study) -> dict[str, object]:
    """Everything that a study is, to the letter, for comparing two of them."""
    size = study.records.arrived
    entries_of = {}
    for id in study.order:
        column = study.column(id)
        entries_of[id] = column.texts_at(column.indexes(0, size))
    shelves = {
        name: {id: value.model_dump() for id, value in shelf.items()} for name, shelf in study.shelves.items() if shelf
    }
    return {
        "shelves": shelves,
        "order": study.order,
        "records": (size, study.records.removed),
        "naming": study.naming,
        "entries": entries_of,
    }
