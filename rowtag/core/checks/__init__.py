"""All checks, each family in a module of its own; importing this package registers them."""

from rowtag.core.checks import strays, definitions, widths  # isort: skip  (their order is the order of the map)
from rowtag.core.checks.base import CHECKS, FAMILIES, Evidence, Finding, findings_on, is_ready, looked_at, run_checks

__all__ = [
    "CHECKS",
    "FAMILIES",
    "Evidence",
    "Finding",
    "definitions",
    "findings_on",
    "is_ready",
    "looked_at",
    "run_checks",
    "strays",
    "widths",
]
