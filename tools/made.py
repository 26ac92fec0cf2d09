"""Documents of word processors and pages, made by hand from what the formats' standards say."""

import zipfile
from collections.abc import Sequence
from pathlib import Path

_W = 'xmlns:w="http://schemas.openxmlformats.org/wordprocessingml/2006/main"'
_NUMBERING = f"""<w:numbering {_W}>
<w:abstractNum w:abstractNumId="0"><w:lvl w:ilvl="0"><w:start w:val="1"/><w:numFmt w:val="decimal"/>
<w:lvlText w:val="Q%1"/><w:pPr><w:ind w:left="400"/></w:pPr></w:lvl></w:abstractNum>
<w:abstractNum w:abstractNumId="1"><w:lvl w:ilvl="0"><w:start w:val="1"/><w:numFmt w:val="decimal"/>
<w:lvlText w:val="%1."/><w:pPr><w:ind w:left="900"/></w:pPr></w:lvl></w:abstractNum>
<w:abstractNum w:abstractNumId="2"><w:lvl w:ilvl="0"><w:start w:val="1"/><w:numFmt w:val="lowerLetter"/>
<w:lvlText w:val="%1)"/><w:pPr><w:ind w:left="900"/></w:pPr></w:lvl></w:abstractNum>
<w:num w:numId="1"><w:abstractNumId w:val="0"/></w:num>
{
    "".join(
        f'<w:num w:numId="{number}"><w:abstractNumId w:val="{1 + number % 2}"/>'
        f'<w:lvlOverride w:ilvl="0"><w:startOverride w:val="1"/></w:lvlOverride></w:num>'
        for number in range(2, 30)
    )
}
</w:numbering>"""
_STYLES = (
    f"""<w:styles {_W}><w:style w:type="paragraph" w:styleId="H1"><w:name w:val="heading 1"/></w:style></w:styles>"""
)


def paragraph(text: str, *, number: int = 0, heading: bool = False, bold: str = "") -> str:
    """A paragraph; `number` is the list that it is an item of, `bold` words in bold before its text."""
    style = '<w:pStyle w:val="H1"/>' if heading else ""
    listed = f'<w:numPr><w:ilvl w:val="0"/><w:numId w:val="{number}"/></w:numPr>' if number else ""
    runs = f"<w:r><w:rPr><w:b/></w:rPr><w:t>{bold}</w:t></w:r>" if bold else ""
    said = text.replace("\t", "</w:t><w:tab/><w:t xml:space='preserve'>")
    return f"<w:p><w:pPr>{style}{listed}</w:pPr>{runs}<w:r><w:t xml:space='preserve'>{said}</w:t></w:r></w:p>"


def table(rows: Sequence[Sequence[str]]) -> str:
    """A table of plain cells; None of a cell goes on with the one above."""
    out = "".join(
        "<w:tr>"
        + "".join(
            "<w:tc><w:tcPr><w:vMerge/></w:tcPr><w:p/></w:tc>" if cell == "^" else f"<w:tc>{paragraph(cell)}</w:tc>"
            for cell in row
        )
        + "</w:tr>"
        for row in rows
    )
    return f"<w:tbl>{out}</w:tbl>"


def docx(path: Path, body: str) -> Path:
    """A .docx with this body."""
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("word/document.xml", f"<w:document {_W}><w:body>{body}</w:body></w:document>")
        archive.writestr("word/numbering.xml", _NUMBERING)
        archive.writestr("word/styles.xml", _STYLES)
    return path


