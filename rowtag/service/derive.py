"""Deriving: what a sentence would make of a study, looked at before anything is kept; and files derived from."""

import io
import re
from collections.abc import Sequence
from dataclasses import asdict, dataclass
from pathlib import Path
from typing import Any, Literal

from rowtag.core.derive import Derived, Source, derive, for_another, held, names_for, read, say
from rowtag.core.derive.bands import equal_counts, equal_widths
from rowtag.core.derive.crossed import Crossed, crossed
from rowtag.core.derive.score import Reliability, reliability
from rowtag.core.derive.ticks import without_theme
from rowtag.core.derive.ways import Bands, Expression, Mentions
from rowtag.core.errors import BadInput, Place, UnreadableFile
from rowtag.core.formulas.errors import BadFormula
from rowtag.core.formulas.grammar import spelled_name
from rowtag.core.formulas.nodes import Call, Name
from rowtag.core.names import key_of
from rowtag.core.rules import Formula
from rowtag.core.steps.base import Applied
from rowtag.core.steps.derive import Derive, Into
from rowtag.core.study import Study
from rowtag.core.summary import Summary
from rowtag.core.tables import summary
from rowtag.formats.table import unwatched
from rowtag.formats.writers.base import Handed
from rowtag.formats.writers.csv import Csv
from rowtag.formats.written import Options
from rowtag.service.codebook import under_codebook
from rowtag.service.describe import describe_variable, opened_study

THEN = "derived-then"
"""The id of the bands of what is made, while it is only looked at."""


@dataclass(frozen=True)
class Then:
    """That what is made is parted into bands, too, under a name: by a sentence, or so many by counts or widths."""

    name: str
    text: str = ""
    number: int = 3
    equal: Literal["counts", "widths"] = "counts"


@dataclass(frozen=True)
class New:
    """A variable that would be made: its id in the state after, and what became of its source's values in it (None
    where it has no single source)."""

    id: str
    crossed: Crossed | None
    before: Summary | None
    after: Summary | None


@dataclass(frozen=True)
class Look:
    """What a sentence would make: the step that does it, the state after, its variables, and how the items of a score
    go together."""

    step: Derive
    applied: Applied
    derived: Derived
    new: tuple[New, ...]
    reliability: Reliability | None
    then: bool = False
    """Whether the last of its sentences parts what the first makes into bands."""
    left: tuple[str, ...] = ()
    """Open answers that no theme meets, the commonest first."""


def looked(
    study: Study,
    names: str,
    text: str,
    into: str | None = None,
    label: str = "",
    also: Sequence[str] = (),
    then: Then | None = None,
) -> Look:
    """Applies a sentence to all records without keeping anything. `names` are those of what it makes, parted by commas;
    `into` is the id of a variable that it is to be derived into. It is applied to the variables `also`, too, each in
    place of its source; a * in the name stands for theirs then. What it makes is parted into bands `then`. Raises
    BadFormula, BadInput."""
    how = held(text, study, None if into is None else study.variable(into).origin.how)
    found = derive(how, study, into)
    if also:
        return _looked_at_many(study, names, how, found, also)
    if into is None:
        given = names_for([name.strip() for name in names.split(",") if name.strip()], found.outcomes)
        ids = {f"derived-{at}": name for at, name in enumerate(given)}
    else:
        ids = {into: study.tag(into).name}
    step = Derive(variables=(Into(how=how, into=ids, label=label),))
    applied = step.apply(study)
    banded: tuple[New, ...] = ()
    if then is not None:
        made, *others = ids
        if others:
            raise BadInput("Only one variable can be parted into bands.", remedy="Leave the bands out.")
        step = _then(step, applied.study, made, then)
        scored, applied = applied.study, step.apply(study)
        banded = (New(THEN, crossed(scored, made, applied.study, THEN), None, summary(applied.study, THEN)),)
    made_of = _made_of(found)
    source = _against(how, found)
    new = tuple(
        New(
            id,
            None if source is None else crossed(study, source, applied.study, id),
            None if source is None or source != made_of else summary(study, source),
            summary(applied.study, id),
        )
        for id in ids
    )
    way = read(text).way
    left = without_theme(Source(study, found.source), way) if isinstance(way, Mentions) and found.source else ()
    return Look(step, applied, found, (*new, *banded), reliability(how, study), then is not None, tuple(left))


