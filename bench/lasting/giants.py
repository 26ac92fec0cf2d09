"""Files that are made to take their reader down, each read in a reader of its own."""

import gzip
import resource
import shutil
import time
import zipfile
from collections.abc import Iterator
from pathlib import Path

import xlsxwriter

from rowtag.core.errors import RowTagError
from rowtag.documents.document import as_document, understand
from rowtag.formats.intake import opened
from rowtag.service.apart import Apart

ODS_TABLE = (
    '<office:document-content xmlns:office="urn:oasis:names:tc:opendocument:xmlns:office:1.0" '
    'xmlns:table="urn:oasis:names:tc:opendocument:xmlns:table:1.0" '
    'xmlns:text="urn:oasis:names:tc:opendocument:xmlns:text:1.0"><office:body><office:spreadsheet>'
    '<table:table table:name="S">{rows}</table:table></office:spreadsheet></office:body></office:document-content>'
)
ODS_MANIFEST = (
    '<manifest:manifest xmlns:manifest="urn:oasis:names:tc:opendocument:xmlns:manifest:1.0">'
    '<manifest:file-entry manifest:full-path="/" manifest:media-type="{kind}"/></manifest:manifest>'
)
ODS_CELL = '<table:table-cell office:value-type="string"><text:p>x</text:p></table:table-cell>'


def giants(folder: Path) -> Iterator[tuple[str, Path]]:
    """Files, small as they come, that would be more than any machine holds; and documents that would take hours."""
    path = folder / "far.xlsx"
    with xlsxwriter.Workbook(str(path)) as book:
        sheet = book.add_worksheet()
        for row in range(300):
            sheet.write_row(row, 0, [row, row % 7])
        sheet.write(1_048_575, 16_383, "x")
    yield "a workbook of 300 rows and a cell in XFD1048576", path
    yield "the same packed with 20 blank foreign parts of 230 MB", _stuffed(path, folder / "stuffed.xlsx")
    path = folder / "far.ods"
    blank = '<table:table-cell table:number-columns-repeated="2000000000"/>'
    rows = f"<table:table-row>{ODS_CELL * 3}</table:table-row>" * 300
    ods(path, f"{rows}<table:table-row>{blank}{ODS_CELL}</table:table-row>")
    yield "an .ods of 300 rows and a cell behind 2·10⁹ blank ones", path
    path = folder / "columns.csv"
    path.write_text(",".join(f"v{n}" for n in range(1_000_000)) + "\n" + ",".join("1" * 1_000_000) + "\n")
    yield "a million columns of text", path
    path = folder / "name.csv"
    path.write_text(",".join(["x"] * 4_000) + "\n" + ",".join("1" * 4_000) + "\n")
    yield "4,000 columns of one name", path
    path = folder / "line.csv"
    path.write_bytes(b"plot,said\n1," + b"word " * 1_600_000 + b"\n")
    yield "8 MB in one line", path
    path = folder / "codebook.txt.gz"
    path.write_bytes(gzip.compress(b"q1 How held 1 own 2 shared\n" * 1_500_000))
    yield "a packed codebook of 150 kB that unpacks to 40 MB", path
    path = folder / "codebook-line.txt"
    path.write_text("q1 How held " + "1 and " * 1_300_000)
    yield "a document of 8 MB in one line", path
    path = folder / "codebook-counts.txt"
    counts = "  ".join(str(17 * n) for n in range(60))
    path.write_text("tenure  How held\n" + "".join(f"{n}  Label {n}  {counts}  see note\n" for n in range(1, 200)))
    yield "a cross table of 60 columns of counts", path
    path = folder / "codebook-codes.txt"
    path.write_text("q1 How held\n" + "".join(f"{n} = Label {n}\n" for n in range(10_000)))
    yield "10,000 codes of one variable", path
    path = folder / "codebook-tags.txt"
    path.write_text("".join(f"v{n}  integer\n" for n in range(300_000)))
    yield "300,000 tags of codebook text", path


def ods(path: Path, rows: str) -> None:
    """An .ods of one sheet with these rows, as they are written in it."""
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as archive:
        kind = "application/vnd.oasis.opendocument.spreadsheet"
        archive.writestr("mimetype", kind)
        archive.writestr("META-INF/manifest.xml", ODS_MANIFEST.format(kind=kind))
        archive.writestr("content.xml", ODS_TABLE.format(rows=rows))


def _stuffed(book: Path, path: Path) -> Path:
    shutil.copyfile(book, path)
    with zipfile.ZipFile(path, "a", zipfile.ZIP_DEFLATED, compresslevel=1) as archive:
        for number in range(20):
            with archive.open(f"xl/media/blank{number}.bin", "w") as part:
                for _ in range(230):
                    part.write(bytes(1 << 20))
    return path


def looked_at(path: Path) -> tuple[str, int]:
    """What is made of a file, in a reader's process, and the memory (bytes) that it took at most."""
    try:
        if path.name.startswith("codebook"):
            found = f"{len(understand(as_document(path, path.name).text).variables):,} variables"
        else:
            with opened(path, path.name) as file:
                table = file.read(file.guess()).table
                found = f"{table.records:,} × {len(table.columns):,}" + "".join(
                    f"; {note}" for note in table.notes if "far away" in note
                )
    except RowTagError as error:
        found = f"“{error.what}”"
    return found, resource.getrusage(resource.RUSAGE_SELF).ru_maxrss << 10


def giants_told(folder: Path) -> list[str]:
    """A line of a table for each giant."""
    out = []
    for what, path in giants(folder):
        reader = Apart(readers=1)
        begun = time.perf_counter()
        try:
            found, memory = reader.read(path.name, looked_at, path)
        except RowTagError as error:
            found, memory = f"BROKE ITS READER: {error}", 0
        taken = time.perf_counter() - begun
        reader.close()
        out.append(f"| {what} | {path.stat().st_size / 1e3:,.0f} kB | {taken:.1f} s | {memory >> 20} MB | {found} |")
    return out
