"""Throw anything at Greyfell and see that it answers: requests over all routes and verbs, records,
lines of the jotter, planners' inputs, rigs. Run: make fuzz [SEED=…]

Nothing may end in an answer of 500, an exception that is not a sentence, something half stored, or
more than two seconds. Bounded, and the same for the same seed.
"""

import copy
import io
import json
import math
import random
import re
import sys
import tempfile
import time
from collections import Counter
from contextlib import contextmanager
from pathlib import Path

import click

from greyfell.core.chain.elements import AHEAD, BEHIND, KINDS, LOAD, parse_rig
from greyfell.core.chain.elements import FORMAT as RIG_FORMAT
from greyfell.core.chain.refusing import planned
from greyfell.core.chain.solving import exported
from greyfell.core.errors import FieldError
from greyfell.core.evidence.jotter import EXAMPLES, read_line
from greyfell.core.evidence.kinds.registry import by_key
from greyfell.core.evidence.lenient import parse_kept
from greyfell.core.evidence.loading import load_json
from greyfell.core.evidence.parse import parse_record
from greyfell.core.exchange.table import as_table
from greyfell.core.identify import answer, identify
from greyfell.core.planners.registry import PLANNERS
from greyfell.core.steps.next_step import next_steps
from greyfell.core.steps.summary import summarise
from greyfell.records.checking import check
from greyfell.records.demo import demo_documents, demo_pictures
from greyfell.records.repository import Repository
from greyfell.web.app import create_app

SLOW = 2.0
"""Seconds that nothing may take."""
NASTY = (
    *(0, -1, 1, 1e-15, 1e15, 1e300, -1e300, 1e-300, 2**63, 10**400, math.nan, math.inf, 0.1),
    *(True, None, "", " ", "open", "core", "earth", "e\u0301", "\ud800", "\x00", "<script>"),
    *("a\nb", "\r\nX: y", "//[", "query=a\n"),
    *("'\"`", "x" * 300, "../../etc/passwd", "%00", "A-B 1.3", "1e999", "-", "½", "\u0967"),
    *([], [[]], {}, {"a": 1}, ["A", "B"], ["A", "A"], ["core", "earth"], [None, 3]),
)
"""What people, programs and accidents put in."""
VERBS = ("GET", "POST", "HEAD", "OPTIONS", "PUT", "DELETE", "PATCH")


class Tally:
    """What happened, and everything that may not."""

    def __init__(self):
        self.counts = Counter()
        self.bad = []

    @contextmanager
    def looking(self, what, given):
        """Count what is done with something given; a sentence is an answer, all else is not."""
        begun = time.perf_counter()
        try:
            yield
            self.counts[f"{what}: taken"] += 1
        except FieldError as error:
            self.counts[f"{what}: refused with a sentence"] += 1
            if not error.sentence.strip():
                self.tell(what, "an empty sentence", given)
        except Exception as error:
            self.tell(what, f"{type(error).__name__}: {error}", given)
        if time.perf_counter() - begun > SLOW:
            self.tell(what, f"{time.perf_counter() - begun:.1f} s", given)

    def tell(self, what, wrong, given):
        """Something that may not be."""
        self.bad.append(f"{what}: {wrong}\n  {str(given)[:3000]!r}")


# ------------------------------------------------------------------ records


def figure(rng):
    """A figure between the bounds of the format, or one of the odd ones."""
    if rng.random() < 0.15:
        return rng.choice([n for n in NASTY if isinstance(n, float | int)])
    return float(f"{10 ** rng.uniform(-14, 14):.3g}") if rng.random() < 0.3 else rng.uniform(0, 300)


def reading(rng, leads):
    """A reading of any kind between any points."""
    kind = rng.choice(list(by_key()))
    points = [*leads, "core", "earth"]
    out = {"kind": kind}
    for name, field in by_key()[kind].model_fields.items():
        if name in ("kind", "id", "typed", "accuracy", "struck", "at"):
            continue
        if not field.is_required() and rng.random() < 0.7:
            continue
        name = field.alias or name
        said = str(field.annotation)
        if name in ("links", "shorted"):
            out[name] = [rng.sample(points, 2) for _ in range(rng.randrange(3))]
        elif "tuple" in said:
            out[name] = rng.sample(points, 2)
        elif name == "glow":
            out[name] = rng.choice(["dark", "dim", "bright"])
        elif name == "to":
            out[name] = rng.choice(["earth", "core"])
        elif name == "from":
            out[name] = rng.choice(points)
        elif name == "ohms" and rng.random() < 0.3:
            out[name] = "open"
        elif "bool" in said:
            out[name] = rng.random() < 0.5
        elif "float" in said:
            out[name] = figure(rng)
        else:
            out[name] = rng.choice(["", "x", "M1"])
    return out


