"""A real browser against a real server: Debian's Chromium, demo data, an empty console at the end
of every test.
"""

import shutil
import threading
from contextlib import contextmanager
from pathlib import Path

import pytest
from waitress import create_server

from greyfell.records.demo import load_demo
from greyfell.records.repository import Repository
from greyfell.web.app import create_app

CHROMIUM = shutil.which("chromium-headless-shell") or shutil.which("chromium") or "chromium"
"""The same browser without its window's own pages, where Debian has it: half as long again without.
"""
AXE = Path(__file__).parents[2] / "node_modules" / "axe-core" / "axe.min.js"
QUICKER = "Autofocus processing was blocked because a document already has a focused element."
"""What Chromium notes where a key was pressed before it had put the caret: no fault of the page."""
ARGS = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--no-first-run",
]


@pytest.fixture(scope="session")
def browser():
    """One Chromium for the session; skipped, and said so, where it is missing."""
    if shutil.which(CHROMIUM) is None:
        pytest.skip("Chromium is not installed: apt-get install chromium")
    from playwright.sync_api import sync_playwright

    with sync_playwright() as play:
        opened = play.chromium.launch(executable_path=CHROMIUM, args=ARGS)
        yield opened
        opened.close()


@pytest.fixture(scope="session")
def address(tmp_path_factory):
    """The program with its demo data on a free port."""
    app = create_app(tmp_path_factory.mktemp("browser"), demo=True)
    load_demo(Repository(app.extensions["store"]))
    server = create_server(app, host="127.0.0.1", port=0, threads=4)
    threading.Thread(target=server.run, daemon=True).start()
    yield f"http://127.0.0.1:{server.effective_port}"
    server.close()
    app.extensions["store"].close()


@pytest.fixture
def page(browser, address):
    """A page at 1280x800; at the end its console must be empty and nothing may have left this
    machine.
    """
    context = browser.new_context(viewport={"width": 1280, "height": 800}, base_url=address)
    with quiet(context.new_page(), address) as opened:
        yield opened
        context.close()


@pytest.fixture(scope="session")
def shared(browser, address):
    """One context for all tests that only look: what is shipped is fetched once; axe-core stands
    in every page of it, where it is installed.
    """
    context = browser.new_context(viewport={"width": 1280, "height": 800}, base_url=address)
    if AXE.exists():
        context.add_init_script(path=AXE)
    yield context
    context.close()


@pytest.fixture
def looked(shared, address):
    """A tab of the shared context, held to the same as `page`."""
    with quiet(shared.new_page(), address) as opened:
        yield opened
        opened.close()


@contextmanager
def quiet(opened, address):
    """A page whose console stays empty, and which asks nobody but this machine."""
    said, asked = [], []
    opened.on("console", lambda m: m.text != QUICKER and said.append(f"{m.type}: {m.text}"))
    opened.on("pageerror", lambda e: said.append(f"error: {e}"))
    opened.on("request", lambda r: asked.append(r.url))
    opened.said = said
    yield opened
    assert said == []
    assert [u for u in asked if not u.startswith((address, "data:"))] == []
