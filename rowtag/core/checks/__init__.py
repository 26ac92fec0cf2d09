"""All checks, each family in a module of its own; importing this package registers them."""

from rowtag.core.checks import strays, definitions, widths, skips  # isort: skip  (their order is the order of the map)
from rowtag.core.checks.base import (
    CHECKS,
    FAMILIES,
    Evidence,
    Finding,
    entries_of,
    findings_across,
    findings_on,
    is_ready,
    records_of,
    run_checks,
)

__all__ = [
    "CHECKS",
    "FAMILIES",
    "Evidence",
    "Finding",
    "definitions",
    "entries_of",
    "findings_across",
    "findings_on",
    "is_ready",
    "records_of",
    "run_checks",
    "skips",
    "strays",
    "widths",
]
