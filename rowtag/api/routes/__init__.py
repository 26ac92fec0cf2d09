"""All routes, a module per subject."""

from rowtag.api.routes import codebook, handover, intake, library, sheets, sources, steps, studies, study

ROUTERS = (
    studies.router,
    library.router,
    intake.router,
    sources.router,
    study.router,
    codebook.router,
    sheets.router,
    steps.router,
    handover.router,
)
