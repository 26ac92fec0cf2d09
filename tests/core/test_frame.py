"""Frame: whatever concerns records is read block by block, and holds what a loop over records would."""

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from rowtag.core.column import column_of_numbers, column_of_texts
from rowtag.core.frame import Frame
from rowtag.core.reading import State
from rowtag.core.study import Records, Study, Variable
from rowtag.core.tag import CodeLine, MissingLine, Tag
from tests import generate, reference

STATES = {"valid": 0, "missing": 1, "blank": 2, "unreadable": 3, "unlisted": 4}


@given(generate.studies(), st.integers(1, 5), st.data())
def test_blocks_hold_what_a_loop_would(study: Study, size: int, data: st.DataObject) -> None:
    """Tokens, states and values of chosen records, in whatever blocks, are those of one record after another."""
    arrived = study.records.arrived
    chosen = data.draw(st.none() | st.lists(st.booleans(), min_size=arrived, max_size=arrived).map(np.array))
    frame = Frame(study, chosen)
    blocks = list(frame.blocks(size=size))
    positions = [at for block in blocks for at in block.positions.tolist()]
    assert positions == [at for at in range(arrived) if chosen is None or chosen[at]]
    assert frame.size == len(positions) and max(len(block.positions) for block in blocks) <= size
    for id in study.order:
        column, tag = study.column(id), study.tag(id)
        texts = column.texts_at(column.indexes(0, arrived))
        read = [reference.read(texts[at], tag) for at in positions]
        assert [state for block in blocks for state in block.states(id)] == [STATES[each.state] for each in read]
        values = np.concatenate([block.values(id) for block in blocks])
        assert np.isnan(values).tolist() == [each.state != "valid" or tag.type == "text" for each in read]
        counts = frame.counts(id)
        assert {text: int(count) for text, count in zip(column.texts().to_pylist(), counts, strict=True) if count} == {
            text: [texts[at] for at in positions].count(text) for text in {texts[at] for at in positions}
        }


def test_weights_and_removed_records() -> None:
    """Weights come from a variable's valid values; removed records are in no block; lines tell which code."""
    tags = (
        Tag(name="q", type="integer", codes=(CodeLine(code="1"), CodeLine(code="2")), missing=(MissingLine(code="9"),)),
        Tag(name="w", type="decimal", use="weight"),
    )
    columns = (column_of_texts(["1", "2", "2", "9", "1"]), column_of_numbers(np.array([0.5, 2.0, -1.0, np.nan, 4.0])))
    study = Study(records=Records(5, (5,))).with_variables(
        (f"v{at}", Variable(tag=tag), column) for at, (tag, column) in enumerate(zip(tags, columns, strict=True))
    )
    frame = Frame(study, weight="v1")
    (block,) = frame.blocks()
    assert block.weights.tolist() == [0.5, 2.0, 0.0, 0.0]
    assert block.lines("v0").tolist() == [0, 1, 1, 0] and block.states("v0")[3] == State.MISSING
    assert frame.counts("v0").tolist() == [0, 0.5, 2.0, 0]
    assert Frame(study).numbers_of("v0", [1]) == [1] and study.fill("v1").unlisted == 0
