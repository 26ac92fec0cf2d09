"""What the checks find: faults are planted in clean made-up data, and what is found is held against what was planted.

`make checks` writes docs/checks.md: every check with what it notices, and the figures.
"""

import sys
from collections import defaultdict
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import numpy as np

from rowtag.core.checks import CHECKS, FAMILIES, Finding, findings_across, records_of, run_checks
from rowtag.core.checks.explained import EXPLAINED
from rowtag.core.column import column_of_texts
from rowtag.core.rules import Formula, Rule
from rowtag.core.study import Records, Source, Study, Titled, Variable
from rowtag.core.tag import CodeLine, Limits, MissingLine, Skip, Tag

REPORT = Path(__file__).parent.parent / "docs" / "checks.md"
SIZES = (600, 5_000, 20_000)
BATTERIES, CODED, MEASURED, TEXTS = 12, 32, 40, 8
DAY = "2026-05-03"
WORDS = ("Never", "Seldom", "Now and then", "Often", "Always")
REASONS = (
    MissingLine(code="-8", label="Don't know", reason="don't know"),
    MissingLine(code="-9", label="Refused", reason="refused"),
)


@dataclass
class Made:
    """A study in the making: tags and entries by name, and what was planted: check, variable, records (from 1)."""

    records: int
    chance: np.random.Generator
    tags: dict[str, dict[str, Any]] = field(default_factory=dict)
    entries: dict[str, list[str]] = field(default_factory=dict)
    planted: list[tuple[str, str, frozenset[int]]] = field(default_factory=list)
    used: set[str] = field(default_factory=set)
    rules: dict[str, Rule] = field(default_factory=dict)
    tolerated: set[tuple[str, str]] = field(default_factory=set)

    def add(self, name: str, entries: Any, **parts: Any) -> None:
        self.tags[name] = {
            "name": name,
            "label": f"About {name.replace('_', ' ')}",
            "question": f"What of {name}?",
            **parts,
        }
        self.entries[name] = [str(entry) for entry in entries]

    def free(self, like: str, most: int = 1_000) -> list[str]:
        """Variables of a kind in which nothing was planted yet, which count as used from now on."""
        found = [name for name in self.tags if name.startswith(like) and name not in self.used][:most]
        self.used |= set(found)
        return found

    def order(self, first: list[str], then: list[str]) -> None:
        """Puts variables behind others, pair by pair, at the end of the codebook."""
        for one, other in zip(first, then, strict=True):
            for name in (one, other):
                self.tags[name] = self.tags.pop(name)

    def some(self, count: int) -> list[int]:
        """Some records in which nothing was planted yet, by position."""
        planted = {
            record - 1 for _, _, records in self.planted for record in records if len(records) < self.records / 4
        }
        free = [at for at in range(self.records) if at not in planted and at + 1 not in planted]
        return self.chance.choice(free, count, replace=False).tolist()

    def put(self, check: str, name: str, entries: dict[int, str]) -> None:
        """Plants entries, by position."""
        for at, entry in entries.items():
            self.entries[name][at] = entry
        self.planted.append((check, name, frozenset(at + 1 for at in entries)))

    def say(self, check: str, name: str, **parts: Any) -> None:
        """Plants a fault of a tag."""
        self.tags[name] |= parts
        self.planted.append((check, name, frozenset()))

    def study(self) -> Study:
        batteries = {tag["battery"] for tag in self.tags.values() if "battery" in tag}
        source = Source(
            name="made.csv", size=1, sha256="0", kind="delimited", records=self.records, brought_at=f"{DAY}T12:00:00"
        )
        study = Study(records=Records(self.records)).put("battery", {name: Titled(title=name) for name in batteries})
        study = study.put("source", {"made": source})
        origin = {"kind": "source", "source": "made"}
        study = study.put("rule", self.rules)
        return study.with_variables(
            (
                name,
                Variable.model_validate({"tag": Tag.model_validate(tag), "origin": origin}),
                column_of_texts(self.entries[name]),
            )
            for name, tag in self.tags.items()
        )


