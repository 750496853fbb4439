"""One current picture of each main view, from the demo data, into docs/screenshots. Run: make
screenshots
"""

import os
import tempfile
import threading
from pathlib import Path

from playwright.sync_api import sync_playwright
from waitress import create_server

from greyfell.core.lessons.hookup import Hookup
from greyfell.core.lessons.readings import reading_of
from greyfell.core.simulated.hidden import hidden
from greyfell.records.demo import load_demo
from greyfell.records.repository import Repository
from greyfell.web.app import create_app

FOLDER = Path(__file__).parent.parent / "docs" / "screenshots"
VIEWS = {
    "shelf": "/",
    "piece-cold": "/pieces/CQ-014/",
    "piece-low-energy": "/pieces/CQ-017/?at=low",
    "piece-stop": "/pieces/CQ-026/",
    "model": "/pieces/CQ-018/?at=model",
    "rig": "/rigs/edit",
    "clues": "/pieces/CQ-014/?at=clues",
    "practice": "/practice/PR-A11",
    "first-power": "/pieces/CQ-005/?at=power",
    "sweep": "/pieces/CQ-018/?at=sweep",
    "rewind": "/pieces/CQ-017/rewind?use=weld-nickel",
    "uses": "/pieces/CQ-017/?at=uses",
    "path": "/plans/current_path",
    "isolation": "/plans/touch_map?instrument_clip=L",
    "limiting": "/plans/limiter",
    "salvage": "/pieces/CQ-009/?at=salvage&label=0.95+or+0.98uF+2100WV",
    "output": "/plans/dc_supply",
    "dangers": "/pieces/CQ-018/dangers?use=weld-nickel&act=first+power",
    "paper": "/pieces/CQ-009/paper",
}
BENCH = (1280, 800)
ARGS = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--no-first-run",
]


def practised(repository):
    """A practice piece with three readings taken."""
    piece = hidden(11, "any")
    said = {"kind": "practice", "concerns": "any", "text": "11", "lesson": "oven"}
    kept = repository.add({**piece.document, "statements": [said]})
    pairs = [("core", "earth"), piece.fed, (piece.fed[0], "core")]
    for n, pair in enumerate(pairs):
        found = reading_of(piece, Hookup(instrument="ohms", points=pair), n)
        repository.append(kept.tag, [found])


def nothing_live_unasked(page, address):
    """The questions before a first live step, answered: what stands behind them is shown."""
    page.goto(f"{address}{VIEWS['first-power']}")
    page.get_by_label("Who else is here?").fill("Ada")
    page.get_by_label("Who can switch off, and where?").fill("Ada, the red switch at the door")
    for box in page.get_by_label("Before anything is live").get_by_role("checkbox").all():
        box.check()
    page.get_by_role("button", name="It is so: show the step").click()
    page.wait_for_load_state("networkidle")


def main():
    FOLDER.mkdir(parents=True, exist_ok=True)
    app = create_app(Path(tempfile.mkdtemp()), demo=True)
    repository = Repository(app.extensions["store"])
    load_demo(repository)
    practised(repository)
    server = create_server(app, host="127.0.0.1", port=0)
    threading.Thread(target=server.run, daemon=True).start()
    with sync_playwright() as play:
        browser = play.chromium.launch(executable_path="/usr/bin/chromium", args=ARGS)
        page = browser.new_page()
        address = f"http://127.0.0.1:{server.effective_port}"
        nothing_live_unasked(page, address)
        for name, path in VIEWS.items():
            page.set_viewport_size({"width": BENCH[0], "height": BENCH[1]})
            page.goto(f"{address}{path}")
            page.wait_for_load_state("networkidle")
            page.screenshot(path=FOLDER / f"{name}.png")
        browser.close()
    print(f"{len(VIEWS)} pictures in {FOLDER}")
    os._exit(0)


if __name__ == "__main__":
    main()
