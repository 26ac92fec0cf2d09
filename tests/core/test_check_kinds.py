"""Every kind of check on both sides: what sets it off, and what looks like it and is none."""
# ruff: noqa: E501  (cases are read as a table)

import random
from dataclasses import replace
from typing import Any

import numpy as np
import pytest

from rowtag.core.checks import CHECKS, Finding, findings_across, findings_on, records_of
from rowtag.core.column import column_of_texts
from rowtag.core.study import Records, Source, Study, Titled, Variable
from rowtag.core.tag import CodeLine, MissingLine, Tag

CHANCE = random.Random(7)
Column = tuple[str, dict[str, Any], list[str]]


def study_of(*columns: Column) -> Study:
    """A study of columns (name, parts of the tag, entries), one battery for each that is named."""
    size = max(len(entries) for *_, entries in columns)
    batteries = {parts["battery"]: Titled(title=parts["battery"]) for _, parts, _ in columns if "battery" in parts}
    study = Study(records=Records(size)).put("battery", batteries)
    tags = [(Tag.model_validate({"name": name, "label": name, **parts}), entries) for name, parts, entries in columns]
    return study.with_variables([(tag.name, Variable(tag=tag), column_of_texts(entries)) for tag, entries in tags])


def found(study: Study, check: str) -> list[Finding]:
    across = [each for each in findings_across(study) if each.check == check]
    return across or [each for id in study.order for each in findings_on(study, id) if each.check == check]


def lines(*labels: str, first: int = 1) -> tuple[CodeLine, ...]:
    return tuple(CodeLine(code=str(code), label=label) for code, label in enumerate(labels, first))


WHOLE: dict[str, Any] = {"type": "integer"}
RATIO: dict[str, Any] = {"type": "integer", "level": "ratio"}
AGREE = lines("No", "Hardly", "Rather", "Fully")
ITEM: dict[str, Any] = {"type": "integer", "level": "ordinal", "codes": AGREE, "battery": "site"}
HOURS = [str(round(CHANCE.gauss(40, 8))) for _ in range(200)]
CHILDREN = [str(n) for n, often in enumerate([120, 40, 25, 10, 5]) for _ in range(often)]
VISITS = [str(n) for n in (7, 9, 12, 15, 20, 30) for _ in range(3)]
COSTS = [str(round(np.exp(CHANCE.gauss(5, 1)))) for _ in range(200)]
LATENT = [CHANCE.gauss(0, 1) for _ in range(200)]


def item(sign: int = 1) -> list[str]:
    """Answers of one to four that go with what all items measure, or against it."""
    return [str(min(4, max(1, round(2.5 + sign * value + CHANCE.gauss(0, 0.5))))) for value in LATENT]


def battery(*items: list[str], **last: Any) -> list[Column]:
    return [(f"site_{n}", {**ITEM, **(last if n == len(items) else {})}, entries) for n, entries in enumerate(items, 1)]


def one(parts: dict[str, Any], entries: list[str], name: str = "v") -> list[Column]:
    return [(name, parts, entries)]


TWO = ["1", "2"] * 20
RANKS: dict[str, Any] = {"type": "integer", "battery": "rank", "codes": (CodeLine(code="1"), CodeLine(code="3"))}
TICKS: dict[str, Any] = {
    "type": "integer",
    "battery": "crop",
    "use": "several answers",
    "codes": lines("No", "Yes", first=0),
}
REFUSED = (MissingLine(code="-9", reason="refused"),)
STAMPS = [f"2026-05-03 {9 + n // 60:02d}:{n % 60:02d}" for n in range(40)]
ENDS = [f"2026-05-03 {9 + (n + 20) // 60:02d}:{(n + 20) % 60:02d}" for n in range(40)]
TIMED: dict[str, Any] = {"type": "datetime", "level": "interval", "use": "administrative"}
LONG = "How content are you with the"
ANSWERS = [(f"q_{letter}", WHOLE, [str(CHANCE.randint(1, 9)) for _ in range(40)]) for letter in "abcdefghijkl"]

