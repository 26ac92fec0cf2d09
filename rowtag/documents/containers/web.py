"""Web pages: what is seen of them; in forms, what their fields are called and which codes they send."""

from collections.abc import Iterator
from pathlib import Path

import lxml.html
from lxml.html import HtmlElement

from rowtag.core.words import whole_number
from rowtag.documents.containers.neutral import Neutral, one_line
from rowtag.documents.lines import words_in
from rowtag.formats.table import Watch, unwatched

_SKIPPED = frozenset(words_in("script style nav head template noscript svg button iframe object"))
_HEADINGS = frozenset(f"h{level}" for level in range(1, 7))
_BLOCKS = _HEADINGS | frozenset(
    words_in(
        """
        p div section article main form fieldset legend ul ol li dl dt dd table pre blockquote body header footer
        figure figcaption address details summary
        """
    )
)
_CODE = frozenset(["code", "tt", "kbd", "samp", "var"])
_FIELDS = frozenset(["input", "select", "textarea"])


def text_of(path: Path, _name: str, _watch: Watch = unwatched) -> str:
    """A web page as plain text. Nothing in it is run or fetched."""
    data = path.read_bytes()
    parser = lxml.html.HTMLParser(no_network=True, remove_comments=True, huge_tree=False)
    root = lxml.html.document_fromstring(data or b"<p></p>", parser=parser)
    out = Neutral()
    body = root.find("body")
    _walk(body if body is not None else root, out, 0)
    return out.text()


def _walk(node: HtmlElement, out: Neutral, depth: int) -> None:
    """Writes down the blocks within an element."""
    running: list[str] = [node.text or ""]
    fields = _Fields(node) if node.tag in ("form", "body") and node.xpath(".//input|.//select|.//textarea") else None
    if (fields is not None and node.tag == "form") or (fields is not None and not node.xpath(".//form")):
        fields.write(out)
        return
    for child in node:
        if not isinstance(child.tag, str) or child.tag in _SKIPPED:
            pass
        elif child.tag in _BLOCKS or any(
            isinstance(one.tag, str) and one.tag in _BLOCKS for one in child.iterdescendants()
        ):
            _flush(running, out, depth)
            _block(child, out, depth)
        else:
            running.append(_inline(child))
        running.append(child.tail or "")
    _flush(running, out, depth)


def _flush(running: list[str], out: Neutral, depth: int) -> None:
    text = "".join(running)
    running.clear()
    if text.strip():
        out.paragraph("\n".join(one_line(line) for line in text.split("\v")), depth)


def _block(node: HtmlElement, out: Neutral, depth: int) -> None:
    tag = node.tag
    if tag in _HEADINGS:
        out.heading(int(tag[1]), _inline(node))
    elif tag in ("ul", "ol"):
        for number, item in enumerate(node.findall("li"), int(node.get("start") or 1) if tag == "ol" else 0):
            _item(item, f"{number}." if tag == "ol" else "-", out, depth)
        out.paragraph("")
    elif tag == "dl":
        _terms(node, out)
    elif tag == "table":
        rows, headed = _rows(node)
        out.table(rows, headed=headed)
    elif tag == "pre":
        for line in _inline(node, keep=True).replace("\v", "\n").split("\n"):
            out.lines.append(f"    {line}".rstrip())
        out.paragraph("")
    else:
        _walk(node, out, depth)


def _item(node: HtmlElement, mark: str, out: Neutral, depth: int) -> None:
    nested = [child for child in node if child.tag in ("ul", "ol", "dl", "table")]
    text = (node.text or "") + "".join(_inline(child) + (child.tail or "") for child in node if child not in nested)
    out.item(mark, "\n".join(one_line(line) for line in text.split("\v")), depth)
    for child in nested:
        _block(child, out, depth + 1)


def _terms(node: HtmlElement, out: Neutral) -> None:
    """Terms and their meanings; several terms in a row share one."""
    terms: list[str] = []
    parts = [part for child in node for part in (child if child.tag == "div" else (child,))]
    for child in parts:
        if child.tag == "dt":
            terms.append(one_line(_inline(child)))
        elif child.tag == "dd" and terms:
            out.entry(", ".join(terms), _lines(child))
            terms = []
    if terms:
        out.entry(", ".join(terms), "")


def _lines(node: HtmlElement) -> str:
    """The blocks within an element as lines."""
    inner = Neutral()
    _walk(node, inner, 0)
    return "\n".join(line for line in inner.lines if line.strip())


def _rows(node: HtmlElement) -> tuple[list[list[str]], bool]:
    """The cells of a table; what spans several is said once."""
    rows: list[list[str]] = []
    below: dict[int, int] = {}  # columns that a cell above reaches into, and how many rows more
    headed = node.find("thead") is not None
    for number, row in enumerate(node.xpath("./tr|./thead/tr|./tbody/tr|./tfoot/tr")):
        cells: list[str] = []
        for cell in row.iterchildren("td", "th"):
            while below.get(len(cells), 0) > 0:
                below[len(cells)] -= 1
                cells.append("")
            spans = [min(whole_number(cell.get(name) or "1") or 1, 100) for name in ("colspan", "rowspan")]
            for at in range(spans[0]):
                if spans[1] > 1:
                    below[len(cells)] = spans[1] - 1
                cells.append(_lines(cell) if at == 0 else "")
        headed = headed or (number == 0 and all(cell.tag == "th" for cell in row.iterchildren("td", "th")))
        rows.append(cells)
    return rows, headed


