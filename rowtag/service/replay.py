"""What came with a step because it is large, supplied again from what is kept."""

from pathlib import Path
from tempfile import TemporaryDirectory

from rowtag.core.steps import Supplies
from rowtag.core.steps.bring_in import AddRecords, BringIn
from rowtag.core.study import Source
from rowtag.formats import intake
from rowtag.formats.table import Settings, Table
from rowtag.service.apart import apart
from rowtag.store.studyfile import StudyFile


def supplies_of(file: StudyFile, step_id: str) -> Supplies:
    """The columns that came with a step, under the ids it has for them.

    They are kept with it; where an older version did not, they are read again from the bytes of its source.
    """
    step, kept = file.kept_step(step_id)
    if kept is not None or not isinstance(step, BringIn | AddRecords):
        return kept or {}
    numbers = {each.id: each.column for each in step.variables}
    table = _table(file, step.source)
    columns = {id: table.columns[table.numbers.index(number)] for id, number in numbers.items()}
    if isinstance(step, AddRecords):
        columns |= {id: table.columns[number - 1] for id, number in step.matched.items()}
    return columns


def _table(file: StudyFile, source: Source) -> Table:
    """A source read again from its kept bytes, the way it was read then."""
    with TemporaryDirectory() as folder:
        path = Path(folder) / f"source{Path(source.name).suffix}"
        with path.open("wb") as copy:
            copy.writelines(file.source_bytes(source.sha256))
        return apart.read(source.name, _read, path, source.name, Settings.model_validate(source.settings))


def _read(path: Path, name: str, settings: Settings) -> Table:
    with intake.opened(path, name) as opened:
        return opened.table(settings)
