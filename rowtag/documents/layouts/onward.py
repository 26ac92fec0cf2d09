"""Where answers lead in a questionnaire ("If no, go to 12"), and what interviewers are told between the questions."""

import re
from collections.abc import Sequence

from rowtag.documents.blocks import Block
from rowtag.documents.layouts.entry import Entry

GOES = (
    r"(?:go (?:straight |directly |on |now )?to|go on (?:with|at)|skip (?:ahead )?to|jump to"
    r"|continue (?:with|at|to)|proceed to|move (?:on )?to|weiter (?:mit|bei|zu)|passez à|allez à|aller à|przejdź do)"
)
"""Words that lead on."""
_GO = re.compile(rf"\b{GOES}\b|(?:→|⇒|->|=>|>>)", re.I)
_END = re.compile(r"\b(?:the end|end of|finish|ende|schluss|la fin|koniec|końca|thank you)\b", re.I)
_NUMBER = re.compile(
    r"(?:\b(?:question|item|frage|pytani\w+|no\.?|nr\.?|n°|q\.)\s*)?(?<![\w-])(?P<number>[A-Za-z]{0,3}\d{1,3}[a-z]?)(?![\w%])"
)
_SECTION = re.compile(
    r"\b(?:section|part|block|module|teil|abschnitt|partie|część|dział)\s+(?P<sign>[A-Z]|\d{1,2})\b", re.I
)
_IF = re.compile(
    rf"^\W*(?:if|wenn|falls|si|jeśli|jeżeli)\s+(?P<answer>[^,.:;→]{{1,80}}?)\s*[,.:;–-]?\s*(?:please\s+|bitte\s+)?(?={GOES}\b|→|->|=>)",
    re.I,
)
_TOLD = re.compile(
    r"^[\[(<*\s]*(?:(?:note to |for the |to the )?"
    r"(?:interviewers?|enumerators?|enqu[êe]teurs?|interviewer:?in(?:nen)?|ankieter\w*|int\.)\s*(?:instructions?|notes?)?\s*[:–-]|(?:instructions?|hinweis|consigne|instrukcja)\s*[:–-]"
    r"|(?:do not |don.t )?(?:read|prompt|probe)\b(?: out\b| aloud\b|\b)|show (?:the )?card|hand (?:over )?(?:the )?card"
    r"|(?:ask|answer) (?:only|all|everyone|if)\b|repeat for each|code (?:all|one|first)\b)",
    re.I,
)
"""What is said to those who ask, not to those who are asked."""

_PAST_ALL = 1 << 30


def is_instruction(block: Block) -> bool:
    """Whether a paragraph tells interviewers what to do."""
    return block.kind in ("text", "heading") and len(block.text) <= 400 and bool(_TOLD.match(block.text))


def instruction(block: Block) -> str:
    """What a paragraph tells interviewers."""
    return " ".join(block.text.split()).strip("[]()<>* ")


def said_alone(block: Block) -> tuple[str, str] | None:
    """The answer and the words of a paragraph that says where one leads: "If no, go to 12"."""
    text = " ".join(block.text.split())
    found = _IF.match(text) if block.kind != "table" and len(text) <= 200 else None
    return (found["answer"].strip(" \"'“”„«»"), text) if found else None


def lead_on(numbers: Sequence[tuple[str, str]], made: Sequence[Sequence[Entry]]) -> None:
    """Says of entries where their answers lead, as far as the words tell.

    `numbers`: per question its number as it is printed, and the section it stands in; `made`: the entries of each.
    What cannot be met stays a note.
    """
    places: dict[str, list[int]] = {}
    for at, (number, section) in enumerate(numbers):
        for key in {number.casefold(), number.casefold().lstrip("abcdefghijklmnopqrstuvwxyz")}:
            places.setdefault(key, []).append(at)
        if section:
            places.setdefault(f"section {section.casefold()}", []).append(at)
    for at, entries in enumerate(made):
        for entry in entries:
            rest = []
            for answer, said in entry.leads:
                to = _target(said, at, places)
                codes = _codes(entry, answer)
                further = next((one[0] for one in made[to:] if one), None) if to is not None else None
                if to is None or not codes or (further is None and to < len(made)):
                    rest.append(f"{answer}: {said}" if answer not in said else said)
                else:
                    entry.skips.append((codes, further, said))
            if rest:
                entry.given["note"] = "; ".join(filter(None, [str(entry.given.get("note", "")), *rest]))


def _target(said: str, at: int, places: dict[str, list[int]]) -> int | None:
    """The question, by its place, at which words lead on behind another one; one past the last for the end."""
    found = _GO.search(said)
    behind = said[found.end() :] if found else said
    if section := _SECTION.search(behind):
        keys = [f"section {section['sign'].casefold()}"]
    elif number := _NUMBER.search(behind):
        keys = [number["number"].casefold()]
        keys.append(keys[0].lstrip("abcdefghijklmnopqrstuvwxyz"))
    else:
        return _PAST_ALL if _END.search(behind) else None
    for key in keys:
        further = [place for place in places.get(key, ()) if place > at]
        if further:
            return further[0]
    return None


def _codes(entry: Entry, answer: str) -> tuple[str, ...]:
    """The codes of an answer that is named by its label, or by its codes."""
    wanted = _bare(answer)
    told = [code for code in entry.codes if code.code]
    found = [code.code for code in told if _bare(code.label) == wanted]
    if not found:
        parts = [part for part in re.split(r"\s*(?:,|/|\bor\b|\boder\b|\bou\b|\blub\b)\s*", wanted) if part]
        known = {(code.code or "").casefold(): code.code for code in told} | {
            _bare(code.label): code.code for code in told
        }
        found = [known[part] for part in parts] if parts and all(part in known for part in parts) else []
    if not found and len(wanted) > 1:
        begun = [code.code for code in told if _bare(code.label).split(" ")[0] == wanted]
        found = begun if len(begun) == 1 else []
    return tuple(dict.fromkeys(code for code in found if code))


def _bare(text: str) -> str:
    return " ".join(text.casefold().split()).strip(" .,;:!\"'“”„«»()")
