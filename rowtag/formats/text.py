"""The bytes of a text file: unpacked where they are gzip'ed, told to be text, and given as UTF-8.

Whatever the encoding, everything behind this module works on UTF-8 bytes; what had to be unpacked or
re-encoded lies in a file without a name, which vanishes with its last user.
"""

import codecs
import gzip
import io
import mmap
import zlib
from collections.abc import Iterable, Iterator
from functools import cached_property
from pathlib import Path
from tempfile import TemporaryFile
from typing import BinaryIO

from rowtag.core.errors import BadInput, Place, TooLarge, UnreadableFile, not_stored
from rowtag.core.words import megabytes
from rowtag.formats.encodings import ENCODINGS, WESTERN, probable_encoding

SAMPLE = 256 * 1024
"""Bytes at the begin and at the end that are looked at before a file is read."""
MOST_UNPACKED = 4 << 30
"""Bytes that a packed file may become."""
_BLOCK = 1 << 20
_GLANCE = 64 << 10
_MAGIC = {
    b"PK\x03\x04": "a ZIP archive or workbook",
    b"\xd0\xcf\x11\xe0": "an older or password-protected workbook",
    b"\x89PNG": "a picture",
    b"\xff\xd8\xff": "a picture",
    b"GIF8": "a picture",
    b"%PDF": "a PDF document",
    b"PAR1": "a Parquet file",
    b"SQLite format 3": "a database",
}
_AROUND = 64 << 10
"""Bytes around the first that is no UTF-8 by which the encoding is told."""

Bytes = mmap.mmap | bytes


