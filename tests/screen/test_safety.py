"""What keeps studies safe, on the real screen: backups by a click, and a study that cannot be opened."""

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
