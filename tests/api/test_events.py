"""Windows hear of each other's changes; long work is told apart."""

import asyncio
import threading

import pytest

from rowtag.core.errors import BadInput, Cancelled, NotThere
from rowtag.formats.table import Watch
from rowtag.service.announcer import Announcer
from rowtag.service.jobs import KEPT_JOBS, Job, Jobs


def test_each_listener_hears_each_revision_of_its_study() -> None:
    """Announcing from another thread reaches all windows of the study, and no others, until they leave."""

    async def listen() -> None:
        announcer = Announcer()
        first, second, other = announcer.listen("a"), announcer.listen("a"), announcer.listen("b")
        threading.Thread(target=announcer.announce, args=("a", 7)).start()
        assert await asyncio.wait_for(first.get(), 5) == await asyncio.wait_for(second.get(), 5) == 7
        announcer.leave("a", first)
        announcer.announce("a", 8)
        assert await asyncio.wait_for(second.get(), 5) == 8
        assert first.empty() and other.empty()

    asyncio.run(listen())


def test_work_says_how_far_it_is_and_what_came_of_it() -> None:
    """Share and words are those that the work reports; the result is there at the end."""
    jobs, go = Jobs(), threading.Event()

    def work(_job: Job, watch: Watch) -> dict[str, object]:
        watch(0.5, "reading")
        go.wait(5)
        return {"records": 3}

    job = jobs.start("Reading", work)
    while job.share < 0.5:
        pass
    assert (job.status, job.doing) == ("running", "reading")
    go.set()
    job.ended.wait(5)
    assert (job.status, job.share, job.result) == ("done", 1.0, {"records": 3})


def test_stopped_work_ends_as_cancelled() -> None:
    """A stop is noticed at the next report, wherever the work is."""
    jobs, begun = Jobs(), threading.Event()

    def work(_job: Job, watch: Watch) -> dict[str, object]:
        while True:
            begun.set()
            watch(0.1, "reading")

    job = jobs.start("Reading", work)
    begun.wait(5)
    jobs.cancel(job.id)
    job.ended.wait(5)
    assert job.status == "cancelled" and job.error is None


@pytest.mark.parametrize(
    ("error", "said"),
    [(BadInput("It is bad."), "It is bad."), (ZeroDivisionError("1/0"), "Something went wrong inside")],
)
def test_failed_work_says_why(error: Exception, said: str, capsys: pytest.CaptureFixture[str]) -> None:
    """A user's error keeps its sentence; a programmer's gets a general one, and the log says more."""

    def work(_job: Job, _watch: Watch) -> dict[str, object]:
        raise error

    job = Jobs().start("Reading", work)
    job.ended.wait(5)
    assert job.status == "failed" and job.error is not None and job.error.what.startswith(said)
    assert ("ZeroDivisionError" in capsys.readouterr().err) == isinstance(error, ZeroDivisionError)


def test_old_work_is_forgotten_and_closing_stops_the_rest() -> None:
    """Only the latest jobs are kept; closing stops what still runs."""
    jobs = Jobs()
    first = jobs.start("Quick", lambda _job, _watch: {})
    for _ in range(KEPT_JOBS):
        jobs.start("Quick", lambda _job, _watch: {})
    with pytest.raises(NotThere):
        jobs.get(first.id)

    def forever(_job: Job, watch: Watch) -> dict[str, object]:
        while True:
            watch(0.0, "working")

    running = jobs.start("Long", forever)
    jobs.close()
    assert running.status == "cancelled" or isinstance(running.error, Cancelled)