def places(node, path=()):
    """Every place within a document."""
    inside = {dict: dict.items, list: enumerate}.get(type(node))
    for key, value in inside(node) if inside is not None else ():
        yield (*path, key)
        yield from places(value, (*path, key))


def mutated(rng, document):
    """A document with a few things otherwise."""
    out = copy.deepcopy(document)
    leads = [x["id"] for x in document["leads"]]
    for _ in range(rng.choice([0, 1, 1, 2, 5])):
        found = list(places(out))
        *where, last = rng.choice(found)
        node = out
        for key in where:
            node = node[key]
        if rng.random() < 0.2 and isinstance(node, dict):
            del node[last]
        else:
            node[last] = copy.deepcopy(rng.choice(NASTY)) if rng.random() < 0.6 else figure(rng)
    if isinstance(out.get("readings"), list):
        out["readings"] += [reading(rng, leads) for _ in range(rng.choice([0, 0, 1, 4, 12]))]
        if rng.random() < 0.05:
            out["readings"] *= rng.randrange(2, 9)
    return out


def concluded(record, unread=()):
    """Everything that is said of a record, as JSON."""
    ident = identify(record, unread)
    steps = next_steps(ident)
    told = [answer(ident), summarise(ident, steps).as_json(), *(s.as_json() for s in steps)]
    choked = [f for f in ident.faults if "no answer where it is weighed" in f.sentence]
    if choked:
        raise AssertionError(f"left out: {choked[0].sentence}")
    return json.dumps(told, allow_nan=False).encode()


def records(rng, count, tally, documents):
    """Documents as they come in, and the same as if they had been kept."""
    for _ in range(count):
        document = mutated(rng, rng.choice(documents))
        with tally.looking("record", document):
            concluded(parse_record(load_json(json.dumps(document))))
        if rng.random() < 0.3:
            with tally.looking("kept record", document):
                concluded(*parse_kept(document))


# ------------------------------------------------------------------ lines and planners


def lines(rng, count, tally):
    """Lines of the jotter: its examples, cut, joined and strewn with anything."""
    letters = "ABCDEabcde-–=:,.()/ 0123456789kMΩµVAHzopenOL→~±½é\x00\ud800\n\t"
    leads = list("ABCDE")
    for _ in range(count):
        line = rng.choice([*EXAMPLES, "A-B 1.3 ohm", "C-D 0.6..0.7..1.0V", "strike r3 wrong range"])
        for _ in range(rng.choice([0, 1, 2, 6])):
            at = rng.randrange(len(line) + 1)
            new = rng.choice([rng.choice(letters), str(rng.choice(NASTY)), line[:at]])
            line = (line[:at] + new + line[at + rng.randrange(3) :])[:400]
        with tally.looking("line", line):
            jotted = read_line(line, leads, 230.0)
            if jotted.reading is not None:
                json.dumps(jotted.reading, allow_nan=False).encode("utf-8", "surrogatepass")


def planners(rng, count, tally):
    """Planners' inputs: their examples with anything in them."""
    names = list(PLANNERS)
    for _ in range(count):
        planner = PLANNERS[rng.choice(names)]
        given = copy.deepcopy(dict(planner.example))
        for key in [k for k in given if rng.random() < 0.15]:
            del given[key]
        for _ in range(rng.choice([1, 1, 2, 4])):
            *where, last = rng.choice(list(places(given)) or [("x",)])
            node = given
            for key in where:
                node = node[key]
            node[last] = copy.deepcopy(rng.choice(NASTY)) if rng.random() < 0.5 else figure(rng)
        with tally.looking(f"plan {planner.name}", given):
            json.dumps(planner(given), allow_nan=False)


# ------------------------------------------------------------------ rigs


def rigs(rng, count, tally):
    """Rows that mostly can be, with one figure or two that cannot."""
    for _ in range(count):
        rig = copy.deepcopy(PLAIN_RIG)
        rig["piece"]["ratio"] = rng.choice([0.02, 0.05, 0.5, 1.0, 9.0])
        for place, where in (("ahead", AHEAD), ("ahead", AHEAD), ("behind", BEHIND)):
            if rng.random() < 0.6:
                rig[place].append(element(rng, where))
        if rng.random() < 0.5:
            rig["load"] = element(rng, LOAD)
        for part in rng.sample([rig["supply"], rig["piece"]], rng.randrange(3)):
            part[rng.choice([k for k in part if k != "bond"])] = figure(rng)
        if rng.random() < 0.3:
            rig["piece"][rng.choice(["straight", "power", "air_henries"])] = rng.choice([0, 1, 2])
        with tally.looking("rig", rig):
            parsed = parse_rig(rig)
            asked = planned(parsed)
            json.dumps([asked.by, *(j.as_json() for j in asked.joints)], allow_nan=False)
            exported(parsed)


