"""Make the demo data: the Cinder Quay Fairground Trust's pieces, measured on the simulated bench.

Every figure comes from the forward model, so the pieces are physically consistent; names and tags
are invented. Run: python scripts/make_demo.py  (writes greyfell/records/demo.json, the same bytes
every time)
"""

import json
from pathlib import Path

import numpy as np
from demo_photos import drawn
from msgspec.structs import replace

from greyfell.core.evidence.loading import FORMAT
from greyfell.core.evidence.parse import parse_record
from greyfell.core.evidence.stores import parse_item, stores_document
from greyfell.core.simulated import designs as design
from greyfell.core.simulated.designs import AMERICA, EUROPE, DesignedOutput
from greyfell.core.simulated.meters import Kit, SimulatedBench
from greyfell.core.truth.piece import Damage, Wound
from greyfell.records.demo import PHOTOS

METERS = [
    {
        "id": "M1",
        "title": "yellow pocket meter",
        "category": "CAT III",
        "max_volts_ac": 600.0,
        "input_ohms": 1e7,
    },
    {
        "id": "M2",
        "title": "bench meter",
        "category": "CAT II",
        "max_volts_ac": 1000.0,
        "input_ohms": 1e7,
    },
]


def stamp(readings, day):
    """Times for readings, five minutes apart on one day, with zone."""
    out = []
    for i, r in enumerate(readings):
        minute = 10 * 60 + 5 * i
        out.append(
            {
                **r,
                "meter": "M1",
                "by": "",
                "struck": None,
                "note": "",
                "at": f"2026-{day}T{minute // 60:02d}:{minute % 60:02d}:00+01:00",
            }
        )
    return out


def look(piece, colours, ends=None, places=None, wires=True):
    """Leads as they can be seen."""
    ends, places = ends or {}, places or {}
    out = []
    for w in piece.windings:
        for lead, _ in w.leads:
            if lead != "core":
                item = {
                    "id": lead,
                    "colour": colours.get(lead),
                    "end": ends.get(w.name, "flying"),
                    "place": places.get(w.name),
                }
                if wires and w.role != "hv-secondary":
                    item["wire_mm"] = round(w.wire_mm * 1.03, 1)
                out.append(item)
    return out


def core_of(piece, shunts="unknown", assembly=None, **more):
    side = (piece.iron.area_m2 / 0.95) ** 0.5 * 1e3
    dims = (
        {}
        if piece.iron.shape == "toroid"
        else {"tongue_mm": round(side / 1.2), "stack_mm": round(side * 1.2)}
    )
    return {
        "shape": piece.iron.shape,
        **dims,
        "mass_kg": round(piece.iron.mass_kg, 1),
        "shunts": shunts,
        "assembly": assembly,
        "potted": False,
        **more,
    }


def pairs(bench, leads, core=True, only=None):
    """Every pair of leads, then every lead to the core, as a patient owner takes them."""
    for i, x in enumerate(leads):
        for y in leads[i + 1 :]:
            if only is None or (x, y) in only:
                bench.ohms(x, y)
    if core:
        for x in leads:
            bench.ohms(x, "core")


def document(
    n,
    tag,
    title,
    piece,
    bench,
    leads,
    day,
    *,
    family=None,
    supply=EUROPE,
    core=None,
    plate=None,
    statements=(),
    parts=(),
    meters=METERS,
    donor=None,
    changes=(),
):
    breaker = (
        {"breaker_amps": 16, "breaker_curve": "B"}
        if supply.volts > 180
        else {"breaker_amps": 15, "breaker_curve": "C"}
    )
    doc = {
        "format": FORMAT,
        "id": f"00000000-0000-4000-8000-{n:012d}",
        "tag": tag,
        "title": title,
        "declared_family": family,
        "supply": {"volts": supply.volts, "hertz": supply.hertz, **breaker},
        "nameplate": plate,
        "core": core,
        "leads": leads,
        "meters": meters,
        "readings": stamp(bench.taken, day),
        "changes": list(changes),
        "statements": list(statements),
        "parts": list(parts),
        "photos": [],
        "donor": donor,
    }
    doc = {k: v for k, v in doc.items() if v is not None}
    parse_record(doc)
    return doc