PATTERNS = [
    (
        f"p_{n}",
        WHOLE,
        [
            *(pattern := [str(CHANCE.randint(1, 5)) for _ in range(40)]),
            pattern[7] if n != 13 else "1" if pattern[7] != "1" else "2",
        ],
    )
    for n in range(30)
]

CASES: list[tuple[str, list[Column], str]] = [
    ("one label on two codes", one({**WHOLE, "codes": lines("Yes", "No", "Yes")}, TWO), "“Yes” stands for 1 and 3"),
    ("one label on two codes", one({**WHOLE, "codes": lines("Yes", "No", "yes")}, TWO), ""),
    ("labels nearly the same", one({**WHOLE, "codes": lines("Yes", "No", "yes ")}, TWO), "1 “Yes” and 3 “yes ”"),
    ("labels nearly the same", one({**WHOLE, "codes": lines("Yes", "Yes, often")}, TWO), ""),
    ("codes never used", one({**WHOLE, "codes": lines("Yes", "No", "Both")}, TWO), "1 listed code does not occur"),
    ("codes never used", one({**WHOLE, "codes": lines("Yes", "No", "Both")}, TWO[:8]), ""),
    ("undeclared missing", one(RATIO, [*HOURS, "999", "999"]), "2 entries may stand"),
    ("undeclared missing", one({**RATIO, "missing": (MissingLine(code="999"),)}, [*HOURS, "999", "999"]), ""),
    ("undeclared missing", one({"use": "open-ended"}, ["wet", "n/a", "dry"]), "1 entry may stand"),
    ("missing code in the range", one({**RATIO, "missing": (MissingLine(code="42"),)}, HOURS), "42 is a missing code"),
    ("missing code in the range", one({**RATIO, "missing": REFUSED}, HOURS), ""),
    ("missing codes differ", [(n, {**WHOLE, "missing": REFUSED}, ["1"]) for n in "abcd"]
     + [("e", {**WHOLE, "missing": (MissingLine(code="8", reason="refused"),)}, ["1"])], "marks “refused” by 8"),
    ("missing codes differ", [(n, {**WHOLE, "missing": REFUSED}, ["1"]) for n in "abcd"]
     + [("e", {**WHOLE, "missing": (MissingLine(code="-99", reason="refused"),)}, ["1"])], ""),
    ("nearly empty", one(RATIO, ["1"] + [""] * 60), "is blank in 98% of the records"),
    ("nearly empty", one({"use": "open-ended"}, ["x"] + [""] * 60), ""),
    ("missing out of line", battery(item(), item(), ["", "1"] * 100), "has no answer in 50%"),
    ("missing out of line", battery(item(), item(), ["", *["1"] * 9] * 20), ""),
    ("far outliers", one(RATIO, [*HOURS, "4000"]), "1 value lies far"),
    ("far outliers", one(RATIO, COSTS), ""),
    ("far outliers", one(RATIO, [*CHILDREN, "40"]), "1 value lies far"),
    ("far outliers", one(RATIO, [*CHILDREN, "9"]), ""),
    ("far outliers", one(RATIO, [*CHILDREN, *VISITS]), ""),
    ("far outliers", one({**RATIO, "use": "weight"}, [*HOURS, "4000"]), ""),
    ("zeros apart", one(RATIO, [*HOURS, "0"]), "1 zero stands apart"),
    ("zeros apart", one(RATIO, [*map(str, range(60)), *HOURS]), ""),
    ("heaping", one(RATIO, [str(10 * (n % 9)) for n in range(250)] + HOURS[:80]), "multiples of ten"),
    ("heaping", one(RATIO, HOURS), ""),
    ("kept as text", one({}, [*HOURS[:40], "about 30"]), "is text, and its entries are whole numbers, 1 entry is not"),
    ("kept as text", one({"use": "identifier"}, HOURS[:40]), ""),
    ("kept as text", one({}, [*(f"{n:03}" for n in range(1, 40)), "5", "12"]), ""),
    ("kept as text", one({}, ["Alone", "Shared"] * 20), ""),
    ("more decimals than declared", one({**RATIO, "type": "decimal", "decimals": 1}, ["1.5", "1.25"]), "1 entry has more"),
    ("more decimals than declared", one({**RATIO, "type": "decimal", "decimals": 1}, ["1.5", "1.50", "2"]), ""),
    ("one answer in several spellings", one({}, ["Bus", "bus", "Bus ", "Bicycle"]), "1 entry is spelled differently from the same answer elsewhere, such as “Bus”"),
    ("one answer in several spellings", one({"use": "open-ended"}, ["Bus", "bus"]), ""),
    ("identifier as a measure", one(RATIO, [str(n) for n in range(100, 140)]), "names records"),
    ("identifier as a measure", one(RATIO, HOURS), ""),
    ("codes as a measure", one({**RATIO, "codes": lines("Yes", "No")}, TWO), "each of its 2 codes has a label"),
    ("codes as a measure", one({**RATIO, "codes": lines("none", first=0)}, HOURS), ""),
    ("many ordered categories", one({**WHOLE, "level": "ordinal"}, [str(n) for n in range(40)]), "40 different values"),
    ("many ordered categories", one({**WHOLE, "level": "ordinal"}, TWO), ""),
    ("label too long", one({"label": "How content " * 15}, ["1"]), "has a label of 180 characters"),
    ("label too long", one({"label": "How content " * 5}, ["1"]), ""),
    ("same label twice", [("a", {"label": "Hours"}, ["1"]), ("b", {"label": "hours "}, ["1"])], "same label as b"),
    ("same label twice", [("a", {"label": "Other", "battery": "x"}, ["1"]), ("b", {"label": "Other"}, ["1"])], ""),
    ("wording missing", [(n, {"question": "?" if n != "f" else ""}, ["1"]) for n in "abcdef"], "has no question wording"),
    ("wording missing", [(n, {"question": "?" if n < "c" else ""}, ["1"]) for n in "abcdef"], ""),
    ("label beside the wording", [(n, {"question": "How held?", "label": "" if n != "c" else "x"}, ["1"]) for n in "abc"],
     "has a question wording and no label, like 1 other variable"),
    ("label beside the wording", one({"label": ""}, ["1"]), ""),
    ("label cut off", [*one({"label": "How content are you with…"}, ["1"]), *one({}, ["1"], "w")], "was probably cut"),
    ("label cut off", [(n, {"label": f"{LONG} {n * 3}?"[: 40 + ord(n)]}, ["1"]) for n in "abc"], ""),
    ("lists run against each other", battery(item(), item(), item(), codes=lines("Fully", "Rather", "Hardly", "No")),
     "in the opposite order"),
    ("item against the rest", battery(item(), item(), item(), item(-1), codes=lines("Fully", "Rather", "Hardly", "No")), ""),
    ("lists run against each other", battery(item(), item(), item(), item(-1), codes=lines("Fully", "Rather", "Hardly", "No")), "it is coded the other way round"),
    ("lists differ", battery(item(), item(), item(), codes=lines("Fully", "Rather", "Hardly", "No")), ""),
    ("lists differ", battery(item(), item(), item(), codes=lines("No", "Hardly", "Mostly", "Fully")), "has “Mostly” for 3"),
    ("lists differ", [(f"c_{n}", {**TICKS, "codes": lines("Yes", "No", first=int(n == 3))}, TWO) for n in (1, 2, 3)],
     "is coded 1 and 2, where its battery is coded 0 and 1"),
    ("item against the rest", battery(item(), item(), item(), item(-1)), "goes down where its battery goes up"),
    ("item against the rest", battery(item(), item(), item(), item(-1), note="reversed item"), ""),
    ("item against the rest", battery(item(), item(), item(), item()), ""),
    ("the same answer throughout", battery(*[["3", "1"]] * 4, ["3", "2"]), "1 record has the same answer in all 5 items"),
    ("the same answer throughout", battery(*[["3", "1"]] * 3, ["3", "2"]), ""),
    ("rank used twice", [("r1", RANKS, ["1", "1"]), ("r2", RANKS, ["2", "3"]), ("r3", RANKS, ["3", "3"])], "1 record uses"),
    ("rank used twice", [("r1", RANKS, ["1", "1"]), ("r2", RANKS, ["2", ""]), ("r3", RANKS, ["3", ""])], ""),
    ("rank left out", [(f"r{n}", RANKS, list(each)) for n, each in enumerate(zip(*["123"] * 9, "134", strict=True))], "1 record leaves"),
    ("rank left out", [(f"r{n}", RANKS, list(each)) for n, each in enumerate(zip(*["123"] * 9, ("1", "2", ""), strict=True))], ""),
    ("neither ticked nor not", one({"type": "integer", "use": "several answers"}, ["0", "1"] * 20 + ["2"]), "1 entry is neither ticked"),
    ("neither ticked nor not", one({"type": "integer", "use": "several answers"}, TWO), ""),
    ("a battery nobody told", [(f"care_{n}", {**WHOLE, "codes": lines("Never", "Always")}, TWO) for n in (1, 2, 3)], "care_1 to care_3 have the same list"),
    ("a battery nobody told", [(name, {**WHOLE, "label": f"Site: {name}", "codes": lines("Poor", "Good")}, TWO) for name in ("paths", "water", "shade")], "paths to shade have the same list and share “Site”"),
    ("a battery nobody told", [(name, {**WHOLE, "label": name, "question": "How good are they?", "codes": lines("Poor", "Good")}, TWO) for name in ("paths", "water", "shade")], "share “How good are they?”"),
    ("a battery nobody told", [(name, {**WHOLE, "label": f"Site: {name}", "codes": lines("Poor", name)}, TWO) for name in ("paths", "water", "shade")], ""),
    ("a battery nobody told", [(f"care_{n}", {**WHOLE, "codes": lines("Never", "Always"), "battery": "care"}, TWO) for n in (1, 2, 3)], ""),
    ("nothing ticked", [("c1", {**TICKS, "label": "Beans"}, ["1", "0", ""]), ("c2", {**TICKS, "label": "Kale"}, ["0", "0", "0"]),
     ("c3", {**TICKS, "label": "None of these"}, ["0", "0", "0"])], "1 record ticks nothing, not even “None of these”"),
    ("nothing ticked", [("c1", {**TICKS, "label": "Beans"}, ["1", "0"]), ("c2", {**TICKS, "label": "Kale"}, ["0", "0"]),
     ("c3", {**TICKS, "label": "Peas"}, ["0", "0"])], ""),
    ("record nearly twice", PATTERNS, "2 records have nearly all answers in common with another one"),
    ("record nearly twice", [(name, parts, [*entries[:-1], "1"] if int(name[2:]) % 3 else entries) for name, parts, entries in PATTERNS], ""),
    ("none together with others", [("c1", {**TICKS, "label": "Beans"}, ["1", "0"]), ("c2", {**TICKS, "label": "Kale"}, ["0", "0"]),
     ("c3", {**TICKS, "label": "None of these"}, ["1", "1"])], "1 record ticks “None of these”"),
    ("none together with others", [(f"c{n}", {**TICKS, "label": f"Crop {n}"}, ["1", "1"]) for n in (1, 2, 3)], ""),
    ("identifier twice", one({"use": "identifier"}, ["A1", "A2", "A1"]), "2 records have an identifier"),
    ("identifier twice", one({"use": "identifier"}, ["A1", "A2", "", ""]), ""),
    ("identifier blank", one({"use": "identifier"}, ["A1", "A2", "", ""]), "2 records have no identifier"),
    ("identifier blank", one({}, ["A1", ""]), ""),
    ("record twice", [(name, parts, [*entries, entries[3]]) for name, parts, entries in ANSWERS], "1 record has exactly"),
    ("record twice", [(name, parts, ["1"] * 20) for name, parts, _ in ANSWERS], ""),
    ("record nearly empty", [(name, parts, [*entries, "1" if name == "q_a" else ""]) for name, parts, entries in ANSWERS],
     "1 record is blank in nearly every answer"),
    ("record nearly empty", [(name, parts, ["1", *[""] * 20]) for name, parts, _ in ANSWERS], ""),
    ("ended before it began", [("started", TIMED, [*STAMPS, STAMPS[9]]), ("ended", TIMED, [*ENDS, STAMPS[1]])],
     "1 record ends before it begins"),
    ("ended before it began", [("visit", TIMED, STAMPS), ("ended", TIMED, STAMPS[::-1])], ""),
    ("finished too fast", [("started", TIMED, [*STAMPS, STAMPS[1]]), ("ended", TIMED, [*ENDS, STAMPS[3]])], "1 record took"),
    ("a skip nobody told", [("holds", {**WHOLE, "codes": lines("Yes", "No")}, TWO * 4), ("hours", RATIO, ["5", ""] * 78 + ["5", "7", "4", ""])],
     "who answers 2 “No” leaves hours out, but for 1 record"),
    ("a skip nobody told", [("holds", {**WHOLE, "codes": lines("Yes", "No")}, TWO * 4), ("hours", RATIO, ["5", ""] * 60 + ["5", "7"] * 20)], ""),
    ("finished too fast", [("started", TIMED, STAMPS), ("ended", TIMED, ENDS)], ""),
]  # fmt: skip


