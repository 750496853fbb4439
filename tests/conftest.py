"""Bench furniture for every test: cases with their truth, a store, a client, small pieces made by
hand.
"""

import gc
import json
import shutil
import time
from contextlib import contextmanager
from datetime import UTC, datetime, timedelta
from functools import partial
from pathlib import Path

import pytest
from hypothesis import settings
from jinja2 import FileSystemBytecodeCache
from werkzeug.datastructures import FileStorage
from werkzeug.routing import Rule
from werkzeug.security import generate_password_hash
from werkzeug.test import encode_multipart

from greyfell import clock
from greyfell.core.evidence.loading import FORMAT, load_json
from greyfell.core.evidence.parse import parse_record
from greyfell.records.demo import load_demo
from greyfell.records.repository import Repository
from greyfell.records.store import Store
from greyfell.web import access as door
from greyfell.web.app import create_app

settings.register_profile("same", derandomize=True)
settings.register_profile("drawn", derandomize=False)
settings.load_profile("same")
"""Property tests try the same examples every time; `make fuzz` draws others."""


gc.disable()


def pytest_collection_finish():
    """Modules and tests stay to the end: the collector need not look through them, neither while
    they are read nor afterwards, nor so often.
    """
    gc.enable()
    gc.collect()
    gc.freeze()
    gc.set_threshold(20_000, 20, 20)


STARTED = time.monotonic()
THE_DAY = datetime(2026, 11, 2, 9, tzinfo=UTC)
"""The day every test happens on; its clock runs. Made-up readings are of that spring."""
clock.moment = lambda: THE_DAY + timedelta(seconds=time.monotonic() - STARTED)
CASES = Path(__file__).parent / "cases"
TRUTH = json.loads((CASES / "truth.json").read_text(encoding="utf-8"))


def every(found):
    """Whether all that was looked at holds; nothing looked at is a failure, not a success."""
    seen = list(found)
    assert seen, "nothing was looked at"
    return all(seen)


def squeezed(page):
    """A page with every run of blanks as one: where a template breaks a line is no matter."""
    return " ".join(page.split())


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


@pytest.fixture(scope="session", autouse=True)
def addresses_compiled():
    """Builders of addresses are compiled once for all tests: the same in every application, they
    cost as much as all else of a fresh one.
    """
    compiled, compile_one = {}, Rule._compile_builder

    def once(rule, append_unknown=True):
        key = (rule.rule, str(rule._trace), str(rule.defaults), append_unknown)
        if key not in compiled:
            compiled[key] = compile_one(rule, append_unknown)
        return compiled[key]

    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(Rule, "_compile_builder", once)
        yield


@pytest.fixture(scope="session", autouse=True)
def cheap_passphrases():
    """A passphrase costs a tenth of a second to weigh, on purpose; in tests a thousandth."""
    weighed = partial(generate_password_hash, method="scrypt:256:8:1")
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(door, "generate_password_hash", weighed)
        yield


def sound_oven():
    """The sound oven piece as a document."""
    return piece("ABCDE", OVEN, supply={"volts": 230, "hertz": 50})


@pytest.fixture
def oven():
    """The sound oven piece as a document."""
    return sound_oven()


@pytest.fixture(scope="session")
def empty_folder(tmp_path_factory):
    """An empty data folder, its tables made once."""
    folder = tmp_path_factory.mktemp("empty") / "data"
    Store(folder).close()
    return folder


@pytest.fixture
def store(empty_folder, tmp_path):
    """An empty data folder."""
    shutil.copytree(empty_folder, tmp_path / "data")
    made = Store(tmp_path / "data")
    yield made
    made.close()


@pytest.fixture
def repository(store):
    """A repository over the empty store."""
    return Repository(store)


@pytest.fixture(scope="session")
def compiled(tmp_path_factory):
    """Templates compiled once for all tests."""
    return FileSystemBytecodeCache(str(tmp_path_factory.mktemp("templates")))


