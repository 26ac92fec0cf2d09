"""Codebooks on the command line: what a document says, and a file checked or described under it."""

import secrets
from dataclasses import replace
from pathlib import Path
from typing import Any

from rowtag.core.checks import Finding, findings_across, records_of, run_checks
from rowtag.core.codebook import Described, Understood
from rowtag.core.codebook.matching import Match, match, study_under
from rowtag.core.errors import Place, UnreadableFile
from rowtag.core.formulas import named
from rowtag.core.rules import Rule
from rowtag.core.ruletext import read_rules
from rowtag.core.steps.sheets import Describe
from rowtag.core.steps.start import Places
from rowtag.core.study import Origin, Source, Study
from rowtag.core.tag import Parts
from rowtag.core.touched import parts_between
from rowtag.documents.document import read_codebook
from rowtag.service.at_hand import at_hand_of
from rowtag.service.describe import described, opened_study
from rowtag.store.studyfile import now

FIRST_RECORDS = 20
"""Records that a finding names."""


def describe_document(path: Path, data: Path | None = None) -> dict[str, Any]:
    """What was understood of a document: its variables, and the numbers of lines that could not be placed; weighed by
    the data that it is about, where these are given."""
    at_hand = at_hand_of(opened_study(data)) if data is not None else {}
    found = read_codebook(path, path.name, at_hand)
    return {"variables": [variable_of(each) for each in found.variables], "unplaced": list(found.unplaced)}


def variable_of(each: Described) -> dict[str, Any]:
    """One described variable. A code is a code or the ends of a range; missing ones carry their reason."""
    parts = each.parts
    lines = [(line, None) for line in parts.codes] + [(line, line.reason) for line in parts.missing]
    codes = []
    for line, reason in lines:
        span = {"code": line.code} if line.code is not None else {"low": line.low, "high": line.high}
        codes.append({**span, "label": line.label or None, "missing": reason})
    given = parts.model_fields_set
    limits = {"low": parts.limits.low, "high": parts.limits.high} if "limits" in given else None
    return {
        "name": each.name,
        "label": parts.label,
        "question": parts.question,
        "level": parts.level if "level" in given else None,
        "type": parts.type if "type" in given else None,
        "limits": limits,
        "codes": codes,
        "certainty": each.certainty,
        "lines": list(each.lines),
    }


def under_codebook(file: Path, codebook: Path, sheet: str | None = None) -> tuple[Study, Understood, Match]:
    """A file's study read under a codebook, what was understood of that, and which names met."""
    study = opened_study(file, sheet)
    understood = read_codebook(codebook, codebook.name, at_hand_of(study))
    matched = match(study, understood.variables)
    return study_under(study, matched), understood, matched


def as_step(study: Study, codebook: Path) -> Describe | None:
    """The step by which a codebook is laid upon a study that has its records; None where it says nothing of them."""
    understood = read_codebook(codebook, codebook.name, at_hand_of(study))
    after = study_under(study, match(study, understood.variables))
    ids = {place: {id: secrets.token_hex(4) for id in after.shelves[place]} for place in ("battery", "section")}
    tags, names, places = {}, {}, {}
    for id in study.order:
        was, now = study.tag(id), after.tag(id)
        parts = set(parts_between(was, now))
        if own := {part: getattr(now, part) for part in parts & Parts.model_fields.keys()}:
            tags[id] = Parts(**own)
        if there := {place: ids[place][at] for place in ids if place in parts and (at := getattr(now, place))}:
            places[id] = Places(**there)
        if "name" in parts:
            names[id] = now.name
    if not (tags or names or places):
        return None
    titled = {place: {ids[place][id]: each for id, each in after.shelves[place].items()} for place in ids}
    return Describe(
        tags=tags, names=names, places=places, batteries=titled["battery"], sections=titled["section"],
        source=codebook.name[:200],
    )  # fmt: skip


def describe_under(file: Path, codebook: Path, sheet: str | None = None) -> dict[str, Any]:
    """What a file holds, read under a codebook."""
    study, understood, matched = under_codebook(file, codebook, sheet)
    return {**described(study), "codebook": _met(study, understood, matched)}


def check_under(file: Path, codebook: Path, sheet: str | None = None, rules: Path | None = None) -> dict[str, Any]:
    """What all checks find in a file under a codebook, and under rules where these are given."""
    study, understood, matched = under_codebook(file, codebook, sheet)
    study = _as_brought(study, file)
    if rules is not None:
        study = _held_to(study, rules)
    found = found_in(study)
    return {"records": found.pop("records"), "codebook": _met(study, understood, matched), **found}


def found_in(study: Study) -> dict[str, Any]:
    """What all checks find in a study, and how they are set where that is not as usual."""
    found = described(study)
    settings = [each.model_dump(exclude_defaults=True) for each in study.shelves["check"].values()]
    return {
        "records": found["records"],
        "variables": found["variables"],
        "findings": [_finding(study, each) for each in run_checks(study, findings_across(study))],
        **({"settings": settings} if settings else {}),
    }


