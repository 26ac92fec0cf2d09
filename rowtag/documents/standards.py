"""Codebooks in open standards, read into descriptions: Data Package, CSVW, DDI-Codebook, Triple-S."""

import io
import json
from collections.abc import Callable, Iterator
from typing import Any
from xml.etree import ElementTree

from pydantic import ValidationError

from rowtag.core.codebook import Described
from rowtag.core.errors import Place, UnreadableFile
from rowtag.core.tag import Parts
from rowtag.core.words import whole_number
from rowtag.documents.codes import Code
from rowtag.documents.hands.found import Said
from rowtag.documents.reasons import missing_reason
from rowtag.documents.saying import parts_from, said_level, said_type
from rowtag.formats.sheetxml import DAMAGED, read_xml

_XSD = {"number": "decimal", "double": "decimal", "float": "decimal", "string": "text", "year": "integer",
        "numeric": "decimal", "character": "text", "quantity": "decimal", "dateTime": "datetime", "long": "integer",
        "any": "", "boolean": ""}  # fmt: skip
"""Words of the standards for types, as ours; none where they say too little."""


def read_standard(data: bytes, name: str) -> list[Described]:
    """The variables that a metadata file describes. Raises UnreadableFile where it is none of the standards."""
    text = data.lstrip(b"\xef\xbb\xbf \t\r\n")
    if text[:1] in (b"{", b"["):
        return _from_json(data, name)
    return _from_xml(data, name)


# JSON --------------------------------------------------------------------------------------------


def _from_json(data: bytes, name: str) -> list[Described]:
    try:
        document = json.loads(data.decode("utf-8-sig"), parse_int=_number, parse_float=_number)
    except (UnicodeDecodeError, json.JSONDecodeError, RecursionError) as error:
        where = Place(name, row=getattr(error, "lineno", None), character=getattr(error, "colno", None))
        raise UnreadableFile("This is no JSON document.", remedy="Export the metadata anew.", where=where) from None
    fields = list(_table_schema(document))
    columns = list(_csvw(document))
    if not fields and not columns:
        raise UnreadableFile(
            "No variables are described here.",
            remedy="Give a Data Package, a Table Schema, or CSVW metadata.",
            where=Place(name),
        )
    return [_field(field) for field in fields] or [_column(column) for column in columns]


def _table_schema(document: Any) -> Iterator[dict[str, Any]]:
    """The fields of a Table Schema, or of the first resource of a Data Package that has any."""
    if not isinstance(document, dict):
        return
    resources = document.get("resources")
    places = [document, document.get("schema"), *(r.get("schema") for r in _listed(resources) if isinstance(r, dict))]
    found = (place["fields"] for place in places if isinstance(place, dict) and isinstance(place.get("fields"), list))
    yield from (field for field in next(found, []) if isinstance(field, dict) and field.get("name"))


def _field(field: dict[str, Any]) -> Described:
    extra = field.get("rowtag")
    own = extra if isinstance(extra, dict) else {}
    if (whole := _whole(field, own)) is not None:
        return whole
    said = Said()
    constraints = _mapped(field.get("constraints"))
    for category in _listed(field.get("categories") or field.get("enum") or constraints.get("enum")):
        code, label = _valued(category)
        if code:
            said.codes.append(Code(label, code=code))
    for value in _listed(field.get("missingValues")):
        code, label = _valued(value)
        if code and code not in {each.code for each in said.codes}:
            reason = missing_reason(label)[0] or "other"
            said.codes.append(Code("" if label == reason else label, code=code, reason=reason))
    said.limits = _limits(constraints.get("minimum"), constraints.get("maximum"))
    given = _given(
        label=field.get("title"),
        question=field.get("description"),
        type=own.get("type") or field.get("type"),
        level=own.get("level") or ("ordinal" if field.get("categoriesOrdered") else ""),
    )
    return Described(str(field["name"]), parts_from(said, given), reason="a field of a Data Package")


def _whole(field: dict[str, Any], own: dict[str, Any]) -> Described | None:
    """A field with the whole tag that Row Tag wrote beside it; None where there is none, or it is none."""
    if not isinstance(own.get("tag"), dict):
        return None
    words = {"label": _text(field.get("title")), "question": _text(field.get("description"))}
    try:  # every part is given: what is not written is as it is where nothing is said
        tag = Parts.model_validate({**Parts().model_dump(), **own["tag"], **words})
    except ValidationError:
        return None
    battery, section = (_text(own.get(part)) or None for part in ("battery", "section"))
    return Described(str(field["name"]), tag, battery, section, reason="a field of a Data Package")


def _number(written: str) -> int | float | str:
    """A number as far as it can be one; of too many digits it stays as it is written."""
    if len(written) > 18:
        return written
    return int(written) if whole_number(written.lstrip("-")) is not None else float(written)


def _listed(value: Any) -> list[Any]:
    """A list, or nothing where something else stands in its place."""
    return value if isinstance(value, list) else []


def _mapped(value: Any) -> dict[str, Any]:
    """Names with their values, or none where something else stands in their place."""
    return value if isinstance(value, dict) else {}


def _valued(value: Any) -> tuple[str, str]:
    if isinstance(value, dict):
        return _text(value.get("value")), _text(value.get("label"))
    return _text(value), ""


def _text(value: Any) -> str:
    """A value of JSON as it would be recorded."""
    if value is None or isinstance(value, bool | list | dict):
        return ""
    return f"{value:.15g}" if isinstance(value, float) else str(value).strip()


def _limits(low: Any, high: Any) -> tuple[str | None, str | None] | None:
    ends = (_text(low) or None, _text(high) or None)
    return ends if any(ends) else None


