"""Benchmarks: start-up against bare imports, identification per record, pages at a thousand pieces
against a bare page of the same server, same run.

Prints; asserts nothing about time. Run: make bench
"""

import json
import resource
import socket
import statistics
import subprocess
import sys
import tempfile
import threading
import time
import urllib.error
import urllib.request
from pathlib import Path

import numpy as np
from waitress import create_server

from greyfell.core.evidence.parse import load_json, parse_record
from greyfell.core.evidence.record import FORMAT
from greyfell.core.guidance.next_step import next_steps
from greyfell.core.identify import identify
from greyfell.core.planners.registry import PLANNERS
from greyfell.core.practice import designs as design
from greyfell.core.practice.meters import Bench, Kit
from greyfell.records.repository import Repository
from greyfell.web.app import create_app

CASES = Path(__file__).parent.parent / "tests" / "cases"
PIECES, READINGS = 1000, 40


def timed(call, times):
    """Median and 95th percentile in milliseconds."""
    spent = []
    for _ in range(times):
        start = time.perf_counter()
        call()
        spent.append(1e3 * (time.perf_counter() - start))
    return statistics.median(spent), sorted(spent)[int(0.95 * (len(spent) - 1))]


def started(command):
    """Seconds from starting a process to its end."""
    begun = time.perf_counter()
    subprocess.run([sys.executable, *command], check=True, stdout=subprocess.DEVNULL)
    return time.perf_counter() - begun


def worked(command):
    """Processor seconds of a whole process: what else the machine does takes no part."""
    before = resource.getrusage(resource.RUSAGE_CHILDREN)
    subprocess.run([sys.executable, *command], check=True, stdout=subprocess.DEVNULL)
    after = resource.getrusage(resource.RUSAGE_CHILDREN)
    return after.ru_utime + after.ru_stime - before.ru_utime - before.ru_stime


def served(folder):
    """Seconds from starting the server on a folder to its first answer."""
    with socket.socket() as free:
        free.bind(("127.0.0.1", 0))
        port = free.getsockname()[1]
    command = ["-m", "greyfell.cli", "serve", "--no-browser", "--port", str(port)]
    begun = time.perf_counter()
    server = subprocess.Popen(
        [sys.executable, *command, "--data", folder], stdout=subprocess.DEVNULL
    )
    try:
        while True:
            try:
                urllib.request.urlopen(f"http://127.0.0.1:{port}/bare", timeout=5).close()
            except urllib.error.URLError:
                time.sleep(0.005)
            else:
                return time.perf_counter() - begun
    finally:
        server.kill()
        server.wait()


def start_up(times=9):
    """Starting, as ratios of bare imports, in turns."""
    web = ["-c", "import flask, sqlalchemy.orm, waitress"]
    core = ["-c", "import numpy, click; from pydantic import BaseModel"]
    one = ["-m", "greyfell.cli", "identify", str(next(CASES.glob("case-*.json")))]
    with tempfile.TemporaryDirectory() as folder:
        served(folder)  # makes the folder
        spent = [(started(web), served(folder), worked(core), worked(one)) for _ in range(times)]
    bare, server, imports, identified = (statistics.median(x) for x in zip(*spent, strict=True))
    print(f"server answers: {server / bare:.2f} × the import of flask, SQLAlchemy and waitress")
    print(f"identify of a file: {identified / imports:.2f} × that of numpy, pydantic and click")


def thousand(rng):
    """A thousand pieces of forty readings each."""
    names = sorted(design.MAKERS)
    for n in range(PIECES):
        made = design.MAKERS[names[n % len(names)]](rng, design.EUROPE)
        bench = Bench(made, Kit(), rng)
        leads = [lead for w in made.windings for lead, _ in w.leads if lead != "core"]
        pairs = [(x, y) for i, x in enumerate(leads) for y in [*leads[i + 1 :], "core"]]
        for k in range(READINGS):
            bench.ohms(*pairs[k % len(pairs)])
        yield {
            "format": FORMAT,
            "tag": f"B-{n:04d}",
            "title": f"Bench piece {n}",
            "leads": [{"id": x} for x in leads],
            "readings": bench.taken,
        }


