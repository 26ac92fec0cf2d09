"""What is so or not: indicators, answers of one entry parted into 0/1 variables, themes of open answers; and back."""

import re
from collections.abc import Callable, Iterable, Sequence
from functools import cache

import numpy as np
import numpy.typing as npt
import pyarrow as pa
import pyarrow.compute as pc

from rowtag.core.answers import folded
from rowtag.core.column import column_of
from rowtag.core.derive.outcome import Flags, Outcome, Source, Targets, coded_parts, in_type, kept_missing, yes_no
from rowtag.core.derive.ways import Indicators, Mentions, Split, Theme
from rowtag.core.engine import Same, engine
from rowtag.core.formulas.errors import BadFormula, Span, nearest
from rowtag.core.frame import Frame
from rowtag.core.reading import State, spell
from rowtag.core.study import Study
from rowtag.core.tag import CodeLine
from rowtag.core.tokens import Texts, large_texts
from rowtag.core.words import counted

MOST = 200
"""Variables that come of one, at most."""
FEW_ANSWERS = 30
"""Different answers from which they are open ones, whose themes are looked for."""
NO, YES = 0, 1
_RESULTS = ["0", "1"]


def indicators(source: Source, way: Indicators) -> list[Outcome]:
    """One for each code of the list, in its order, the base left out; what is not valid stays what it is, so that a
    missing answer keeps its reason."""
    tag, lines = source.tag, [line for line in source.lines if line.code is not None]
    if not lines:
        raise BadFormula(
            f"{tag.name} has no code list.", way.source.at, remedy="List its codes first, or write: indicator …"
        )
    if len(lines) > MOST:
        raise BadFormula(f"{tag.name} has {len(lines):,} codes; there may be {MOST}.", way.source.at)
    base = _base(source, way, lines)
    out = []
    for number, line in enumerate(source.lines):
        if line.code is None or line is base:
            continue
        target: Targets = np.where(source.valid, np.where(source.reading.lines == number, YES, NO), -1)
        label = f"{tag.label or tag.name}: {line.label or line.code}"
        parts = {**yes_no(kept_missing(tag, "integer")), "label": label}
        out.append(source.became(target, _RESULTS, parts, called=in_type(line.code, tag.type)))
    return out


def _base(source: Source, way: Indicators, lines: Sequence[CodeLine]) -> CodeLine | None:
    if way.base is None:
        return None
    kind = source.tag.type
    wanted = in_type(way.base, kind)
    for line in lines:
        if in_type(line.code or "", kind) == wanted or folded(line.label) == folded(way.base):
            return line
    close = nearest(way.base, [line.label for line in lines if line.label])
    raise BadFormula(
        f"{way.base} is no code of {source.tag.name}.", way.at, remedy=f"Did you mean “{close}”?" if close else ""
    )


# Several answers in one entry ---------------------------------------------------------------------


def split(source: Source, way: Split) -> list[Outcome]:
    """One for each answer; blank entries stay blank in all of them, and missing ones keep their codes."""
    if not way.by.strip() and way.by not in (" ", "\t"):
        raise BadFormula("The sign between answers is missing.", way.source.at, remedy="Such as: by ';'")
    if len(way.answers) > MOST:
        raise BadFormula(f"These are {len(way.answers):,} answers; there may be {MOST}.", way.source.at)
    valid = np.flatnonzero(source.valid)
    texts = source.reading.canonical(valid)
    counts = source.counts[valid]
    used = counts > 0
    if not pc.any(pc.match_substring(texts.filter(pa.array(used)), way.by)).as_py():
        raise BadFormula(
            f"“{way.by}” stands in no entry of {source.tag.name}.", way.source.at, remedy=_other_sign(texts, counts)
        )
    owner, parts = parts_of(texts, way.by)
    spelling = {folded(text): number for number, each in enumerate(way.answers) for text in each}
    grouped = pc.dictionary_encode(parts)
    names = grouped.dictionary.to_pylist()
    which = np.array([spelling.get(folded(name), -1) for name in names], np.int64)[grouped.indices.to_numpy()]
    missing = kept_missing(source.tag, "integer")
    out = []
    for number, each in enumerate(way.answers):
        target: Targets = np.full(source.counts.size, -1)
        target[valid] = NO
        target[valid[owner[which == number]]] = YES
        label = f"{source.tag.label or source.tag.name}: {each[0]}"
        made = {**yes_no(missing), "use": "several answers", "label": label}
        out.append(source.became(target, _RESULTS, made, called=each[0]))
    left = (which < 0) & (counts[owner] > 0)
    if left.any() and out:
        records = int(counts[np.unique(owner[left])].sum())
        different = len({folded(names[at]) for at in np.unique(grouped.indices.to_numpy()[left]).tolist()})
        are = "is" if different == 1 else "are"
        note = f"{counted(different, 'answer')} in {counted(records, 'record')} {are} in none"
        out[0] = Outcome(out[0].column, out[0].parts, (note,), out[0].called)
    return out


