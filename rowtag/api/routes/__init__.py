"""All routes, a module per subject."""

from rowtag.api.routes import (
    checks,
    codebook,
    derive,
    diary,
    handover,
    intake,
    library,
    records,
    rules,
    sheets,
    sources,
    steps,
    studies,
    study,
)

ROUTERS = (
    studies.router,
    library.router,
    rules.library,
    rules.router,
    intake.router,
    sources.router,
    study.router,
    checks.router,
    derive.router,
    diary.router,
    records.router,
    codebook.router,
    sheets.router,
    steps.router,
    handover.router,
)
