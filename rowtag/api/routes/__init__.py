"""All routes, a module per subject."""

from rowtag.api.routes import handover, intake, steps, studies, study

ROUTERS = (studies.router, intake.router, study.router, steps.router, handover.router)
