"""Bringing a file into a study: look, propose, then one step."""

import secrets
from collections.abc import Mapping
from concurrent.futures import ThreadPoolExecutor

from rowtag.core.names import check_name, key_of
from rowtag.core.propose import Proposal
from rowtag.core.steps.bring_in import Arrival, BringIn
from rowtag.core.study import Source
from rowtag.core.tag import Frozen, Level, Tag, Type, Use
from rowtag.formats import intake
from rowtag.formats.table import Settings, Watch, unwatched
from rowtag.store.sources import compressed_pieces
from rowtag.store.studyfile import Outcome, StudyFile
from rowtag.store.workspace import Upload


class Choice(Frozen):
    """What somebody chose for a column in place of what was proposed; parts not given stay as proposed."""

    name: str | None = None
    label: str | None = None
    type: Type | None = None
    level: Level | None = None
    use: Use | None = None
    leave_out: bool = False


def bring_in(
    file: StudyFile,
    upload: Upload,
    settings: Settings,
    choices: Mapping[int, Choice] | None = None,
    *,
    step_id: str,
    by: str = "",
    watch: Watch = unwatched,
) -> Outcome:
    """Reads a whole file and brings it into an empty study as one step, with its bytes."""
    with ThreadPoolExecutor(1) as aside:
        pieces = aside.submit(lambda: list(compressed_pieces(upload.path)))
        holding = intake.read(upload.path, upload.name, settings, lambda share, doing: watch(share * 0.8, doing))
        kept = pieces.result()
    arrivals, supplies = [], {}
    chosen = choices or {}
    source_id = secrets.token_hex(4)
    taken: set[str] = set()
    for number, (head, proposal, column) in enumerate(
        zip(holding.table.heads, holding.proposals, holding.table.columns, strict=True), 1
    ):
        choice = chosen.get(number, Choice())
        if choice.leave_out:
            continue
        tag = _chosen_tag(proposal, choice)
        check_name(tag.name, taken)
        taken.add(key_of(tag.name))
        arrival = Arrival(id=secrets.token_hex(4), column=number, name=head, tag=tag)
        arrivals.append(arrival)
        supplies[arrival.id] = column
    source = Source(
        name=upload.name,
        size=upload.size,
        sha256=upload.sha256,
        kind=settings.kind,
        records=holding.table.records,
        settings=settings.model_dump(),
    )
    step = BringIn(source_id=source_id, source=source, variables=tuple(arrivals))
    watch(0.85, "keeping")
    return file.take(step, step_id, by=by, supplies=supplies, source=(upload.sha256, iter(kept)))


def _chosen_tag(proposal: Proposal, choice: Choice) -> Tag:
    given = choice.model_dump(exclude={"leave_out"}, exclude_none=True)
    return proposal.tag.with_parts(**given)
