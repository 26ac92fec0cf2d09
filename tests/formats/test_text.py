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


HOLD = {
    "cp1251 koi8-r iso-8859-5 cp866": "Да, конечно|Иногда поливаю утром|Очень доволен|Лист ожидания",
    "koi8-u": "Так, звичайно|Іноді поливаю вранці|Дуже задоволений ділянкою|їжа і ґрунт",
    "cp1250 iso-8859-2": "Ano, určitě|Někdy zalévám ráno|Čekací listina|příliš žluťoučký kůň",
    "cp1254 iso-8859-9": "Hayır, bilmiyorum|Bazen sabahları sularım|Bahçeden çok memnunum|ağaç, şeftali",
    "cp1257 iso-8859-13": "Ne, nežinau|Kartais laistau rytą|Norėčiau daugiau vandens|Laukiančiųjų sąrašas",
    "cp1253 iso-8859-7": "Ναι, βέβαια|Όχι, δεν ξέρω|Πολύ ευχαριστημένος|Θα ήθελα νερό",
    "cp1255 iso-8859-8": "כן, בוודאי|לא, אני לא יודע|מרוצה מאוד מהגינה|רשימת המתנה",
    "cp1256 iso-8859-6": "نعم، بالطبع|لا أعرف|أسقي أحيانا في الصباح|قائمة الانتظار",
    "cp932 euc-jp": "はい、もちろん|いいえ、わかりません|もっと水がほしい|順番待ち",
    "gb18030": "是的，当然|不，我不知道|有时早上浇水|对菜园非常满意",
    "big5": "是的，當然|不，我不知道|有時早上澆水|對菜園非常滿意",
    "cp949": "예, 물론입니다|아니요, 모릅니다|가끔 아침에 물을 줍니다|대기 명단",
    "cp1252 mac-roman iso-8859-15": "Ja, natürlich|größer, schöner|Gieße früh|Überall",
}
"""Answers in many languages, under the encodings that they may come in."""


@pytest.mark.parametrize("encoding", [each for names in HOLD for each in names.split()])
def test_encodings_are_told_by_the_letters_that_come_out(tmp_path: Path, encoding: str) -> None:
    """Files in the encodings of many scripts are guessed, brought in to the letter, and refused when they cannot be."""
    answers = next(text for names, text in HOLD.items() if encoding in names.split()).split("|")
    written = "plot_no,answer\n" + "".join(f"{n:04d},{answers[n % 4]}\n" for n in range(16))
    path = tmp_path / "answers.csv"
    path.write_bytes(written.encode(encoding))
    file = Text(path, path.name)
    guessed = file.guess_encoding()
    assert bytes(file.utf8(guessed)).decode() == written, guessed
    assert bytes(file.utf8(encoding)).decode() == written
    file.close()


def test_a_long_file_is_told_by_where_it_is_not_plain(tmp_path: Path) -> None:
    """Megabytes of plain text before the first letter beyond ASCII change nothing, and cost little."""
    path = tmp_path / "long.csv"
    path.write_bytes(
        b"a,b\n" + b"1,2\n" * 700_000 + "3,Очень доволен участком\n4,Хотелось бы больше воды\n".encode("cp1251") * 20
    )
    file = Text(path, path.name)
    assert file.guess_encoding() == "cp1251"
    file.close()


@pytest.mark.parametrize(
    ("line", "encoding"),
    [
        ("plot;note\n1;seen \u00a9 2026\n2;tap\n", "latin-1"),
        ("plot;note\n" + "1;tap\n" * 500 + "2;caf\u00e9 5\u20ac\n", "cp1252"),
        ("plot;note\n1;na\u00efve 20\u00b0 \u00a9\n2;\u00bd \u00ae\n", "latin-1"),
        ("plot;note\n1;\u00fe \u00f0 \u00a7 \u00b6 \u00d7\n", "latin-1"),
    ],
)
def test_few_signs_beyond_ascii_are_western(tmp_path: Path, line: str, encoding: str) -> None:
    """Single bytes beyond ASCII are of a Latin alphabet; what is guessed decodes the whole file."""
    path = tmp_path / "a.csv"
    path.write_bytes(line.encode(encoding))
    file = Text(path, "a.csv", 1 << 20)
    try:
        assert bytes(file.utf8(file.guess_encoding())).decode().removeprefix("\ufeff") == line
    finally:
        file.close()


@given(st.lists(st.integers(1, 255), min_size=1, max_size=200).map(bytes))
def test_any_guess_decodes(tmp_path_factory: pytest.TempPathFactory, data: bytes) -> None:
    """Whatever bytes a file has, what it is guessed to be can be read, or is UTF-16 by its mark."""
    path = tmp_path_factory.mktemp("bytes") / "a.csv"
    path.write_bytes(b"a,b\n" + data)
    file = Text(path, "a.csv", 1 << 20)
    try:
        guessed = file.guess_encoding()
        assert guessed == "utf-16" or file.utf8(guessed) is not None
    finally:
        file.close()
