"""Numbers of lists as they are written: in figures, letters or Roman."""


def counted(number: int, kind: str) -> str:
    """A number as a list writes it; `kind` is decimal, decimalZero, or lower or upper with Letter or Roman behind."""
    if kind in ("lowerLetter", "upperLetter"):
        letter = chr(ord("a") + (number - 1) % 26) * ((number - 1) // 26 + 1)
        return letter.upper() if kind == "upperLetter" else letter
    if kind in ("lowerRoman", "upperRoman"):
        roman = ""
        for value, sign in zip(
            (1000, 900, 500, 400, 100, 90, 50, 40, 10, 9, 5, 4, 1),
            ("m", "cm", "d", "cd", "c", "xc", "l", "xl", "x", "ix", "v", "iv", "i"),
            strict=True,
        ):
            roman += sign * (number // value)
            number %= value
        return roman.upper() if kind == "upperRoman" else roman
    return f"{number:02d}" if kind == "decimalZero" else str(number)