def salvage(day, text="discharged through 100 kΩ, shorted, then measured 0.3 V"):
    return {
        "id": "s1",
        "kind": "salvage-done",
        "concerns": "capacitor",
        "text": text,
        "by": "",
        "at": f"2026-{day}T09:30:00+01:00",
    }


def unplugged(day):
    return {
        "id": "s1",
        "kind": "no-capacitor",
        "concerns": "capacitor",
        "text": "unplugged, taken out of its cabinet, no capacitor on it",
        "by": "",
        "at": f"2026-{day}T09:30:00+01:00",
    }


def ids(piece):
    return [lead for w in piece.windings for lead, _ in w.leads if lead != "core"]


KIOSK = {
    "id": "d00000001",
    "kind": "oven",
    "title": "Tea kiosk oven",
    "source": "tea kiosk, north pier",
    "price": "given",
    "mass_kg": 14.5,
    "date": "2026-05-02",
    "volts": 230.0,
    "hertz": 50.0,
    "line_fuse_amps": 10.0,
    "high_fuse_amps": 0.75,
    "high_fuse_volts": 2300.0,
    "inverter": False,
}
LETTERS = {
    "id": "d00000002",
    "kind": "sign",
    "title": "Helter-skelter lettering",
    "source": "dismantled front, letters H and E",
    "mass_kg": 16.0,
    "date": "2026-05-12",
    "volts": 230.0,
    "hertz": 50.0,
}
SHED = {
    "id": "d00000003",
    "kind": "welder",
    "title": "Maintenance shed welding set",
    "source": "maintenance shed",
    "price": "scrap value",
    "mass_kg": 62.0,
    "date": "2026-05-28",
    "volts": 230.0,
    "hertz": 50.0,
}
DONORS = (KIOSK, LETTERS, SHED)
"""What the demo's pieces came out of; all invented."""
OVEN_LOOK = {"A": "black", "B": "black", "C": "red", "D": "red", "E": "white"}
OVEN_ENDS = {"primary": "tab", "heater": "flying", "hv": "tab"}
OVEN_PLACES = {"primary": "lower coil", "heater": "between coils", "hv": "upper coil"}