@pytest.mark.parametrize(("check", "columns", "says"), CASES, ids=[f"{name}-{bool(says)}" for name, _, says in CASES])
def test_on_both_sides(check: str, columns: list[Column], says: str) -> None:
    """Each notices what it is for, once, and says so; and keeps quiet beside it."""
    findings = found(study_of(*columns), check)
    assert len(findings) == bool(says), [each.message for each in findings]
    assert all(says in each.message for each in findings)


def test_all_kinds_have_both_sides() -> None:
    """A check without a case that sets it off, and one that does not, is not tested."""
    elsewhere = {"unreadable entries", "unlisted codes", "label wanted", "code list wanted", "longer than the width",
                 "answered though skipped", "dates to come", "rule broken", "not what comes out", "span means others", "rule cannot be held",
                 "a rule's span means others", "codebook says otherwise"}  # fmt: skip
    for said in (True, False):
        assert {check for check, _, says in CASES if bool(says) == said} >= set(CHECKS) - elsewhere - (
            {"lists run against each other"} if not said else set()
        )


@pytest.mark.parametrize(
    ("check", "records"),
    [("a skip nobody told", [158]), ("rank used twice", [2]), ("none together with others", [1]), ("record twice", [4, 41]), ("record nearly empty", [41]),
     ("rank left out", [10]), ("nothing ticked", [2]), ("record nearly twice", [8, 41]),
     ("ended before it began", [41]), ("finished too fast", [41]), ("the same answer throughout", [1])],
)  # fmt: skip
def test_which_records(check: str, records: list[int]) -> None:
    """A finding across variables leads to its records."""
    study = study_of(*next(columns for name, columns, says in CASES if name == check and says))
    (finding,) = found(study, check)
    assert records_of(study, finding) == records and finding.count == (2 if check == "record nearly twice" else 1)