def _then(step: Derive, after: Study, made: str, then: Then) -> Derive:
    """A step that parts what it makes into bands, too: as their sentence says, else as they are proposed."""
    text = then.text
    if not text:
        cut = equal_counts if then.equal == "counts" else equal_widths
        bands = cut(after, made, then.number)
        name = after.tag(made).name
        if not bands:
            raise BadInput(f"{name} has no values that could be parted.", remedy="Leave its bands out.")
        text = say(Bands(Name(name, (0, 0)), tuple(bands)))
    return Derive(variables=(*step.variables, Into(how=held(text, after), into={THEN: then.name.strip()})))


def _against(how: Formula, found: Derived) -> str | None:
    """The variable whose values are set against what is made: its single source; of figures within the groups of one
    variable that one."""
    way = read(how.text).way
    over = way.formula.over if isinstance(way, Expression) and isinstance(way.formula, Call) else None
    if over is not None and len(over) == 1:
        return how.names.get(over[0].name)
    return _made_of(found)


def _made_of(found: Derived) -> str | None:
    """The only variable that something is made of."""
    return found.source or (found.sources[0] if len(found.sources) == 1 else None)


def _looked_at_many(study: Study, names: str, how: Formula, found: Derived, also: Sequence[str]) -> Look:
    source = found.source
    if source is None or found.several:
        raise BadInput(
            "This cannot be done for several variables at once.", remedy="It takes one source, and makes one."
        )
    if names.count("*") != 1:
        raise BadInput(
            "One name does not serve several variables.", remedy="Write a * in it that stands for theirs: *_r."
        )
    made = []
    sources = list(dict.fromkeys((source, *also)))
    for at, id in enumerate(sources):
        own = how if id == source else for_another(how, study, source, id)
        made.append(Into(how=own, into={f"derived-{at}": names.replace("*", study.tag(id).name)}))
    step = Derive(variables=tuple(made))
    applied = step.apply(study)
    new = tuple(
        New(
            f"derived-{at}",
            crossed(study, id, applied.study, f"derived-{at}"),
            summary(study, id),
            summary(applied.study, f"derived-{at}"),
        )
        for at, id in enumerate(sources)
    )
    return Look(step, applied, found, new, None)


# Without a screen ---------------------------------------------------------------------------------


def parted(line: str) -> tuple[str, str]:
    """The names and the sentence of a line such as `holds_plot = recode tenure: 1 -> 2`. Raises BadInput."""
    names, sign, text = line.partition("=")
    if not sign or not names.strip() or not text.strip():
        raise BadInput(f"“{line.strip()[:80]}” makes no variable.", remedy="Such as: holds_plot = recode tenure: …")
    return names.strip(), text.strip()


def derived_lines(path: Path) -> list[str]:
    """The derivations of a file, one a line; what is indented goes on, lines with # in front say something."""
    try:
        text = path.read_bytes().decode("utf-8-sig")
    except UnicodeDecodeError:
        raise UnreadableFile("This is no text in UTF-8.", where=Place(path.name)) from None
    out: list[str] = []
    for line in text.splitlines():
        if not line.strip() or line.lstrip().startswith("#"):
            continue
        if line[0] in " \t" and out:
            out[-1] += f" {line.strip()}"
        else:
            out.append(line.strip())
    return out


_ALIKE = re.compile(
    r"(?<![\w*'`])(?P<alike>[^\W\d]\w*\*(?:[^\W\d]\w*)?|\*\w+)(?=\s*(?:[:),]|$)|\s+(?:from|to|by|except|only)\b)",
    re.IGNORECASE,
)
"""A name with a * for some of it, where no product can stand: behind it a sentence goes on, or an argument ends."""
_QUOTED = re.compile(r"'(?:[^'\\]|\\.)*'|`[^`]*`")


def spread(study: Study, names: str, text: str) -> list[tuple[str, str]]:
    """A derivation as one for each of the variables that it is about: where both sides have a *, as in
    `*_r = reverse site_*`, the right one stands for all variables called so, the left one for their names. Raises
    BadInput where none is called so."""
    bare = _QUOTED.sub(lambda quoted: " " * len(quoted[0]), text)
    found = _ALIKE.search(bare) if names.count("*") == 1 else None
    if found is None:
        return [(names, text)]
    alike = found["alike"]
    wanted = re.compile(re.escape(alike).replace(r"\*", ".*"), re.IGNORECASE)
    met = [name for id in study.order if wanted.fullmatch(name := study.tag(id).name)]
    if not met:
        raise BadInput(f"No variable is called like {alike}.", remedy="A * stands for any part of their names.")
    ends = [each.span("alike") for each in _ALIKE.finditer(bare) if each["alike"] == alike]
    out = []
    for name in met:
        said = text
        for begin, end in reversed(ends):
            said = said[:begin] + spelled_name(name) + said[end:]
        out.append((names.replace("*", name), said))
    return out