def accepted_in(study: Study) -> list[dict[str, Any]]:
    """What somebody accepted, by the names of variables."""
    rules = study.shelves["rule"]
    return [
        {
            "check": each.check,
            "variable": study.tag(each.variable).name,
            "entry": "" if each.entry in rules else each.entry,
            "said": each.said,
            "reason": each.reason,
        }
        for each in study.shelves["accepted"].values()
        if each.variable in study.variables
    ]


def _held_to(study: Study, rules: Path) -> Study:
    """A study with the rules of a file. Raises UnreadableFile where one cannot be read; one that cannot be held in this
    study is told as a finding."""
    try:
        found = read_rules(rules.read_bytes().decode("utf-8"))
    except UnicodeDecodeError:
        raise UnreadableFile(
            "This is no text in UTF-8.", remedy="Rules are plain text; save them as UTF-8.", where=Place(rules.name)
        ) from None
    except UnreadableFile as error:
        where = error.where or Place()
        raise UnreadableFile(error.what, remedy=error.remedy, where=replace(where, file=rules.name)) from None
    kept = {
        f"rule {number}": Rule(
            title=rule.title, holds=named(rule.condition, study), severity=rule.severity, note=rule.note
        )
        for number, rule in enumerate(found, 1)
    }
    return study.put("rule", kept)


def _as_brought(study: Study, file: Path) -> Study:
    """A study as one that a file is brought into now: what lies behind today has not happened yet."""
    size = file.stat().st_size
    source = Source(name=file.name, size=size, sha256="", kind="", records=study.records.count, brought_at=now())
    origin = Origin(kind="source", source="file")
    variables = {id: each.model_copy(update={"origin": origin}) for id, each in study.variables.items()}
    return study.put("source", {"file": source}).put("variable", variables)


def _met(study: Study, understood: Understood, matched: Match) -> dict[str, Any]:
    return {
        "matched": [study.tag(id).name for id in study.order if id in matched.found],
        "only_in_codebook": [each.name for each in matched.only_described],
        "only_in_data": [study.tag(id).name for id in matched.only_data],
        "unplaced_lines": len(understood.unplaced),
    }


def _finding(study: Study, finding: Finding) -> dict[str, Any]:
    names = [study.tag(id).name for id in finding.variables]
    return {
        "check": finding.check,
        "severity": finding.severity,
        "variable": None if finding.others else names[0],
        **({"variables": names} if finding.others else {}),
        **({"rule": rule.title} if (rule := study.shelves["rule"].get(finding.which)) is not None else {}),
        "message": finding.message + (f". {finding.before}" if finding.before else ""),
        "count": finding.count,
        "values": [each.entry for each in finding.evidence],
        "records": records_of(study, finding, most=FIRST_RECORDS),
        **({"table": [list(row) for row in finding.table]} if finding.table else {}),
    }


def document_in_words(found: dict[str, Any]) -> str:
    """What was understood of a document, for people."""
    lines = [f"{len(found['variables']):,} variables, {len(found['unplaced']):,} lines not placed", ""]
    for each in found["variables"]:
        said = each["label"] or each["question"]
        lines.append(f"{each['name']}  {said}".rstrip() + f"  (lines {each['lines'][0]} to {each['lines'][1]}, "
                     f"{each['certainty']:.0%} sure)")  # fmt: skip
        for code in each["codes"]:
            span = code.get("code") or f"{code.get('low') or ''} .. {code.get('high') or ''}".strip()
            reason = f"  (missing: {code['missing']})" if code["missing"] else ""
            lines.append(f"    {span}  {code['label'] or ''}".rstrip() + reason)
        if each["limits"]:
            lines.append(f"    limits {each['limits']['low'] or ''} .. {each['limits']['high'] or ''}")
    if found["unplaced"]:
        lines += ["", "Not placed: line " + ", ".join(f"{number:,}" for number in found["unplaced"][:40])]
    return "\n".join(lines)


def _named(finding: dict[str, Any]) -> str:
    """The variables of a finding: up to three, then how many more."""
    names = finding.get("variables") or [finding["variable"]]
    return ", ".join(names[:3]) + (f" and {len(names) - 3:,} more" if len(names) > 3 else "")


def check_in_words(found: dict[str, Any]) -> str:
    """What the checks found, for people: worst first."""
    met = found["codebook"]
    lines = [f"{found['records']:,} records, {len(met['matched']):,} variables under the codebook"]
    for key, said in (("only_in_codebook", "only in the codebook"), ("only_in_data", "only in the data")):
        if met[key]:
            lines.append(f"{said}: {', '.join(met[key][:20])}{' …' if len(met[key]) > 20 else ''}")
    lines.append("")
    for each in found["findings"]:
        shown = ", ".join(each["values"][:5]) + (" …" if len(each["values"]) > 5 else "")
        at = f"; records {', '.join(map(str, each['records'][:5]))}" if each["records"] else ""
        lines.append(f"{each['severity']:<8} {_named(each)}: {each['message']}{f' ({shown})' if shown else ''}{at}")
    return "\n".join(lines if found["findings"] else [*lines, "Nothing found."])
