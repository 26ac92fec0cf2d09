"""The check report: what was found in a file, as one page to print, to mail, and to put away."""

from collections.abc import Iterator, Sequence
from html import escape
from typing import Any

from rowtag.core.checks import CHECKS
from rowtag.core.checks.base import SEVERITIES, Check
from rowtag.core.words import counted
from rowtag.service.page import page

MOST_RECORDS = 12
"""Records that the report names for each finding."""


def report_of(found: dict[str, Any], title: str, when: str) -> str:
    """What `check_under` or `found_in` found, as one HTML page that holds everything it needs and runs nothing."""
    return page(f"{title}: checked", _told(found, when))


def _told(found: dict[str, Any], when: str) -> Iterator[str]:
    findings: Sequence[dict[str, Any]] = found["findings"]
    counts = {severity: sum(each["severity"] == severity for each in findings) for severity in SEVERITIES}
    size = f"{found['records']:,} records, {len(found['variables']):,} variables"
    yield f'<p class="soft">Checked {escape(when)}: {size}.</p>'
    told = ", ".join(counted(counts[severity], severity) for severity in SEVERITIES)
    yield f"<p><b>{counted(len(findings), 'finding')}</b>: {told}.</p>"
    met = found.get("codebook", {"only_in_codebook": [], "only_in_data": []})
    for key, said in (("only_in_codebook", "Only in the codebook"), ("only_in_data", "Only in the data")):
        if met[key]:
            yield f"<p>{said}: {', '.join(f'<code>{escape(name)}</code>' for name in met[key])}.</p>"
    yield "<h2>Findings, worst first</h2>"
    yield "<table><tr><th></th><th>variable</th><th>finding</th><th>records</th><th>entries</th></tr>"
    for each in findings:
        names = each.get("variables") or [each["variable"]]
        shown = ", ".join(f"<code>{escape(name)}</code>" for name in names[:3])
        more = f" and {len(names) - 3:,} more" if len(names) > 3 else ""
        between = "; " if "rule" in each else ", "
        values = between.join(escape(value) for value in each["values"][:8])
        values += " …" if len(each["values"]) > 8 else ""
        evidence = f'<br><span class="soft">{values}</span>' if values else ""
        at = ", ".join(f"{record:,}" for record in each["records"][:MOST_RECORDS])
        at += " …" if each["count"] > MOST_RECORDS and at else ""
        severity = each["severity"]
        count = f"{each['count']:,}" if each["count"] else ""
        yield f'<tr><td class="{severity}">{severity}</td><td>{shown}{more}</td>'
        yield f"<td>{escape(each['message'])}{evidence}{_table(each)}</td>"
        yield f'<td>{at}</td><td class="number">{count}</td></tr>'
    yield "</table>"
    yield from _accepted(found.get("accepted", []))
    yield "<h2>What was checked</h2><table><tr><th>check</th><th>notices</th><th>found</th></tr>"
    settings = {each["check"]: each for each in found.get("settings", [])}
    for check in CHECKS.values():
        often = sum(each["check"] == check.name for each in findings)
        said = escape(check.notices) + _set(check, settings.get(check.name))
        yield f'<tr><td>{escape(check.name)}</td><td>{said}</td><td class="number">{often or ""}</td></tr>'
    yield "</table>"


def _table(finding: dict[str, Any]) -> str:
    """The figures that bear a finding out."""
    rows = finding.get("table") or []
    if not rows:
        return ""
    head = "".join(f"<th>{escape(cell)}</th>" for cell in rows[0])
    body = "".join("<tr>" + "".join(f"<td>{escape(cell)}</td>" for cell in row) + "</tr>" for row in rows[1:])
    return f"<table><tr>{head}</tr>{body}</table>"


def _accepted(accepted: Sequence[dict[str, Any]]) -> Iterator[str]:
    """What was left as it is, and why."""
    if not accepted:
        return
    yield "<h2>Accepted as it is</h2><table><tr><th>variable</th><th>what</th><th>why</th></tr>"
    for each in accepted:
        what = f"{each['check']}: {each['said'] or '“' + each['entry'] + '”'}"
        yield f"<tr><td><code>{escape(each['variable'])}</code></td><td>{escape(what)}</td>"
        yield f"<td>{escape(each['reason'])}</td></tr>"
    yield "</table>"


def _set(check: Check, setting: dict[str, Any] | None) -> str:
    """How a check is set, where that is not as usual."""
    if setting is None:
        return ""
    if setting.get("off"):
        return '<br><b class="warning">Not checked in this study.</b>'
    told = [
        f"{check.thresholds[name].said} {value:g} (default {check.thresholds[name].usual:g})"
        for name, value in setting.get("thresholds", {}).items()
        if name in check.thresholds
    ]
    return f"<br><b>Set for this study: {escape('; '.join(told))}.</b>"