PLAIN_RIG = {
    "format": RIG_FORMAT,
    "supply": {"volts": 230.0, "hertz": 50.0, "ohms": 0.4, "breaker_amps": 16.0},
    "ahead": [],
    "piece": {
        "volts": 230.0,
        "hertz": 50.0,
        "ratio": 0.05,
        "primary_ohms": 1.6,
        "secondary_ohms": 0.1,
        "leakage_henries": 0.045,
        "idle_amps": 1.5,
        "core_watts": 60.0,
        "bond": "none",
    },
    "behind": [],
    "load": {"kind": "open"},
    "enclosed": True,
}
"""Iron of an oven's size on the line, rewound for few volts."""
USUAL = (1e-3, 0.1, 0.5, 1.0, 2.0, 10.0, 50.0, 100.0, 230.0)


def element(rng, where):
    """An element that may stand at a place, with figures that mostly can be."""
    kind = rng.choice([k for k in KINDS.values() if where in k.where])
    out = {"kind": kind.key}
    for f in kind.figures:
        usual = rng.choice(f.choices or USUAL)
        out[f.key] = usual if f.choices or rng.random() < 0.95 else figure(rng)
    return out


# ------------------------------------------------------------------ requests


SENSIBLE = (*EXAMPLES, "r1", "r2", "cold", "salvage", "salvage-done", "E-core 87", "CQ-014", "12")
BOXES = (
    *("line", "at", "once", "meter", "text", "kind", "reason", "tag", "leads", "version", "page"),
    *("query", "back", "step", "concerns", "agree", "function"),
    *("supply_volts", "core_mass_kg", "title", "piece", "target_volts", "sort"),
    *("figure", "begins", "unit", "word", "lead", "x", "y", "end", "went", "why", "marking"),
)
PICTURES = demo_pictures()
"""What is typed, and the boxes it is typed into."""


def spoilt(rng, data):
    """Bytes with some changed, or cut short; sometimes whole."""
    out = bytearray(data)
    for _ in range(rng.choice((0, 0, 1, 5, 50))):
        out[rng.randrange(len(out))] = rng.randrange(256)
    return bytes(out[: rng.choice((len(out), len(out), rng.randrange(1, len(out))))])


class Browser:
    """Asks a server as a browser would, or as nobody should."""

    def __init__(self, app, rng):
        self.http, self.rng = app.test_client(), rng
        self.token = ""
        self.renew()
        self.rules = [r for r in app.url_map.iter_rules() if r.endpoint != "static"]

    def renew(self):
        """A token that holds, as a page gives it."""
        page = self.http.get("/import").get_data(as_text=True)
        self.token = re.search(r'csrf_token" value="([^"]+)"', page)[1]

    def words(self):
        """Something for a box."""
        found = self.rng.choice(SENSIBLE if self.rng.random() < 0.6 else NASTY)
        return str(found)[:400]

    def address(self, rule, tags):
        """An address of a route, mostly with names that there are."""
        names = [file.partition("/")[2] for file in PICTURES] if "photos" in rule.rule else PLANNERS
        known = {"tag": tags, "name": [*names], "reading": ["r1", "r2", "r9"]}

        def name(found):
            real = self.rng.random() < 0.9
            text = self.rng.choice(known.get(found[1], ["x"])) if real else self.words()
            return re.sub(r"[\s/?#\\]", "-", text.encode("utf-8", "replace").decode()) or "-"

        return re.sub(r"<(?:\w+:)?(\w+)>", name, rule.rule)

    def form(self, rule, documents, valid):
        """Boxes of a form, with anything in them."""
        rng = self.rng
        fields = {k: self.words() for k in rng.sample(BOXES, rng.randrange(1, 8))}
        if valid:
            fields["csrf_token"] = self.token
        if rule.rule == "/import":
            document = mutated(rng, rng.choice(documents))
            fields |= {"text": json.dumps(document), "agree": "yes"}
            if rng.random() < 0.2:
                fields["file"] = (io.BytesIO(rng.randbytes(200)), "x.zip")
            elif rng.random() < 0.2:
                fields["text"] = spoilt(rng, self.passport(rng.choice(documents)).encode())
        if rule.rule.endswith("/photos"):
            data = spoilt(rng, rng.choice([*PICTURES.values()]))
            fields["photo"] = (io.BytesIO(data), "a.jpg")
        if rule.rule.endswith("/table"):
            table = as_table(parse_record(rng.choice(documents)))
            fields |= {"table": spoilt(rng, table.encode()), "agree": "yes"}
        return fields

    def passport(self, document):
        """A passport that is here, of a piece by its tag; a sentence where it is not."""
        return self.http.get(f"/pieces/{document['tag']}/passport.html").get_data(as_text=True)

    def still_slow(self, url, verb):
        """Whether the same takes as long again: else the machine was busy with something else."""
        begun = time.perf_counter()
        self.http.open(url, method=verb)
        return time.perf_counter() - begun > SLOW

    def ask(self, tags, documents, tally):
        """One request; whether it was a write, and whether it reached the core."""
        rng = self.rng
        rule = rng.choice(self.rules)
        url = self.address(rule, tags)
        verb = rng.choice(VERBS if rng.random() < 0.2 else sorted(rule.methods & {"GET", "POST"}))
        write = verb == "POST"
        valid = write and rng.random() < 0.8
        fields = self.form(rule, documents, valid)
        if not write:
            fields = {k: v for k, v in fields.items() if not isinstance(v, tuple)}
        headers = {"X-Greyfell": "part"} if rng.random() < 0.3 else {}
        if rng.random() < 0.03:
            headers["Host"] = re.sub(r"[^ -~]", "", self.words()) or "x"
        sent = {"data": fields} if write else {"query_string": fields}
        given = (verb, url, fields)
        begun = time.perf_counter()
        try:
            found = self.http.open(url, method=verb, headers=headers, **sent)
        except UnicodeEncodeError:
            return False, False  # the test's own client cannot send it
        spent = time.perf_counter() - begun
        tally.counts[f"request: {found.status_code // 100}xx"] += 1
        if found.status_code >= 500:
            tally.tell("request", found.status_code, given)
        if spent > SLOW and self.still_slow(url, verb):
            tally.tell("request", f"{spent:.1f} s", given)
        if b"Traceback" in found.data:
            tally.tell("request", "a traceback", given)
        if write and found.status_code in (302, 400):
            self.renew()  # locked, or refused: the next form is a fresh one
        return write, write and found.status_code in (200, 302, 409, 422)