def ovens(out):
    kit = Kit(probe_ohms=0.2)
    # CQ-014: cold, one reading short of a screening
    rng = np.random.default_rng(14)
    p = design.oven(rng)
    b = SimulatedBench(p, kit, rng)
    b.core_proof()
    pairs(b, ids(p), core=False)
    for x in ("A", "C", "D", "E"):
        b.ohms(x, "core")
    b.taken = [
        r
        for r in b.taken
        if not (r["kind"] == "resistance" and r["ohms"] == "open" and r["between"] == ["A", "core"])
    ]
    for i, r in enumerate(b.taken):
        r["id"] = f"r{i + 1}"
    out.append(
        document(
            1,
            "CQ-014",
            "Big iron from the tea kiosk oven",
            p,
            b,
            look(p, OVEN_LOOK, OVEN_ENDS, OVEN_PLACES),
            "05-02",
            core=core_of(p, "present", "welded"),
            statements=[salvage("05-02")],
            parts=[{"what": "HV capacitor", "text": "0.95 µF 2100 V AC"}],
            donor=KIOSK,
        )
    )
    # CQ-017: screened, ratio in reverse drive, heater's milliohms
    rng = np.random.default_rng(17)
    p = design.oven(rng)
    b = SimulatedBench(p, replace(kit, probe_ohms=0.1), rng)
    b.core_proof()
    pairs(b, ids(p))
    b.dc_drop("A", "B", 1.5)
    b.dc_drop("C", "D", 2.0)
    b.ratio(("E", "core"), 42.0, ("A", "B"), 50.0)
    b.ratio(("A", "B"), 6.0, ("C", "D"), 50.0)
    b.inductance("A", "B", 100.0)
    out.append(
        document(
            2,
            "CQ-017",
            "Popcorn oven, small",
            p,
            b,
            look(p, OVEN_LOOK, OVEN_ENDS, OVEN_PLACES),
            "05-03",
            family="microwave",
            core=core_of(p, "present", "welded"),
            statements=[salvage("05-03")],
        )
    )
    # CQ-018: proved, with a no-load sweep; HV wound free of the core
    rng = np.random.default_rng(18)
    p = design.oven(rng, heater=False)
    b = SimulatedBench(p, kit, rng)
    b.core_proof()
    pairs(b, ids(p))
    b.ratio(("C", "core"), 60.0, ("A", "B"), 50.0)
    for volts in (57.0, 115.0, 172.0, 207.0, 230.0):
        b.no_load(("A", "B"), volts, 50.0)
    b.taken.append(
        {
            "id": f"r{len(b.taken) + 1}",
            "kind": "dc_drop",
            "across": ["earth", "core"],
            "volts": 0.42,
            "amps": 10.0,
        }
    )
    out.append(
        document(
            3,
            "CQ-018",
            "Candyfloss stall oven, heater cut out",
            p,
            b,
            look(p, {"A": "black", "B": "black", "C": "white"}, OVEN_ENDS, OVEN_PLACES),
            "05-04",
            family="microwave",
            core=core_of(p, "present", "welded"),
            statements=[salvage("05-04")],
        )
    )
    # CQ-026: primary leaks to the core
    rng = np.random.default_rng(26)
    p = replace(
        design.oven(rng), damage=(Damage(kind="leak", winding="primary", place=0.4, ohms=3.1e5),)
    )
    b = SimulatedBench(p, kit, rng)
    b.core_proof()
    pairs(b, ids(p))
    out.append(
        document(
            4,
            "CQ-026",
            "Pier café oven, stood in the wet",
            p,
            b,
            look(p, OVEN_LOOK, OVEN_ENDS, OVEN_PLACES),
            "05-06",
            core=core_of(p, "present", "welded"),
            statements=[salvage("05-06")],
        )
    )
    # CQ-041: primary open
    rng = np.random.default_rng(41)
    p = replace(design.oven(rng), damage=(Damage(kind="open", winding="primary", place=0.4),))
    b = SimulatedBench(p, kit, rng)
    b.core_proof()
    pairs(b, ids(p))
    out.append(
        document(
            5,
            "CQ-041",
            "Coconut shy oven",
            p,
            b,
            look(p, OVEN_LOOK, OVEN_ENDS, OVEN_PLACES),
            "05-09",
            core=core_of(p, "present", "welded"),
            statements=[salvage("05-09")],
        )
    )


def signs(out):
    kit = Kit(probe_ohms=0.2)
    rng = np.random.default_rng(9)
    p = design.sign(rng)
    b = SimulatedBench(p, kit, rng)
    b.core_proof()
    pairs(b, ids(p))
    b.ratio(("C", "core"), 48.0, ("A", "B"), 50.0)
    leads = look(
        p,
        {"A": "black", "B": "white"},
        {"primary": "screw", "hv": "bushing"},
        {"primary": "middle coil", "hv": "outer coils"},
        wires=False,
    )
    out.append(
        document(
            6,
            "CQ-009",
            "Helter-skelter letter H",
            p,
            b,
            leads,
            "05-12",
            family="sign",
            donor=LETTERS,
            core=core_of(p, "present", "potted", potted=True),
        )
    )
    rng = np.random.default_rng(10)
    p = replace(
        design.sign(rng), damage=(Damage(kind="to-core", winding="primary", place=0.3, ohms=1.5),)
    )
    b = SimulatedBench(p, kit, rng)
    b.core_proof()
    pairs(b, ids(p))
    leads = look(
        p,
        {"A": "black", "B": "white"},
        {"primary": "screw", "hv": "bushing"},
        {"primary": "middle coil", "hv": "outer coils"},
        wires=False,
    )
    out.append(
        document(
            7,
            "CQ-010",
            "Helter-skelter letter E",
            p,
            b,
            leads,
            "05-12",
            family="sign",
            core=core_of(p, "present", "potted", potted=True),
        )
    )


