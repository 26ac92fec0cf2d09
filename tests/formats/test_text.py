"""The bytes of a text file: lines to the letter, whatever their ends; encodings told by the letters that come out."""

import io
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from rowtag.formats import text
from rowtag.formats.text import Lines, Text, begin_of, last_filled

pieces = st.lists(st.sampled_from(["a", "é", "Дуже", "\n", "\r", "\r\n", ";", " ", "\u2028", "\x85"]), max_size=30)


@given(pieces, st.integers(1, 7))
def test_lines_are_those_of_python(parts: list[str], block: int) -> None:
    """Lines end at line feeds and carriage returns alone, across any border of blocks; offsets are where they end."""
    written = "".join(parts)
    data = written.encode()
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(text, "_BLOCK", block)
        lines, seen, offsets = Lines(data), [], []
        while (upcoming := lines.peek()) is not None:
            assert next(lines) == upcoming
            seen.append(upcoming)
            offsets.append(lines.offset)
    assert "".join(seen) == written and (not offsets or offsets[-1] == len(data))
    if "\r" not in written:
        assert seen == list(io.StringIO(written, newline=""))


@pytest.mark.parametrize(
    ("data", "end"),
    [
        (b"a,b\n1,2\n", 8),
        (b"a,b\n1,2", 7),
        (b"a,b\n1,2\n,\n ,\n\n", 8),
        (b"a,b\r\n1,2\r\n,\r\n", 10),
        (b",\n,\n", 0),
        (b"", 0),
    ],
)
def test_where_the_last_filled_line_ends(data: bytes, end: int, monkeypatch: pytest.MonkeyPatch) -> None:
    """Lines of separators and spaces at the end do not count, however many blocks they fill."""
    for block in (3, 1 << 20):
        monkeypatch.setattr(text, "_BLOCK", block)
        assert last_filled(data, 0, b" ,") == end


@pytest.mark.parametrize("encoding", ["utf-8", "utf-8-sig", "utf-16", "cp1252", "iso-8859-15", "mac-roman"])
def test_encodings(tmp_path: Path, encoding: str) -> None:
    """The encoding is told, and the text comes out as UTF-8 whatever it was."""
    path = tmp_path / "a.csv"
    path.write_bytes("größe;café;5 €\n".encode(encoding))
    opened = Text(path, "a.csv")
    told = opened.guess_encoding()
    data = opened.utf8(told)
    assert bytes(data[begin_of(data) :]).decode() == "größe;café;5 €\n"
    assert told == encoding.removesuffix("-sig")
    opened.close()
