"""The package as others install it: from a wheel, into an environment that holds nothing but what it needs."""

import re
import subprocess
from pathlib import Path

import httpx2
import pytest

from tests.test_server import serving

ROOT = Path(__file__).parents[1]
INSTALLED = ROOT / ".venv-wheel"


def pinned(name: str) -> dict[str, tuple[str, list[str]]]:
    """The packages of a lock file: version and hashes of each."""
    out: dict[str, tuple[str, list[str]]] = {}
    for entry in re.split(r"\n(?=\S)", (ROOT / name).read_text().replace("\\\n", " ").strip()):
        package, version = re.match(r"([\w.-]+)==(\S+)", entry).groups()  # type: ignore[union-attr]
        out[package] = version, re.findall(r"--hash=sha256:[0-9a-f]{64}", entry)
    return out


def test_every_package_is_pinned_by_its_hash() -> None:
    """What runs is also what is developed with; nothing comes without a hash, from the front end either."""
    run, develop = pinned("requirements.lock"), pinned("requirements-dev.lock")
    assert run.items() <= develop.items() and len(run) < len(develop)
    for name in ("requirements.lock", "requirements-dev.lock", "requirements-node.lock"):
        assert all(hashes for _, hashes in pinned(name).values()), name
    packages = (ROOT / "web/package-lock.json").read_text()
    assert packages.count('"resolved":') <= packages.count('"integrity": "sha512-')


@pytest.fixture
def rowtag() -> str:
    if not (INSTALLED / "installed").is_file():
        pytest.fail("The wheel is not installed; run make wheel.")
    return str(INSTALLED / "bin" / "rowtag")


def test_the_wheel_works_in_an_empty_environment(rowtag: str, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """It has all it needs and nothing of this folder; the demo's page, its parts and its work are there."""
    monkeypatch.chdir(tmp_path)
    python = INSTALLED / "bin" / "python"
    assert not subprocess.run([python, "-m", "pip", "check"], capture_output=True, text=True).returncode
    where = subprocess.run([python, "-c", "import rowtag; print(rowtag.__file__)"], capture_output=True, text=True)
    assert INSTALLED in Path(where.stdout.strip()).parents
    arguments = ("demo", "--workspace", str(tmp_path / "ws"), "--port", "0", "--no-token")
    with (
        serving(*arguments, command=[rowtag]) as (_, address),
        httpx2.Client(base_url=address.split("/study")[0]) as client,
    ):
        page = client.get("/study/demo/codebook", headers={"accept": "text/html"}).text
        parts = re.findall(r'(?:src|href)="(/assets/[^"]+)"', page)
        assert parts and all(client.get(part).status_code == 200 for part in parts)
        assert len(client.get("/api/studies/demo").json()["variables"]) > 20
        handed = client.post("/api/intake", files={"file": ("plots.csv", b"plot,rent\n1,20\n2,\n")})
        assert handed.status_code == 201, handed.text
        body = {"study": client.post("/api/studies", json={"title": "Plots"}).json()["id"], "step_id": "bring-in-1"}
        body["settings"] = handed.json()["settings"]
        job = client.post(f"/api/intake/{handed.json()['id']}/bring-in", json=body)
        assert job.status_code == 200, job.text