def cabinets(out):
    kit = Kit(ohms_step=0.01, ohms_percent=0.4, probe_ohms=0.12)
    rng = np.random.default_rng(21)
    p = design.mains(rng, EUROPE, 160.0, [DesignedOutput("lv-secondary", 26.5, 1.25)], subtype="lv")
    b = SimulatedBench(p, kit, rng)
    b.core_proof()
    pairs(b, ids(p))
    b.ratio(("A", "B"), 231.0, ("C", "D"), 50.0)
    b.no_load(("A", "B"), 231.0, 50.0)
    b.test_turn(("A", "B"), 231.0, 5, 50.0)
    b.inductance("A", "B", 100.0)
    places = {"primary": "inner coil", "s1": "outer coil"}
    out.append(
        document(
            8,
            "CQ-021",
            "Dodgem cabinet, left",
            p,
            b,
            look(
                p,
                {"A": "black", "B": "black", "C": "green", "D": "green"},
                {"primary": "screw", "s1": "screw"},
                places,
            ),
            "05-15",
            family="mains",
            core=core_of(p, "absent", "interleaved"),
            plate={
                "primary_volts": 230.0,
                "hertz": 50.0,
                "va": 150.0,
                "outputs": [{"volts": 24.0, "amps": 6.0}],
                "text": "24 V 6 A",
            },
            statements=[unplugged("05-15")],
        )
    )
    rng = np.random.default_rng(22)
    p = design.sister(p, rng)  # the same make, one of them with shorted turns
    p = replace(p, damage=(Damage(kind="shorted-turns", winding="primary", place=0.2, turns=7.0),))
    b = SimulatedBench(p, kit, rng)
    b.core_proof()
    pairs(b, ids(p))
    b.inductance("A", "B", 100.0)
    b.inductance("C", "D", 100.0)
    b.ratio(("A", "B"), 12.0, ("C", "D"), 50.0)
    b.no_load(("A", "B"), 60.0, 50.0)
    b.no_load(("A", "B"), 115.0, 50.0)
    out.append(
        document(
            9,
            "CQ-022",
            "Dodgem cabinet, right",
            p,
            b,
            look(
                p,
                {"A": "black", "B": "black", "C": "green", "D": "green"},
                {"primary": "screw", "s1": "screw"},
                places,
            ),
            "05-15",
            family="mains",
            core=core_of(p, "absent", "interleaved"),
        )
    )
    rng = np.random.default_rng(30)
    outputs = [
        DesignedOutput("hv-secondary", 620.0, 1.5, True),
        DesignedOutput("filament", 6.8, 13.0),
        DesignedOutput("filament", 5.3, 13.0),
        DesignedOutput("bias", 52.0, 70.0),
    ]
    p = design.mains(rng, EUROPE, 110.0, outputs, subtype="valve")
    b = SimulatedBench(p, replace(kit, ohms_step=0.1, probe_ohms=0.2), rng)
    b.core_proof()
    pairs(b, ids(p))
    colours = {
        "A": "black",
        "B": "black",
        "C": "red",
        "D": "red",
        "E": "red",
        "F": "green",
        "G": "green",
        "H": "yellow",
        "I": "yellow",
        "J": "blue",
        "K": "blue",
    }
    leads = look(
        p,
        colours,
        {},
        {
            "primary": "inner coil",
            "s1": "middle coil",
            "s2": "outer coil",
            "s3": "outer coil",
            "s4": "middle coil",
        },
    )
    for lead in leads:
        if lead["id"] == "D":
            lead["stripe"] = "yellow"
    out.append(
        document(
            10,
            "CQ-030",
            "Carousel crate, five windings",
            p,
            b,
            leads,
            "05-18",
            core=core_of(p, "unknown", "interleaved"),
        )
    )
    rng = np.random.default_rng(44)
    p = design.mains(
        rng,
        EUROPE,
        120.0,
        [DesignedOutput("lv-secondary", 19.5, 0.62)],
        halves=True,
        toroid=True,
        subtype="dual",
    )
    b = SimulatedBench(p, kit, rng)
    b.core_proof()
    pairs(b, ids(p))
    out.append(
        document(
            11,
            "CQ-044",
            "Ticket office amplifier ring",
            p,
            b,
            look(
                p,
                {"A": "brown", "B": "blue", "C": "grey", "D": "violet", "E": "red", "F": "yellow"},
            ),
            "05-20",
            family="mains",
            core=core_of(p, "absent", "banded"),
        )
    )
    rng = np.random.default_rng(5)
    p = design.mains(
        rng, EUROPE, 250.0, [DesignedOutput("lv-secondary", 246.0, 1.15)], subtype="isolating"
    )
    b = SimulatedBench(p, kit, rng)
    b.core_proof()
    pairs(b, ids(p))
    b.ratio(("A", "B"), 12.0, ("C", "D"), 50.0)
    out.append(
        document(
            12,
            "CQ-005",
            "Waltzer controller, one to one",
            p,
            b,
            look(
                p,
                {"A": "brown", "B": "blue"},
                {"primary": "screw", "s1": "screw"},
                {"primary": "inner coil", "s1": "outer coil"},
            ),
            "05-21",
            family="mains",
            core=core_of(p, "absent", "interleaved"),
            statements=[unplugged("05-21")],
        )
    )
    rng = np.random.default_rng(38)
    p = design.mains(
        rng, AMERICA, 60.0, [DesignedOutput("lv-secondary", 13.6, 1.25, True)], subtype="lv"
    )
    b = SimulatedBench(p, kit, rng)
    b.core_proof()
    pairs(b, ids(p))
    for r in b.taken:
        if r["kind"] == "resistance" and set(r["between"]) == {"C", "E"}:
            r["ohms"] = float(f"{r['ohms'] * 10:.3g}")  # the slip this piece is here to show
    out.append(
        document(
            13,
            "CQ-038",
            "Photo booth, imported",
            p,
            b,
            look(p, {"A": "black", "B": "black", "C": "yellow", "D": "black", "E": "yellow"}),
            "05-22",
            supply=AMERICA,
            core=core_of(p, "absent", "interleaved"),
        )
    )