@pytest.fixture(scope="session")
def houses(compiled, tmp_path_factory):
    """Applications that stand ready, and are used again: one, or as many as a test has at once."""
    return Houses(compiled, tmp_path_factory.mktemp("houses"))


class Houses:
    """Built once, they get another store for each test: 160 addresses and all templates cost more
    than most pages.
    """

    def __init__(self, compiled, folder):
        self.compiled = compiled
        self.folder = folder
        self.free = []

    @contextmanager
    def over(self, folder):
        """The application over a data folder, by itself until the store is closed."""
        made = self.free.pop() if self.free else self.built()
        made.extensions["store"] = Store(folder)
        yield made
        made.extensions["store"].close()
        for of_the_store in ("store", "repository", "catching up"):
            made.extensions.pop(of_the_store, None)
        self.free.append(made)

    def built(self):
        """A fresh one."""
        made = create_app(self.folder)
        made.extensions.pop("store").close()
        made.testing = True
        made.jinja_env.bytecode_cache = self.compiled
        return made


@pytest.fixture
def app(empty_folder, houses, tmp_path):
    """The application over an empty folder; CSRF stays on."""
    shutil.copytree(empty_folder, tmp_path / "web")
    with houses.over(tmp_path / "web") as made:
        yield made


@pytest.fixture(scope="session")
def demo_folder(tmp_path_factory):
    """A data folder with the demo in it, loaded once."""
    folder = tmp_path_factory.mktemp("demo") / "data"
    made = Store(folder)
    load_demo(Repository(made))
    made.close()
    return folder


@pytest.fixture
def demo(demo_folder, houses, tmp_path):
    """A client with the demo on its shelf, in a folder of its own."""
    shutil.copytree(demo_folder, tmp_path / "demo")
    with houses.over(tmp_path / "demo") as made:
        yield ready(Client(made))


@pytest.fixture(scope="module")
def looked_at(empty_folder, houses, tmp_path_factory):
    """A client with the sound oven on its shelf, for all tests of a module that only look."""
    folder = tmp_path_factory.mktemp("looked") / "data"
    shutil.copytree(empty_folder, folder)
    with houses.over(folder) as made:
        Repository(made.extensions["store"]).add(sound_oven())
        yield ready(Client(made))


BEFORE_LIVE = {"near": "Ada", "switch": "Ada, at the door", "licensed": "yes", "adults": "yes"}
"""What is answered before a first live step."""


def ready(client):
    """A client whose person answered what is asked before a first live step."""
    assert client.post("/before-live", BEFORE_LIVE).status_code == 302
    return client


class Client:
    """A test client that fetches the CSRF token as a browser would."""

    def __init__(self, app):
        self.http = app.test_client()
        self.app = app
        self.token = None

    def get(self, url, **more):
        return self.http.get(url, **more)

    def post(self, url, data=None, token=True, **more):
        data = dict(data or {})
        if token:
            data["csrf_token"] = self._token()
        if more.get("content_type") == "multipart/form-data":
            boundary, data = encode_multipart({k: _file(v) for k, v in data.items()})
            more["content_type"] = f'multipart/form-data; boundary="{boundary}"'
        return self.http.post(url, data=data, **more)

    def _token(self):
        """The session's token, of the first page that is asked for it."""
        if self.token is None:
            page = self.http.get("/import").get_data(as_text=True)
            self.token = page.split('name="csrf_token" value="')[1].split('"')[0]
        return self.token


def _file(value):
    """A (stream, name) pair as a file of a form; other values as they are."""
    return FileStorage(*value) if isinstance(value, tuple) else value


@pytest.fixture
def client(app):
    """A client that behaves."""
    return ready(Client(app))


@pytest.fixture
def bench(client, oven):
    """A client with the sound oven on its shelf."""
    Repository(client.app.extensions["store"]).add(oven)
    return client
