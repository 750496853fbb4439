"""Benchmarks: start-up against bare imports, identification per record, pages at a thousand pieces
against a bare page of the same server, same run.

Prints; asserts nothing about time. Run: make bench
"""

import itertools
import json
import re
import resource
import shutil
import socket
import statistics
import subprocess
import sys
import tempfile
import threading
import time
import urllib.error
import urllib.parse
import urllib.request
from functools import partial
from pathlib import Path

import numpy as np
import sqlalchemy as sa
from msgspec.structs import replace
from playwright.sync_api import sync_playwright
from waitress import create_server

from greyfell.core.chain.building import build
from greyfell.core.chain.elements import parse_rig
from greyfell.core.chain.solving import exported, solve
from greyfell.core.evidence.loading import FORMAT, load_json
from greyfell.core.evidence.parse import parse_record
from greyfell.core.identify import identify
from greyfell.core.network.timeline import switched_on
from greyfell.core.planners.registry import PLANNERS
from greyfell.core.simulated import designs as design
from greyfell.core.simulated.meters import Kit, SimulatedBench
from greyfell.core.steps.next_step import next_steps
from greyfell.records.demo import load_demo
from greyfell.records.demo_rigs import RIGS
from greyfell.records.repository import Repository
from greyfell.records.store import Store
from greyfell.web.app import create_app
from tests.browser.test_browser import PAGES as EVERY_PAGE

CASES = Path(__file__).parent.parent / "tests" / "cases"
FIRST, READINGS = 24, 40


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


ARITHMETIC = ("nameplate", "peak", "wire", "claim", "scrap", "ratio_check", "leakage", "duty")
"""Planners that only reckon."""
SOLVED = ("dc_supply", "valve_supply", "dc_routes", "lamp")
"""Planners that solve a network, or a loop until it settles."""


def commands(times=7):
    """Processor time of a command as a ratio: of `--help`, or of that and numpy's import."""
    cli = ["-m", "greyfell.cli"]
    with tempfile.TemporaryDirectory() as folder:
        store = Store(Path(folder))
        load_demo(Repository(store))
        store.close()
        tried = {}
        for name in ARITHMETIC + SOLVED:
            given = Path(folder, f"{name}.json")
            given.write_text(json.dumps(PLANNERS[name].example), encoding="utf-8")
            tried[f"plan {name}"] = [*cli, "plan", name, str(given)]
        rig = Path(folder, "rig.json")
        rig.write_text(json.dumps(RIGS[0]), encoding="utf-8")
        tried["rig"] = [*cli, "rig", str(rig)]
        tried["list"] = [*cli, "list", "--data", folder]
        bare = statistics.median(worked([*cli, "--help"]) for _ in range(times))
        numpy_too = bare + statistics.median(
            worked(["-c", "import numpy"]) - worked(["-c", "pass"]) for _ in range(times)
        )
        for name, command in tried.items():
            spent = statistics.median(worked(command) for _ in range(times))
            whole = name in ("rig", *(f"plan {n}" for n in SOLVED))
            base, words = (numpy_too, "--help and numpy") if whole else (bare, "--help")
            print(f"{name}: {spent / base:.2f} × {words}")


def pieces_of(rng, count, readings=READINGS):
    """Pieces of every kind with so many readings each."""
    names = sorted(design.MAKERS)
    for n in range(count):
        made = design.MAKERS[names[n % len(names)]](rng, design.EUROPE)
        bench = SimulatedBench(made, Kit(), rng)
        leads = [lead for w in made.windings for lead, _ in w.leads if lead != "core"]
        pairs = [(x, y) for i, x in enumerate(leads) for y in [*leads[i + 1 :], "core"]]
        for k in range(readings):
            bench.ohms(*pairs[k % len(pairs)])
        yield {
            "format": FORMAT,
            "tag": f"B-{n:05d}",
            "title": f"Bench piece {n}",
            "leads": [{"id": x} for x in leads],
            "readings": bench.taken,
        }


def large(rng):
    """A record of 14 leads and 60 readings: five windings with taps."""
    outputs = [
        design.DesignedOutput("hv-secondary", 650.0, 1.5, True),
        *[design.DesignedOutput("filament", 6.8, 13.0, True)] * 2,
        design.DesignedOutput("filament", 5.3, 13.0),
        design.DesignedOutput("bias", 55.0, 70.0),
    ]
    made = design.mains(rng, design.EUROPE, 150.0, outputs, subtype="valve")
    bench = SimulatedBench(made, Kit(), rng)
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


