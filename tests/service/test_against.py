"""Against the codebook: what a document beside a study says otherwise is found, and what it knows mends."""

from rowtag.core.checks import findings_across, findings_on
from rowtag.core.column import column_of_texts
from rowtag.core.remedies import remedies
from rowtag.core.steps.tags import Define
from rowtag.core.study import Records, Sheet, Study, Variable
from rowtag.core.tag import CodeLine, Parts, Tag
from rowtag.service import sheets

DOCUMENT = """tenure - how the plot is held
  1 = in my own name
  2 = shared with others
  8 = lent by a friend
hours - hours in a usual week
"""


def plots(
    first: str = "in my own name", second: str = "shared with others", label: str = "hours in a usual week"
) -> Study:
    lines = (CodeLine(code="1", label=first), CodeLine(code="2", label=second))
    tenure = Tag(name="tenure", label="how the plot is held", type="integer", codes=lines, complete=True)
    hours = Tag(name="hours", label=label, type="integer", level="ratio")
    study = Study(records=Records(4)).with_variables(
        [
            ("id_tenure", Variable(tag=tenure), column_of_texts(["1", "2", "2", "8"])),
            ("id_hours", Variable(tag=hours), column_of_texts(["4", "7", "", "9"])),
        ]
    )
    return study.put("sheet", {"sheet1": Sheet(name="Questionnaire", text=DOCUMENT)})


def against(study: Study) -> list[tuple[str, str, str]]:
    assert sheets.understood(study, "sheet1").variables, "the document is read"
    found = [each for each in findings_across(study) if each.check == "codebook says otherwise"]
    return [(each.severity, study.tag(each.variable).name, each.message) for each in found]


def test_a_code_that_means_something_else_there() -> None:
    """A warning where the codes are turned round; what is only worded otherwise is worth knowing."""
    turned = plots(first="shared with others", second="in my own name")
    (tenure,) = against(turned)
    assert tenure[:2] == ("warning", "tenure") and "label of 1: in my own name" in tenure[2]
    tenure, hours = against(plots(second="shared with somebody", label="Rent"))
    assert tenure[0] == hours[0] == "note"
    assert hours[1:] == ("hours", "differs from “Questionnaire”: label: hours in a usual week")


def test_what_the_document_knows_mends() -> None:
    study = plots()
    (finding,) = [each for each in findings_on(study, "id_tenure") if each.check == "unlisted codes"]
    first, second = remedies(study, finding)
    assert (first.word, second.word) == ("list them as the document has them", "set aside as missing")
    mended = first.step.apply(study).study
    assert mended.codes("id_tenure")[-1] == CodeLine(code="8", label="lent by a friend") and not against(mended)
    as_it_says = Define(variables=("id_hours",), parts=Parts(label="Rent")).apply(mended).study
    assert len(against(as_it_says)) == 1
