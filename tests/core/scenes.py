"""Scenes of the situations in `tests/cases/situations.json`: a piece by its name with what is
changed of it, a bench made by hand, a row, a use, the work planned, the act.
"""

import json
from functools import cache

from msgspec.structs import replace

from greyfell.core.chain.elements import parse_rig
from greyfell.core.chain.solving import solve
from greyfell.core.coil_design.conductors import catalogue, sheet
from greyfell.core.dangers.scene import Plan, Scene
from greyfell.core.evidence.parse import parse_record
from greyfell.core.identify import identify
from greyfell.core.uses.all_uses import use_of
from greyfell.records.demo import demo_documents
from tests.conftest import BOND, CASES, MAINS, OVEN, PLATE, piece
from tests.core.test_hazards import BELL, SIGN, VARIABLE
from tests.core.test_setup import BY_HAND, element, sound

SITUATIONS = json.loads((CASES / "situations.json").read_text(encoding="utf-8"))
SUPPLY = {"supply": {"volts": 230, "hertz": 50}}
DOCUMENTED = ("CQ-021", "CQ-005", "CQ-011")
POOR = {"kind": "dc_drop", "across": ["earth", "core"], "volts": 3.0, "amps": 1.0}
LOW_DRIVE = {"kind": "ratio", "driven": ["C", "D"], "driven_volts": 12.0, "sensed": ["A", "B"]}
RATIO = {"kind": "ratio", "driven": ["A", "B"], "driven_volts": 230.0, "sensed": ["C", "D"]}
FILTER = [{"kind": "core_proof", "ohms": 0.1}, ("A", "B", 4.7e5), ("C", "D", 12.0)]
APART = [("A", "C", "open"), ("A", "core", "open"), ("C", "core", "open")]


def like_mains(volts):
    """A piece of two windings, the second of some mains' volts."""
    readings = [r for r in MAINS if not (isinstance(r, tuple) and r[:2] == ("C", "D"))]
    plate = {"primary_volts": 230.0, "hertz": 50.0, "secondary_volts": volts, "va": 300.0}
    readings += [("C", "D", 2.2), {**RATIO, "sensed_volts": volts}]
    return piece("ABCD", readings, nameplate=plate, **SUPPLY)


def of_demo(tag):
    """A piece of the demo as a document."""
    return next(d for d in demo_documents() if d["tag"] == tag)


@cache
def base(name):
    """A piece by its name, as a document."""
    made = {
        "bell": lambda: piece("ABCD", BELL, nameplate=PLATE, **SUPPLY),
        "sign": lambda: piece("ABCD", SIGN, **SUPPLY),
        "variable": lambda: piece("ABC", VARIABLE, **SUPPLY),
        "oven": lambda: of_demo("CQ-018"),
        "bare-oven": lambda: piece("ABCDE", OVEN, **SUPPLY),
        "valve": lambda: of_demo("CQ-014"),
        "heavy": lambda: of_demo("CQ-052"),
        "halves": lambda: of_demo("CQ-044"),
        "choke": lambda: piece("AB", [("A", "B", 2.0)], declared_family="choke", **SUPPLY),
        "welder": lambda: piece("AB", [("A", "B", 0.2)], title="crank welder", **SUPPLY),
        "one-to-one": lambda: like_mains(230.0),
        "converter": lambda: like_mains(115.0),
        "bonded-low": lambda: piece(
            "ABCD", [*BELL[:-1], ("C", "core", 0.4)], nameplate=PLATE, **SUPPLY
        ),
        "poor-bond": lambda: piece("ABCDE", [*OVEN, POOR], **SUPPLY),
        "backwards": lambda: piece(
            "ABCD", [*BELL, {**LOW_DRIVE, "sensed_volts": 220.0}], nameplate=PLATE, **SUPPLY
        ),
        "filtered": lambda: piece("ABCD", [*FILTER, *APART], **SUPPLY),
        "light-oven": lambda: piece(
            "ABCDE", OVEN, core={"mass_kg": 0.5}, declared_family="microwave", **SUPPLY
        ),
    }
    if name.startswith("mains-"):
        document = of_demo(DOCUMENTED[int(name.removeprefix("mains-"))])
        return {k: v for k, v in document.items() if k != "setup"}
    return made[name]()


BENCHES = {row[0]: row[2] for row in BY_HAND}
BENCHES["+dimmer"] = lambda s: replace(s, chain=(*s.chain, element("d", "dimmer", "line")))
BENCHES["+unearthed"] = lambda s: replace(s, earth=())
BENCHES[""] = lambda s: s
TESTED = {"kind": "insulation", "between": ["A", "core"], "ohms": 1e9, "test_volts": 500}


def bench(name, document):
    """A bench made by hand, on the demo's piece that has one."""
    tag = document["tag"] if document["tag"].startswith("CQ-") else "CQ-021"
    return BENCHES[name](sound(tag)).as_json()


def scene_of(told):
    """One situation as a scene, made once."""
    return _made(json.dumps(told, sort_keys=True))


@cache
def _made(text):
    told = json.loads(text)
    ident = None
    if "piece" in told:
        document = {**base(told["piece"]), **told.get("with", {})}
        if told.get("tested"):
            document["readings"] = [*document["readings"], {**TESTED, "id": "t1"}]
        if "bench" in told:
            if not document["tag"].startswith("CQ-"):
                document = {**base("mains-0"), **told.get("with", {})}
            document["setup"] = bench(told["bench"], document)
        ident = identify(parse_record(document))
    row = solve(parse_rig(told["rig"])) if "rig" in told else None
    wound = {"sheet": sheet(2.0, 30.0), "aluminium sheet": sheet(2.0, 30.0, "aluminium")}
    conductor = wound.get(told.get("wound", ""))
    if told.get("wound") == "cable":
        conductor = next(c for c in catalogue() if c.made == "cable")
    planned = {"use", "works", "joint", "added", "wound"} & set(told)
    use = use_of(told.get("use", ""))
    plan = Plan(
        use="" if use is None else use.key,
        title="" if use is None else use.title,
        refused="" if use is None else use.refused,
        conductor=conductor,
        works=tuple(told.get("works", ())),
        joint=told.get("joint", ""),
        added_turns=bool(told.get("added")),
    )
    return Scene(ident=ident, row=row, plan=plan if planned else None, act=told.get("act", ""))


__all__ = ["BOND", "SITUATIONS", "scene_of"]