class Text:
    """A text file, opened. Its bytes are mapped, not loaded."""

    def __init__(self, path: Path, name: str, most: int | None = None) -> None:
        self.name = name
        self._most = MOST_UNPACKED if most is None else most
        self._folder = path.parent
        self._utf8: dict[str, Bytes] = {}
        with path.open("rb") as file:
            packed = file.read(2) == b"\x1f\x8b"
            file.seek(0)
            self.bytes = _spooled(_unpacked(file, name), self._folder, name, self._most) if packed else _mapped(file)
        self._refuse_other_kinds()

    def close(self) -> None:
        """Lets go of the bytes."""
        for data in {id(data): data for data in [self.bytes, *self._utf8.values()]}.values():
            if isinstance(data, mmap.mmap):
                try:
                    data.close()
                except BufferError:  # somebody still reads; it goes with its last reader
                    continue
        self._utf8.clear()

    def _refuse_other_kinds(self) -> None:
        head = self.bytes[:SAMPLE]
        if not head.strip():
            raise UnreadableFile("The file is empty.", remedy="Choose a file that holds data.", where=Place(self.name))
        for magic, what in _MAGIC.items():
            if head.startswith(magic):
                raise UnreadableFile(
                    f"This is not delimited text: it begins like {what}.",
                    remedy="Give it the ending it should have, or save it as .csv or .xlsx first.",
                    where=Place(self.name),
                )

    def guess_encoding(self) -> str:
        """UTF-16 by its mark or its many zeros, UTF-8 when the whole file is, else what is probable by its letters."""
        head = self.bytes[:SAMPLE]
        if head.startswith((codecs.BOM_UTF16_LE, codecs.BOM_UTF16_BE)) or _wide(head):
            return "utf-16"
        if self._unsound is None:
            return "utf-8"
        found = probable_encoding(self._around(self._unsound))
        return found if self._is_in(found) else next((each for each in WESTERN if self._is_in(each)), found)

    def _is_in(self, encoding: str) -> bool:
        """Whether all of the file can be decoded: a guess by a part of it that cannot is none."""
        codec, mark = self._codec(encoding)
        try:
            for _ in self._decoded(codec, mark):
                pass
        except (UnicodeDecodeError, UnreadableFile):
            return False
        return True

    def _around(self, at: int) -> bytes:
        """Whole lines around a place, as far as they are not too long."""
        begin = self.bytes.rfind(b"\n", 0, max(0, at - _AROUND)) + 1
        around = bytes(self.bytes[max(begin, at - 2 * _AROUND) : at + 2 * _AROUND])
        return around[: around.rfind(b"\n") + 1] or around

    @cached_property
    def _unsound(self) -> int | None:
        """Where about the bytes are no UTF-8; None where all are. What is plain ASCII is seen without decoding it."""
        decoder = codecs.getincrementaldecoder("utf-8")()
        try:
            for at in range(0, len(self.bytes), _GLANCE):
                block = self.bytes[at : at + _GLANCE]
                if not block.isascii() or decoder.getstate()[0]:
                    decoder.decode(block)
            decoder.decode(b"", final=True)
        except UnicodeDecodeError:
            return at
        return None

    def head(self, encoding: str) -> str:
        """The first lines, decoded; where a character cannot be, the replacement sign stands for it."""
        codec, mark = self._codec(encoding)
        return self.bytes[mark : mark + SAMPLE].decode(codec, "replace").lstrip("\ufeff")

    def utf8(self, encoding: str) -> Bytes:
        """All of the file as UTF-8, possibly with its mark. Raises UnreadableFile where it is not in `encoding`."""
        if encoding not in self._utf8:
            codec, mark = self._codec(encoding)
            if codec == "utf-8" and self._unsound is not None:
                self._refuse_unsound(codec, mark)
            blocks = (text.encode() for text in self._decoded(codec, mark))
            data = self.bytes if codec == "utf-8" else _spooled(blocks, self._folder, self.name, self._most)
            at = data.find(b"\0")
            if at >= 0:
                self._refuse_nul(data, at)
            self._utf8[encoding] = data
        return self._utf8[encoding]

    def rest(self) -> None:
        """Lets go of the memory that the mapped bytes take; they are fetched again when they are wanted."""
        for data in [self.bytes, *self._utf8.values()]:
            if isinstance(data, mmap.mmap):
                data.madvise(mmap.MADV_DONTNEED)

    def _refuse_unsound(self, codec: str, mark: int) -> None:
        for _ in self._decoded(codec, mark):
            pass

    def _codec(self, encoding: str) -> tuple[str, int]:
        """The codec for an encoding, and how many bytes of a mark go before the text."""
        if encoding not in ENCODINGS:
            raise BadInput(
                f"Row Tag does not read the encoding “{encoding}”.", remedy=f"It reads {', '.join(ENCODINGS.values())}."
            )
        head = self.bytes[:3]
        if encoding == "utf-8":
            return "utf-8", 3 if head.startswith(codecs.BOM_UTF8) else 0
        if encoding == "utf-16":
            if head.startswith((codecs.BOM_UTF16_LE, codecs.BOM_UTF16_BE)):
                return "utf-16-le" if head.startswith(codecs.BOM_UTF16_LE) else "utf-16-be", 2
            return "utf-16-be" if head[:1] == b"\0" else "utf-16-le", 0
        return encoding, 0

    def _decoded(self, codec: str, mark: int) -> Iterator[str]:
        decoder = codecs.getincrementaldecoder(codec)()
        lines, line = 1, ""
        try:
            for at in range(mark, len(self.bytes), _BLOCK):
                text = decoder.decode(self.bytes[at : at + _BLOCK], at + _BLOCK >= len(self.bytes))
                yield text
                lines += text.count("\n")
                line = text.rpartition("\n")[2]
        except UnicodeDecodeError as error:
            before = bytes(error.object[: error.start]).decode(codec, "replace")
            raise UnreadableFile(
                f"The file is not {ENCODINGS[encoding_of(codec)]}: a character in row {lines + before.count(chr(10)):,}"
                " cannot be read.",
                remedy="Choose another encoding, such as Windows-1252, Western.",
                where=Place(
                    self.name,
                    row=lines + before.count("\n"),
                    character=len((line if "\n" not in before else "") + before.rpartition("\n")[2]) + 1,
                ),
            ) from None

    def _refuse_nul(self, data: Bytes, at: int) -> None:
        row = sum(data[block : min(block + _BLOCK, at)].count(b"\n") for block in range(0, at, _BLOCK)) + 1
        begin = data.rfind(b"\n", 0, at) + 1
        raise UnreadableFile(
            "This is not text: it holds NUL bytes.",
            remedy="Save it as .csv (UTF-8) or .xlsx in the program that made it.",
            where=Place(self.name, row=row, character=len(data[begin:at].decode("utf-8", "replace")) + 1),
        )


