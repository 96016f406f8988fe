"""The real thing: application and weather stand-in behind ports, Debian's Chromium in front."""

import os
import shutil
from collections.abc import Iterator
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from tests.support.seeded import Pool, running
from tests.support.serving import Site


@pytest.fixture(scope="session")
def browser_type_launch_args() -> dict:
    # The shell is the same browser without its windows: a third of the time.
    names = ("chromium-headless-shell", "chromium", "chromium-browser", "google-chrome")
    browser = next((p for name in names if (p := shutil.which(name))), None)
    assert browser, "Chromium is missing: `make setup-test` installs it"
    arguments = ["--disable-dev-shm-usage", "--disable-gpu", "--disable-background-networking", "--disable-component-update"]
    # One process for the pages of all tests: each would compile the same scripts again.
    arguments += ["--disable-site-isolation-trials", "--process-per-site"]
    if os.geteuid() == 0:
        arguments.append("--no-sandbox")
    return {"executable_path": browser, "args": arguments}


@pytest.fixture(scope="session")
def browser_context_args() -> dict:
    return {"viewport": {"width": 1280, "height": 800}, "locale": "en-US", "timezone_id": "Asia/Tokyo"}


# Machines are noisy: an answer may be slow, it must only come. A first plan of all jobs takes twelve seconds of an idle core.
_PATIENCE_MS = 90_000
expect.set_options(timeout=_PATIENCE_MS)


@pytest.fixture
def page(page: Page) -> Page:
    page.set_default_timeout(_PATIENCE_MS)
    return page


@pytest.fixture
def site(world: tuple[Path, Pool], tmp_path: Path) -> Iterator[Site]:
    with running(*world, tmp_path / "data") as found:
        yield found


@pytest.fixture
def quiet_page(page: Page) -> Iterator[Page]:
    """A page whose console must stay clean: no script error, nothing refused by the policy."""
    said: list[str] = []
    page.on("console", lambda m: said.append(m.text) if m.type == "error" and "422" not in m.text else None)
    page.on("pageerror", lambda e: said.append(str(e)))
    yield page
    assert said == []
