"""What is said of long work."""

from typing import Any, Literal

from pydantic import BaseModel

from rowtag.api.models_intake import ProposalReport
from rowtag.api.problems import Problem, problem_of
from rowtag.service.jobs import Job


class JobState(BaseModel):
    """How far long work is, and what came of it."""

    id: str
    what: str
    status: Literal["running", "done", "failed", "cancelled"]
    share: float
    doing: str
    result: dict[str, Any]
    proposals: ProposalReport | None
    problem: Problem | None

    @classmethod
    def of(cls, job: Job) -> "JobState":
        return cls(
            id=job.id,
            what=job.what,
            status=job.status,
            share=job.share,
            doing=job.doing,
            result={key: value for key, value in job.result.items() if key != "proposals"},
            proposals=job.result.get("proposals"),
            problem=problem_of(job.error) if job.error else None,
        )