def yardstick():
    """Milliseconds of a numpy solve of 60 × 60: what identification is compared with."""
    rng = np.random.default_rng(3)
    a, b = rng.normal(size=(60, 60)), rng.normal(size=60)
    return timed(lambda: np.linalg.solve(a, b), 200)[0]


def engine():
    """Identification of ordinary records, of a large one, and of the largest that are taken."""
    solve = yardstick()
    print(f"yardstick: a numpy solve of 60 × 60 takes {solve:.3f} ms")
    records = [parse_record(load_json(p.read_bytes())) for p in sorted(CASES.glob("case-*.json"))]
    spent = sorted(timed(lambda r=r: identify(r), 5)[0] for r in records)
    print(
        f"identify, {len(records)} public cases: median {statistics.median(spent):.2f} ms "
        f"({statistics.median(spent) / solve:.0f} ×), slowest {spent[-1]:.1f} ms"
    )
    big = large(np.random.default_rng(1))
    median, late = timed(lambda: identify(big), 30)
    ident = identify(big)
    step = timed(lambda: next_steps(ident), 10)[0]
    print(
        f"identify, {len(big.leads)} leads and {len(big.readings)} readings: median "
        f"{median:.2f} ms ({median / solve:.0f} ×), 95th percentile {late:.2f} ms; next step "
        f"{step:.1f} ms"
    )
    for name, document in largest():
        record = parse_record(document)
        median = timed(lambda record=record: identify(record), 3)[0]
        print(f"identify, {name}: {median:.0f} ms ({median / solve:.0f} ×)")
    for name, planner in PLANNERS.items():
        print(f"plan {name}: median {timed(lambda p=planner: p(dict(p.example)), 200)[0]:.3f} ms")


def largest():
    """Records as large as the format takes them, of the kinds that were slow."""
    names = [a + b for a in "ABCDEFGH" for b in "ABCDEFGH"]
    pairs = list(itertools.combinations(range(64), 2))
    ohms = [("resistance", names[i], names[j], 0.2 + j - i) for i, j in pairs]
    ohms[99] = ("resistance", *ohms[99][1:3], 900.0)
    yield "64 leads of one winding, all 2,016 pairs, one wrong", _document(names, ohms)
    rng = np.random.default_rng(2)
    volts = (230.0, 24.0, 12.0, 6.0, 100.0, 300.0)
    ratios = []
    for n in range(494):
        a, b = rng.choice(6, 2, replace=False)
        sensed = 20 * volts[b] / volts[a] * rng.normal(1, 0.004) * (5.0 if n % 10 == 0 else 1.0)
        ratios.append(("ratio", *_ends(names, a), *_ends(names, b), sensed))
    apart = [("resistance", *_ends(names, n), v**1.2 / 50) for n, v in enumerate(volts)]
    yield "494 ratios of six windings, every tenth wrong", _document(names[:12], apart + ratios)
    same = [("resistance", "AA", "AB", rng.choice([1.3, 13.0, 26.0, 0.4])) for _ in range(2000)]
    yield "2,000 readings of one pair that contradict each other", _document(names[:4], same)


def _ends(names, n):
    return names[2 * n], names[2 * n + 1]


def _document(names, rows):
    """A record of rows: kind, leads, figure."""
    made = []
    for kind, *leads, figure in rows:
        if kind == "ratio":
            said = {"driven": leads[:2], "driven_volts": 20.0, "sensed": leads[2:]}
            made.append({"kind": kind, **said, "sensed_volts": round(float(figure), 3)})
        else:
            made.append({"kind": kind, "between": leads, "ohms": round(float(figure), 2)})
    return {
        "format": FORMAT,
        "tag": "X-1",
        "leads": [{"id": x} for x in names],
        "readings": made,
    }


class Served:
    """The program on a folder of its own, and a browser's requests."""

    def __init__(self, folder):
        self.app = create_app(Path(folder))
        self.store = self.app.extensions["store"]
        self.repository = Repository(self.store)
        self.server = create_server(self.app, host="127.0.0.1", port=0, threads=4)
        self.address = f"http://127.0.0.1:{self.server.effective_port}"
        threading.Thread(target=self.server.run, daemon=True).start()
        jar = urllib.request.HTTPCookieProcessor()
        self.opener = urllib.request.build_opener(jar)
        page = self.get("/import").decode()
        self.token = re.search(r'csrf_token" value="([^"]+)"', page)[1]

    def get(self, path):
        """A page."""
        with self.opener.open(self.address + path, timeout=60) as answer:
            return answer.read()

    def jot(self, tag, line):
        """A line stored as the page's script does it."""
        fields = {"csrf_token": self.token, "line": line, "at": "cold"}
        request = urllib.request.Request(
            f"{self.address}/pieces/{tag}/jot",
            data=urllib.parse.urlencode(fields).encode(),
            headers={"X-Greyfell": "part", "Origin": self.address},
        )
        with self.opener.open(request, timeout=60) as answer:
            return answer.read()

    def multiplied(self, count):
        """Bring the shelf to so many pieces by copying rows: what the shelf costs is asked."""
        with self.store.writing() as session:
            have = session.scalar(sa.text("select count(*) from piece"))
            for n in range(have, count):
                given = {"n": n, "of": 1 + n % FIRST, "to": 1_000_000 + n}
                session.execute(sa.text(COPY_PIECE), given)
                session.execute(sa.text(COPY_CONCLUSION), given)

    def close(self):
        """Give everything back."""
        self.server.close()
        self.store.close()


