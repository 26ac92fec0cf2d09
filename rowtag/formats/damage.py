"""One place that turns whatever a reader meets into a sentence with its file."""

import logging
from collections.abc import Iterator
from contextlib import contextmanager

from pydantic import ValidationError

from rowtag.core.errors import BadInput, Place, RowTagError, TooLarge, UnreadableFile
from rowtag.core.problems import problems

_log = logging.getLogger("rowtag.formats")


@contextmanager
def sentences(name: str) -> Iterator[None]:
    """Whatever goes wrong within at reading a file, told to a person."""
    try:
        yield
    except Exception as error:
        raise told(error, name) from error


def told(error: BaseException, name: str) -> RowTagError:
    """What went wrong at reading a file, as an error that says it to a person; the log, where it is on, says more."""
    if isinstance(error, RowTagError):
        return error
    _log.debug("reading %s", name, exc_info=error)
    if isinstance(error, ValidationError):
        return BadInput(
            f"This holds more than can be kept: {problems(error)}.", remedy="Shorten it.", where=Place(name)
        )
    if isinstance(error, MemoryError):
        return TooLarge(
            "This is larger than the memory there is.",
            remedy="Split it, or save the data alone as .csv (UTF-8).",
            where=Place(name),
        )
    return UnreadableFile(
        "This could not be read; it is damaged, or not what its ending says.",
        remedy="Open it in the program that made it and save it again, or save the data as .csv (UTF-8).",
        where=Place(name),
    )