def large(rng):
    """A record of 14 leads and 60 readings: five windings with taps."""
    outputs = [
        design.Output("hv-secondary", 650.0, 1.5, True),
        *[design.Output("filament", 6.8, 13.0, True)] * 2,
        design.Output("filament", 5.3, 13.0),
        design.Output("bias", 55.0, 70.0),
    ]
    made = design.mains(rng, design.EUROPE, 150.0, outputs, subtype="valve")
    bench = Bench(made, Kit(), rng)
    leads = [lead for w in made.windings for lead, _ in w.leads]
    pairs = [(x, y) for i, x in enumerate(leads) for y in [*leads[i + 1 :], "core"]]
    own = [p for p in pairs if made.locate(*p)]
    for p in [*own, *[p for p in pairs if p not in own]][:56]:
        bench.ohms(*p)
    for w in made.windings[1:5]:
        bench.ratio(("A", "B"), 12.0, (w.leads[0][0], w.leads[-1][0]), 50.0)
    return parse_record(
        {
            "format": FORMAT,
            "tag": "L-1",
            "leads": [{"id": x} for x in leads],
            "readings": bench.taken,
        }
    )


def main():
    start_up()
    records = [parse_record(load_json(p.read_bytes())) for p in sorted(CASES.glob("case-*.json"))]
    spent = sorted(timed(lambda r=r: identify(r), 5)[0] for r in records)
    print(
        f"identify, {len(records)} public cases: median {statistics.median(spent):.2f} ms, "
        f"slowest {spent[-1]:.1f} ms"
    )
    rng = np.random.default_rng(1)
    big = large(rng)
    median, late = timed(lambda: identify(big), 30)
    print(
        f"identify, {len(big.leads)} leads and {len(big.readings)} readings: median "
        f"{median:.2f} ms, 95th percentile {late:.2f} ms"
    )
    ident = identify(big)
    print(f"next step of the same record: median {timed(lambda: next_steps(ident), 10)[0]:.1f} ms")
    for name, planner in PLANNERS.items():
        print(f"plan {name}: median {timed(lambda p=planner: p(dict(p.example)), 200)[0]:.3f} ms")

    with tempfile.TemporaryDirectory() as folder:
        app = create_app(Path(folder))
        repository = Repository(app.extensions["store"])
        first = 24
        pieces = list(thousand(rng))
        server = create_server(app, host="127.0.0.1", port=0, threads=2)
        threading.Thread(target=server.run, daemon=True).start()

        def get(path):
            with urllib.request.urlopen(
                f"http://127.0.0.1:{server.effective_port}{path}", timeout=60
            ) as answer:
                answer.read()

        paths = {
            "shelf": "/",
            "piece": f"/pieces/{pieces[0]['tag']}/",
            "rewind from a piece": f"/plans/rewind?piece={pieces[0]['tag']}",
        }
        for stage, batch in (("24 pieces", pieces[:first]), (f"{PIECES} pieces", pieces[first:])):
            for document in batch:
                repository.add(document)
            for path in paths.values():
                get(path)
            bare = timed(lambda: get("/bare"), 60)[0]
            for name, path in paths.items():
                median, late = timed(lambda path=path: get(path), 30)
                print(
                    f"{stage}, {READINGS} readings each: {name} {median:.1f} ms "
                    f"({median / bare:.1f} × a bare page of {bare:.2f} ms), 95th percentile "
                    f"{late:.1f} ms"
                )
        server.close()
        app.extensions["store"].close()
    print(json.dumps({"note": "ratios within one run; no time is asserted anywhere"}))


if __name__ == "__main__":
    main()
