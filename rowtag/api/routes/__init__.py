"""All routes, a module per subject."""

from rowtag.api.routes import codebook, handover, intake, library, sources, steps, studies, study

ROUTERS = (
    studies.router,
    library.router,
    intake.router,
    sources.router,
    study.router,
    codebook.router,
    steps.router,
    handover.router,
)