def single(out):
    kit = Kit(probe_ohms=0.2)
    rng = np.random.default_rng(11)
    p = design.choke(rng)
    b = SimulatedBench(p, kit, rng)
    b.core_proof()
    pairs(b, ids(p))
    b.inductance("A", "B", 100.0)
    out.append(
        document(
            14,
            "CQ-011",
            "Ghost train ballast",
            p,
            b,
            look(p, {"A": "black", "B": "white"}, {"primary": "screw"}, {"primary": "coil"}),
            "05-25",
            family="choke",
            core=core_of(p, "absent", "welded"),
        )
    )
    rng = np.random.default_rng(33)
    p = design.variable(rng)
    b = SimulatedBench(p, kit, rng)
    b.core_proof()
    pairs(b, ids(p))
    out.append(
        document(
            15,
            "CQ-033",
            "Maintenance shed variac",
            p,
            b,
            look(p, {}, {"primary": "screw"}, {"primary": "ring"}),
            "05-26",
            family="variable",
            core=core_of(p, "absent", "banded"),
        )
    )


def worked_on(out):
    """Pieces that show what a shelf gathers: rewound, of a foreign plate, with a crank."""
    kit = Kit(probe_ohms=0.1)
    rng = np.random.default_rng(52)
    p = design.oven(rng, heater=False)
    first, high = p.windings
    cable = Wound(
        name="cable",
        role="lv-secondary",
        leads=(("C", 0.0), ("D", 1.0)),
        turns=17.0,
        wire_mm=4.5,
        mean_turn_m=high.mean_turn_m,
    )
    p = replace(p, windings=(first, cable))
    b = SimulatedBench(p, kit, rng)
    b.core_proof()
    pairs(b, ids(p))
    b.dc_drop("C", "D", 5.0)
    b.ratio(("A", "B"), 24.0, ("C", "D"), 50.0)
    struck = {**b.taken[-1], "id": "r90", "sensed_volts": b.taken[-1]["sensed_volts"] * 10}
    b.taken.append(struck)
    doc = document(
        16,
        "CQ-052",
        "Popcorn oven, rewound for festoon lamps",
        p,
        b,
        look(p, {"A": "black", "B": "black", "C": "red", "D": "red"}, {"primary": "tab"}),
        "06-02",
        family="microwave",
        core=core_of(p, "present", "welded"),
        statements=[salvage("06-02")],
        changes=[
            {"id": "c1", "what": "winding-removed", "at": "2026-06-01T10:00:00+01:00"},
            {
                "id": "c2",
                "what": "rewound",
                "at": "2026-06-01T15:00:00+01:00",
                "note": "17 turns of 16 mm² cable in the place of the HV coil",
            },
        ],
    )
    reason = {"reason": "read on the 20 V range, a slip of the point", "by": ""}
    doc["readings"][-1]["struck"] = {**reason, "at": "2026-06-02T11:30:00+01:00"}
    parse_record(doc)
    out.append(doc)
    rng = np.random.default_rng(53)
    p = design.mains(
        rng, AMERICA, 100.0, [DesignedOutput("lv-secondary", 25.6, 1.25)], subtype="lv"
    )
    b = SimulatedBench(p, kit, rng)
    b.core_proof()
    pairs(b, ids(p))
    out.append(
        document(
            17,
            "CQ-053",
            "Photo booth's coin unit, foreign plate",
            p,
            b,
            look(p, {"A": "black", "B": "white", "C": "green", "D": "green"}),
            "06-03",
            family="mains",
            core=core_of(p, "absent", "interleaved"),
            plate={
                "primary_volts": 120.0,
                "hertz": 60.0,
                "va": 100.0,
                "outputs": [{"volts": 24.0, "amps": 4.0}],
                "text": "PRI 120 V 60 Hz, SEC 24 V 4 A, cl. B",
            },
            statements=[unplugged("06-03")],
        )
    )
    rng = np.random.default_rng(54)
    p = design.mains(
        rng, EUROPE, 3000.0, [DesignedOutput("lv-secondary", 62.0, 1.25)], subtype="lv"
    )
    b = SimulatedBench(p, kit, rng)
    b.core_proof()
    pairs(b, ids(p))
    out.append(
        document(
            18,
            "CQ-054",
            "Crank welder, maintenance shed",
            p,
            b,
            look(
                p,
                {"A": "brown", "B": "blue"},
                {"primary": "screw", "s1": "lug"},
            ),
            "06-04",
            core=core_of(p, "absent", slide_mm=40.0),
            donor=SHED,
            statements=[unplugged("06-04")],
        )
    )


