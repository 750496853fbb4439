"""The demo data that ships with the program: made by scripts/make_demo.py on the simulated
bench.
"""

import json
from datetime import datetime, timedelta
from pathlib import Path
from typing import Any

from greyfell import clock
from greyfell.records.demo_rigs import demo_plans
from greyfell.records.donors import Donors
from greyfell.records.plans import Plans
from greyfell.records.repository import Repository
from greyfell.records.stores import Stores

FILE = Path(__file__).with_name("demo.json")
PHOTOS = "demo_photos"
"""The folder of the drawn photos, beside it."""
YOUNG = timedelta(days=200)
"""How old the newest reading of the demo may be: a bond and an open are good for a year."""


def demo_documents() -> list[dict[str, Any]]:
    """The demo pieces as public documents."""
    pieces: list[dict[str, Any]] = json.loads(FILE.read_text(encoding="utf-8"))["pieces"]
    return pieces


def demo_stores() -> dict[str, Any]:
    """What stands in the demo's stores, as a public document."""
    stores: dict[str, Any] = json.loads(FILE.read_text(encoding="utf-8"))["stores"]
    return stores


def demo_donors() -> dict[str, Any]:
    """What the demo's pieces came out of, as a public document."""
    donors: dict[str, Any] = json.loads(FILE.read_text(encoding="utf-8"))["donors"]
    return donors


def load_demo(repository: Repository) -> int:
    """Bring the demo pieces and stores in where they are not here yet. Returns how many pieces were
    added.
    """
    Stores(repository.store).bring_in(demo_stores())
    Donors(repository.store).bring_in(demo_donors())
    Plans(repository.store).bring_in(demo_plans())
    added = 0
    for document in younger(demo_documents(), clock.moment()):
        tag, outcome = repository.bring_in(document)
        added += outcome == "added"
        if outcome == "added" and document.get("photos"):
            repository.bring_pictures(tag, demo_pictures())
    return added


def younger(pieces: list[dict[str, Any]], now: datetime) -> list[dict[str, Any]]:
    """The pieces, all their times moved by the same whole days where the newest is older than
    `YOUNG`: what they show of a gate is the same in any year.
    """
    times = [datetime.fromisoformat(at) for piece in pieces for at in _times(piece)]
    late = now - max(times, default=now) - YOUNG
    if late.days < 0:
        return pieces
    return [_moved(piece, timedelta(days=late.days + 1)) for piece in pieces]


def _times(part: Any) -> list[str]:
    if isinstance(part, list):
        return [at for one in part for at in _times(one)]
    if not isinstance(part, dict):
        return []
    own = [part["at"]] if isinstance(part.get("at"), str) else []
    return own + [at for one in part.values() for at in _times(one)]


def _moved(part: Any, by: timedelta) -> Any:
    if isinstance(part, list):
        return [_moved(one, by) for one in part]
    if not isinstance(part, dict):
        return part
    moved = {key: _moved(one, by) for key, one in part.items()}
    if isinstance(part.get("at"), str):
        moved["at"] = (datetime.fromisoformat(part["at"]) + by).isoformat()
    return moved


def demo_pictures() -> dict[str, bytes]:
    """The drawn photos of the demo's pieces by their files in the records."""
    folder = FILE.with_name(PHOTOS)
    return {f"photos/{path.name}": path.read_bytes() for path in sorted(folder.glob("*.jpg"))}
