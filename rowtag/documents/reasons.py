"""Words that say why an answer is missing."""

import re
from functools import lru_cache

from rowtag.core.tag import Reason

_WORDS: dict[Reason, str] = {
    "refused": r"odmowa(?: odpowiedzi)?|(?:antwort )?verweigert|refus(?: de répondre)?|(?:je )?préfère ne pas répondre"
    r"|refus(?:ed|al|es)(?: to (?:answer|say))?|(?:i )?prefers? not to (?:say|answer)|declined(?: to answer)?",
    "don't know": r"nie wiem|trudno powiedzieć|weiß nicht|(?:je )?ne sai[st] pas"
    r"|(?:i )?(?:do(?:es)?n'?t|do(?:es)? not|did(?: not|n'?t)|cannot|can't) (?:know|say)|dk|not known|unknown|not sure",
    "not applicable": r"nie dotyczy|trifft nicht zu|entfällt|sans objet|ne s'applique pas"
    r"|(?:not|in) ?applicable|inap(?:plicable)?\b.*|n/a|does not apply|filtered(?: out)?",
    "not asked": r"(?:was |were )?not asked|did(?: not|n'?t) ask|skipped|not administered",
    "no answer": r"brak odpowiedzi|keine (?:angabe|antwort)|(?:sans|pas de) réponse"
    r"|no (?:answer|response|reply)|not (?:stated|answered|given)|did(?: not|n'?t) answer|left (?:blank|empty)"
    r"|blank|unanswered|nonresponse|non-response",
    "other": r"(?:system )?missing(?: values?| data)?|na|not (?:available|recorded|ascertained|observed|coded)|no data"
    r"|invalid",
}
_EXPLICIT = frozenset({"refused", "not applicable", "not asked", "no answer", "other"})
_SAID = re.compile(
    r"\s*[(\[]\s*(?:is |are |as |= ?)?(?:missing|na)(?: values?)?\s*[)\]]\s*$|,? (?:and )?(?:is|are) missing$", re.I
)


_ANY = "|".join(_WORDS.values())
_WHOLE = {reason: re.compile(rf"(?:{pattern})(?:\s*(?:[/,;]|or)\s*(?:{_ANY}))*") for reason, pattern in _WORDS.items()}
_LIKELY = re.compile(
    r"refus|prefer|declin|know|say|dk|unknown|not|did|appl|inap|n/?a|filter|skip|answer|respon|repl|blank|miss"
    r"|odmow|wiem|trudno|verwei|weiß|sais|sait|dotycz|trifft|entf|sans|brak|keine|pas|préf"
    r"|no data|invalid|left"
)


@lru_cache(maxsize=65_536)
def missing_reason(label: str) -> tuple[Reason | None, bool, str]:
    """Why a label says that an answer is missing, whether it says so beyond doubt, and the label itself.

    "Don't know" may be an answer like any other; the codes around it must tell.
    """
    plain = label.replace("’", "'").strip(" .()[]\"'“”").casefold()
    if not _LIKELY.search(plain):
        return None, False, label
    for reason, pattern in _WHOLE.items():
        if pattern.fullmatch(plain):
            bare = re.fullmatch(r"missing(?: values?| data)?|na", plain)
            return reason, reason in _EXPLICIT, "" if bare else label
    if said := _SAID.search(label):
        inner = label[: said.start()].strip()
        return missing_reason(inner)[0] or "other", True, inner
    return None, False, label
