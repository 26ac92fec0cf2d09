"""All routes, a module per subject."""

from rowtag.api.routes import codebook, handover, intake, library, records, sheets, sources, steps, studies, study

ROUTERS = (
    studies.router,
    library.router,
    intake.router,
    sources.router,
    study.router,
    records.router,
    codebook.router,
    sheets.router,
    steps.router,
    handover.router,
)
