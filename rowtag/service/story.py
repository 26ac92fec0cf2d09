"""The story of a study: its diary as one page, for the appendix of a report."""

from collections.abc import Iterator, Mapping
from html import escape
from typing import Any

from rowtag.core.words import counted
from rowtag.service.editions import MOST_PAIRS
from rowtag.service.page import page, row, soft
from rowtag.store.diary import DiaryLine, Run, runs
from rowtag.store.editions import Edition, editions
from rowtag.store.studyfile import StudyFile

AT_ONCE = 2_000


def story(file: StudyFile, title: str) -> str:
    """What was done, from the first step to the state at the head, each day under its date; with the editions, and what
    became of entries where a step made new ones. What is not in the study as it is now is left out."""
    return page(f"{title}: what was done", _told(file))


def _told(file: StudyFile) -> Iterator[str]:
    lines: list[DiaryLine] = []
    before = None
    while more := file.diary(AT_ONCE, before):
        lines += more
        before = more[-1].revision
    current = [line for line in lines if line.current]
    study = file.study
    yield f'<p class="soft">{counted(len(current), "step")}; {counted(study.records.count, "record")} × '
    yield f"{counted(len(study.order), 'variable')}.</p>"
    named = {each.state: each for each in editions(file)}
    day = ""
    for run in reversed(runs(current, study)):
        at = run.lines[0].at
        if at[:10] != day:
            if day:
                yield "</table>"
            day = at[:10]
            yield f"<h2>{day}</h2><table>" + row("time", "who", "what was done", head=True)
        yield row(at[11:16], escape(run.lines[0].by), escape(run.sentence) + _evidence(run))
        for line in reversed(run.lines):
            if line.state in named:
                yield row("", escape(named[line.state].by), _named(named[line.state]))
    if day:
        yield "</table>"


def _named(each: Edition) -> str:
    prints = soft(f"data {each.data[:16]}, codebook {each.codebook[:16]} (SHA-256)")
    return f"<b>Edition “{escape(each.name)}”</b> {escape(each.note)}<br>{prints}"


def _evidence(run: Run) -> str:
    """What became of entries, of a step that is told alone."""
    evidence: list[Mapping[str, Any]] = run.lines[0].account.get("evidence", []) if len(run.lines) == 1 else []
    out = []
    for each in evidence[:3]:
        pairs = [
            f"{escape(pair['old']) or 'blank'} → {escape(pair['new']) or 'blank'}: {pair['count']:,}"
            for pair in each["pairs"][:MOST_PAIRS]
        ]
        more = f"; and {each['different'] - MOST_PAIRS:,} more" if each["different"] > MOST_PAIRS else ""
        if pairs:
            out.append(f"<br>{soft('; '.join(pairs) + more)}")
    return "".join(out)
