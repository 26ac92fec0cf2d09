"""The syntax of numbers, dates and times, and their canonical spelling."""

from datetime import date, datetime, time, timedelta
from decimal import Decimal

from hypothesis import given
from hypothesis import strategies as st

from rowtag.core.grammar import canonical_number, parse_dates, parse_numbers
from rowtag.core.tag import Marks
from rowtag.core.tokens import large_texts

decimals = st.decimals(-(10**12), 10**12 - 1, places=6, allow_nan=False, allow_infinity=False)


@given(decimals, st.sampled_from(["", "+"]), st.integers(0, 3), st.integers(0, 3))
def test_every_spelling_of_a_number_is_one_value(number: Decimal, plus: str, lead: int, trail: int) -> None:
    """Signs, leading and trailing zeros change nothing."""
    sign, digits = ("-", f"{-number:f}") if number < 0 else (plus, f"{number:f}")
    spelled = f"{sign}{'0' * lead}{digits}{'0' * trail}"
    parsed = parse_numbers(large_texts([spelled]), Marks())
    assert parsed.fits.all()
    text = parsed.canonical()[0].as_py()
    assert Decimal(text) == number
    assert text == canonical_number(spelled)
    assert not text.startswith("+") and (text == "0" or not text.startswith(("00", "-0.0000000")))


@given(st.integers(-(10**15), 10**15), st.sampled_from([",", ".", " ", "'"]), st.sampled_from(["", "£", "%"]))
def test_thousands_and_signs_are_read_past(number: int, mark: str, sign: str) -> None:
    """Groups of three and a currency or percent sign do not change the value."""
    marks = Marks(decimal="," if mark == "." else ".", thousands=mark, sign=sign)
    spelled = f"{number:,}".replace(",", mark)
    for text in (spelled, f"{sign}{spelled}", f"{spelled} {sign}".strip()):
        parsed = parse_numbers(large_texts([text]), marks, whole=True)
        assert parsed.fits.all() and parsed.canonical()[0].as_py() == str(number)


@given(st.dates(), st.sampled_from("-/."))
def test_dates_are_read_in_their_order(day: date, mark: str) -> None:
    """The three orders agree, and the value counts days since 1970-01-01."""
    orders = {"ymd": "%Y{0}%m{0}%d", "dmy": "%d{0}%m{0}%Y", "mdy": "%m{0}%d{0}%Y"}
    for order, pattern in orders.items():
        written = day.strftime(pattern.format(mark)) if day.year >= 1000 else None
        if written:
            parsed = parse_dates(large_texts([written]), "date", Marks(date_order=order))
            assert parsed.fits.all() and parsed.plain[0].as_py() == day.isoformat()
            assert parsed.values[0] == (day - date(1970, 1, 1)).days


@given(st.datetimes(min_value=datetime(1000, 1, 1)))
def test_moments_keep_every_part(moment: datetime) -> None:
    """Date and time come back to the microsecond, whichever way they are joined."""
    for joined in (" ", "T"):
        parsed = parse_dates(large_texts([moment.isoformat(joined)]), "datetime", Marks())
        assert parsed.fits.all()
        assert datetime.fromisoformat(parsed.plain[0].as_py()) - moment < timedelta(microseconds=50)


@given(st.times())
def test_times_are_seconds_of_a_day(clock: time) -> None:
    """A time's value is its seconds since midnight."""
    parsed = parse_dates(large_texts([clock.isoformat()]), "time", Marks())
    seconds = clock.hour * 3600 + clock.minute * 60 + clock.second + clock.microsecond / 1e6
    assert parsed.fits.all() and abs(parsed.values[0] - seconds) < 1e-6