def _given(**words: Any) -> dict[str, Any]:
    """Parts of a tag from words of a standard."""
    given: dict[str, Any] = {part: str(words[part]).strip() for part in ("label", "question") if words.get(part)}
    word = str(words.get("type") or "")
    if kind := said_type(_XSD.get(word, word)):
        given["type"] = kind
    if level := said_level(str(words.get("level") or "")):
        given["level"] = level
    for part in ("width", "decimals"):
        if (number := whole_number(str(words.get(part) or ""))) is not None:
            given[part] = number
    return given


def _csvw(document: Any) -> Iterator[dict[str, Any]]:
    """The columns of the first table of CSVW metadata that has any."""
    if not isinstance(document, dict):
        return
    tables = [document, *(table for table in _listed(document.get("tables")) if isinstance(table, dict))]
    for table in tables:
        columns = _mapped(table.get("tableSchema")).get("columns")
        if isinstance(columns, list):
            yield from (each for each in columns if isinstance(each, dict) and (each.get("name") or each.get("titles")))
            return


def _column(column: dict[str, Any]) -> Described:
    titles = _words(column.get("titles"))
    datatype = column.get("datatype")
    facets = datatype if isinstance(datatype, dict) else {"base": datatype}
    said = Said(limits=_limits(facets.get("minimum"), facets.get("maximum")))
    nulls = column.get("null") if isinstance(column.get("null"), list) else [column.get("null")]
    said.codes = [Code("", code=code, reason="other") for code in (_text(each) for each in nulls or ()) if code]
    question = _words(column.get("dc:description") or column.get("schema:description") or column.get("description"))
    given = _given(label=titles, question=question, type=facets.get("base"))
    return Described(str(column.get("name") or titles), parts_from(said, given), reason="a column of CSVW metadata")


def _words(value: Any) -> str:
    """The first text of a value that may be a text, a list of them, or texts by language."""
    while isinstance(value, list | dict) and value:
        value = value.get("@value") or next(iter(value.values())) if isinstance(value, dict) else value[0]
    return value if isinstance(value, str) else ""


# XML ---------------------------------------------------------------------------------------------


def _from_xml(data: bytes, name: str) -> list[Described]:
    try:
        read_xml(io.BytesIO(data), lambda tag, attributes: None)  # refuses entities before anything is built
        root = ElementTree.fromstring(data)
    except (*DAMAGED, ElementTree.ParseError) as error:
        declares = "entities" in str(error)
        what = "It declares entities, which are not read." if declares else f"This is no XML ({error})."
        remedy = f"Export the metadata anew{', without them' if declares else ''}."
        raise UnreadableFile(what, remedy=remedy, where=Place(name)) from None
    for element in root.iter():
        element.tag = str(element.tag).rpartition("}")[2]
    readers: dict[str, tuple[str, Callable[[Any], Described]]] = {
        "codeBook": ("var", _ddi),
        "sss": ("variable", _triple_s),
    }
    wanted, reader = readers.get(root.tag, ("", _ddi))
    found = [reader(element) for element in root.iter(wanted)] if wanted else []
    if not found:
        raise UnreadableFile(
            f"No variables are described here (the document is “{root.tag}”).",
            remedy="Give DDI-Codebook or Triple-S metadata.",
            where=Place(name),
        )
    return found


def _inner(element: Any, path: str) -> str:
    """The text of an inner element, without runs of blanks."""
    found = element.find(path)
    return " ".join("".join(found.itertext()).split()) if found is not None else ""


def _ddi(variable: Any) -> Described:
    said = Said()
    for category in variable.findall("catgry"):
        code, label = _inner(category, "catValu"), _inner(category, "labl")
        if code:
            reason, explicit, label = missing_reason(label)
            absent = category.get("missing") == "Y"
            said.codes.append(
                Code(label, code=code, reason=(reason or "other") if absent else reason if explicit else None)
            )
    for item in variable.findall("invalrng/item"):
        if item.get("VALUE") and item.get("VALUE") not in {each.code for each in said.codes}:
            said.codes.append(Code("", code=item.get("VALUE"), reason="other"))
    ends = variable.find("valrng/range")
    if ends is not None:
        said.limits = _limits(ends.get("min"), ends.get("max"))
    form = variable.find("varFormat")
    kind = form.get("type", "") if form is not None else ""
    decimals = variable.get("dcml")
    width = variable.find("location").get("width") if variable.find("location") is not None else None
    given = _given(
        label=_inner(variable, "labl"),
        question=_inner(variable, "qstn/qstnLit"),
        type="integer" if kind == "numeric" and decimals == "0" else kind,
        level=variable.get("nature"),
        width=width,
        decimals=decimals if decimals != "0" else None,
    )
    return Described(variable.get("name") or variable.get("ID") or "", parts_from(said, given), reason="DDI-Codebook")


def _triple_s(variable: Any) -> Described:
    said = Said()
    for value in variable.findall("values/value"):
        code, label = value.get("code") or "", " ".join("".join(value.itertext()).split())
        reason, explicit, label = missing_reason(label)
        said.codes.append(Code(label, code=code, reason=reason if explicit else None))
    ends = variable.find("values/range")
    kind = variable.get("type") or ""
    if ends is not None:
        said.limits = _limits(ends.get("from"), ends.get("to"))
    whole = ends is None or not any("." in (ends.get(end) or "") for end in ("from", "to"))
    types = {"single": "integer", "quantity": "integer" if whole else "decimal", "logical": "integer"}
    given = _given(label=_inner(variable, "label"), type=types.get(kind, kind))
    return Described(
        _inner(variable, "name"), parts_from(said, given), reason="Triple-S", also=variable.get("ident") or ""
    )
