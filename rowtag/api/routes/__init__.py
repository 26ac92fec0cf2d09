"""All routes, a module per subject."""

from rowtag.api.routes import handover, intake, sources, steps, studies, study

ROUTERS = (studies.router, intake.router, sources.router, study.router, steps.router, handover.router)
