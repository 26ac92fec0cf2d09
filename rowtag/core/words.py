"""Words for sentences: numbers with theirs, and texts made short."""

import re


def counted(number: int, word: str, plural: str | None = None) -> str:
    """A number with its word: "1 entry", "1,204 entries"."""
    return f"{number:,} {word if number == 1 else plural or word + 's'}"


def shortened(text: str, most: int = 60) -> str:
    """A text in one line that says the beginning of it: a sentence where that is short enough, else whole words."""
    words = text.split()
    line = " ".join(words)
    first = re.split(r"(?<=[.?!:])\s", line, maxsplit=1)[0]
    if len(first) <= most:
        return first.rstrip(".:")
    while len(words) > 1 and len(" ".join(words)) > most:
        words.pop()
    return " ".join(words)[:most].rstrip(" ,;:–-")


def megabytes(size: int) -> str:
    """Bytes in MB, for sentences."""
    return f"{size / 2**20:,.0f} MB"


def whole_number(text: str) -> int | None:
    """The number that plain digits spell, up to 18 of them; None where a text is anything else, such as “²”."""
    return int(text) if text.isascii() and text.isdigit() and len(text) <= 18 else None
