"""Puts the demo study into a workspace: brought in, mostly defined, with some work left to do."""

import secrets
from collections.abc import Callable, Hashable
from functools import partial
from typing import Any, TypeVar

from rowtag.core.steps import Step
from rowtag.core.steps.codes import ListCodes, MarkMissing
from rowtag.core.steps.groups import Group
from rowtag.core.steps.sheets import KeepSheet
from rowtag.core.steps.tags import Define, Rename
from rowtag.core.tag import CodeLine, MissingLine, Parts
from rowtag.demo.generator import csv_text, questionnaire
from rowtag.demo.questions import QUESTIONS, TITLE, Question
from rowtag.formats.intake import guess
from rowtag.service.intake import bring_in
from rowtag.store.studyfile import StudyFile
from rowtag.store.workspace import Entry, Upload, Workspace

DEMO_ID = "demo"


def ensure_demo(workspace: Workspace) -> Entry:
    """The demo study, made when it is not there yet; one that somebody has worked on stays as it is."""
    for entry in workspace.entries():
        if entry.id == DEMO_ID:
            return workspace.restore(DEMO_ID) if entry.removed_at else entry
    upload = workspace.receive("fennel-row-2026.csv", [csv_text().encode()])
    try:
        return workspace.make(TITLE, DEMO_ID, fill=partial(_fill, upload=upload))
    finally:
        workspace.discard(upload.id)


def _fill(file: StudyFile, upload: Upload) -> None:
    """Brings the demo's data in and defines most of it."""
    bring_in(file, upload, guess(upload.path, upload.name), step_id=secrets.token_hex(8), by="demo")
    ids = dict(zip((question.head for question in QUESTIONS), file.study.order, strict=True))
    for step in definitions(ids):
        file.take(step, secrets.token_hex(8), by="demo")


def definitions(ids: dict[str, str]) -> list[Step]:
    """The steps that define the demo, given the variables' ids under their heads."""

    def variables(heads: list[str]) -> tuple[str, ...]:
        return tuple(ids[head] for head in heads)

    steps: list[Step] = [Rename(names={ids[each.head]: each.name for each in QUESTIONS if each.head != each.name})]
    steps += [Define(variables=(ids[each.head],), parts=_parts(each)) for each in QUESTIONS if each.label]
    for (codes, complete), heads in _shared(lambda each: (tuple(each.codes.items()), each.complete)):
        if codes:
            lines = tuple(CodeLine(code=code, label=label) for code, label in codes)
            steps.append(ListCodes(variables=variables(heads), lines=lines))
            if complete:
                steps.append(Define(variables=variables(heads), parts=Parts(complete=True)))
    for missing, heads in _shared(lambda each: each.missing):
        if missing:
            given = [{"code": code, "reason": reason, "label": reason.capitalize()} for code, reason in missing]
            reasons = tuple(MissingLine.model_validate(each) for each in given)
            steps.append(MarkMissing(variables=variables(heads), lines=reasons))
    for title, heads in _shared(lambda each: each.battery):
        if title:
            steps.append(Group(battery=secrets.token_hex(4), title=title, variables=variables(heads)))
    steps.append(KeepSheet(sheet=secrets.token_hex(4), name="Questionnaire 2026.txt", text=questionnaire()))
    return steps


def _parts(question: Question) -> Parts:
    """What the demo's codebook says of a variable besides its codes."""
    given: dict[str, Any] = {"label": question.label, "type": question.type, "level": question.level}
    given["use"] = question.use
    if question.question:
        given["question"] = question.question
    if question.limits:
        given["limits"] = {"low": question.limits[0], "high": question.limits[1]}
    if question.sign:
        given["marks"] = {"sign": question.sign}
    return Parts.model_validate(given)


Key = TypeVar("Key", bound=Hashable)


def _shared(key: Callable[[Question], Key]) -> list[tuple[Key, list[str]]]:
    """What questions share, in order of first occurrence, with the heads of those that share it."""
    groups: dict[Key, list[str]] = {}
    for question in QUESTIONS:
        groups.setdefault(key(question), []).append(question.head)
    return list(groups.items())