def parts_of(texts: Texts, by: str) -> tuple[npt.NDArray[np.int64], Texts]:
    """The answers in each of some texts, without blanks at their ends and empty ones: which text each stands in, and
    the answer."""
    listed = pc.split_pattern(texts, by)
    owner = pc.list_parent_indices(listed).to_numpy(zero_copy_only=False)
    parts = pc.utf8_trim_whitespace(pc.list_flatten(listed))
    filled = pc.not_equal(parts, "").to_numpy(zero_copy_only=False)
    return owner[filled].astype(np.int64), parts.filter(pa.array(filled))


SIGNS = (";", "|", "/", ",", "+", "&", "\t")
"""Signs between answers, as they are guessed."""


def sign_between(source: Source) -> str | None:
    """The sign that most probably stands between several answers in one entry: of those in a twentieth of the entries
    or more the one whose parts repeat themselves most."""
    valid = np.flatnonzero(source.valid & (source.counts > 0))
    texts, counts = source.reading.canonical(valid), source.counts[valid]
    return _guessed(texts, counts)


def _guessed(texts: Texts, counts: npt.NDArray[np.int64]) -> str | None:
    best, most = None, 0.0
    for sign in SIGNS:
        holds = pc.match_substring(texts, sign).to_numpy(zero_copy_only=False)
        if not counts.size or counts[holds].sum() * 20 < counts.sum():
            continue
        _, parts = parts_of(texts, sign)
        repeats = len(parts) / max(len(pc.unique(pc.utf8_lower(parts))), 1)
        if repeats > most:
            best, most = sign, repeats
    return best


def _other_sign(texts: Texts, counts: npt.NDArray[np.int64]) -> str:
    other = _guessed(texts, counts)
    return f"Did you mean '{other}'?" if other else "Look at what stands between its answers."


def proposed_answers(source: Source, by: str, most: int = 40) -> list[tuple[str, ...]]:
    """The answers that stand in entries, commonest first, spellings that differ in case, accents and blanks as one."""
    valid = np.flatnonzero(source.valid & (source.counts > 0))
    owner, parts = parts_of(source.reading.canonical(valid), by)
    grouped = pc.dictionary_encode(parts)
    totals = np.bincount(grouped.indices.to_numpy(), source.counts[valid][owner], minlength=len(grouped.dictionary))
    families: dict[str, dict[str, float]] = {}
    for text, total in zip(grouped.dictionary.to_pylist(), totals.tolist(), strict=True):
        families.setdefault(folded(text), {})[text] = total
    ranked = sorted(families.values(), key=lambda each: -sum(each.values()))
    return [tuple(sorted(each, key=lambda text: -each[text])) for each in ranked[:most]]


# Themes of open answers ---------------------------------------------------------------------------


def mentions(source: Source, way: Mentions) -> list[Outcome]:
    """One for each theme: 1 where an answer holds one of its words as a whole (or, with a * before or behind it, as a
    part of one), or is one of its texts; whatever case and accents."""
    if len(way.themes) > MOST:
        raise BadFormula(f"These are {len(way.themes):,} themes; there may be {MOST}.", way.source.at)
    valid = np.flatnonzero(source.valid)
    missing, out = kept_missing(source.tag, "integer"), []
    any_of_them = np.zeros(valid.size, bool)
    for theme, met in zip(way.themes, _met(source, way, valid), strict=True):
        any_of_them |= met
        target: Targets = np.full(source.counts.size, -1)
        target[valid] = np.where(met, YES, NO)
        parts = {
            **yes_no(missing),
            "use": "several answers",
            "label": f"{source.tag.label or source.tag.name}: {theme.label}",
        }
        out.append(source.became(target, _RESULTS, parts, called=theme.label))
    left = int(source.counts[valid][~any_of_them].sum())
    if left:
        out[0] = Outcome(
            out[0].column,
            out[0].parts,
            (f"{counted(left, 'answer names', 'answers name')} none of them",),
            out[0].called,
        )
    return out


