"""A headless Chromium from Debian's packages, driven through Selenium; reaches nothing but this machine."""

from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from tempfile import TemporaryDirectory

from selenium import webdriver
from selenium.webdriver.chrome.options import Options
from selenium.webdriver.chrome.service import Service

FLAGS = (
    "--headless=new",
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--host-resolver-rules=MAP * ~NOTFOUND , EXCLUDE 127.0.0.1 , EXCLUDE localhost",
    "--window-size=1300,900",
    "--force-prefers-reduced-motion",
)


@contextmanager
def browser(downloads: Path | None = None, width: int = 1280, height: int = 800) -> Iterator[webdriver.Chrome]:
    """A fresh browser whose page is exactly `width` × `height`; downloads go to a folder."""
    with TemporaryDirectory() as profile:
        options = Options()
        for flag in (*FLAGS, f"--user-data-dir={profile}"):
            options.add_argument(flag)
        options.binary_location = "/usr/bin/chromium"
        if downloads is not None:
            options.add_experimental_option("prefs", {"download.default_directory": str(downloads)})
        driver = webdriver.Chrome(options=options, service=Service("/usr/bin/chromedriver"))
        try:
            size = {"width": width, "height": height, "deviceScaleFactor": 1, "mobile": False}
            driver.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", size)
            yield driver
        finally:
            driver.quit()
