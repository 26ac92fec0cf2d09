"""Puts the demo study into a workspace: brought in, mostly defined, with some work left to do."""

import secrets
from pathlib import Path
from tempfile import TemporaryDirectory

from rowtag.core.steps import Step
from rowtag.core.steps.codes import ListCodes, MarkMissing
from rowtag.core.steps.groups import Group
from rowtag.core.steps.tags import Define, Parts, Rename
from rowtag.core.tag import CodeLine, Limits, Marks, MissingLine
from rowtag.demo.generator import write_csv
from rowtag.demo.questions import QUESTIONS, TITLE, Question
from rowtag.formats.intake import guess
from rowtag.service.intake import bring_in
from rowtag.store.workspace import Entry, Workspace

DEMO_ID = "demo"


def ensure_demo(workspace: Workspace) -> Entry:
    """The demo study, made when it is not there yet; one that somebody has worked on stays as it is."""
    for entry in workspace.entries():
        if entry.id == DEMO_ID:
            return workspace.restore(DEMO_ID) if entry.removed_at else entry
    workspace.create(TITLE, DEMO_ID)
    file = workspace.study(DEMO_ID)
    with TemporaryDirectory() as folder:
        path = Path(folder) / "fennel-row-2026.csv"
        write_csv(path)
        with path.open("rb") as data:
            upload = workspace.receive(path.name, data)
    bring_in(file, upload, guess(upload.path, upload.name), step_id=secrets.token_hex(8), by="demo")
    workspace.discard(upload.id)
    ids = dict(zip((question.head for question in QUESTIONS), file.study.order, strict=True))
    for step in definitions(ids):
        file.take(step, secrets.token_hex(8), by="demo")
    workspace.note_change(DEMO_ID)
    return workspace.entry(DEMO_ID)


def definitions(ids: dict[str, str]) -> list[Step]:
    """The steps that define the demo, given the variables' ids under their heads."""
    names = {ids[question.head]: question.name for question in QUESTIONS if question.head != question.name}
    steps: list[Step] = [Rename(names=names)]
    for question in QUESTIONS:
        if question.label:
            steps.append(Define(variables=(ids[question.head],), parts=_parts(question)))
    for codes, complete, heads in _same(lambda q: (tuple(q.codes.items()), q.complete)):
        if codes:
            variables = tuple(ids[head] for head in heads)
            lines = tuple(CodeLine(code=code, label=label) for code, label in codes)
            steps.append(ListCodes(variables=variables, lines=lines))
            if complete:
                steps.append(Define(variables=variables, parts=Parts(complete=True)))
    for missing, _, heads in _same(lambda q: (q.missing, True)):
        if missing:
            lines_missing = tuple(
                MissingLine(code=code, reason=reason, label=reason.capitalize()) for code, reason in missing
            )
            steps.append(MarkMissing(variables=tuple(ids[head] for head in heads), lines=lines_missing))
    for title, _, heads in _same(lambda q: (q.battery, True)):
        if title:
            steps.append(Group(battery=secrets.token_hex(4), title=title, variables=tuple(ids[head] for head in heads)))
    return steps


def _parts(question: Question) -> Parts:
    """What the demo's codebook says of a variable besides its codes."""
    given = {"label": question.label, "type": question.type, "level": question.level, "use": question.use}
    if question.question:
        given["question"] = question.question
    low, high = question.limits or (None, None)
    extra = {}
    if question.limits:
        extra["limits"] = Limits(low=low, high=high)
    if question.sign:
        extra["marks"] = Marks(sign=question.sign)
    return Parts.model_validate({**given, **extra})


def _same(key):  # type: ignore[no-untyped-def]
    """Heads of questions that share something, in order of first occurrence: (first, second, heads)."""
    groups: dict[object, list[str]] = {}
    for question in QUESTIONS:
        groups.setdefault(key(question), []).append(question.head)
    return [(*shared, heads) for shared, heads in groups.items()]