def _met(source: Source, way: Mentions, valid: npt.NDArray[np.int64]) -> list[Flags]:
    """Per theme which valid tokens it meets."""
    key = ("plain", Same(source.column), source.study.lens(source.id))
    plain = cache(lambda: engine.get(key, lambda: _plain(source.reading.canonical())))
    out = []
    for theme in way.themes:
        met: Flags = np.zeros(source.counts.size, bool)
        for word in theme.words:
            met |= _holding(source, word, plain)
        if theme.whole:
            met |= pc.is_in(plain(), _plain(large_texts(theme.whole))).to_numpy(zero_copy_only=False)
        out.append(met[valid])
    return out


def _plain(texts: Texts) -> Texts:
    """Texts in small letters, without accents."""
    if pc.all(pc.string_is_ascii(texts)).as_py() is not False:
        return pc.ascii_lower(texts)
    return pc.replace_substring_regex(pc.utf8_normalize(pc.utf8_lower(texts), "NFKD"), r"\p{Mn}+", "")


def _holding(source: Source, word: str, plain: Callable[[], Texts]) -> Flags:
    """Which tokens hold a word; remembered, since whoever writes a coding frame adds one word after the other."""

    def look() -> Flags:
        part: str = _plain(large_texts([word.strip("*").strip()]))[0].as_py()
        return _beside_nothing(plain(), part, not word.startswith("*"), not word.endswith("*"))

    met: Flags = engine.get(("holding", Same(source.column), source.study.lens(source.id), word), look)
    return met


def _beside_nothing(texts: Texts, part: str, before: bool, after: bool) -> Flags:
    """Which texts hold a part, with no letter and no digit beside it where that is asked."""
    at = pc.find_substring(texts, part).to_numpy(zero_copy_only=False)
    met: Flags = at >= 0
    held = np.flatnonzero(met) if part and (before or after) else np.empty(0, np.int64)
    if not held.size:
        return met
    offsets = np.frombuffer(texts.buffers()[1], np.int64)[texts.offset :]
    letters = np.frombuffer(texts.buffers()[2], np.uint8)
    first, begin, end = at[held], offsets[held], offsets[held + 1]
    stop = begin + first + len(part.encode())
    apart = np.ones(held.size, bool)
    if before:
        apart &= (first == 0) | _APART[letters[np.maximum(begin + first - 1, 0)]]
    if after:
        apart &= (stop == end) | _APART[letters[np.minimum(stop, letters.size - 1)]]
    doubtful = held[~apart]  # letters beyond ASCII stand beside it, or it is within a word and may come again
    if doubtful.size:
        wanted = f"{_BEFORE if before else ''}{re.escape(part)}{_AFTER if after else ''}"
        met[doubtful] = pc.match_substring_regex(texts.take(pa.array(doubtful)), wanted).to_numpy(zero_copy_only=False)
    return met


_BEFORE, _AFTER = r"(?:^|[^\pL\pN])", r"(?:$|[^\pL\pN])"
"""What stands beside a word as a whole: no letter and no digit."""
_APART = np.array([byte < 128 and not chr(byte).isalnum() for byte in range(256)])
"""Bytes that are no letter and no digit; of those beyond ASCII one alone does not tell."""


def without_theme(source: Source, way: Mentions, most: int = 30) -> list[str]:
    """The answers that no theme meets, the commonest first."""
    valid = np.flatnonzero(source.valid & (source.counts > 0))
    met = np.logical_or.reduce(_met(source, way, valid)) if valid.size else np.empty(0, bool)
    left = valid[~met]
    first = left[np.argsort(-source.counts[left], kind="stable")][:most]
    found: list[str] = source.reading.canonical(first).to_pylist()
    return found


SHORTEST, COMMON = 5, 3
"""Letters of a word that may tell a theme, and answers in which it stands, at least."""


