"""Encodings of text: which can be chosen, and which one bytes that are not UTF-8 are probably in.

Latin alphabets are told apart by the letters that come out: those of one language make sense, those of several at once
do not. Other scripts are told by a package that knows their usual letters and syllables.
"""

from functools import cache

import numpy as np

ENCODINGS = {
    "utf-8": "UTF-8",
    "utf-16": "UTF-16",
    "cp1252": "Windows-1252, Western",
    "iso-8859-1": "Latin-1, Western",
    "iso-8859-15": "Latin-9, Western",
    "mac-roman": "Mac Roman, Western",
    "cp1250": "Windows-1250, Central European",
    "iso-8859-2": "Latin-2, Central European",
    "cp1254": "Windows-1254, Turkish",
    "iso-8859-9": "Latin-5, Turkish",
    "cp1257": "Windows-1257, Baltic",
    "iso-8859-13": "Latin-7, Baltic",
    "cp1251": "Windows-1251, Cyrillic",
    "koi8-r": "KOI8-R, Cyrillic",
    "koi8-u": "KOI8-U, Cyrillic",
    "iso-8859-5": "ISO 8859-5, Cyrillic",
    "cp866": "Code page 866, Cyrillic",
    "cp1253": "Windows-1253, Greek",
    "iso-8859-7": "ISO 8859-7, Greek",
    "cp1255": "Windows-1255, Hebrew",
    "iso-8859-8": "ISO 8859-8, Hebrew",
    "cp1256": "Windows-1256, Arabic",
    "iso-8859-6": "ISO 8859-6, Arabic",
    "cp932": "Shift JIS, Japanese",
    "euc-jp": "EUC-JP, Japanese",
    "gb18030": "GB 18030, Chinese",
    "big5": "Big5, Chinese",
    "cp949": "EUC-KR, Korean",
}
"""Encodings that can be chosen, and how they are called."""

_LATIN = ("cp1252", "iso-8859-15", "cp1250", "cp1254", "cp1257", "iso-8859-2", "iso-8859-13", "mac-roman", "iso-8859-1")
"""Encodings of Latin alphabets; of two that fit alike the first is meant."""
WESTERN = ("cp1252", "iso-8859-1")
"""What a file is taken for that is in none of the probable ones; in the second every file can be."""
_LETTERS = (
    "äöüßéèàçñåôê", "éèêëàâîïôùûüçœæ", "ñáéíóúü¿¡ºª", "ãõçáéíóúâêôàü", "àèéìòù", "éëïöüèáó", "åäö", "æøåéò",
    "áðéíóúýþæö", "áčďéěíňóřšťúůýž", "áäčďéíĺľňóôŕšťúýž", "ąćęłńóśźż", "áéíóöőúüű", "ăâîșşțţ", "čćđšž", "çğıİöşüâîû",
    "ąčęėįšųūž", "āčēģīķļņšūž", "äõöüšž", "ëçâî",
)  # fmt: skip
"""Letters beyond ASCII of languages that are written with the Latin alphabet, a line each."""
_SIGNS = frozenset("’‘“”„‚«»–—…€£¥°²³µ×±©®™§¶·•†‡¡¿¢½¼¾\u00a0")
ALONE = 0.8
"""Share of the bytes beyond ASCII that stand alone among ASCII from which they are of a Latin alphabet: the letters of
other scripts stand side by side, and signs of several bytes are no single ones."""
FEW = 3
"""Bytes beyond ASCII up to which nothing tells of another script."""
FITS = 0.95
"""Share of the characters beyond ASCII that must be letters of one language, or signs."""
KANA = 0.3
"""Share of the characters beyond ASCII from which kana tell Japanese."""
_OTHERS = tuple(name for name in ENCODINGS if name not in (*_LATIN, "utf-8", "utf-16"))


def probable_encoding(sample: bytes) -> str:
    """The encoding that bytes which are not UTF-8 are probably in; they can be decoded by it."""
    latin, share = max(((name, _latin_share(sample, name)) for name in _LATIN), key=lambda each: each[1])
    if share >= FITS or (share >= 0 and _stand_alone(sample)):
        return latin
    if _looks_hebrew(sample):
        return "cp1255"
    for name in ("cp932", "euc-jp"):
        if _kana_share(sample, name) >= KANA:
            return name
    from charset_normalizer import from_bytes  # seldom asked, and slow to load

    for found in from_bytes(sample, cp_isolation=list(_OTHERS)):
        name = _by_codec()[found.encoding]
        if _beyond_ascii(sample, name) is not None:  # a guess that does not decode is none
            return name
    return latin


def _stand_alone(sample: bytes) -> bool:
    """Whether bytes beyond ASCII are few, or stand alone."""
    beyond = np.frombuffer(sample, np.uint8) >= 0x80
    beside = np.zeros(beyond.size, bool)
    beside[1:] |= beyond[:-1]
    beside[:-1] |= beyond[1:]
    return bool(beyond.sum() <= FEW or (beyond & ~beside).sum() >= ALONE * beyond.sum())


@cache
def _by_codec() -> dict[str, str]:
    return {name.replace("iso-", "iso").replace("-", "_"): name for name in ENCODINGS}


@cache
def _alphabets() -> tuple[frozenset[str], ...]:
    return tuple(frozenset(letters + letters.upper()) | _SIGNS for letters in _LETTERS)


def _latin_share(sample: bytes, encoding: str) -> float:
    """The share of characters beyond ASCII that one language accounts for; less than none where it cannot be."""
    beyond = _beyond_ascii(sample, encoding)
    if beyond is None:
        return -1.0
    return max(sum(each in letters for each in beyond) for letters in _alphabets()) / max(len(beyond), 1)


def _looks_hebrew(sample: bytes) -> bool:
    """Whether nearly all bytes beyond ASCII stand where Hebrew has its letters: Cyrillic ones there are small, and no
    text of any length does without the others."""
    beyond = [byte for byte in sample if byte >= 0x80]
    return len(beyond) >= 8 and sum(0xE0 <= byte <= 0xFA for byte in beyond) >= FITS * len(beyond)


def _kana_share(sample: bytes, encoding: str) -> float:
    beyond = _beyond_ascii(sample, encoding)
    return sum("\u3041" <= each <= "\u30ff" for each in beyond) / max(len(beyond), 1) if beyond else 0.0


def _beyond_ascii(sample: bytes, encoding: str) -> str | None:
    """The characters beyond ASCII that come out; None where the bytes cannot be in an encoding."""
    try:
        return "".join(each for each in sample.decode(encoding) if each > "\x7f")
    except UnicodeDecodeError:
        return None
