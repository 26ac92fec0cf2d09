"""The data at hand make a reading surer, or doubted."""

import pytest

from rowtag.core.codebook import Described
from rowtag.core.tag import CodeLine, MissingLine, Parts
from rowtag.documents.weighing import DOUBTED, ELSEWHERE, SURE, weighed

PARTS = Parts(
    codes=(CodeLine(code="1", label="own"), CodeLine(low="2", high="4", label="shared")),
    missing=(MissingLine(code="-9", label="refused", reason="refused"),),
)


@pytest.mark.parametrize(
    ("entries", "certainty"),
    [
        ({"1", "3", "-9"}, SURE),
        ({"1.0", "2"}, SURE),
        ({"1", "7"}, 0.7),
        ({"7", "8"}, DOUBTED),
        ({"own", "Shared"}, 0.7),
        (set(), SURE - 0.02),
    ],
)
def test_codes_are_weighed_by_what_occurs(entries: set[str], certainty: float) -> None:
    """Codes that are all that occurs are sure, codes that never occur are doubted and said so."""
    (found,) = weighed([Described("tenure", PARTS, certainty=0.7)], {"Tenure": frozenset(entries)})
    assert found.certainty == certainty and ("none of its codes" in found.reason) == (certainty == DOUBTED)


def test_names_that_the_data_do_not_have_are_less_sure() -> None:
    """Another name that stands beside one counts as well; a document about other data is left as it is."""
    shed, gate = Described("shed", certainty=0.9), Described("g", certainty=0.9, also="gate")
    told = {each.name: each.certainty for each in weighed([shed, gate], {"gate": frozenset({"N"})})}
    assert told == {"shed": round(0.9 * ELSEWHERE, 2), "g": SURE - 0.02}
    assert weighed([shed], {"other": frozenset()}) == (shed,)