COPY_PIECE = """
insert into piece select :to, uid || '-' || :n, 'C-' || :n, 'c-' || :n, title, head, version,
record_hash, created_at from piece where id = :of"""
COPY_CONCLUSION = """
insert into conclusion select :to, record_hash, core_version, 'C-' || :n, family, verdict, danger,
summary from conclusion where piece_id = :of"""


def pages():
    """The shelf and a piece at 24, 1,000 and 10,000 pieces, as ratios of a page with nothing."""
    with tempfile.TemporaryDirectory() as folder:
        bench = Served(folder)
        for document in pieces_of(np.random.default_rng(1), FIRST):
            bench.repository.add(document)
        for count in (FIRST, 1000, 10_000):
            bench.multiplied(count)
            bare = timed(lambda: bench.get("/bare"), 100)[0]
            said = []
            for name, path in PAGES.items():
                bench.get(path)
                median = timed(lambda path=path: bench.get(path), 40)[0]
                said.append(f"{name} {median / bare:.1f}")
            print(f"{count} pieces, bare {bare:.2f} ms; times that: {', '.join(said)}")
        bench.close()


PAGES = {
    "shelf": "/",
    "its second page": "/?page=2",
    "a family": "/?family=mains",
    "piece": "/pieces/B-00001/",
    "its record": "/pieces/B-00001/?at=record",
    "why": "/pieces/B-00001/why",
    "rewind from it": "/plans/rewind?piece=B-00001",
    "its rewinding": "/pieces/B-00001/rewind?use=weld-nickel",
    "its uses": "/pieces/B-00001/?at=uses",
}


def against_the_glossary():
    """Every page of the browser's tests, warm, with the demo and with 10,000 pieces, as a ratio of
    the glossary: those above ten times are named.
    """
    with tempfile.TemporaryDirectory() as folder:
        bench = Served(folder)
        load_demo(bench.repository)
        for count in (FIRST, 10_000):
            bench.multiplied(count)
            bench.get("/glossary")
            base = timed(lambda: bench.get("/glossary"), 40)[0]
            found = {}
            for path in EVERY_PAGE:
                if path.endswith("/sisters"):  # copies of a piece have no readings to hold against
                    continue
                bench.get(path)
                found[path] = timed(lambda path=path: bench.get(path), 5)[0] / base
            slow = {path: ratio for path, ratio in found.items() if ratio > MOST_GLOSSARIES}
            middle = statistics.median(found.values())
            said = f"glossary {base:.1f} ms; {len(found)} pages, median {middle:.1f}"
            print(f"{count} pieces, {said}")
            for path, ratio in sorted(slow.items(), key=lambda x: -x[1]):
                print(f"  above {MOST_GLOSSARIES}: {path} {ratio:.0f}")
        bench.close()


MOST_GLOSSARIES = 10


def jotted():
    """From a jotted line to the new picture: the server's part, and the browser's."""
    with tempfile.TemporaryDirectory() as folder:
        bench = Served(folder)
        for count in (21, 60):
            document = next(iter(pieces_of(np.random.default_rng(5), 1, count)))
            tag, (a, b) = f"J-{count}", [x["id"] for x in document["leads"][:2]]
            bench.repository.add({**document, "tag": tag})
            bare = timed(lambda: bench.get("/bare"), 100)[0]
            lines = (f"{a}-{b} 1.{n}" for n in itertools.count(10))
            median = timed(partial(_next_line, bench, tag, lines), 15)[0]
            said = f"{median:.1f} ms ({median / bare:.1f} × bare)"
            print(f"a jotted line at {count} readings: {said}")
            _in_browser(bench, tag, f"{a}-{b} 1.5")
        bench.close()


