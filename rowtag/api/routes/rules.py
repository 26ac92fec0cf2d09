"""Rules of a study, formulas as they are typed; and the library of rules."""

from fastapi import APIRouter, Response

from rowtag.api.bodies import Route
from rowtag.api.context import Here
from rowtag.api.models_rules import FormulaLook, FormulaRequest, FormulaWords, LibraryRule, RuleModel
from rowtag.core.formulas import WORDS, known_functions, written
from rowtag.core.ruletext import WrittenRule, write_rules

router = APIRouter(route_class=Route, prefix="/api/studies/{study_id}", tags=["rules"])
library = APIRouter(route_class=Route, prefix="/api/library", tags=["library"])


@router.get("/rules")
def rules(here: Here, study_id: str) -> list[RuleModel]:
    """The rules of a study, in the order in which they were written."""
    study = here.study(study_id).study
    return [RuleModel.of(study, id) for id in study.shelves["rule"]]


@router.get("/rules-text", response_class=Response, responses={200: {"content": {"text/plain": {}}}})
def rules_text(here: Here, study_id: str) -> Response:
    """The rules of a study as text, for another study or a file beside the codebook."""
    study = here.study(study_id).study
    found = [
        WrittenRule(rule.title, written(rule.holds, study), rule.severity, rule.note)
        for rule in study.shelves["rule"].values()
    ]
    return Response(write_rules(found), media_type="text/plain; charset=utf-8")


@router.post("/formula")
def formula(here: Here, study_id: str, request: FormulaRequest) -> FormulaLook:
    """What a formula means, as it is typed: nothing is kept."""
    return FormulaLook.of(here.study(study_id).study, request.text)


@library.get("/formula-words")
def formula_words() -> FormulaWords:
    """What may stand in a formula besides names, for whoever writes one."""
    return FormulaWords(functions=known_functions(), words=sorted(WORDS))


@library.get("/rules")
def library_rules(here: Here) -> list[LibraryRule]:
    """All rules of the library, by title."""
    return [LibraryRule.of(each) for each in here.workspace.library.rules()]


@library.put("/rules")
def keep_rule(here: Here, kept: LibraryRule) -> list[LibraryRule]:
    """Keeps a rule, in place of the one with this title if there is one."""
    here.workspace.library.keep_rule(kept.as_written())
    return library_rules(here)


@library.delete("/rules/{title:path}")
def drop_rule(here: Here, title: str) -> list[LibraryRule]:
    """Takes a rule out of the library; studies that hold to it keep theirs."""
    here.workspace.library.drop_rule(title)
    return library_rules(here)
