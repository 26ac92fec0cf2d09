"""The fixed bench file: 60 % coded columns, 15 % decimals, 10 % dates, 5 % identifiers, 10 % open text."""

import csv
from collections.abc import Sequence
from datetime import date, timedelta
from pathlib import Path

import numpy as np

WORDS = ["water", "path", "gate", "shed", "plot", "bean", "soil", "tap", "frost", "seed", "bed", "mulch", "slug"]
CATEGORIES = ["Very poor", "Poor", "Fair", "Good", "Very good"]
KINDS = {"coded": 60, "decimal": 15, "date": 10, "identifier": 5, "open": 10}
"""Share of columns of each kind, in percent."""

BLOCK = 100_000
"""Records made at once."""


def kinds(variables: int) -> list[str]:
    """The kind of each column, spread as in a real file."""
    out = []
    for kind, share in KINDS.items():
        out += [kind] * round(variables * share / 100)
    return (out + ["coded"] * variables)[:variables]


def column(kind: str, number: int, records: int, random: np.random.Generator, first: int = 0) -> list[str]:
    """One column of entries, for records from `first` on."""
    if kind == "coded" and number % 3 == 0:
        return np.array(CATEGORIES)[random.integers(0, 5, records)].tolist()
    if kind == "coded":
        codes = np.array(["1", "2", "3", "4", "5", "-8", "-9", ""])
        return random.choice(codes, records, p=[0.15, 0.2, 0.25, 0.2, 0.1, 0.04, 0.03, 0.03]).tolist()
    if kind == "decimal":
        return np.char.mod("%.2f", random.gamma(4, 30, records)).tolist()
    if kind == "date":
        days = [(date(2026, 1, 1) + timedelta(day)).isoformat() for day in range(365)]
        return np.array(days)[random.integers(0, 365, records)].tolist()
    if kind == "identifier":
        return [f"R{number:02d}{record:07d}" for record in range(first, first + records)]
    words = np.array(WORDS)
    lengths = random.integers(0, 12, records)
    return [" ".join(words[random.integers(0, len(WORDS), length)]) for length in lengths.tolist()]


def write(path: Path, records: int, variables: int, *, seed: int = 2026, only: str | None = None) -> None:
    """Writes the bench file with a header row; `only` makes all columns of one kind."""
    random = np.random.default_rng(seed)
    all_kinds = [only] * variables if only else kinds(variables)
    heads = [f"{kind[:4]}_{number}" for number, kind in enumerate(all_kinds, 1)]
    with path.open("w", newline="", encoding="utf-8") as file:
        writer = csv.writer(file)
        writer.writerow(heads)
        for first in range(0, records, BLOCK):
            size = min(BLOCK, records - first)
            columns = [column(kind, number, size, random, first) for number, kind in enumerate(all_kinds)]
            writer.writerows(zip(*columns, strict=True))


_SCALES = (
    ("Very poor", "Poor", "Fair", "Good", "Very good"),
    ("Never", "Seldom", "Now and then", "Often", "Always"),
    ("Not at all", "A little", "Somewhat", "Quite a lot", "Very much"),
)


def questionnaire(names: Sequence[str]) -> str:
    """A questionnaire of variables: name, number and label, wording, and of coded ones five answers, two missing codes.

    Every second list is worded like no other; limits are said of decimals.
    """
    lines = []
    for number, name in enumerate(names):
        limits = " (0 to 500)" if name.startswith("deci") else ""
        lines += [f"{name} (q{number})  Thing {number} on the plot{limits}", f"    How do you find thing {number}?"]
        if name.startswith(("code", "item")):
            own = [f"Kind {letter} of thing {number}" for letter in "abcde"]
            answers = own if number % 2 else _SCALES[number % 3]
            lines += [f"    {code}  {answer}" for code, answer in enumerate(answers, 1)]
            lines += ["   -8  don't know", "   -9  refused"]
        lines.append("" if number % 20 else f"Please turn over   - {number // 20} -")
    return "\n".join(lines) + "\n"
