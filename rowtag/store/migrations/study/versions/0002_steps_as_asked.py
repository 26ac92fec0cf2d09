"""Kept steps say exactly what was asked.

Until now a step was written with all its defaults filled in, so that "set the label" read back as "set the label, no
question, type text, no code lines". Which parts were given is told from the state before and the one it made: a part
that was given and made no difference is as good as one that was not.
"""

from typing import Any

import sqlalchemy as sa
from alembic import op

from rowtag.store.codec import decode, encode

revision = "0002"
down_revision = "0001"

PLAIN = {
    "label": "",
    "question": "",
    "note": "",
    "type": "text",
    "level": "nominal",
    "use": "answer",
    "complete": False,
}
"""Parts of a tag that are single values, and what a tag holds there that says nothing of them."""
PARTS = (*PLAIN, "width", "decimals", "marks", "pattern", "codes", "limits", "missing")
PLACES = ("battery", "section", "code_list")

Tags = dict[str, dict[str, Any]]


def upgrade() -> None:
    connection = op.get_bind()
    rows = connection.execute(
        sa.text("SELECT state.id, parent, whole, parts, step.id, body FROM state LEFT JOIN step ON state = state.id"
                " ORDER BY state.id")
    ).all()  # fmt: skip
    tags: dict[int, Tags] = {}
    for state, parent, whole, parts, step, body in rows:
        before = tags.get(parent, {})
        tags[state] = after = _tags({} if whole else before, decode(parts))
        if step is not None:
            asked = _as_asked(decode(body)["step"], before, after)
            connection.execute(
                sa.text("UPDATE step SET body = :body WHERE id = :id"), {"body": encode({"step": asked}), "id": step}
            )


def _tags(before: Tags, parts: dict[str, Any]) -> Tags:
    """The tags of a state, told from those of the one that it differs from."""
    changed = parts.get("shelves", {}).get("variable")
    if not changed:
        return before
    after = {**before, **{id: value["tag"] for id, value in changed.items() if value is not None}}
    return {id: tag for id, tag in after.items() if changed.get(id, tag) is not None}


def _as_asked(step: dict[str, Any], before: Tags, after: Tags) -> dict[str, Any]:
    if step["do"] == "define":
        return {**step, "parts": _given(step["parts"], step["variables"], before, after)}
    if step["do"] == "describe":
        tags = {id: _given(parts, [id], before, after) for id, parts in step["tags"].items()}
        places = {
            id: {name: places[name] for name in PLACES if _differs(name, [id], before, after)}
            for id, places in step["places"].items()
        }
        return {**step, "tags": tags, "places": {id: given for id, given in places.items() if given}}
    return step


def _given(written: dict[str, Any], ids: list[str], before: Tags, after: Tags) -> dict[str, Any]:
    """The parts that were given, as far as they made a difference; else one that made none."""
    given = {name: written[name] for name in PARTS if _differs(name, ids, before, after)}
    if "codes" not in given and _differs("code_list", ids, before, after):
        given["codes"] = written["codes"]  # lines of its own took the place of a shared list
    if given:
        return given
    same = [name for name, plain in PLAIN.items() if all(after[id].get(name, plain) == written[name] for id in ids)]
    said = [name for name in same if written[name] != PLAIN[name]]
    name = next(iter([*said, *same, "note"]))
    return {name: written[name]}


def _differs(name: str, ids: list[str], before: Tags, after: Tags) -> bool:
    return any(before.get(id, {}).get(name) != after.get(id, {}).get(name) for id in ids)
