"""What a check is: it looks at variables or records and says what it noticed, with evidence and a way to the records.

A check concerns one variable, several that belong together, or all records. It declares what it looks at, and is run
again only when that changed.
"""

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import partial
from types import MappingProxyType
from typing import Any, Literal

import numpy as np
import numpy.typing as npt
import pyarrow as pa
import pyarrow.compute as pc

from rowtag.core.derive.sources import sources_of
from rowtag.core.engine import engine
from rowtag.core.families import families
from rowtag.core.frame import Frame
from rowtag.core.reading import Reading, State
from rowtag.core.rules import CheckSetting, Severity
from rowtag.core.study import Accepted, Study, accepted_id
from rowtag.core.tag import NUMBER_TYPES, Tag
from rowtag.core.tokens import large_texts
from rowtag.core.words import counted
from rowtag.core.worked_out import Aspect, accepted, kept_under, made_of, records, settings, worked_out

SEVERITIES: tuple[Severity, ...] = ("error", "warning", "note")
Scope = Literal["variable", "several", "records"]
Tokens = npt.NDArray[np.int64]

FEW = 50
"""Entries that a finding carries as its evidence; the others are found again where they are wanted."""


@dataclass(frozen=True)
class Evidence:
    """One entry that a finding is about, as recorded, and how often it occurs."""

    entry: str
    count: int


@dataclass(frozen=True)
class Finding:
    """One thing a check noticed about a variable, or about several of which `variable` is the first.

    `count` is how many entries (or records, or 0) it concerns, `different` how many different entries; `evidence` are
    the first of these. Which records they stand in is told by `records_of`. `which` tells apart what a check finds on
    one variable in several ways; `before` says as what it was accepted before; `table` holds figures that bear it out,
    the first row their heads.
    """

    check: str
    severity: Severity
    variable: str
    message: str
    count: int = 0
    evidence: tuple[Evidence, ...] = ()
    different: int = 0
    others: tuple[str, ...] = ()
    which: str = ""
    before: str = ""
    table: tuple[tuple[str, ...], ...] = ()

    @property
    def variables(self) -> tuple[str, ...]:
        """All variables it is about."""
        return (self.variable, *self.others)


Find = Callable[[Study, str], Finding | None]
FindAcross = Callable[[Study, tuple[str, ...]], Sequence[Finding]]


@dataclass(frozen=True)
class Threshold:
    """A number by which a check decides, as it usually is, in words, and between which ends it can be set."""

    usual: float
    said: str
    least: float
    most: float


@dataclass(frozen=True)
class Check:
    """A kind of check: its name, the family under which the map shows it, what it concerns, what it looks at.

    `find` takes a study and the id of a variable, or the ids of several (scope "records": of all) and gives what it
    finds. `tokens` gives the entries of a variable that it is about, which are shown by their value or `as_recorded`;
    `records` the positions of records (int64) that a finding across variables is about. `thresholds` can be set for a
    study.
    """

    name: str
    family: str
    scope: Scope
    looks_at: tuple[Aspect, ...]
    find: Callable[..., Any]
    tokens: Callable[[Study, str], Tokens] | None = None
    as_recorded: bool = False
    records: Callable[[Study, Finding], npt.NDArray[np.int64]] | None = None
    thresholds: Mapping[str, Threshold] = field(default_factory=dict, compare=False)

    @property
    def notices(self) -> str:
        """What it notices, in a sentence."""
        return " ".join((self.find.__doc__ or "").split())


CHECKS: dict[str, Check] = {}
"""All checks under their names."""

FAMILIES: dict[str, None] = {}
"""Families of checks, in the order in which they were registered."""
_NONE: Mapping[str, Threshold] = MappingProxyType({})


def register(
    name: str,
    family: str,
    *looks_at: Aspect,
    tokens: Callable[[Study, str], Tokens] | None = None,
    as_recorded: bool = False,
    thresholds: Mapping[str, Threshold] = _NONE,
) -> Callable[[Find], Check]:
    """Makes a check of single variables known under its name."""
    return lambda find: _known(
        Check(name, family, "variable", looks_at, find, tokens, as_recorded, thresholds=thresholds)
    )


def register_across(
    name: str,
    family: str,
    *looks_at: Aspect,
    scope: Literal["several", "records"],
    records: Callable[[Study, Finding], npt.NDArray[np.int64]] | None = None,
    thresholds: Mapping[str, Threshold] = _NONE,
) -> Callable[[FindAcross], Check]:
    """Makes a check known that concerns several variables of a battery each, or all records."""
    return lambda find: _known(Check(name, family, scope, looks_at, find, records=records, thresholds=thresholds))


def _known(check: Check) -> Check:
    CHECKS[check.name] = check
    FAMILIES[check.family] = None
    return check


# What was set, and what was accepted ------------------------------------------------------------


def setting(study: Study, check: str) -> CheckSetting | None:
    """How a check is set in a study, where it is not as usual."""
    found: CheckSetting | None = study.shelves["check"].get(check)
    return found


