"""What keeps studies safe, on the real screen: backups by a click, and a study that cannot be opened."""

import sqlite3
from contextlib import closing

from tests.screen.conftest import Screen, Server


def test_a_backup_and_back(screen: Screen) -> None:
    """One click makes a backup; taken back it stands as a study of its own."""
    screen.go("/")
    screen.click("demo")
    screen.until("size", "1,204 records")
    screen.go("/")
    screen.click("show-backups")
    screen.until("backups", "No backup yet")
    screen.click("back-up")
    screen.until("backup", "kB")
    screen.click("restore-backup")
    screen.css("[data-test='study'] ~ [data-test='study']")
    assert any("Fennel Row plot holders 2026, as of 20" in each.text for each in screen.all("study"))
    assert not screen.problems()


def test_a_study_that_cannot_be_opened(screen: Screen, server: Server) -> None:
    """What is wrong with its file stands where the study would be, with the way on; the others open."""
    screen.go("/")
    screen.click("demo")
    screen.until("size", "1,204 records")
    screen.go("/")
    screen.css("[data-test='new-title'] input").send_keys("Waiting list")
    screen.click("create")
    screen.find("drop")
    address = screen.driver.current_url
    server.stop()
    (server.folder / f"{address.split('/study/')[1].split('/')[0]}.sqlite").write_bytes(b"")
    server.start()
    screen.driver.get(address)
    screen.until("refused-study", "The file is empty.")
    screen.go("/study/demo/codebook")
    screen.until("size", "1,204 records")


def test_what_can_be_read_of_a_damaged_study(screen: Screen, server: Server) -> None:
    """It becomes a study of its own, which opens; once the file is put back the study itself opens again."""
    screen.go("/")
    screen.click("demo")
    screen.until("size", "1,204 records")
    address, file = screen.driver.current_url, server.folder / "demo.sqlite"
    server.stop()
    whole = file.read_bytes()
    with closing(sqlite3.connect(file)) as connection:
        connection.executescript("DELETE FROM move WHERE revision = 2")
    server.start()
    screen.driver.get(address)
    screen.until("refused-study", "not all there")
    screen.click("read-what-can-be")
    screen.until("notice", "1,204 records of")
    screen.until("size", "1,204 records")
    assert "what could be read" in screen.driver.find_element("tag name", "body").text
    assert screen.driver.current_url != address
    screen.driver.get(address)
    screen.find("refused-study")
    for ending in ("-wal", "-shm"):
        file.with_name(file.name + ending).unlink(missing_ok=True)
    file.write_bytes(whole)
    screen.click("open-again")
    screen.until("size", "1,204 records")
    assert not screen.problems()