def test_dates_to_come() -> None:
    """Dates later than the day on which the file was brought in; without a file nobody can tell."""
    days = [f"2026-04-{n % 28 + 1:02d}" for n in range(50)] + ["2027-01-01"]
    study = study_of(("visit", {"type": "date", "level": "interval"}, days))
    assert not found(study, "dates to come")
    source = Source(name="a.csv", size=1, sha256="0", kind="delimited", records=51, brought_at="2026-05-03T10:00:00")
    variable = study.variable("visit")
    origin = variable.origin.model_copy(update={"kind": "source", "source": "src"})
    brought = study.put("source", {"src": source}).put(
        "variable", {"visit": variable.model_copy(update={"origin": origin})}
    )
    (finding,) = found(brought, "dates to come")
    assert finding.message.startswith("1 date lies behind 2026-05-03")


def test_a_removed_record_is_no_finding() -> None:
    """What is not there any more is not looked at."""
    study = study_of(("id", {"use": "identifier"}, ["A1", "A2", "A1"]))
    assert found(study, "identifier twice")
    assert not found(replace(study, records=Records(3, (3,))), "identifier twice")


def test_a_near_copy_of_what_stands_twice() -> None:
    """A record nearly the same as one that stands twice to the letter is found, too."""
    columns = [(name, parts, [*entries, entries[7]]) for name, parts, entries in PATTERNS]
    study = study_of(*columns)
    (finding,) = found(study, "record nearly twice")
    assert records_of(study, finding) == [8, 41] and found(study, "record twice")[0].count == 1
