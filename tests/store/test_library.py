"""Code lists and rules kept across studies, and workspaces from before there was a library."""

from pathlib import Path

import pytest
import sqlalchemy as sa

from rowtag.core.errors import NotThere
from rowtag.core.ruletext import WrittenRule
from rowtag.core.tag import CodeLine
from rowtag.store.workspace import Workspace

AGREE = [CodeLine(code="1", label="No"), CodeLine(low="2", label="Yes")]


def test_lists_are_kept_under_their_names(workspace: Workspace, tmp_path: Path) -> None:
    """One name is one list, whatever its capitals; a list lasts beyond the server, ranges and all."""
    workspace.library.keep(" agree2 ", AGREE)
    workspace.library.keep("Agree2", AGREE[::-1])
    workspace.library.keep("a list", AGREE[:1])
    assert [(each.name, len(each.lines)) for each in workspace.library.lists()] == [("a list", 1), ("Agree2", 2)]
    workspace.close()
    again = Workspace(workspace.folder)
    assert again.library.lists()[1].lines == tuple(AGREE[::-1])
    again.library.drop("AGREE2")
    with pytest.raises(NotThere, match="no code list called “agree2”"):
        again.library.drop("agree2")
    again.close()


def test_rules_are_kept_under_their_titles(workspace: Workspace) -> None:
    """One title is one rule, whatever its capitals; a rule lasts beyond the server, with why it holds."""
    rule = WrittenRule("Few hours", "if tenure = 3\nthen hours is blank", "warning", "asked in 2026\nonly")
    workspace.library.keep_rule(WrittenRule("few HOURS", "hours < 90"))
    workspace.library.keep_rule(rule)
    workspace.close()
    again = Workspace(workspace.folder)
    assert again.library.rules() == [rule]
    again.library.drop_rule(" few hours ")
    with pytest.raises(NotThere, match="no rule called “few hours”"):
        again.library.drop_rule("few hours")
    again.close()


def test_an_older_workspace_gets_a_library(tmp_path: Path) -> None:
    """A catalogue from before opens, keeps its studies, and has an empty library."""
    workspace = Workspace(tmp_path)
    study = workspace.create("Plots 2026")
    workspace.close()
    engine = sa.create_engine(f"sqlite:///{tmp_path / 'catalogue.sqlite'}")
    with engine.begin() as connection:
        connection.execute(sa.text("DROP TABLE list"))
        connection.execute(sa.text("DROP TABLE rule"))
        connection.execute(sa.text("ALTER TABLE study DROP COLUMN seen"))
        connection.execute(sa.text("UPDATE alembic_version SET version_num = '0001'"))
    engine.dispose()
    opened = Workspace(tmp_path)
    assert opened.entry(study.id).title == "Plots 2026" and opened.entry(study.id).seen is None
    assert opened.library.lists() == [] and opened.library.rules() == []
    opened.library.keep("agree2", AGREE)
    opened.close()