HAND = (
    {"kind": "lamp", "title": "clear, ghost train", "watts": 40.0, "volts": 240.0, "count": 6},
    {"kind": "lamp", "title": "clear, festoon", "watts": 60.0, "volts": 240.0, "count": 2},
    {"kind": "lamp", "title": "clear, ticket office", "watts": 100.0, "volts": 240.0},
    {"kind": "heater", "title": "toaster element", "watts": 850.0, "volts": 230.0},
    {
        "kind": "ballast",
        "title": "promenade lamp gear, 250 W",
        "short_amps": 3.1,
        "at_volts": 230.0,
        "at_hertz": 50.0,
        "ohms": 4.2,
        "count": 4,
    },
    {
        "kind": "resistor",
        "title": "ceramic, on the stick",
        "ohms": 10e3,
        "working_volts": 500.0,
        "watts": 3.0,
        "tolerance_percent": 5.0,
        "count": 12,
    },
    {
        "kind": "capacitor",
        "title": "oven capacitor, shorted",
        "farads": 0.95e-6,
        "volts_ac": 2100.0,
        "tolerance_percent": 5.0,
        "bleeder_ohms": 10e6,
        "donor": KIOSK["id"],
    },
    {
        "kind": "diode",
        "title": "oven diode",
        "inverse_volts": 12e3,
        "amps": 0.35,
        "drop_volts": 9.0,
        "donor": KIOSK["id"],
    },
    {
        "kind": "fuse",
        "title": "oven line fuse",
        "amps": 10.0,
        "volts": 250.0,
        "speed": "slow",
        "donor": KIOSK["id"],
    },
    {
        "kind": "cut-out",
        "title": "oven cut-out",
        "celsius": 145.0,
        "amps": 10.0,
        "volts": 250.0,
        "donor": KIOSK["id"],
    },
    {
        "kind": "wire",
        "title": "welding cable",
        "mm2": 16.0,
        "overall_mm": 8.5,
        "material": "copper",
        "metres": 6.0,
    },
    {
        "kind": "wire",
        "title": "fine hook-up wire, for test turns",
        "mm2": 0.14,
        "overall_mm": 1.1,
        "material": "copper",
        "metres": 20.0,
    },
    {"kind": "variac", "title": "maintenance shed, CQ-033", "brush_amps": 5.0, "line_volts": 230.0},
    {"kind": "source", "title": "doorbell block", "volts": 12.0, "amps": 1.0, "current": "AC"},
    {"kind": "bench-supply", "title": "workshop supply", "volts": 30.0, "amps": 3.0},
    {
        "kind": "meter",
        "title": "green bench meter",
        "category": "CAT III",
        "max_volts_ac": 600.0,
        "input_ohms": 1e7,
        "most_ohms": 6e7,
        "least_ohms": 0.1,
        "probe_ohms": 0.2,
        "averaging": "true RMS",
        "proved": "2026-09-14",
    },
    {
        "kind": "clamp",
        "title": "old clamp",
        "most_amps": 400.0,
        "least_amps": 1.0,
        "proved": "2025-06-02",
    },
    {"kind": "residual-current-device", "title": "bench board", "trip_amps": 0.03, "type": "A"},
    {"kind": "breaker", "title": "bench board", "amps": 16.0, "curve": "B"},
    {"kind": "sheet", "title": "polyimide tape", "volts": 6e3, "celsius": 180.0, "mm": 0.06},
    {
        "kind": "switch",
        "title": "two poles, foot of the bench",
        "amps": 16.0,
        "volts": 250.0,
        "poles": 2.0,
    },
    {"kind": "fuse", "title": "slow, glass", "count": 8, "amps": 1.0, "volts": 250.0},
    {"kind": "fuse", "title": "slow, glass", "count": 5, "amps": 4.0, "volts": 250.0},
    {"kind": "fuse", "title": "slow, ceramic", "count": 3, "amps": 10.0, "volts": 250.0},
    {"kind": "lamp", "title": "clear, dodgem floodlight", "watts": 500.0, "volts": 240.0},
    {
        "kind": "wattmeter",
        "title": "plug-in, from the ticket office",
        "most_watts": 3600.0,
        "amps": 16.0,
        "volts": 250.0,
    },
    {
        "kind": "wire",
        "title": "rubber flex, its cores apart",
        "mm2": 1.5,
        "overall_mm": 3.2,
        "material": "copper",
        "metres": 7.5,
    },
    {
        "kind": "wire",
        "title": "switchgear wire, grey",
        "mm2": 0.75,
        "overall_mm": 2.3,
        "material": "copper",
        "metres": 4.0,
    },
)
"""What stands in the demo's stores; ratings as such labels carry them, all invented."""


