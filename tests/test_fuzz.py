"""A small part of what `python -m tools.fuzz` does at length."""

import pytest

from tools.fuzz import attack_files, attack_requests


def test_mutated_files() -> None:
    """No file breaks its reader, takes it ten seconds or a gigabyte, or is refused without a sentence."""
    found = attack_files(1_000, seed=7)
    assert not found.wrong, "\n".join(found.wrong[:5])
    assert found.replies["read"] > 100 and found.replies["refused"] > 100
    assert not found.stumbles, found.stumbles


@pytest.mark.filterwarnings("ignore::pytest.PytestUnraisableExceptionWarning")  # the framework's, of a broken form
def test_odd_requests() -> None:
    """No request brings the server to an error of its own."""
    found = attack_requests(1_000, seed=7)
    assert not found.wrong, "\n".join(found.wrong[:5])
    assert found.replies["200"] > 100 and found.replies["422"] > 100
