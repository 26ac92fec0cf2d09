"""Studies from elsewhere, forged: nothing in them acts, nothing that Row Tag would not write is taken in."""

import hashlib
import sqlite3
from collections.abc import Callable
from contextlib import closing
from pathlib import Path
from typing import Any

import pyarrow as pa
import pytest
import sqlalchemy as sa
from fastapi.testclient import TestClient

from rowtag.api.app import create_app
from rowtag.core.errors import Damaged
from rowtag.core.tokens import large_texts
from rowtag.store.codec import decode, encode, texts_from_bytes, texts_to_bytes, unpacked
from rowtag.store.database import study as schema
from rowtag.store.rewrite import rewrite
from rowtag.store.sources import PIECE
from rowtag.store.sums import row_sum
from rowtag.store.workspace import Workspace
from tests.store.test_damage import everything, made

Forge = Callable[[sqlite3.Connection], Any]


@pytest.fixture
def carried(workspace: Workspace, tmp_path: Path) -> Path:
    """A study as it is carried elsewhere."""
    path = made(workspace)
    return workspace.carry(path.stem).rename(tmp_path / "plots.rowtag")


def run(statement: str) -> Forge:
    return lambda connection: connection.executescript(statement)


def altered(table: str, where: str, **values: Any) -> Forge:
    """Rows with other values, and the sums that belong to these: whoever forges a row can reckon, too."""

    def forge(connection: sqlite3.Connection) -> None:
        told: sa.Table = schema.tables[table]
        connection.row_factory = sqlite3.Row
        for row in connection.execute(f'SELECT rowid AS place, * FROM "{table}" WHERE {where}').fetchall():
            put = {name: value(row[name]) if callable(value) else value for name, value in values.items()}
            whole = {column.name: row[column.name] for column in told.columns} | put
            put["sum"] = row_sum(told, whole)
            said = ", ".join(f'"{name}" = ?' for name in put)
            connection.execute(f'UPDATE "{table}" SET {said} WHERE rowid = ?', [*put.values(), row["place"]])
        connection.commit()

    return forge


def piece_of(data: bytes) -> Forge:
    """The one piece of the source is another blob, which is kept under its own name."""

    def forge(connection: sqlite3.Connection) -> None:
        key = hashlib.sha256(data).hexdigest()
        connection.execute("INSERT INTO blob VALUES (?, ?)", (key, data))
        altered("piece", "true", blob=key)(connection)

    return forge


def other_parts(**parts: Any) -> Callable[[bytes], bytes]:
    return lambda data: encode({**decode(data), **parts})


def told_beyond(data: bytes) -> bytes:
    """A state whose edits name a token that there is not."""
    parts = decode(data)
    for column in parts["columns"].values():
        column["edits"] = {"0": [[1], [60_000]]}
    return encode(parts)


STEP = encode({"step": {"do": "fell the apple tree", "format": 1}})
FORGED: dict[str, tuple[Forge, str]] = {
    "a trigger": (run("CREATE TRIGGER t AFTER INSERT ON step BEGIN DELETE FROM step; END"), "no study of Row Tag's"),
    "a view": (run("CREATE VIEW v AS SELECT * FROM step"), "no study of Row Tag's"),
    "a table": (run("CREATE TABLE more (a)"), "no study of Row Tag's"),
    "a virtual table": (run("CREATE VIRTUAL TABLE more USING fts5(a)"), "no study of Row Tag's"),
    "an index": (run("CREATE INDEX i ON step (upper(sentence))"), "no study of Row Tag's"),
    "another column": (run("ALTER TABLE step ADD COLUMN more DEFAULT 1"), "newer or older Row Tag"),
    "another version": (run("UPDATE alembic_version SET version_num = '0999'"), "newer or older Row Tag"),
    "its own parent": (altered("state", "id = 5", parent=5), "not made of one that came before"),
    "a later parent": (altered("state", "id = 5", parent=9), "not made of one that came before"),
    "made of nothing": (altered("state", "id = 5", parent=None), "made of nothing"),
    "an unknown step": (altered("step", "state = 5", body=STEP), "There is no step called"),
    "an account that is none": (altered("step", "state = 5", account=b"{}"), "is not told as Row Tag tells it"),
    "an edition": (run("INSERT INTO about VALUES ('edition 1', 'no JSON', NULL)"), "What the file says of itself"),
    "a forged edition": (altered("about", "key = 'title'", key="edition 1", value="[]"), "An edition is not as"),
    "a head that is text": (altered("move", "revision = 5", head="first"), "A row of “move” is none"),
    "a text that is bytes": (altered("step", "state = 5", sentence=b"Typed"), "A row of “step” is none"),
    "a giant piece": (piece_of((PIECE + 1).to_bytes(8, "little")), "says that it has 8,388,609 bytes"),
    "a piece beyond all": (piece_of((1 << 62).to_bytes(8, "little")), "has 4,611,686,018,427,387,904 bytes"),
    "a piece that is none": (piece_of((9).to_bytes(8, "little") + b"zeros"), "cannot be read"),
    "a giant state": (altered("state", "id = 5", parts=b"Z" + (1 << 62).to_bytes(8, "little")), "unpack to 4,611,686,"),
    "a token that is none": (altered("state", "id = 5", parts=told_beyond), "are kept nowhere"),
    "an order of others": (altered("state", "id = 3", parts=other_parts(order=["a", "b"])), "order of the variables"),
    "records that never were": (
        altered("state", "id = 3", parts=other_parts(records={"arrived": 400, "removed": [0]})), "never were there",
    ),
    "fewer records": (
        altered("state", "id = 3", parts=other_parts(records={"arrived": 3, "removed": []})), "more records than",
    ),
    "no number of records": (
        altered("state", "id = 3", parts=other_parts(records={"arrived": "all", "removed": []})), "not told in numbers",
    ),
    "a shelf of nothing": (altered("state", "id = 3", parts=other_parts(shelves={"variable": 3})), "State 3 cannot be"),
}  # fmt: skip