def _inline(node: HtmlElement, *, keep: bool = False) -> str:
    """What is read of an element in running text; a line break is `\\v`."""
    if not isinstance(node.tag, str) or node.tag in _SKIPPED:
        return ""
    if node.tag == "br":
        return "\v"
    inner = (node.text or "") + "".join(_inline(child, keep=keep) + (child.tail or "") for child in node)
    if not keep:
        inner = " ".join(inner.split(" ")).replace("\n", " ")
    if node.tag in _CODE and inner.strip() and "`" not in inner:
        return f"`{inner.strip()}`"
    return f" {inner} " if node.tag in ("td", "th", "option") else inner


class _Fields:
    """The fields of a form, as entries: what is asked, and the codes of its options."""

    def __init__(self, form: HtmlElement) -> None:
        self._form = form
        self._same: dict[str, list[HtmlElement]] = {}
        for field in form.iter(*_FIELDS):
            self._same.setdefault(field.get("name") or "", []).append(field)
        self._labels = {label.get("for"): label for label in form.iter("label") if label.get("for")}

    def write(self, out: Neutral) -> None:
        """Writes down headings, paragraphs and fields in their order."""
        seen: set[str] = set()
        fields = {id(field): field for field in self._form.iter(*_FIELDS)}
        for node in self._form.iter():
            if node.tag in _HEADINGS:
                out.heading(int(node.tag[1]), _inline(node))
            elif id(node) in fields and node.get("type") not in ("hidden", "submit", "button", "reset", "image"):
                name = node.get("name") or node.get("id") or ""
                if name and name not in seen:
                    seen.add(name)
                    self._entry(name, node, out)

    def _entry(self, name: str, node: HtmlElement, out: Neutral) -> None:
        same = self._same.get(name, [node])
        kind = "select" if node.tag == "select" else (node.get("type") or "text")
        asked, own = self._asked(node), self._label(node)
        lines: list[str] = []
        if kind == "select":
            options = [(each.get("value") or "", one_line(_inline(each))) for each in node.iter("option")]
            lines += [f"- {value} = {label}" for value, label in options if value]
        elif kind == "radio":
            heads = self._heads(node)
            for field in same:
                label = self._label(field) or heads.get(id(field), "")
                value = field.get("value") or ""
                lines.append(f"- {value} = {label}" if label and label != value else f"- {value} =")
            lines = _with_ends(node, lines)
            own = self._row_head(node)
        elif kind == "checkbox":
            hidden = [field.get("value") for field in same if field.get("type") == "hidden"]
            lines += [f"- {node.get('value') or '1'} = ticked", f"- {(hidden or ['0'])[0]} = not ticked"]
        elif node.get("min") and node.get("max"):
            lines.append(f"range: {node.get('min')} to {node.get('max')}")
        if kind in ("checkbox", "radio") and own and asked:
            out.entry(name, "\n".join([f"{own}", *lines]))
        else:
            said = node.get("aria-label") if kind == "text" and node.get("id") not in self._labels else ""
            out.entry(name, "\n".join([said or asked or own, *lines]))

    def _label(self, field: HtmlElement) -> str:
        label = self._labels.get(field.get("id"))
        if label is None:
            label = next(field.iterancestors("label"), None)
        if label is None:
            return ""
        return one_line(_without_number(label)).rstrip(":").strip()

    def _asked(self, field: HtmlElement) -> str:
        """The question that a field belongs to: the legend around it, its label, or the text before it."""
        fieldset = next(field.iterancestors("fieldset"), None)
        if fieldset is not None and (legend := fieldset.find("legend")) is not None:
            return one_line(_without_number(legend))
        if field.get("type") not in ("radio", "checkbox") and (label := self._label(field)):
            return label
        for tags in (("p", "label"), ("strong", "b", "span")):
            for around in field.iterancestors("div", "p", "td", "li"):
                for text in around.iter(*tags):
                    said = one_line(_without_number(text))
                    if len(said) > 3 and not len(text.xpath(".//input")):
                        return said
        return ""

    def _row_head(self, field: HtmlElement) -> str:
        row = next(field.iterancestors("tr"), None)
        cell = row.find("th") if row is not None else None
        return one_line(_inline(cell)) if cell is not None else ""

    def _heads(self, field: HtmlElement) -> dict[int, str]:
        """What stands over the fields of a grid's row, by the column they are in."""
        row, table = next(field.iterancestors("tr"), None), next(field.iterancestors("table"), None)
        if row is None or table is None:
            return {}
        heads = [one_line(_inline(cell)) for cell in next(table.iter("tr")).iterchildren("td", "th")]
        cells = list(row.iterchildren("td", "th"))
        found: dict[int, str] = {}
        for at, cell in enumerate(cells):
            for one in cell.iter("input"):
                found[id(one)] = heads[at] if at < len(heads) else ""
        return found


def _with_ends(field: HtmlElement, lines: list[str]) -> list[str]:
    """A scale of numbers with a word at either end: the words belong to the ends."""
    around = next((each for each in field.iterancestors("div", "p") if each.find("span") is not None), None)
    if around is None or not all(line.endswith("=") for line in lines):
        return lines
    words = [one_line(_inline(span)) for span in around.findall("span") if one_line(_inline(span))]
    if len(words) >= 2:
        lines[0], lines[-1] = f"{lines[0]} {words[0]}", f"{lines[-1]} {words[-1]}"
    return lines


def _without_number(node: HtmlElement) -> str:
    """What a label says, without the number of its question and without fields in it."""
    return "".join(_texts(node))


def _texts(node: HtmlElement) -> Iterator[str]:
    if node.tag in _FIELDS or node.get("class") in ("no", "number", "help"):
        return
    yield node.text or ""
    for child in node:
        if isinstance(child.tag, str):
            yield from _texts(child)
        yield child.tail or ""