def stores():
    """The stores as a public document, with ids that stay."""
    return stores_document(parse_item({"id": f"s{n:08x}", **d}) for n, d in enumerate(HAND, 1))


def bench(fed, *, limiter, fuse, watts=500.0, side="line", reach=True, **more):
    """A set-up of the demo, out of its stores."""
    return {
        "format": "greyfell.setup/1",
        "fed": fed,
        "plug": "proved",
        "earthed": True,
        "chain": [
            {
                "id": "rcd:s00000012",
                "kind": "residual-current-device",
                "in": "both",
                "trip_amps": 0.03,
                "title": "bench board",
                "type": "A",
            },
            {"id": f"guard:{fuse[0]}", "kind": "fuse", "in": "line", "amps": fuse[1]},
            {
                "id": "switch:s00000015",
                "kind": "switch",
                "in": "both",
                "amps": 16.0,
                "volts": 250.0,
                "poles": 2.0,
                "reach": reach,
                "title": "two poles, foot of the bench",
            },
            {
                "id": f"limiter:{limiter}",
                "kind": "lamp",
                "in": side,
                "watts": watts,
                "volts": 240.0,
                "title": "clear lamp",
            },
        ],
        **more,
    }


SETUPS = {
    "CQ-018": bench(
        ["A", "B"],
        limiter="s00000019",
        fuse=("s00000018", 10.0),
        earth=["core"],
        covered=["C"],
        hands_off=True,
    ),
    "CQ-021": bench(
        ["A", "B"],
        limiter="s00000003",
        fuse=("s00000016", 1.0),
        watts=100.0,
        earth=["core"],
        covered=["C", "D"],
    ),
    "CQ-005": bench(
        ["A", "B"],
        limiter="s00000019",
        fuse=("s00000017", 4.0),
        side="neutral",
        reach=False,
        earth=["core"],
        covered=["C"],
        hands_off=True,
    ),
}
"""Benches of the demo: two sound ones, and one with three things wrong."""