def questionnaire(path: Path) -> Path:
    """A questionnaire (.docx) with numbered questions of all kinds."""
    rows = [
        ["", "Poor", "Fair", "Good", "Don’t know"],
        ["a. The water", "1", "2", "3", "8"],
        ["b. The gates", "1", "2", "3", "8"],
    ]
    body = (
        paragraph("Fennel Row Allotments", heading=True)
        + paragraph("Please circle one number in each question.")
        + paragraph("How do you hold your plot?", number=1)
        + "".join(
            paragraph(text, number=2)
            for text in ("Alone → Please go to Q3", "Shared", "Other, please write in: ______")
        )
        + paragraph("For how many years?", number=1)
        + paragraph("|__|__| years (0 to 60)")
        + paragraph("How would you rate these? Circle one number on each line.", number=1)
        + table(rows)
        + paragraph("What do you grow? Please tick all that apply.", number=1)
        + "".join(paragraph(f"☐  {text}", number=3) for text in ("Beans", "Kale", "Something else: ________"))
        + paragraph(
            "Which matters most? Write 1 beside the most important, down to 2 beside the least important.", number=1
        )
        + "".join(paragraph(f"____  {text}", number=5) for text in ("Lower rents", "Wider paths"))
        + paragraph("How many of these are on your plot?", number=1)
        + "".join(paragraph(f"{text}\t|__|__|", number=7) for text in ("Trees", "Water butts"))
        + paragraph("Is there anything else?", number=1)
        + paragraph("______________________________")
        + paragraph("Thank you very much!")
    )
    return docx(path, body)


_ODF = " ".join(
    f'xmlns:{short}="urn:oasis:names:tc:opendocument:xmlns:{short}:1.0"'
    for short in ("office", "text", "table", "style")
)


def odt(path: Path, body: str) -> Path:
    """An .odt with this body; its list style L numbers from 1, M counts in letters."""
    styles = (
        '<text:list-style style:name="L"><text:list-level-style-number text:level="1" style:num-format="1"'
        ' style:num-prefix="Q"/></text:list-style><text:list-style style:name="M"><text:list-level-style-number'
        ' text:level="2" style:num-format="a" style:num-suffix=")"/></text:list-style>'
    )
    content = (
        f"<office:document-content {_ODF}><office:automatic-styles>{styles}</office:automatic-styles>"
        f"<office:body><office:text>{body}</office:text></office:body></office:document-content>"
    )
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("mimetype", "application/vnd.oasis.opendocument.text")
        archive.writestr("content.xml", content)
    return path


Words = tuple[float, float, str, bool]
"""Where words stand on a page (points from its left and top), what they say, whether they are bold."""


def pdf(path: Path, pages: Sequence[Sequence[Words]], rules: Sequence[tuple[float, float, float, float]] = ()) -> Path:
    """A .pdf of A4 pages with a text layer; `rules` are lines on its first page (x0, top, x1, bottom)."""
    objects = ["<< /Type /Catalog /Pages 2 0 R >>", ""]
    objects += [
        f"<< /Type /Font /Subtype /Type1 /BaseFont /{name} /Encoding /WinAnsiEncoding >>"
        for name in ("Helvetica", "Helvetica-Bold")
    ]
    kids = []
    for number, page in enumerate(pages):
        stream = "\n".join(
            f"BT /F{2 if bold else 1} 10 Tf {x} {842 - top} Td ({_escaped(text)}) Tj ET" for x, top, text, bold in page
        )
        if not number:
            stream += "".join(f"\n{x0} {842 - top} m {x1} {842 - bottom} l S" for x0, top, x1, bottom in rules)
        objects.append(f"<< /Length {len(stream.encode('cp1252'))} >>\nstream\n{stream}\nendstream")
        kids.append(len(objects) + 1)
        objects.append(
            "<< /Type /Page /Parent 2 0 R /MediaBox [0 0 595 842]"
            f" /Resources << /Font << /F1 3 0 R /F2 4 0 R >> >> /Contents {len(objects)} 0 R >>"
        )
    objects[1] = f"<< /Type /Pages /Count {len(kids)} /Kids [{' '.join(f'{kid} 0 R' for kid in kids)}] >>"
    out = b"%PDF-1.4\n"
    places = []
    for number, body in enumerate(objects, 1):
        places.append(len(out))
        out += f"{number} 0 obj\n{body}\nendobj\n".encode("cp1252")
    start = len(out)
    out += f"xref\n0 {len(objects) + 1}\n0000000000 65535 f \n".encode()
    out += b"".join(f"{place:010d} 00000 n \n".encode() for place in places)
    out += f"trailer << /Size {len(objects) + 1} /Root 1 0 R >>\nstartxref\n{start}\n%%EOF\n".encode()
    path.write_bytes(out)
    return path


def _escaped(text: str) -> str:
    return text.replace("\\", "\\\\").replace("(", "\\(").replace(")", "\\)")
