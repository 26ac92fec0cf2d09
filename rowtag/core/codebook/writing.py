"""Tags written as codebook text, in one canonical way that `notation` reads back to the same thing."""

import re
from collections.abc import Iterable, Mapping

from rowtag.core.codebook.described import Described, Onward
from rowtag.core.tag import CodeLine, CodeSpan, Marks, MissingLine, Parts

_RESERVED = re.compile(
    r"nominal|ordinal|interval|ratio|integer|decimal|text|date|time|datetime|limits|use|marks|pattern|list|\.\."
)
_WORD = r'[^\s"]+'
_KEYS = ("battery:", "section:", "codes:", "list:", "missing:", "skip:")


def write_notation(described: Iterable[Described], lists: Mapping[str, tuple[CodeLine, ...]] | None = None) -> str:
    """Codebook text of some tags and shared lists. Only the parts that were given are written."""
    blocks = [
        "\n".join([f"list: {_line(name)}", *(f"  {line}" for line in _codes(lines, ()))])
        for name, lines in (lists or {}).items()
    ]
    blocks += ["\n".join(_tag(each)) for each in described]
    return "\n\n".join(blocks) + "\n" if blocks else ""


def _tag(described: Described) -> list[str]:
    parts = described.parts
    given = parts.model_fields_set
    head = [_name(described.name)]
    if "level" in given:
        head.append(parts.level)
    if "type" in given:
        head.append(f"{parts.type} {_size(parts)}".strip())
    if described.battery is not None:
        head.append(f"battery: {_line(described.battery)}")
    lines = ["  ".join(head)]
    if "label" in given:
        lines.append(_quoted(parts.label))
    if "question" in given:
        lines.append(f"? {_line(parts.question)}" if parts.question else "?")
    if described.section is not None:
        lines.append(f"section: {_line(described.section)}")
    if "use" in given:
        lines.append(f"use {parts.use}")
    if "marks" in given:
        lines.append(f"marks {_marks(parts.marks)}")
    if "pattern" in given:
        lines.append(f"pattern {parts.pattern}")
    if "limits" in given and (parts.limits.low is not None or parts.limits.high is not None):
        lines.append(f"limits {_range(parts.limits.low, parts.limits.high)}")
    if "complete" in given:
        lines.append(f"list {'complete' if parts.complete else 'partial'}")
    if described.code_list is not None:
        lines.append(f"codes: {_line(described.code_list)}")
    lines += _codes(parts.codes, parts.missing)
    lines += [_skip(skip) for skip in described.skips]
    if "note" in given:
        lines.append(f"# {_line(parts.note)}" if parts.note else "#")
    return [lines[0], *(f"  {line}" for line in lines[1:])]


def _skip(skip: Onward) -> str:
    """Where some codes lead."""
    codes = ", ".join(map(_word, skip.codes))
    to = "end" if not skip.to else _quoted(skip.to) if skip.to == "end" else _word(skip.to)
    return f"{'proposed skip' if skip.proposed else 'skip'}: {codes} -> {to}"


def _word(text: str) -> str:
    return text if re.fullmatch(r'[^\s",|>]+', text) else _quoted(text)


def _size(parts: Parts) -> str:
    given = parts.model_fields_set
    width = str(parts.width) if "width" in given and parts.width is not None else ""
    decimals = f".{parts.decimals}" if "decimals" in given and parts.decimals is not None else ""
    return width + decimals


def _codes(codes: Iterable[CodeLine], missing: Iterable[MissingLine]) -> list[str]:
    """Code lines with their codes beneath each other."""
    lines = [(line, "") for line in codes] + [(line, f"missing: {line.reason}") for line in missing]
    spans = [_span(line, bare=not (line.label or reason)) for line, reason in lines]
    wide = max((len(span) for span in spans if len(span) <= 12), default=0)
    labels = [_label(line.label) for line, _ in lines]
    reached = max((len(label) for label, (_, reason) in zip(labels, lines, strict=True) if reason), default=0)
    return [
        f"{span:>{wide}}  {label:<{reached if reason else 0}}  {reason}".rstrip()
        for span, label, (_, reason) in zip(spans, labels, lines, strict=True)
    ]


def _span(line: CodeSpan, *, bare: bool) -> str:
    if line.code is None:
        return _range(line.low, line.high)
    code = _end(line.code)
    return f'{code} ""' if bare and code.startswith('"') else code


def _range(low: str | None, high: str | None) -> str:
    return f"{_end(low) if low is not None else ''} .. {_end(high) if high is not None else ''}".strip()


def _end(code: str) -> str:
    plain = re.fullmatch(r'[^\s|"?#][^\s|"]*', code) and not _RESERVED.fullmatch(code) and not code.startswith(_KEYS)
    return code if plain else _quoted(code)


def _label(label: str) -> str:
    if not label:
        return ""
    bare = re.fullmatch(r'[^\s"|]([^|\n\r]*[^\s|])?', label) and not re.search(r"(^|\s)missing:", label)
    return label if bare and not re.match(r"\.\.(\s|$)", label) else _quoted(label)


def _line(text: str) -> str:
    """Text that fills the rest of its line."""
    return text if re.fullmatch(r'[^\s"]([^\n\r]*\S)?', text) else _quoted(text)


def _name(name: str) -> str:
    return name if re.fullmatch(r'[^\s,":]+', name) else _quoted(name)


def _marks(marks: Marks) -> str:
    said = {"decimal": marks.decimal, "thousands": marks.thousands, "sign": marks.sign, "dates": marks.date_order}
    return "  ".join(f"{key} {value if re.fullmatch(_WORD, value) else _quoted(value)}" for key, value in said.items())


def _quoted(text: str) -> str:
    for sign, written in (("\\", "\\\\"), ('"', '\\"'), ("\n", "\\n"), ("\r", "\\r"), ("\t", "\\t")):
        text = text.replace(sign, written)
    return f'"{text}"'