def threshold(study: Study, check: str, name: str) -> float:
    """A threshold of a check as it is set in a study, else as it usually is."""
    own = setting(study, check)
    return CHECKS[check].thresholds[name].usual if own is None else own.thresholds.get(name, _usual(check, name))


def _usual(check: str, name: str) -> float:
    return CHECKS[check].thresholds[name].usual


def as_accepted(study: Study, finding: Finding) -> Finding | None:
    """A finding as it is told where somebody may have accepted it: not at all for as long as it is as it was then;
    afterwards with what was accepted."""
    found: Accepted | None = study.shelves["accepted"].get(accepted_id(finding.check, finding.variable, finding.which))
    if found is None:
        return finding
    if found.count is None or (found.said == finding.message and found.count == finding.count):
        return None
    return replace(finding, before=f"Accepted ({found.reason}) when it was: {found.said}")


def _accepted_entries(study: Study, check: str, variable: str) -> dict[str, Accepted]:
    """The entries of a variable that somebody accepted under a check."""
    found = study.accepted_on.get(variable, frozenset())
    return {
        each.entry: each for each in sorted(found, key=lambda each: each.entry) if each.check == check and each.entry
    }


# Findings about entries ------------------------------------------------------------------------

Say = Callable[[int], str]


def about_entries(
    study: Study, id: str, check: Check, severity: Severity, say: Say, *, commonest_first: bool = True
) -> Finding | None:
    """What a check finds about the entries that its `tokens` gives, those accepted left out.

    Spellings of one value count together, unless entries are shown as they were recorded. `say` makes the message of
    how many there are.
    """
    shown, totals, grown = open_entries(study, id, check)
    count = int(totals.sum())
    if not count:
        return None
    first = np.argsort(-totals, kind="stable")[:FEW] if commonest_first else np.arange(min(FEW, len(totals)))
    texts = pc.take(shown, pa.array(first)).to_pylist()
    evidence = tuple(Evidence(text, total) for text, total in zip(texts, totals[first].tolist(), strict=True))
    before = "; ".join(
        f"“{entry}” was accepted in {counted(was.count or 0, 'record')} ({was.reason}), and there are more now"
        for entry, was in grown[:3]
    )
    return Finding(check.name, severity, id, say(count), count, evidence, len(totals), before=before)


def entry_counts(study: Study, id: str, check: Check) -> dict[str, int]:
    """All the different entries that a check is about, accepted or not, and how often each occurs; a number also by
    its value, where it is written otherwise."""
    assert check.tokens is not None
    tokens = check.tokens(study, id)
    out: dict[str, int] = {}
    if tokens.size:
        counts = study.counts(id)[tokens].tolist()
        for texts in (study.reading(id).canonical(tokens), _as_shown(study, id, check, tokens)):
            found: dict[str, int] = {}
            for text, count in zip(texts.to_pylist(), counts, strict=True):
                found[text] = found.get(text, 0) + count
            out |= found
    return out


def entries_of(study: Study, id: str, check: Check) -> tuple[str, ...]:
    """All the different entries that a check is about and nobody accepted, as its finding shows them."""
    return tuple(open_entries(study, id, check)[0].to_pylist())


def records_of(
    study: Study, finding: Finding, wanted: Iterable[str] = (), most: int = 200, after: int = 0
) -> list[int]:
    """The first record numbers behind `after` that a finding is about; of some of its entries where these are named."""
    check = CHECKS[finding.check]
    if check.records is not None:
        numbers = check.records(study, finding) + 1
        found: list[int] = numbers[numbers > after][:most].tolist()
        return found
    if check.tokens is None:
        return []
    tokens, shown, _ = _open(study, finding.variable, check)
    asked = list(wanted)
    if asked:
        tokens = tokens[pc.is_in(shown, pa.array(asked, shown.type)).to_numpy(zero_copy_only=False)]
    return Frame(study).numbers_of(finding.variable, tokens, most, after)


_NO_TEXTS = large_texts(())


def _as_shown(study: Study, id: str, check: Check, tokens: Tokens) -> Any:
    """Tokens as a finding of a check shows them (Arrow)."""
    found = study.reading(id)
    if check.as_recorded:
        return found.texts(tokens)
    return _marked(found.canonical(tokens), found, tokens, study.tag(id))


Grown = list[tuple[str, Accepted]]
"""Entries that were accepted when there were fewer of them."""


def _open(study: Study, id: str, check: Check) -> tuple[Tokens, Any, Grown]:
    """The tokens that a check is about and that nobody accepted so often, and how they are shown (Arrow)."""
    assert check.tokens is not None
    tokens = check.tokens(study, id)
    if not tokens.size:
        return tokens, _NO_TEXTS, []
    shown = _as_shown(study, id, check, tokens)
    accepted_then = _accepted_entries(study, check.name, id)
    if not accepted_then:
        return tokens, shown, []
    names, then = large_texts(accepted_then), list(accepted_then.values())
    values = study.reading(id).canonical(tokens)
    which = pc.fill_null(pc.coalesce(pc.index_in(shown, names), pc.index_in(values, names)), -1).to_numpy()
    met = which >= 0
    now = np.bincount(which[met], weights=study.counts(id)[tokens][met], minlength=len(then))
    most = np.array([np.inf if was.count is None else was.count for was in then])
    kept = ~met | (now > most)[which]
    grown = [(then[at].entry, then[at]) for at in np.flatnonzero(now > most).tolist()]
    return tokens[kept], shown.filter(pa.array(kept)), grown