def requests(rng, count, tally, documents):
    """Requests over all routes and verbs on a shelf of their own; then the shelf is looked over."""
    with tempfile.TemporaryDirectory() as folder:
        app = create_app(Path(folder))
        store = app.extensions["store"]
        repository = Repository(store)
        for document in demo_documents():
            repository.bring_in(document)
        browser, writes, valid = Browser(app, rng), 0, 0
        tags = repository.tags()
        for n in range(count):
            wrote, could = browser.ask(tags, documents, tally)
            writes, valid = writes + wrote, valid + could
            if n % 500 == 0:
                tags = repository.tags()
        for wrong in check(store).wrong:
            tally.tell("shelf", wrong, "")
        for tag in repository.tags():
            if browser.http.get(f"/pieces/{tag}/").status_code != 200:
                tally.tell("shelf", "a stored piece does not open", tag)
        tally.counts["shelf: pieces at the end"] = len(repository.tags())
        store.close()
    share = valid / max(1, writes)
    tally.counts[f"request: writes that reached the core, {100 * share:.0f} % of"] = writes


def run(seed, counts):
    """Everything; the tally of it."""
    tally, rng = Tally(), random.Random(seed)
    here = Path(__file__).parents[1] / "tests" / "cases"
    cases = [json.loads(p.read_text(encoding="utf-8")) for p in sorted(here.glob("case-*.json"))]
    documents = [*cases, *demo_documents()]
    records(rng, counts["records"], tally, documents)
    lines(rng, counts["lines"], tally)
    planners(rng, counts["planners"], tally)
    rigs(rng, counts["rigs"], tally)
    requests(rng, counts["requests"], tally, documents)
    return tally


@click.command()
@click.option("--seed", default=1, envvar="SEED", show_default=True)
@click.option("--requests", default=20_000, show_default=True)
@click.option("--records", default=100_000, show_default=True)
@click.option("--lines", default=100_000, show_default=True)
@click.option("--planners", default=20_000, show_default=True)
@click.option("--rigs", default=3_000, show_default=True)
def main(seed, **counts):
    """Throw anything at Greyfell."""
    begun = time.perf_counter()
    tally = run(seed, counts)
    for what, count in sorted(tally.counts.items()):
        print(f"{count:8} {what}")
    for bad in tally.bad[:40]:
        print(bad, file=sys.stderr)
    print(f"{len(tally.bad)} that may not be, seed {seed}, {time.perf_counter() - begun:.0f} s")
    sys.exit(bool(tally.bad))


if __name__ == "__main__":
    main()
