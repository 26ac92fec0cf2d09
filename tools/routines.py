"""Writes what routines may hold, from the registry of steps: a JSON Schema, and the table in docs/routines.md."""

import json
import re
from pathlib import Path
from typing import Any

from rowtag.core.steps import STEPS
from rowtag.formats.routine import HEAD, VERSION
from rowtag.service.coming import AddRecordsAgain, BringInAgain, PutBesideAgain

DOCS = Path(__file__).parent.parent / "docs"
TEXT = {"type": ["string", "number", "boolean", "null"]}
_OURS = {"bring in": BringInAgain, "add records": AddRecordsAgain, "put beside": PutBesideAgain}
BEGIN, END = "<!-- steps -->", "<!-- end of steps -->"


def schema() -> dict[str, Any]:
    """The JSON Schema of a routine: names stand in place of ids, and formulas are texts."""
    definitions: dict[str, Any] = {}
    steps = []
    for name, kind in sorted(STEPS.items()):
        own = _OURS.get(name, kind).model_json_schema(ref_template="#/$defs/{model}")
        definitions |= own.pop("$defs", {})
        own["properties"]["do"] = {"const": name}
        own["properties"].pop("format", None)
        own["properties"]["records by"] = {"type": "string"}
        own["properties"]["holding"] = {"type": "object", "additionalProperties": {"type": "object"}}
        own["required"] = ["do", *own.get("required", [])]
        steps.append(own)
    definitions["Formula"] = {"type": "string", "description": "A formula, or a sentence that derives."}
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": "A routine of Row Tag",
        "type": "object",
        "required": [HEAD, "steps"],
        "additionalProperties": False,
        "properties": {
            HEAD: {"const": VERSION},
            "study": {"type": "string"},
            "steps": {"type": "array", "items": {"oneOf": [_loose(step) for step in steps]}},
            "hand over": {"type": "object"},
            "strays": {"type": "object", "additionalProperties": {"type": "array", "items": TEXT}},
        },
        "$defs": {name: _loose(each) for name, each in sorted(definitions.items())},
    }


def _loose(schema: Any) -> Any:
    """A schema under which a plain scalar may stand for any text: in a routine 007 is a text, and so is true."""
    if isinstance(schema, list):
        return [_loose(each) for each in schema]
    if not isinstance(schema, dict):
        return schema
    if schema.get("type") in ("string", "integer", "number", "boolean") and not {"const", "enum"} & schema.keys():
        return TEXT
    return {key: _loose(value) for key, value in schema.items() if key not in ("title", "propertyNames")}


def table() -> str:
    """The kinds of step with their parts."""
    lines = ["| do | what it does | parts |", "|---|---|---|"]
    for name, kind in sorted(STEPS.items()):
        shown = _OURS.get(name, kind)
        parts = ", ".join(f"`{part}`" for part in shown.model_fields if part not in ("do", "format"))
        said = " ".join((kind.__doc__ or "").split("\n\n")[0].split()).replace("|", "\\|")
        lines.append(f"| `{name}` | {said} | {parts} |")
    return "\n".join(lines)


def main() -> None:
    """Writes both."""
    (DOCS / "routine.schema.json").write_text(json.dumps(schema(), ensure_ascii=False, indent=1) + "\n", "utf-8")
    page = DOCS / "routines.md"
    text = page.read_text("utf-8")
    found = re.compile(f"{BEGIN}.*{END}", re.DOTALL)
    page.write_text(found.sub(lambda _: f"{BEGIN}\n{table()}\n{END}", text), "utf-8")


if __name__ == "__main__":
    main()