def encoding_of(codec: str) -> str:
    """The encoding that a codec belongs to."""
    return "utf-16" if codec.startswith("utf-16") else codec


def _mapped(file: BinaryIO) -> Bytes:
    """A file's bytes, mapped into memory."""
    file.flush()
    file.seek(0, io.SEEK_END)
    return mmap.mmap(file.fileno(), 0, access=mmap.ACCESS_READ) if file.tell() else b""


def _spooled(blocks: Iterable[bytes], folder: Path, name: str, most: int) -> Bytes:
    """Blocks as a file without a name, mapped."""
    size = 0
    try:
        with TemporaryFile(dir=folder) as file:
            for block in blocks:
                size += len(block)
                if size > most:
                    raise TooLarge(
                        f"Unpacked, the file is larger than the {megabytes(most)} allowed.",
                        remedy="Split it, or leave out columns you do not need.",
                        where=Place(name),
                    )
                file.write(block)
            return _mapped(file)
    except OSError as error:
        raise not_stored(name, error) from None


def _unpacked(packed: BinaryIO, name: str) -> Iterator[bytes]:
    """What a gzip'ed file holds, in blocks."""
    try:
        with gzip.GzipFile(fileobj=packed) as stream:
            while block := stream.read(_BLOCK):
                yield block
    except (gzip.BadGzipFile, EOFError, zlib.error):
        raise UnreadableFile(
            "The compressed file is damaged or cut short.", remedy="Fetch or make it anew.", where=Place(name)
        ) from None


def _wide(head: bytes) -> bool:
    """Whether every other byte is mostly zero, as in Western text in UTF-16 without a mark."""
    return len(head) >= 8 and max(head[0::2].count(0), head[1::2].count(0)) > 0.4 * (len(head) / 2)


# Lines --------------------------------------------------------------------------------------------


def begin_of(data: Bytes) -> int:
    """Where the text begins behind a byte-order mark."""
    return len(codecs.BOM_UTF8) if data[:3] == codecs.BOM_UTF8 else 0


class Lines:
    """The lines of UTF-8 bytes with their ends, where they end (offset in bytes), and how many came.

    Ends are line feed, carriage return, or both, each as it stands.
    """

    def __init__(self, data: Bytes, start: int = 0, stop: int | None = None) -> None:
        self.offset = start
        self.count = 0
        self._lines = _split(data, start, len(data) if stop is None else stop)
        self._next: str | None = None

    def peek(self) -> str | None:
        """The next line, which stays to be read; None at the end."""
        if self._next is None:
            self._next = next(self._lines, None)
        return self._next

    def __iter__(self) -> "Lines":
        return self

    def __next__(self) -> str:
        line = self.peek()
        if line is None:
            raise StopIteration
        self._next = None
        self.count += 1
        self.offset += len(line) if line.isascii() else len(line.encode())
        return line


def _split(data: Bytes, start: int, stop: int) -> Iterator[str]:
    decoder = codecs.getincrementaldecoder("utf-8")()
    pending: list[str] = []
    for at in range(start, stop, _BLOCK):
        text = decoder.decode(data[at : min(at + _BLOCK, stop)])
        last = at + _BLOCK >= stop
        if not last and "\n" not in text and "\r" not in text:
            pending.append(text)
            continue
        pieces = list(io.StringIO("".join(pending) + text, newline=""))
        pending = []
        if not last and pieces and not pieces[-1].endswith("\n"):
            pending = [pieces.pop()]
        yield from pieces
    if pending:
        yield "".join(pending)


def last_filled(data: Bytes, start: int, filling: bytes) -> int:
    """Where the last line ends that holds more than `filling` (separators and spaces)."""
    end = len(data)
    while end > start:
        begin = max(start, end - _BLOCK)
        kept = data[begin:end].rstrip(filling + b"\r\n")
        if kept:
            at = begin + len(kept)
            ends = [found for mark in (b"\n", b"\r") if (found := data.find(mark, at)) >= 0]
            if not ends:
                return len(data)
            first = min(ends)
            return first + (2 if data[first : first + 2] == b"\r\n" else 1)
        end = begin
    return start