def clean(records: int, seed: int) -> Made:
    """Clean data: answers to codes, batteries whose items go together, measures, dates, texts, ticks, ranks."""
    made = Made(records, np.random.default_rng(seed))
    chance = made.chance
    lines = [CodeLine(code=str(code), label=word) for code, word in enumerate(WORDS, 1)]
    scale = {"type": "integer", "level": "ordinal", "codes": lines, "complete": True, "missing": REASONS}
    made.add("plot_no", (f"P{number:06d}" for number in range(records)), use="identifier")
    for number in range(CODED):
        made.add(
            f"coded_{number:02d}x",
            _with_missing(chance, chance.choice(5, records, p=[0.3, 0.25, 0.2, 0.15, 0.1]) + 1),
            **scale,
        )
    for number in range(BATTERIES):
        latent = chance.normal(size=records)
        for each in range(6):
            answers = np.clip(np.round(3 + latent + chance.normal(size=records)), 1, 5).astype(int)
            made.add(
                f"bat{number}_{'abcdef'[each]}", _with_missing(chance, answers), battery=f"Battery {number}", **scale
            )
    kinds: tuple[Callable[[], Any], ...] = (
        lambda: np.clip(chance.normal(45, 15, records), 18, 95).astype(int),
        lambda: np.maximum(1, np.round(chance.lognormal(6, 1, records))).astype(int),
        lambda: chance.poisson(3, records),
    )
    for number in range(MEASURED):
        made.add(f"measure_{number:02d}x", kinds[number % 3](), type="integer", level="ratio", missing=REASONS)
    for number in range(TEXTS):
        towns = [f"Lane {letter}" for letter in "ABCDEFGHIJ"]
        made.add(f"text_{number}x", chance.choice(towns, records), type="text", level="nominal")
    yes_no = [CodeLine(code="0", label="No"), CodeLine(code="1", label="Yes")]
    places = [CodeLine(code=str(rank), label=f"Rank {rank}") for rank in range(1, 5)]
    for number in range(2):
        for each in range(5):
            label = "None of these" if each == 4 else f"Crop {each} of {number}"
            ticks = (chance.random(records) < 0.3).astype(int) if each < 4 else np.zeros(records, int)
            parts = {"label": label, "battery": f"Ticks {number}", "codes": yes_no, "complete": True}
            made.add(f"tick{number}_{'abcde'[each]}", ticks, type="integer", use="several answers", **parts)
    for number in range(2):
        ranks = np.argsort(chance.random((records, 4)), axis=1) + 1
        for each in range(4):
            parts = {"battery": f"Ranks {number}", "codes": places, "complete": True}
            made.add(f"rank{number}_{'abcd'[each]}", ranks[:, each], type="integer", level="ordinal", **parts)
    begin = chance.integers(0, 500_000, records)
    spent = np.round(chance.lognormal(3, 0.25, records)).astype(int) + 8
    made.add("started", map(_moment, begin), type="datetime", level="interval", use="administrative")
    made.add("ended", map(_moment, begin + spent), type="datetime", level="interval", use="administrative")
    for number in range(6):
        days = np.datetime64("2024-01-01") + chance.integers(0, 700, records).astype("timedelta64[D]")
        made.add(f"day_{number}x", days.astype(str), type="date", level="interval")
    return made


def _moment(minute: int) -> str:
    return str(np.datetime64("2025-01-01T00:00") + np.timedelta64(int(minute), "m")).replace("T", " ")


def _with_missing(chance: np.random.Generator, answers: Any) -> list[str]:
    fate = chance.random(len(answers))
    return [
        "-8" if f < 0.02 else "-9" if f < 0.03 else "" if f < 0.06 else str(a)
        for f, a in zip(fate, answers, strict=True)
    ]