WIRES = {
    "CQ-014": {
        "A": ("thermal cut-out of the motor plate", "mains"),
        "B": ("door switch, lower", "mains"),
        "C": ("magnetron, tube end", "heater"),
        "D": ("magnetron, capacitor end", "heater"),
        "E": ("HV capacitor", "magnetron"),
    },
    "CQ-009": {
        "A": ("terminal block, left", "mains"),
        "B": ("terminal block, right", "mains"),
        "C": ("ride lettering, first letter", "tubes in a row"),
        "D": ("ride lettering, last letter", "tubes in a row"),
    },
    "CQ-030": {
        "A": ("fuse of the organ's amplifier", "mains"),
        "B": ("mains switch", "mains"),
        "C": ("rectifier, plate 1", "anode volts"),
        "D": ("chassis", "middle of the anode volts"),
        "E": ("rectifier, plate 2", "anode volts"),
    },
}
"""Where leads of the demo went before they were cut, and what they fed; invented."""
TAKEN = "2026-04-30T17:{minute:02d}:00+01:00"


def photographed(out):
    """Drawn photos with every lead marked, and a wire table, for an oven, a sign and a valve
    piece; the pictures beside the data.
    """
    folder = Path(__file__).parent.parent / "greyfell" / "records" / PHOTOS
    folder.mkdir(exist_ok=True)
    for old in folder.glob("*.jpg"):
        old.unlink()
    for n, (tag, wires) in enumerate(WIRES.items()):
        (document,) = (d for d in out if d["tag"] == tag)
        for lead in document["leads"]:
            went, fed = wires.get(lead["id"], (None, None))
            lead |= {"went": went, "fed": fed} if went else {}
        leads = [(lead["id"], lead.get("colour")) for lead in document["leads"]]
        name = f"{tag}-1.jpg"
        at = TAKEN.format(minute=n)
        made = drawn(f"photos/{name}", leads, at, tall=len(leads) > 6)
        document["photos"] = [made.entry]
        (folder / name).write_bytes(made.data)


def set_up(out):
    """The benches that some pieces are fed from."""
    for document in out:
        if document["tag"] in SETUPS:
            document["setup"] = SETUPS[document["tag"]]


def main():
    out = []
    for part in (ovens, signs, cabinets, single, worked_on, photographed, set_up):
        part(out)
    donors = {"format": "greyfell.donors/1", "donors": list(DONORS)}
    demo = {"pieces": out, "stores": stores(), "donors": donors}
    path = Path(__file__).parent.parent / "greyfell" / "records" / "demo.json"
    path.write_text(
        json.dumps(demo, ensure_ascii=False, indent=1) + "\n",
        encoding="utf-8",
    )
    print(f"{len(out)} pieces, {path.stat().st_size // 1024} kB")


if __name__ == "__main__":
    main()
