"""Names from the wording of a question: its key words, and a name of the study that its words spell."""

import re
from collections import defaultdict
from collections.abc import Collection, Container, Sequence

from rowtag.core.answers import without_accents
from rowtag.core.names import suggest
from rowtag.documents.lines import words_in

LONGEST, MOST_WORDS = 20, 3
"""Characters and key words of a name that is made of a wording."""
SHORTEST = 3
"""Letters from which the beginning of a word stands for it."""
MOST_NEAR = 50
"""Wordings with one of its parts above which a name is none of theirs: words that nearly all have tell nothing."""
INITIALS = (3, 7)
"""How many initials a name may be made of: from, and below."""
_PLAIN = frozenset(
    words_in(
        """
        a an the this that these those there here some any each every all both either neither no not none other
        such same own more most much many few less very too so just only also even still yet ever never often
        i you he she it we they me him her us them my your his its our their mine yours who whom whose which what
        when where why how whether if than then as at by for from in into of off on onto out over per since to
        under until up upon with within without about above after again against along among around because before
        behind below beneath beside between beyond during through throughout toward towards and or but nor
        am is are was were be been being do does did done doing have has had having can could may might must shall
        should will would get gets got go goes going make makes made take takes took use used let please tick check
        circle mark choose select write enter following statement statements question answer answers usual usually
        overall general currently present presently all-in-all approximately roughly exactly kind kinds sort sorts
        le la les un une des du de d l au aux ce cet cette ces et ou à en dans sur sous par pour avec sans chez vers
        que qui quoi quel quelle quels quelles où quand comment combien pourquoi est sont êtes avez avoir ai a ont
        être fait faites faire vous votre vos nous notre nos il elle ils elles on je tu se s y ne pas plus
        der die das den dem des ein eine einen einem einer eines und oder im in ins am an auf aus bei mit nach von vor
        zu zum zur für um über unter wer wie was wo wann warum welche welcher welches welchen wieviel wieviele viel
        viele ist sind sein haben hat habe sie ihr ihre ihren ihrem ihrer ich wir es er man nicht kein keine bitte
        i w we na z ze do od o u po przy za dla pod nad przez czy jak jaki jaka jakie jakiego kto co gdzie kiedy ile
        dlaczego który która które jest są być ma masz pan pani pana państwo swój swoje się nie tak
        """
    )
)
_WORD = re.compile(r"[^\W_]+(?:['’][^\W\d_]+)?")
_PARTS = re.compile(r"[A-Z]?[a-z]+|[A-Z]+(?![a-z])|\d+")


def key_words(wording: str) -> list[str]:
    """The words of a wording that say what it is about, in small plain letters, in order."""
    said = re.sub(r"\([^()]*\)", " ", wording)
    whole = [re.sub(r"^[^\W\d_]{1,2}['’]|['’].*", "", word) for word in _WORD.findall(said)]  # d'heures, plot's
    words = [_folded(word) for word in whole if word.casefold() not in _PLAIN]
    return [word for word in words if len(word) > 1 and word not in _PLAIN]


def name_from(wording: str, taken: Container[str] = ()) -> str:
    """A short name of the key words of a wording: as few as tell it from those taken; empty where it has none."""
    words = list(dict.fromkeys(word for word in key_words(wording) if word[0].isalpha() or word.isdigit()))
    while words and not words[0][0].isalpha():
        words.append(words.pop(0))
        if all(word.isdigit() for word in words):
            return ""
    for most in range(2, MOST_WORDS + 1):
        name = _joined(words[:most])
        if name and name not in taken:
            return name
    initials = "".join(word[0] for word in words)[:LONGEST]
    if len(initials) > 2 and initials not in taken:
        return initials
    return suggest(name, taken, "open") if name else ""


def _joined(words: Sequence[str]) -> str:
    """Words as one name, the last left out or shortened where it would be too long."""
    name = ""
    for word in words:
        longer = f"{name}_{word}" if name else word[:LONGEST]
        if len(longer) > LONGEST:
            break
        name = longer
    return name


def _folded(word: str) -> str:
    return re.sub(r"\W", "", without_accents(word.casefold().replace("ł", "l").replace("ß", "ss")))


# Names of a study ----------------------------------------------------------------------------------


def spelt(wordings: Sequence[str], known: Collection[str]) -> dict[int, str]:
    """Which known name each wording spells (by its number), where one spells one and no other: by its words, their
    beginnings, or the initials of three or more."""
    about = [key_words(wording) for wording in wordings]
    beginning: dict[str, set[int]] = defaultdict(set)
    initials: dict[str, set[int]] = defaultdict(set)
    for at, wording in enumerate(wordings):
        for word in about[at]:
            beginning[word[:SHORTEST]].add(at)  # a shorter part of a name is a whole word
        every = [folded for word in _WORD.findall(wording) if (folded := _folded(word))]
        for words in (every, about[at]):
            signs = "".join(word[0] for word in words)
            for size in range(*INITIALS):
                for begin in range(len(signs) - size + 1):
                    initials[signs[begin : begin + size]].add(at)
    found: list[list[str]] = [[] for _ in wordings]
    for name in known:
        parts = [part.lower() for part in _PARTS.findall(without_accents(name))]
        met: set[int] = set()
        if parts:
            near = min((beginning.get(part[:SHORTEST], set()) for part in parts), key=len)  # each part must be met
            if len(near) <= MOST_NEAR:
                long = max(map(len, parts)) > SHORTEST  # else each part is a whole word
                met = {at for at in near if _spells(parts, about[at]) and (long or {*parts} <= {*about[at]})}
        if len(parts) == 1:
            met = met | initials.get(parts[0], set())
        if len(met) == 1:  # what several spell tells none of them
            found[met.pop()].append(name)
    return {at: names[0] for at, names in enumerate(found) if len(names) == 1}


def _spells(parts: Sequence[str], about: Sequence[str]) -> bool:
    """Whether each part of a name is a key word of a wording or its beginning, each of another one."""
    left = list(about)
    for part in parts:
        met = next((word for word in left if word == part or (len(part) >= SHORTEST and word.startswith(part))), None)
        if met is None:
            return False
        left.remove(met)
    return True
