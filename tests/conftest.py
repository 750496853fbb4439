"""Bench furniture for every test: cases with their truth, a store, a client, small pieces made by
hand.
"""

import json
from pathlib import Path

import pytest
from werkzeug.datastructures import FileStorage
from werkzeug.test import encode_multipart

from greyfell.core.evidence.parse import load_json, parse_record
from greyfell.core.evidence.record import FORMAT
from greyfell.records.repository import Repository
from greyfell.records.store import Store
from greyfell.web.app import create_app

CASES = Path(__file__).parent / "cases"
TRUTH = json.loads((CASES / "truth.json").read_text(encoding="utf-8"))


def case(number):
    """The record of one public case."""
    return parse_record(load_json((CASES / f"case-{number}.json").read_bytes()))


def truth(number):
    """What is true of one public case."""
    return TRUTH[f"case-{number}.json"]


def piece(leads, readings=(), **more):
    """A record made by hand: leads as letters, readings as (x, y, ohms) or as documents."""
    made = []
    for n, r in enumerate(readings, 1):
        doc = (
            dict(r)
            if isinstance(r, dict)
            else {"kind": "resistance", "between": [r[0], r[1]], "ohms": r[2], "probe_ohms": 0.0}
        )
        if doc.get("ohms") == "open":
            doc.setdefault("range_ohms", 20e6)
        made.append({"id": f"r{n}", **doc})
    return {
        "format": FORMAT,
        "tag": "T-1",
        "leads": [{"id": x} if isinstance(x, str) else x for x in leads],
        "readings": made,
        **more,
    }


MAINS = [
    {"kind": "core_proof", "ohms": 0.1},
    ("A", "B", 33.0),
    ("C", "D", 0.13),
    ("A", "C", "open"),
    ("A", "core", "open"),
    ("C", "core", "open"),
]
"""A sound 50 VA mains transformer of 12 V as an ohmmeter sees it."""
PLATE = {"primary_volts": 230.0, "hertz": 50.0, "secondary_volts": 12.0, "va": 50.0}
OVEN = [
    {"kind": "core_proof", "ohms": 0.1},
    ("A", "B", 1.3),
    ("C", "D", 0.0),
    ("E", "core", 96.0),
    ("A", "C", "open"),
    ("A", "E", "open"),
    ("C", "E", "open"),
    ("A", "core", "open"),
    ("B", "core", "open"),
    ("C", "core", "open"),
]
"""A sound 230 V oven transformer as an ohmmeter sees it."""
KNOWN_OVEN = {
    "nameplate": {"primary_volts": 230.0, "hertz": 50.0},
    "core": {"tongue_mm": 38.0, "stack_mm": 66.0, "mass_kg": 5.5, "shunts": "present"},
}
"""Its plate and iron: what ties its turns to the volts it was made for."""
BOND = {"kind": "dc_drop", "across": ["earth", "core"], "volts": 0.45, "amps": 10.0}
"""Earth to its core, by ten amps."""


@pytest.fixture
def oven():
    """The sound oven piece as a document."""
    return piece("ABCDE", OVEN, supply={"volts": 230, "hertz": 50})


@pytest.fixture
def store(tmp_path):
    """An empty data folder."""
    made = Store(tmp_path / "data")
    yield made
    made.close()


@pytest.fixture
def repository(store):
    """A repository over the empty store."""
    return Repository(store)


@pytest.fixture
def app(tmp_path):
    """The application over an empty folder; CSRF stays on."""
    made = create_app(tmp_path / "web")
    made.testing = True
    yield made
    made.extensions["store"].close()


class Client:
    """A test client that fetches the CSRF token as a browser would."""

    def __init__(self, app):
        self.http = app.test_client()
        self.app = app

    def get(self, url, **more):
        return self.http.get(url, **more)

    def post(self, url, data=None, token=True, **more):
        data = dict(data or {})
        if token:
            page = self.http.get("/pieces/new").get_data(as_text=True)
            data["csrf_token"] = page.split('name="csrf_token" value="')[1].split('"')[0]
        if more.get("content_type") == "multipart/form-data":
            boundary, data = encode_multipart({k: _file(v) for k, v in data.items()})
            more["content_type"] = f'multipart/form-data; boundary="{boundary}"'
        return self.http.post(url, data=data, **more)


def _file(value):
    """A (stream, name) pair as a file of a form; other values as they are."""
    return FileStorage(*value) if isinstance(value, tuple) else value


@pytest.fixture
def client(app):
    """A client that behaves."""
    return Client(app)


@pytest.fixture
def bench(client, oven):
    """A client with the sound oven on its shelf."""
    Repository(client.app.extensions["store"]).add(oven)
    return client
