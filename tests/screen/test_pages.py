"""Pages that are handed on, in the real browser: what anybody wrote into a study is text there, and does nothing."""

from pathlib import Path
from urllib.parse import quote

from tests.screen.conftest import Screen, Server
from tests.screen.test_editions import fetched, study_of
from tests.screen.test_walk import bring_in

HURT = "<img src=x onerror='window.hurt=1'><script>window.hurt=1</script></textarea></style><svg onload=window.hurt=1>"


def asked(screen: Screen, path: str, body: object) -> dict[str, object]:
    """What the server replies to the page's own request."""
    script = """
    const [path, body, done] = arguments
    fetch(path, {method: 'POST', headers: {'content-type': 'application/json'}, body: JSON.stringify(body)})
      .then((reply) => reply.json()).then(done)
    """
    found = screen.driver.execute_async_script(script, path, body)
    assert isinstance(found, dict) and "status" not in found, found
    return found


def test_markup_in_every_text(screen: Screen, server: Server, tmp_path: Path) -> None:
    """Title, head, entry, label, wording, code, remark, rule, edition, name of a file: read as they were written."""
    screen.driver.set_script_timeout(120)
    path = tmp_path / "<b>plots<img src=x onerror=window.hurt=1>.csv"
    head = '"' + HURT.replace('"', '""') + '"'
    path.write_text(f"plot,{head},hours\n" + "".join(f"{n},{head},{n}\n" for n in range(1, 9)), encoding="utf-8")
    bring_in(screen, path, "8 records × 3 variables")
    study = study_of(screen)
    url = f"/api/studies/{study}"
    shown = screen.driver.execute_async_script(
        "fetch(arguments[0]).then((reply) => reply.json()).then(arguments[1])", url
    )
    at, (plot, said, hours) = shown["revision"], shown["order"]
    asked_steps = [
        {"do": "define", "variables": [said, hours], "parts": {"label": HURT, "question": HURT, "note": HURT}},
        {"do": "list codes", "variables": [hours], "lines": [{"code": "1", "label": HURT}]},
        {"do": "mark missing", "variables": [hours], "lines": [{"code": "8", "reason": "refused", "label": HURT}]},
        {"do": "keep sheet", "sheet": "sheet1", "name": HURT, "text": HURT},
        {"do": "remark", "comment": "note1", "on": {"record": 1, "variable": said, "text": HURT}},
        {"do": "group", "battery": "bat1", "title": HURT, "variables": [said, hours]},
        {"do": "accept", "check": "unlisted codes", "variable": hours, "entries": ["2"], "reason": HURT},
        {"do": "keep rule", "rule": "rule1",
         "says": {"title": HURT, "holds": {"text": "x = 1", "names": {"x": hours}}}},
        {"do": "set entries", "variable": plot, "entries": {"1": HURT}},
    ]  # fmt: skip
    edition = asked(screen, f"{url}/editions", {"name": HURT[:80], "note": HURT})
    for number, step in enumerate(asked_steps):
        body = {"id": f"markup-{number:04}", "base": at, "step": step}
        at = asked(screen, f"{url}/steps", body)["revision"]
    pages = ("/story", "/check-report", f"/comparison?one={quote(str(edition['id']))}")
    for number, page in enumerate(pages):
        file = tmp_path / f"page{number}.html"
        file.write_bytes(fetched(screen, url + page))
        assert HURT.encode() not in file.read_bytes()
        screen.driver.get(file.as_uri())
        assert "onerror='window.hurt=1'" in screen.css("body").text, page
        assert not screen.driver.execute_script("return window.hurt"), page
        assert screen.driver.find_elements("css selector", "img, script:not([type]), svg[onload]") == [], page
    for stop in ("codebook", "records", "checks", "tables", "diary", "derive", "handover"):
        screen.go(f"/study/{study}/{stop}")
        screen.until("size", "8 records")
        assert not screen.driver.execute_script("return window.hurt"), stop