def test_a_study_comes_over_whole(carried: Path, tmp_path: Path) -> None:
    """What is written anew is what was there: states, diary, editions, sources."""
    target = tmp_path / "fresh.sqlite"
    assert rewrite(carried, target, "plots") == "Plots"
    assert everything(target) == everything(carried)


@pytest.mark.parametrize("how", FORGED)
def test_what_is_forged_is_refused(carried: Path, tmp_path: Path, how: str) -> None:
    """With a sentence that says what is wrong, before anything stands in the workspace."""
    forge, says = FORGED[how]
    with closing(sqlite3.connect(carried)) as connection:
        forge(connection)
        connection.commit()
    with pytest.raises(Damaged) as refused:
        rewrite(carried, tmp_path / "fresh.sqlite", "plots.rowtag")
    assert says in " ".join(refused.value.details) and "plots.rowtag" in refused.value.what


def test_what_unpacks_to_too_much() -> None:
    """Tokens are bounded by what they are kept in, told before anybody works with them."""
    assert texts_from_bytes(texts_to_bytes(large_texts(["", *map(str, range(50_000))])))[-1].as_py() == "49999"
    with pytest.raises(Damaged, match=r"bytes unpack to 1\d\d,\d\d\d,\d\d\d"):
        texts_from_bytes(texts_to_bytes(large_texts(["", "0" * 100_000_000])))
    with pytest.raises(Damaged, match="unpack to 100,000,000"):
        unpacked(bytes(pa.compress(bytes(100_000_000), codec="zstd", asbytes=True)), 100_000_000)


def test_a_forged_study_over_http(carried: Path, tmp_path: Path) -> None:
    """It is refused, leaves nothing behind, and holds up nobody; what is no study at all is told so."""
    workspace = Workspace(tmp_path / "another")
    with TestClient(create_app(workspace), base_url="http://127.0.0.1") as client:
        for how in ("its own parent", "a trigger"):
            data = carried.read_bytes()
            with closing(sqlite3.connect(carried)) as connection:
                FORGED[how][0](connection)
            reply = client.post("/api/studies/carried", files={"file": ("plots.rowtag", carried.read_bytes())})
            assert reply.status_code >= 400 and "plots.rowtag" in reply.json()["detail"], reply.text
            carried.write_bytes(data)
        for content in (b"", b"plot,size\n1,2\n", bytes(1 << 16)):
            reply = client.post("/api/studies/carried", files={"file": ("plots.rowtag", content)})
            assert reply.status_code in (400, 422, 503) and reply.json()["detail"], reply.text
        assert client.get("/api/studies").json() == [] and list(workspace.scratch.iterdir()) == []
        reply = client.post("/api/studies/carried", files={"file": ("plots.rowtag", carried.read_bytes())})
        assert reply.status_code == 201 and reply.json()["title"] == "Plots"
        assert list(workspace.scratch.iterdir()) == []
