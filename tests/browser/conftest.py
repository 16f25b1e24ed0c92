"""Debian's chromium with WebGL in software, a live server, and a worker process beside it."""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
import time
from collections.abc import Iterator

import pytest
from django.db import connection
from playwright.sync_api import Page, expect

from tests.conftest import make_user

# Playwright keeps an event loop on this thread; the database is only used between its calls.
os.environ["DJANGO_ALLOW_ASYNC_UNSAFE"] = "true"

# A software renderer on a busy machine may take its time; what is shown counts, not how soon.
expect.set_options(timeout=30_000)


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    for item in items:
        if "tests/browser" in str(item.fspath):
            item.add_marker(pytest.mark.browser)


@pytest.fixture(scope="session")
def browser_type_launch_args() -> dict[str, object]:
    return {
        "executable_path": shutil.which("chromium"),
        "args": [
            "--no-sandbox", "--use-angle=swiftshader", "--enable-unsafe-swiftshader", "--disable-quic",
            "--disable-background-networking", "--disable-component-update", "--disable-sync", "--no-first-run",
        ],
    }  # fmt: skip


@pytest.fixture
def browser_context_args() -> dict[str, object]:
    return {"viewport": {"width": 1280, "height": 800}, "accept_downloads": True, "reduced_motion": "reduce"}


@pytest.fixture
def open_shop(transactional_db: None, shop: None):
    """The shop with its owner, in a database that other processes see."""
    return make_user("Owner")


@pytest.fixture
def worker(open_shop, worker_environment: dict[str, str]) -> Iterator[subprocess.Popen[bytes]]:
    """A background worker as a process of its own."""
    process = subprocess.Popen(
        [sys.executable, "-m", "django", "procrastinate", "worker", "--concurrency", "1"],
        env=worker_environment, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL,
    )  # fmt: skip
    yield process
    process.terminate()
    process.wait(timeout=30)


#: Of the database, by anybody else, right now or in a transaction that goes on.
_AT_WORK = """
    SELECT count(*) FROM pg_stat_activity
    WHERE datname = current_database() AND pid <> pg_backend_pid() AND state <> 'idle'
"""


def _wait_for_the_database(seconds: float = 20.0) -> None:
    """Wait for what a page asked for last: tables that are emptied below a transaction lock each other out."""
    until = time.monotonic() + seconds
    with connection.cursor() as cursor:
        while time.monotonic() < until:
            cursor.execute(_AT_WORK)
            if cursor.fetchone() == (0,):
                return
            time.sleep(0.05)


@pytest.fixture
def desk(page: Page, live_server, open_shop, request: pytest.FixtureRequest) -> Iterator[Page]:
    """A page signed in as the owner.

    Anything the browser complains of fails the test, but for what its mark `complains_of` names.
    """
    page.set_default_timeout(60_000)
    complaints: list[str] = []
    page.on("console", lambda m: complaints.append(m.text) if m.type in ("error", "warning") else None)
    page.on("pageerror", lambda e: complaints.append(str(e)))
    page.goto(f"{live_server.url}/people/sign-in/")
    page.get_by_label("Name").fill("owner")
    page.get_by_label("Password").fill("ownerowner")
    page.get_by_role("button", name="Sign in").click()
    page.wait_for_url("**/orders/")
    yield page
    complaints = list(complaints)
    page.goto("about:blank")
    _wait_for_the_database()
    # A software renderer reports that reading pixels back stalls it, a refused list is an answer that
    # a test asked for, and a redraw that a newer one replaces is aborted: no faults of the page.
    stalls = ("GPU stall", "GL Driver Message")
    marked = request.node.get_closest_marker("complains_of")
    named = marked.args if marked else ()
    expected = (*named, *stalls, "status of 413", "status of 422", "htmx:afterRequest", "htmx:sendAbort")
    assert [c for c in complaints if not any(e in c for e in expected)] == []