def _next_line(bench, tag, lines):
    return bench.jot(tag, next(lines))


WATCH = """() => {
  const box = document.getElementById("jot-line");
  window.times = [];
  box.addEventListener("keydown", () => { window.pressed = performance.now() });
  new MutationObserver(() => {
    const all = performance.getEntriesByType("resource");
    const asked = all.filter((e) => e.name.endsWith("/jot")).at(-1);
    if (!asked || window.times.includes(asked.responseEnd)) return;
    window.times.push(asked.responseEnd);
    const before = asked.startTime - window.pressed, after = performance.now() - asked.responseEnd;
    window.spent = [before, after];
  }).observe(document.querySelector("main"), { childList: true, subtree: true });
}"""


def _in_browser(bench, tag, line):
    """What the browser itself takes: from the key to the request, from the answer to the page."""
    chromium = shutil.which("chromium")
    if chromium is None:
        print("  Chromium is not installed: the browser's part was not measured")
        return
    with sync_playwright() as play:
        browser = play.chromium.launch(executable_path=chromium, args=["--no-sandbox"])
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        page.goto(f"{bench.address}/pieces/{tag}/")
        page.evaluate(WATCH)
        spent = []
        for _ in range(9):
            page.evaluate("() => { window.spent = null }")
            page.locator("#jot-line").fill(line)
            page.locator("#jot-line").press("Enter")
            page.wait_for_timeout(400)
            spent.append(sum(page.evaluate("() => window.spent") or [0.0]))
        print(f"  the browser's part: {statistics.median(spent):.1f} ms")
        browser.close()


RIG_CYCLES, RIG_STEPS = 10, 200


def simulated(rig, folder):
    """Seconds of the simulator's own transient analysis of a rig's ten cycles, and the RMS of the
    wall's amps over the last.
    """
    hertz = rig.supply.told("hertz")
    step = 1 / hertz / RIG_STEPS
    end = RIG_CYCLES / hertz
    control = f"""
.options method=gear gmin=1e-9
.control
set wr_singlescale
set noinit
tran {step:.9g} {end:.9g} 0 {step:.9g} uic
rusage trantime
let wall = -i(VE)
linearize wall
wrdata out.txt wall
quit 0
.endc
.end
"""
    (folder / "rig.cir").write_text(exported(rig, run=False).replace(".end\n", control))
    command = ["ngspice", "-b", "rig.cir"]
    done = subprocess.run(command, cwd=folder, capture_output=True, text=True, check=False)
    found = re.search(r"Transient analysis time = ([\d.e-]+)", done.stdout)
    if found is None or not (folder / "out.txt").exists():
        return None
    amps = np.loadtxt(folder / "out.txt")[:, 1]
    return float(found[1]), float(np.sqrt(np.mean(amps[-RIG_STEPS - 1 :] ** 2)))


def rigs():
    """Ten cycles of each demo rig, and of each with its load shorted: ours over ngspice's own
    analysis, and by how much the last cycle's amps differ; a recompute by phasors.
    """
    if shutil.which("ngspice") is None:
        print("rigs: ngspice is not installed")
        return
    ratios, off, phasors = [], [], []
    for document in RIGS:
        for load in (document["load"], {"kind": "short"}):
            rig = parse_rig({**document, "load": load})
            parts = [replace(p, angle=np.pi / 2) if p.name == "E" else p for p in build(rig).parts]
            walk = partial(switched_on, parts, cycles=RIG_CYCLES, hertz=50.0, steps=RIG_STEPS)
            ours, _ = timed(walk, 5)
            run = walk()
            with tempfile.TemporaryDirectory() as folder:
                told = simulated(rig, Path(folder))
            if told is None or not told[0]:
                continue
            amps = run.amps(build(rig).joints[0].through)[-RIG_STEPS:]
            ratios.append(ours / (1e3 * told[0]))
            off.append(abs(float(np.sqrt(np.mean(amps**2))) / told[1] - 1))
            phasors.append(timed(partial(solve, rig), 5)[0])
    print(
        f"rigs, ten cycles over ngspice's own analysis: median {statistics.median(ratios):.2f}, "
        f"from {min(ratios):.2f} to {max(ratios):.2f} over {len(ratios)}; last cycle's amps off by "
        f"{statistics.median(off):.2%}; a recompute {statistics.median(phasors):.0f} ms"
    )


def main():
    rigs()
    start_up()
    commands()
    engine()
    pages()
    against_the_glossary()
    jotted()
    print(json.dumps({"note": "ratios within one run; no time is asserted anywhere"}))


if __name__ == "__main__":
    main()