def derive_file(
    file: Path,
    lines: list[str],
    codebook: Path | None = None,
    sheet: str | None = None,
    out: Path | None = None,
    *,
    in_place: bool = False,
) -> dict[str, Any]:
    """What derivations make of a file, one after the other, each from what is there then; written as CSV where `out`
    is given. A name that is there already is refused, or derived `in_place`. Raises BadInput with the derivation that
    cannot be done."""
    study = under_codebook(file, codebook, sheet)[0] if codebook is not None else opened_study(file, sheet)
    done: list[dict[str, Any]] = []
    for number, line in enumerate(lines, 1):
        text = ""
        try:
            each_of = spread(study, *parted(line))
            for names, text in each_of:
                there = study.name_keys.get(key_of(names)) if in_place else None
                look = looked(study, names, text, into=there)
                study, ids = _with_own_ids(study, look, f"{number}-{len(done)}")
                done.append(_told(study, look, names, text, ids))
        except BadInput as error:
            at = line.find(text) if text else -1
            character = error.span[0] + 1 + at if isinstance(error, BadFormula) and at >= 0 else None
            where = Place(f"derivation {number}", character=character)
            raise BadInput(error.what, remedy=error.remedy, where=where, suggestion=error.suggestion) from None
    if out is not None:
        notes = _write(study, out)
        return {"records": study.records.count, "derived": done, "file": str(out), "notes": notes}
    return {"records": study.records.count, "derived": done}


def _with_own_ids(study: Study, look: Look, number: str) -> tuple[Study, list[str]]:
    """The state after a derivation, and the ids of its variables: their own, where they are new."""
    (into,) = look.step.variables
    fresh = [id if id in study.variables else f"made-{number}-{at}" for at, id in enumerate(into.into)]
    named = dict(zip(fresh, into.into.values(), strict=True))
    return Derive(variables=(into.model_copy(update={"into": named}),)).apply(study).study, list(named)


def _told(study: Study, look: Look, names: str, text: str, ids: Sequence[str]) -> dict[str, Any]:
    variables = []
    for id, new in zip(ids, look.new, strict=True):
        table = None
        if new.crossed is not None:
            old, now = new.crossed.old, new.crossed.new
            table = [
                {"old": _called(asdict(old[each.old]), each.low, each.high), "new": _called(asdict(now[each.new])),
                 "count": each.count}
                for each in new.crossed.ribbons
            ]  # fmt: skip
        variables.append({**describe_variable(study, id), "old_by_new": table})
    return {"names": names, "sentence": text, "said": look.applied.full_sentence, "variables": variables}


def _called(side: dict[str, Any], low: str | None = None, high: str | None = None) -> str:
    """A value of one side in words."""
    if low is not None and high is not None:
        return low if low == high else f"{low} to {high}"
    if side["reading"] == "blank":
        return "blank"
    label = f" {side['label']}" if side["label"] else ""
    aside = {"missing": " (missing)", "stray": " (stray)"}.get(side["reading"], "")
    many = f"{side['different']:,} values" if side["different"] > 1 and not side["code"] else ""
    return f"{side['code'] or many}{label}{aside}".strip()


def in_words(found: dict[str, Any]) -> str:
    """What was derived, for people: each sentence with its old-by-new table."""
    lines = []
    for each in found["derived"]:
        lines += [each["said"], ""]
        for variable in each["variables"]:
            fill = variable["fill"]
            lines.append(
                f"{variable['name']}  {variable['type']}, {variable['level']}: {fill['valid']:,} valid, "
                f"{fill['missing']:,} coded missing, {fill['blank']:,} blank, {fill['stray']:,} stray"
            )
            table = variable["old_by_new"] or []
            width = max((len(row["old"]) for row in table), default=0)
            lines += [f"  {row['old']:<{width}}  ->  {row['new'] or 'blank'}  {row['count']:,}" for row in table]
            figures = variable["summary"] if not table else None
            if figures:
                lines.append(
                    "  " + ", ".join(f"{name} {value:g}" for name, value in figures.items() if value is not None)
                )
            lines.append("")
    if "file" in found:
        lines += [f"Written to {found['file']}.", *found["notes"]]
    return "\n".join(lines).rstrip()


def _write(study: Study, out: Path) -> list[str]:
    """Writes a study's data as CSV, as the handover does."""
    buffer = io.BytesIO()
    notes = Csv(entries=Options()).write(Handed(study, out.stem), buffer, unwatched)
    try:
        out.write_bytes(buffer.getvalue())
    except OSError as error:
        raise BadInput(f"{out} cannot be written: {error.strerror}.", remedy="Name another file.") from None
    return notes