def _marked(values: Any, reading: Reading, tokens: Tokens, tag: Tag) -> Any:
    """Values (Arrow) with the decimal mark that their entries have: under a comma 3.5 is another entry than 3,5."""
    if tag.type not in NUMBER_TYPES or tag.marks.decimal == ".":
        return values
    fits = pa.array(reading.states[tokens] != State.UNREADABLE)
    return pc.if_else(fits, pc.replace_substring(values, ".", tag.marks.decimal), values)


def open_entries(study: Study, id: str, check: Check) -> tuple[Any, npt.NDArray[np.int64], Grown]:
    """The different entries that a check is about and that nobody accepted so often (Arrow), how often each occurs, and
    those that were accepted when there were fewer."""
    tokens, shown, grown = _open(study, id, check)
    if not tokens.size:
        return shown, np.empty(0, np.int64), grown
    grouped = pc.dictionary_encode(shown)
    totals = np.bincount(grouped.indices.to_numpy(zero_copy_only=False), weights=study.counts(id)[tokens])
    return grouped.dictionary, totals.astype(np.int64), grown


# Running them ----------------------------------------------------------------------------------


def _of_variables(*, records_too: bool = True) -> list[Check]:
    """The checks of single variables; those alone to which one record more makes no difference, where that is asked."""
    found = [check for check in CHECKS.values() if check.scope == "variable"]
    return found if records_too else [check for check in found if records not in check.looks_at]


def _looked_at(*, records_too: bool = True) -> tuple[Aspect, ...]:
    """Everything that any of these checks looks at."""
    checks = _of_variables(records_too=records_too)
    return tuple(dict.fromkeys(each for check in checks for each in check.looks_at))


@worked_out(accepted, settings, made_of, also=_looked_at)
def findings_on(study: Study, id: str) -> tuple[Finding, ...]:
    """What all checks of single variables find on one; each is run only where what it looks at has changed."""
    steady = {each.check: each for each in _steady(study, id)}
    found = (
        _found(study, check, id) if records in check.looks_at else steady.get(check.name) for check in _of_variables()
    )
    return tuple(each for each in found if each is not None and not _follows(study, each))


@worked_out(accepted, settings, made_of, also=partial(_looked_at, records_too=False))
def _steady(study: Study, id: str) -> tuple[Finding, ...]:
    """What those find that look at no record more: whoever keys records in adds many."""
    found = (_found(study, check, id) for check in _of_variables(records_too=False))
    return tuple(each for each in found if each is not None)


def _follows(study: Study, finding: Finding) -> bool:
    """Whether a derived variable has a finding about entries only because what it was made from has it: one fault is
    one finding."""
    check = CHECKS[finding.check]
    if check.tokens is None or study.variable(finding.variable).origin.how is None:
        return False
    return any(check.find(study, source) is not None for source in sources_of(study, finding.variable))


def _found(study: Study, check: Check, id: str) -> Finding | None:
    own = setting(study, check.name)

    def look() -> Finding | None:
        found = None if own is not None and own.off else check.find(study, id)
        return None if found is None else as_accepted(study, found)

    return engine.get((check, id, kept_under((*check.looks_at, accepted), study, (id,)), settings(study, id)), look)


def findings_across(study: Study, tell: Callable[[float], None] = lambda _: None) -> list[Finding]:
    """What the checks find that concern several variables, or all records. They may take long on a long study; `tell`
    hears of the share of them that is done."""
    out: list[Finding] = []
    across = [check for check in CHECKS.values() if check.scope != "variable"]
    for number, check in enumerate(across):
        tell(number / len(across))
        if check.scope == "several":
            out += [each for ids in families(study) for each in _across(study, check, ids)]
        else:
            out += _across(study, check, study.order)
    return out


def _across(study: Study, check: Check, ids: tuple[str, ...]) -> Sequence[Finding]:
    """What a check finds on several variables; what was accepted on the first of a finding is quiet."""
    own = setting(study, check.name)

    def look() -> Sequence[Finding]:
        found = () if own is not None and own.off else check.find(study, ids)
        told = (as_accepted(study, each) for each in found)
        return tuple(each for each in told if each is not None)

    return engine.get((check, ids, kept_under((*check.looks_at, accepted), study, ids), settings(study, "")), look)


def run_checks(study: Study, across: Iterable[Finding] = ()) -> list[Finding]:
    """What all checks of single variables find, and what was found `across` them, worst first, then by how many
    entries they concern, then in codebook order."""
    found = [finding for id in study.order for finding in findings_on(study, id)]
    return sorted([*found, *across], key=lambda finding: (SEVERITIES.index(finding.severity), -finding.count))


def is_ready(study: Study, id: str) -> bool:
    """Whether a variable has what its tag wants and no open finding above a note."""
    return all(finding.severity == "note" for finding in findings_on(study, id))
