"""Editions: states of a study that somebody named. They are among what a study's file says of itself."""

import json
import secrets
from dataclasses import asdict, dataclass

from pydantic import TypeAdapter, ValidationError

from rowtag.core.errors import BadInput, Damaged, NotThere
from rowtag.store.studyfile import StudyFile, now

PREFIX = "edition "
LONGEST_NAME, LONGEST_NOTE = 120, 4_000
MOST = 2_000


@dataclass(frozen=True)
class Edition:
    """A named state: when and by whom it was named, how large it was, and the SHA-256 of its data and of its codebook
    (see `rowtag.service.editions`)."""

    id: str
    name: str
    note: str
    state: int
    at: str
    by: str
    records: int
    variables: int
    data: str
    codebook: str


_EDITION = TypeAdapter(Edition)


def editions(file: StudyFile) -> list[Edition]:
    """All editions of a study, newest first."""
    found = [edition_from(value) for key, value in file.about().items() if key.startswith(PREFIX)]
    return sorted(found, key=lambda each: (each.at, each.id), reverse=True)


def edition(file: StudyFile, id: str) -> Edition:
    """One edition. Raises NotThere."""
    found = file.about().get(f"{PREFIX}{id}")
    if found is None:
        raise NotThere("There is no such edition.", remedy="Look at the list of editions.")
    return edition_from(found)


def kept_as(edition: Edition) -> str:
    """An edition as it is kept."""
    return json.dumps(asdict(edition), ensure_ascii=False)


def edition_from(kept: str) -> Edition:
    """An edition as it was kept. Raises Damaged where it is none."""
    try:
        return _EDITION.validate_json(kept, strict=True)
    except ValidationError as error:
        raise Damaged("An edition is not as it was kept.", remedy="Restore a backup.") from error


def keep_edition(
    file: StudyFile, name: str, note: str, state: int, *, data: str, codebook: str, by: str = ""
) -> Edition:
    """Names a state. Raises BadInput where the name is none, or taken."""
    name, note = " ".join(name.split()), note.strip()
    if not name or len(name) > LONGEST_NAME:
        raise BadInput(f"An edition has a name of 1 to {LONGEST_NAME} characters.", remedy="Such as: As delivered.")
    if len(note) > LONGEST_NOTE:
        raise BadInput(f"The note has {len(note):,} characters; there may be {LONGEST_NOTE:,}.", remedy="Shorten it.")
    study = file.state(state)
    size = study.records.count, len(study.order)
    kept = Edition(secrets.token_hex(6), name, note, state, now(), by, *size, data, codebook)
    with file.alone():  # or two who give the same name at the same moment would both get it
        there = editions(file)
        if any(each.name.casefold() == name.casefold() for each in there):
            raise BadInput(f"There is an edition “{name}” already.", remedy="Give this one another name.")
        if len(there) >= MOST:
            raise BadInput(f"There are {MOST:,} editions.", remedy="Let some of them go.")
        file.say(**{f"{PREFIX}{kept.id}": kept_as(kept)})
    return kept


def forget_edition(file: StudyFile, id: str) -> None:
    """Lets the name of a state go; the state stays in the diary."""
    file.say(**{f"{PREFIX}{edition(file, id).id}": None})
