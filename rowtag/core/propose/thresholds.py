"""Where one proposal ends and the next begins; docs/proposals.md says the same in words."""

from dataclasses import dataclass


@dataclass(frozen=True)
class Thresholds:
    """All numbers that proposals depend on."""

    fits: float = 0.9
    """Share of entries, neither blank nor suspect, that must fit a type."""
    most_codes: int = 12
    """Distinct numbers up to which an integer can be coded."""
    highest_code: int = 99
    """Largest number that can be a code."""
    repeats: float = 3.0
    """How often a code occurs on average, at least."""
    scale_steps: tuple[int, ...] = (5, 7, 10, 11)
    """Lengths of an unbroken run of codes from 0 or 1 that look like a rating scale."""
    rare_code: float = 0.005
    """Share of entries below which a code does not count when a scale is looked for."""
    years: float = 0.95
    """Share of entries between 1900 and 2100 from which whole numbers are years."""
    leading_zeros: float = 0.01
    """Share of entries with leading zeros above which figures are names and stay text."""
    most_categories: int = 40
    """Distinct texts up to which text can be categories."""
    longest_category: int = 60
    """Characters up to which a text can be a category."""
    ordered_words: float = 0.9
    """Share of entries from which words with a natural order make a column ordinal."""
    open_average: float = 25.0
    """Average length of text from which it is open-ended, unless it repeats itself."""
    open_distinct: float = 0.2
    """Share of distinct entries above which long text is open-ended."""
    various: float = 0.5
    """Share of distinct entries above which any text is open-ended."""
    recurring: float = 0.05
    """Share of distinct entries up to which many or long texts are still categories."""
    distinct_identifier: float = 0.95
    """Share of distinct entries from which a column can be an identifier."""
    longest_identifier: int = 40
    """Characters up to which a text can be an identifier."""
    spaced_identifier: float = 0.05
    """Share of entries with spaces below which text can be an identifier."""
    identifier_gaps: float = 1.2
    """How many times as far as their count whole numbers may reach to run on like an identifier."""
    fewest_identifiers: int = 12
    """Entries from which a column can be recognised as identifier or open-ended by its variety."""
    fewest_in_front: int = 3
    """Entries from which whole numbers that are all different identify records where they stand in front."""
    whole_ratings: float = 0.9
    """Share of whole numbers among the entries of a scale from which the others are strays."""
    several_share: float = 0.1
    """Share of entries with a separator from which several answers stand in one cell."""
    most_answers: int = 20
    """Distinct answers up to which a column can hold several answers in one cell."""
    most_negative_codes: int = 8
    """Distinct negative codes up to which they can be missing codes."""
    nines_apart: float = 0.85
    """Share of 99, 999 or 9999 up to which the highest other number may reach for it to stand apart."""


THRESHOLDS = Thresholds()
