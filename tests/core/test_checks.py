"""Checks: what each notices, what it leaves alone, and that what is accepted is quiet."""

import pytest

from rowtag.core.checks import findings_on, is_ready, run_checks
from rowtag.core.checks.strays import stray_tokens
from rowtag.core.column import column_of_texts
from rowtag.core.errors import BadInput
from rowtag.core.frame import Frame
from rowtag.core.records import StrayCell, Strays
from rowtag.core.steps.accept import Accept
from rowtag.core.steps.entries import SetEntries
from rowtag.core.study import Records, Study, Variable
from rowtag.core.tag import CodeLine, Limits, Marks, Tag

YES = (CodeLine(code="1", label="Yes"), CodeLine(code="0", label="No"))
WHOLE = {"label": "Label", "type": "integer"}


def study_of(entries: list[str], **parts: object) -> Study:
    tag = Tag(name="q1").with_parts(**parts)
    return Study(records=Records(len(entries))).with_variables([("v", Variable(tag=tag), column_of_texts(entries))])


CASES = [
    # entries, tag, what is found (check, message, evidence)
    (["1", "12 hrs", "12 hrs "], {**WHOLE, "level": "ratio"},
     [("unreadable entries", "2 entries are not whole numbers", [("12 hrs", 2)])]),
    (["2026-02-30"], {**WHOLE, "type": "date", "level": "interval"},
     [("unreadable entries", "1 entry is no date", [("2026-02-30", 1)])]),
    (["1", "0", "8", "08"], {**WHOLE, "codes": YES, "complete": True},
     [("unlisted codes", "2 entries are beyond what the code list allows", [("8", 2)])]),
    (["1", "99"], {**WHOLE, "level": "ratio", "limits": Limits(high="80")},
     [("unlisted codes", "1 entry is beyond what the limits allow", [("99", 1)])]),
    (["1", "8"], {**WHOLE, "codes": YES}, []),
    (["1", "2"], {**WHOLE},
     [("code list wanted", "is nominal and has no code list; 2 codes occur", [("1", 1), ("2", 1)])]),
    (["1", "2"], {**WHOLE, "use": "identifier"}, []),
    (["1", "2"], {**WHOLE, "level": "ratio"}, []),
    (["1", "0"], {**WHOLE, "codes": (YES[0], CodeLine(code="0"))},
     [("code list wanted", "has 1 code without a label", [("0", 0)])]),
    (["a", "b"], {"label": "Label", "codes": (CodeLine(code="a", label="Alone"), CodeLine(code="b"))},
     [("code list wanted", "has 1 code without a label", [("b", 0)])]),
    (["a"], {"label": "Label", "codes": (CodeLine(code="a"), CodeLine(code="b"))}, []),
    (["3,5", "3.5", "1,5", "3,50"],
     {"label": "Label", "type": "decimal", "level": "ratio", "marks": Marks(decimal=","), "limits": Limits(high="3")},
     [("unreadable entries", "1 entry is no number", [("3.5", 1)]),
      ("unlisted codes", "2 entries are beyond what the limits allow", [("3,5", 2)])]),
    (["Own"], {"label": "Label"}, []),
    (["1", "0"], {"type": "integer", "codes": YES}, [("label wanted", "has no label", [])]),
    ([" ", ""], {**WHOLE, "level": "ratio"}, []),
    (["abcd", "abc ", "abcde"], {"label": "Label", "use": "open-ended", "width": 3},
     [("longer than the width", "2 entries are longer than the width of 3; none is cut", [("abcde", 1), ("abcd", 1)])]),
]  # fmt: skip


@pytest.mark.parametrize(("entries", "parts", "expected"), CASES)
def test_what_is_found(entries: list[str], parts: dict[str, object], expected: list[object]) -> None:
    """Each check notices what it is for, with its evidence, and nothing else."""
    found = [
        (each.check, each.message, [(one.entry, one.count) for one in each.evidence])
        for each in findings_on(study_of(entries, **parts), "v")
    ]
    assert found == expected


def test_accepted_is_quiet_and_stays_a_stray() -> None:
    """An accepted entry is no finding any more, others of the same kind still are, and its reading stays."""
    study = study_of(["1", "8", "9"], **WHOLE, codes=YES, complete=True)
    accept = Accept(check="unlisted codes", variable="v", entries=("8",), reason="lent")
    quiet = accept.apply(study).study
    assert [one.entry for one in findings_on(quiet, "v")[0].evidence] == ["9"]
    assert quiet.fill("v") == study.fill("v")
    both = accept.model_copy(update={"entries": ("8", "9")}).apply(study).study
    assert is_ready(both, "v") and not is_ready(quiet, "v")
    whole = Accept(check="label wanted", variable="v", reason="known to all")
    unlabelled = study_of(["1"], type="integer", codes=YES)
    assert findings_on(unlabelled, "v") and not findings_on(whole.apply(unlabelled).study, "v")


def test_accepting_all_accepts_what_is_there_now() -> None:
    """Accepting a finding as a whole names every entry it is about; one that comes later is noticed."""
    study = study_of([*map(str, range(10, 40)), "1"], **WHOLE, codes=YES, complete=True)
    quiet = Accept(check="unlisted codes", variable="v", reason="known").apply(study).study
    assert findings_on(quiet, "v") == () and len(quiet.shelves["accepted"]) == 30
    later = SetEntries(variable="v", entries={1: "77"}).apply(quiet).study
    assert [(one.entry, one.count) for one in findings_on(later, "v")[0].evidence] == [("77", 1)]
    for check, said in (("unlisted codes", "finds nothing on q1"), ("no such", "There is no check")):
        with pytest.raises(BadInput, match=said):
            Accept(check=check, variable="v", reason="known").apply(quiet)


def test_worst_first_and_never_out_of_date() -> None:
    """Errors come before warnings; a changed entry is seen at once."""
    study = study_of(["1", "x"], type="integer")
    assert [each.severity for each in run_checks(study)] == ["error", "warning", "warning"]
    mended = SetEntries(variable="v", entries={2: "2"}).apply(study).study
    assert [each.severity for each in run_checks(mended)] == ["warning", "warning"]


def test_the_records_of_a_finding() -> None:
    """A finding's records are found by the entries it shows, and the next stray in reading order."""
    study = study_of(["1", "x", "", "x ", "y"], **WHOLE, level="ratio")
    assert Frame(study).numbers_of("v", stray_tokens(study, "v", {"x"})) == [2, 4]
    assert Frame(study).numbers_of("v", stray_tokens(study, "v")) == [2, 4, 5]
    strays = Strays(study)
    assert strays.beside(0, None) == StrayCell(2, "v", 1, 3)
    assert strays.beside(2, "v") == StrayCell(4, "v", 2, 3)
    assert strays.beside(5, "v") is None


def test_only_what_a_check_can_find_is_accepted() -> None:
    """A check that does not exist cannot be accepted, nor one that finds nothing."""
    study = study_of(["1", "9"])
    with pytest.raises(BadInput, match="There is no check called “moonlight”"):
        Accept(check="moonlight", variable="v", entries=("9",), reason="x").apply(study)
    with pytest.raises(BadInput, match="finds nothing"):
        Accept(check="unreadable entries", variable="v", reason="x").apply(study)
