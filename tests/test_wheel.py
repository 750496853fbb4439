"""A wheel: built from the sources alone, unpacked where nothing else of the project is, it serves
the demo with its assets, migrations and photos.
"""

import os
import re
import shutil
import subprocess
import sys
import urllib.request
import zipfile
from pathlib import Path

import pytest

ROOT = Path(__file__).parents[1]
SCRIPT = """
import pathlib, sys, threading
import greyfell
from greyfell.records.demo import load_demo
from greyfell.records.repository import Repository
from greyfell.web.app import create_app
from waitress import create_server

app = create_app(pathlib.Path(sys.argv[1]), demo=True)
load_demo(Repository(app.extensions["store"]))
server = create_server(app, host="127.0.0.1", port=0)
print(greyfell.__file__, server.effective_port, flush=True)
server.run()
"""


@pytest.fixture(scope="module")
def unpacked(tmp_path_factory):
    """The wheel's contents, in a folder of their own."""
    folder = tmp_path_factory.mktemp("wheel")
    source = folder / "source"
    source.mkdir()
    for name in ("pyproject.toml", "README.md"):
        shutil.copy(ROOT / name, source / name)
    left_out = shutil.ignore_patterns("__pycache__")
    shutil.copytree(ROOT / "greyfell", source / "greyfell", ignore=left_out)
    make = [sys.executable, "-m", "pip", "wheel", "-q", "--no-deps", "--no-build-isolation"]
    subprocess.run(
        [*make, "--disable-pip-version-check", "-w", str(folder), str(source)],
        check=True,
        cwd=folder,
    )
    made = next(folder.glob("*.whl"))
    with zipfile.ZipFile(made) as wheel:
        wheel.extractall(folder / "there")
    return folder / "there"


def test_a_wheel_serves_the_demo_where_nothing_else_of_it_is(unpacked, tmp_path):
    """Shelf, style, script, font and a photo; its own code, and no other's."""
    environment = {**os.environ, "PYTHONPATH": str(unpacked), "HOME": str(tmp_path)}
    with subprocess.Popen(
        [sys.executable, "-c", SCRIPT, str(tmp_path / "data")],
        stdout=subprocess.PIPE,
        text=True,
        cwd=tmp_path,
        env=environment,
    ) as running:
        try:
            where, port = running.stdout.readline().split()
            at = f"http://127.0.0.1:{port}"
            shelf = urllib.request.urlopen(f"{at}/", timeout=20).read().decode()
            pieces = re.findall(r"/pieces/(CQ-\d+)/", shelf)
            for address in re.findall(r'(?:href|src)="(/static/[^"]+)"', shelf):
                with urllib.request.urlopen(at + address, timeout=20) as answer:
                    assert len(answer.read()) > 100, address
            photos = urllib.request.urlopen(f"{at}/pieces/CQ-014/photos", timeout=20).read()
        finally:
            running.kill()

    assert Path(where).is_relative_to(unpacked)
    assert len(set(pieces)) >= 15
    assert b"/pieces/CQ-014/photos/" in photos


def test_a_wheel_names_its_command_and_says_what_it_needs(unpacked):
    """`greyfell`, and the requirements of a run; none of those that only tests have."""
    meta = next(unpacked.glob("*.dist-info"))
    needs = (meta / "METADATA").read_text(encoding="utf-8")

    assert "greyfell = greyfell.cli:main" in (meta / "entry_points.txt").read_text("utf-8")
    assert "Requires-Dist: flask" in needs.replace("Flask", "flask")
    assert not re.search(r"Requires-Dist: pytest[^;]*$", needs, re.M)