def plant(made: Made) -> None:
    """Plants faults of every kind in clean data."""
    few = max(2, made.records // 2_000)
    for number, name in enumerate(made.free("coded_", 12)):
        kind = number % 6
        lines = list(made.tags[name]["codes"])
        if kind == 0:
            made.put("unlisted codes", name, dict.fromkeys(made.some(few), "7"))
        elif kind == 1:
            made.put("unreadable entries", name, dict.fromkeys(made.some(few), "n/a"))
        elif kind == 2:
            made.say("one label on two codes", name, codes=[*lines[:4], CodeLine(code="5", label=lines[1].label)])
        elif kind == 3:
            made.say(
                "labels nearly the same", name, codes=[*lines[:4], CodeLine(code="5", label=lines[3].label.upper())]
            )
        elif kind == 4:
            other = (MissingLine(code="8", label="Don't know", reason="don't know"), REASONS[1])
            made.entries[name] = ["8" if entry == "-8" else entry for entry in made.entries[name]]
            made.say("missing codes differ", name, missing=other)
        else:
            made.say("label wanted", name, label="", question="")
            made.say("wording missing", name)
    for number, name in enumerate(made.free("measure_", 18)):
        kind = number % 6
        if kind == 0:
            made.put("undeclared missing", name, dict.fromkeys(made.some(few), "-99"))
        elif kind == 1:
            made.put("far outliers", name, dict.fromkeys(made.some(2), "9876543"))
        elif kind == 2:
            made.put("unlisted codes", name, dict.fromkeys(made.some(few), "77"))
            made.tags[name] |= {"limits": Limits(low="0", high="40")}
        elif kind == 3:
            made.put("zeros apart", name, dict.fromkeys(made.some(few), "0"))
        elif kind == 4:
            made.say("missing code in the range", name, missing=(MissingLine(code="400"), *REASONS[:1]))
        else:
            made.put("unreadable entries", name, dict.fromkeys(made.some(few), "about 3"))
    _plant_tags(made)
    _plant_rules(made, few)
    for number, name in enumerate(made.free("text_", 4)):
        if number % 2:
            made.put("one answer in several spellings", name, dict.fromkeys(made.some(few), "LANE A"))
        else:
            made.entries[name] = [str(value) for value in made.chance.integers(1, 900, made.records)]
            made.say("kept as text", name)
    for number in range(8):
        items = made.free(f"bat{number}_")
        if number > 5:
            for at in (records := made.some(few)):
                for item in items:
                    made.entries[item][at] = "3"
            made.tags[items[2]]["note"] = "reversed item"
            made.entries[items[2]] = [
                str(6 - int(entry)) if entry.isdecimal() else entry for entry in made.entries[items[2]]
            ]
            made.planted.append(("the same answer throughout", items[0], frozenset(at + 1 for at in records)))
        elif number < 2:
            made.entries[items[3]] = [
                str(6 - int(entry)) if entry.isdecimal() else entry for entry in made.entries[items[3]]
            ]
            made.say("item against the rest", items[3])
        elif number == 2:
            made.say(
                "lists run against each other",
                items[2],
                codes=[CodeLine(code=str(6 - code), label=word) for code, word in enumerate(WORDS, 1)],
            )
        elif number == 3:
            made.say(
                "lists differ",
                items[1],
                codes=[
                    CodeLine(code=str(code), label=word if code != 2 else "Rarely, if so")
                    for code, word in enumerate(WORDS, 1)
                ],
            )
        elif number == 4:
            for at in made.some(made.records // 2):
                made.entries[items[4]][at] = ""
            made.say("missing out of line", items[4])
        else:
            made.say("same label twice", items[0], label=made.tags[items[1]]["label"])
    at = made.some(few)
    made.put("none together with others", "tick0_e", dict.fromkeys(at, "1"))
    for each in at:
        made.entries["tick0_a"][each] = "1"
    at = made.some(few)
    for each in at:
        made.entries["rank0_a"][each] = made.entries["rank0_b"][each]
    made.planted.append(("rank used twice", "rank0_a", frozenset(each + 1 for each in at)))
    at = made.some(few)
    for each in at:
        for name, rank in zip("abcd", ("2", "3", "4", ""), strict=True):
            made.entries[f"rank1_{name}"][each] = rank
    made.planted.append(("rank left out", "rank1_a", frozenset(each + 1 for each in at)))
    at = made.some(2 * few)
    made.put("ended before it began", "ended", {each: _moment(-60) for each in at[:few]})
    made.put("finished too fast", "ended", {each: _later(made.entries["started"][each], 1) for each in at[few:]})
    for name in made.free("day_", 3):
        made.put("dates to come", name, dict.fromkeys(made.some(few), "2031-02-03"))
    at = made.some(3 * few)
    made.put("identifier blank", "plot_no", dict.fromkeys(at[:few], ""))
    made.put("identifier twice", "plot_no", dict.fromkeys(at[few : 2 * few], made.entries["plot_no"][at[-1]]))
    for each in at[2 * few :]:
        for name, tag in made.tags.items():
            if tag.get("use", "answer") in ("answer", "several answers"):
                made.entries[name][each] = made.entries[name][at[0]]
    made.planted.append(("record twice", "coded_00x", frozenset(each + 1 for each in at[2 * few :])))
    _plant_records(made, few)


def _plant_tags(made: Made) -> None:
    """Plants faults of tags, and of entries that are told by their tags alone."""
    for number, name in enumerate(made.free("coded_", 16)):
        kind = number % 8
        if kind == 0:
            made.say("code list wanted", name, codes=[])
        elif kind == 1:
            made.say("codes never used", name, codes=[*made.tags[name]["codes"], CodeLine(code="6", label="Hardly")])
        elif kind == 2:
            made.say("codes as a measure", name, level="interval")
        elif kind == 3:
            made.say("wording missing", name, question="")
        elif kind == 4:
            made.say("label cut off", name, label=f"What of {name} when all is said and…")
            made.planted.append(("label too long", name, frozenset()))
            made.tags[name]["label"] = "What do you think of it, " * 8 + made.tags[name]["label"]
        elif kind == 5:
            made.put("longer than the width", name, dict.fromkeys(made.some(2), "0000000001"))
            made.tags[name] |= {"width": 4}
        elif kind == 6:
            made.entries[name] = ["" if at % 50 else "1" for at in range(made.records)]
            made.say("nearly empty", name)
        else:
            made.say("labels nearly the same", name, codes=_with_label(made, name, "always "))
    for number, name in enumerate(made.free("measure_", 16)):
        kind = number % 4
        if kind == 0:
            guesses = made.chance.integers(2, 92, made.records) * 10
            made.entries[name] = [str(guess) for guess in guesses]
            made.say("heaping", name)
        elif kind == 1:
            made.entries[name] = [str(70_000 + at) for at in range(made.records)]
            made.say("identifier as a measure", name, use="administrative")
        elif kind == 2:
            made.entries[name] = [str(entry) for entry in made.chance.integers(0, 60, made.records)]
            made.say("many ordered categories", name, level="ordinal", codes=[])
        else:
            made.entries[name] = [f"{entry:.1f}" for entry in made.chance.normal(50, 10, made.records)]
            made.put("more decimals than declared", name, dict.fromkeys(made.some(2), "48.125"))
            made.tags[name] |= {"type": "decimal", "decimals": 1}


def _with_label(made: Made, name: str, label: str) -> list[CodeLine]:
    return [*made.tags[name]["codes"], CodeLine(code="6", label=label)]


def _plant_rules(made: Made, few: int) -> None:
    """Plants records that break a rule or a skip, rules that cannot be held, and a skip that nobody told."""
    for number, name in enumerate(made.free("measure_", 4)):
        names = {name: name}
        if number % 2:
            old = Formula(text=f"{name} is 'Often'", names=names)
            made.rules[f"rule {number}"] = Rule(title=f"Old {number}", holds=old)
            made.say("rule cannot be held", name)
            continue
        never = Formula(text=f"{name} <> 123456", names=names)
        made.rules[f"rule {number}"] = Rule(title=f"Rule {number}", holds=never)
        made.tags[name] |= {"limits": Limits(low="0", high="200000")}
        at = made.some(few)
        made.put("rule broken", name, dict.fromkeys(at, "123456"))
        made.tolerated.add(("far outliers", name))
    filters, follow = made.free("text_", 2), made.free("text_", 2)
    codes = [CodeLine(code="1", label="Yes"), CodeLine(code="2", label="No")]
    for number, (asked, name) in enumerate(zip(filters, follow, strict=True)):
        answers = [str(each) for each in made.chance.integers(1, 3, made.records)]
        made.entries[asked] = answers
        made.entries[name] = ["" if answer == "2" else f"Lane {'ABC'[at % 3]}" for at, answer in enumerate(answers)]
        parts = {"type": "integer", "codes": codes, "complete": True}
        made.tags[asked] |= parts
        breaks = [at for at in made.some(40 * few) if answers[at] == "2"][:few]
        check = "answered though skipped" if number else "a skip nobody told"
        made.put(check, name, dict.fromkeys(breaks, "Lane A"))
        if number:
            made.tags[asked] |= {"skips": [Skip(codes=("2",), to=None)]}
    made.order(filters, follow)


def _plant_records(made: Made, few: int) -> None:
    """Plants records that are nearly empty, that tick nothing, and that are nearly those of others."""
    answers = [name for name, tag in made.tags.items() if tag.get("use", "answer") in ("answer", "several answers")]
    at = made.some(3 * few)
    for each in at[:few]:
        for name in answers[2:]:
            made.entries[name][each] = ""
    made.planted.append(("record nearly empty", answers[0], frozenset(each + 1 for each in at[:few])))
    for each, other in zip(at[few : 2 * few], at[2 * few :], strict=True):
        for number, name in enumerate(answers):
            if number not in (40, 41):
                made.entries[name][each] = made.entries[name][other]
    made.planted.append(("record nearly twice", answers[0], frozenset(each + 1 for each in at[few : 2 * few])))
    made.put("neither ticked nor not", "tick1_b", dict.fromkeys(made.some(few), "3"))
    made.tags["tick1_b"] |= {"complete": False}
    for each in (ticked := made.some(few)):
        for name in "abcde":
            made.entries[f"tick1_{name}"][each] = "0"
    made.planted.append(("nothing ticked", "tick1_e", frozenset(each + 1 for each in ticked)))


def _later(moment: str, minutes: int) -> str:
    return str(np.datetime64(moment.replace(" ", "T")) + np.timedelta64(minutes, "m")).replace("T", " ")


@dataclass
class Score:
    """Of one kind: what was planted, what of it was found, and what was raised above a note without being planted."""

    planted: int = 0
    found: int = 0
    more: int = 0


def scored(made: Made) -> dict[str, Score]:
    """What the checks find of what was planted, by check."""
    study = made.study()
    findings = run_checks(study, findings_across(study))
    by_check: dict[str, list[Finding]] = defaultdict(list)
    for finding in findings:
        by_check[finding.check].append(finding)
    out: dict[str, Score] = defaultdict(Score)
    met: set[int] = set()
    for check, name, records in made.planted:
        out[check].planted += 1
        for finding in by_check[check]:
            if name in finding.variables and records <= set(records_of(study, finding, most=10**7) if records else ()):
                out[check].found += 1
                met.add(id(finding))
                break
    for finding in findings:
        tolerated = (finding.check, finding.variable) in made.tolerated
        out[finding.check].more += finding.severity != "note" and id(finding) not in met and not tolerated
    return out


def lines() -> Iterator[str]:
    """The report: every check, and what is found of planted faults."""
    totals: dict[str, Score] = defaultdict(Score)
    false = {}
    for size in SIZES:
        for seed in (1, 2):
            made = clean(size, seed)
            false[size, seed] = sum(score.more for score in scored(made).values())
            made = clean(size, seed + 10)
            plant(made)
            for check, score in scored(made).items():
                total = totals[check]
                total.planted += score.planted
                total.found += score.found
                total.more += score.more
    yield from (
        "# Checks", "",
        "Written by `make checks`. What each check notices, and, for faults planted in made-up data of "
        f"{', '.join(f'{size:,}' for size in SIZES)} records × {len(made.tags)} variables (two of each), how many of "
        "them it finds, and how often it raises something above a note that was not planted.", "",
    )  # fmt: skip
    for family in FAMILIES:
        yield from (
            f"## {family[0].upper()}{family[1:]}",
            "",
            "| check | notices | rule | is found | is not | planted | found | more |",
            "|---|---|---|---|---|---|---|---|",
        )
        for check in CHECKS.values():
            if check.family == family:
                score, told = totals[check.name], EXPLAINED[check.name]
                figures = f"{score.planted} | {score.found}" if score.planted else " | "
                set_by = [f"{each.said} {each.usual:g} (can be set)" for each in check.thresholds.values()]
                rule = "; ".join([told.rule, *set_by]) + (f" ({told.source})" if told.source else "")
                cells = (check.name, check.notices, rule, told.found, told.quiet, figures, score.more or "")
                yield f"| {' | '.join(str(cell) for cell in cells)} |"
        yield ""
    planted, found = sum(s.planted for s in totals.values()), sum(s.found for s in totals.values())
    more = sum(s.more for s in totals.values())
    yield (
        f"Together {found:,} of {planted:,} ({found / planted:.1%}), and {more:,} more than was planted "
        f"({more / planted:.1%}). In the same data without faults they raise {sum(false.values()):,} above a note."
    )


def main() -> None:
    """Writes the report."""
    text = "\n".join(lines()) + "\n"
    REPORT.write_text(text, "utf-8")
    sys.stdout.write(text)


if __name__ == "__main__":
    main()