def proposed_themes(source: Source, most: int = 5) -> list[Theme]:
    """A theme for each of the commonest longer words of open answers; none where answers repeat themselves anyway."""
    used = np.flatnonzero(source.valid & (source.counts > 0))
    if used.size < FEW_ANSWERS:
        return []
    words = pc.list_flatten(pc.split_pattern_regex(pc.utf8_lower(source.reading.canonical(used)), r"[^\pL]+"))
    words = words.filter(pc.greater_equal(pc.utf8_length(words), SHORTEST))
    counted_words = pc.value_counts(words)
    found = sorted(
        zip(counted_words.field("values").to_pylist(), counted_words.field("counts").to_pylist(), strict=True),
        key=lambda each: (-each[1], each[0]),
    )
    return [Theme(word.capitalize(), (word,)) for word, times in found[:most] if times >= COMMON]


# Back: from 0/1 variables to one -------------------------------------------------------------------


def ticked(study: Study, ids: Sequence[str]) -> Iterable[tuple[npt.NDArray[np.int64], Flags, Flags]]:
    """Block by block: positions, which of some variables (columns) are ticked, and which are known, per record."""
    for block in Frame(study).blocks():
        values = np.stack([block.values(id) for id in ids], axis=1)
        yield block.positions, values == 1, ~np.isnan(values)


def refuse_other_than_ticks(study: Study, ids: Sequence[str], at: Span) -> None:
    """Raises BadFormula where one of some variables has valid entries other than 0 and 1."""
    for id in ids:
        values, _ = study.values(id, State.VALID)
        others = values[(values != NO) & (values != YES)]
        if others.size:
            kind = study.tag(id).type
            raise BadFormula(
                f"{study.tag(id).name} holds {spell(others[0].item(), kind)}, which is neither 0 nor 1.",
                at,
                remedy="What is ticked is 1, what is not 0: recode it first.",
            )


def join(study: Study, ids: Sequence[str], by: str, rest: str) -> Outcome:
    """The labels of what is ticked, in codebook order; `rest` where all are known and nothing is; blank where nothing
    is ticked and something unknown."""
    labels = [last_part(study, id) for id in ids]
    clash = next((label for label in labels if by.strip() and by.strip() in label), None)
    if clash is not None:
        raise BadFormula(f"“{by}” stands in “{clash}”.", remedy="Take another sign, that the answers do not have.")

    def spelled(row: Flags) -> str:
        return by.join(label for label, met in zip(labels, row.tolist(), strict=True) if met)

    indexes, texts = _by_pattern(study, ids, lambda row, known: spelled(row) or (rest if known.all() else ""))
    return Outcome(column_of(indexes, texts), {"type": "text", "level": "nominal", "use": "answer"})


def which(study: Study, ids: Sequence[str]) -> Outcome:
    """The number of the only one that is ticked; where several are, all their numbers, which is a stray; blank where
    none is."""
    lines = [CodeLine(code=str(at + 1), label=last_part(study, id)) for at, id in enumerate(ids)]

    def spelled(row: Flags, _known: Flags) -> str:
        return ", ".join(str(at + 1) for at in np.flatnonzero(row).tolist())

    indexes, texts = _by_pattern(study, ids, spelled)
    return Outcome(column_of(indexes, texts), coded_parts(lines, ()))


def last_part(study: Study, id: str) -> str:
    """What a variable of a set stands for: its label behind what the set shares, else its name."""
    label = study.tag(id).label
    return label.rpartition(": ")[2].strip() or study.tag(id).name


def _by_pattern(study: Study, ids: Sequence[str], spell: object) -> tuple[npt.NDArray[np.int64], Texts]:
    """One text for each pattern of ticks, worked out once for each; the index of each record, and the texts."""
    known_texts: dict[bytes, int] = {}
    different: dict[str, int] = {"": 0}
    indexes = np.zeros(study.records.arrived, np.int64)
    for positions, met, known in ticked(study, ids):
        both = np.packbits(np.concatenate([met, known], axis=1), axis=1)
        patterns, first, at = np.unique(both, axis=0, return_index=True, return_inverse=True)
        codes = np.empty(len(patterns), np.int64)
        for number, row in enumerate(first.tolist()):
            key = patterns[number].tobytes()
            if key not in known_texts:
                text = spell(met[row], known[row])  # type: ignore[operator]
                known_texts[key] = different.setdefault(text, len(different))
            codes[number] = known_texts[key]
        indexes[positions] = codes[at.reshape(-1)]
    return indexes, large_texts(different)
