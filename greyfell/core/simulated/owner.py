"""An owner at the bench: which readings they take of a piece, with what kit, and where they forget,
guess or slip.

Makes whole records with their truth from the forward model, by level of evidence: cold, clues, low,
live. For evaluation and the practice bench. Nothing here reads what identification believes.
"""

import math
from collections.abc import Sequence
from typing import Any

import numpy as np
from msgspec import Struct, field
from msgspec.structs import replace

from greyfell.core.evidence.loading import FORMAT
from greyfell.core.figures.mains import MAINS_VOLTS, half_volts, high_region
from greyfell.core.simulated import designs
from greyfell.core.simulated.designs import AMERICA, EUROPE, MAKERS, OWN_MAINS, Region
from greyfell.core.simulated.meters import BOND, Kit, SimulatedBench
from greyfell.core.simulated.worlds import HOME, World
from greyfell.core.truth.direct_current import dc_ohms
from greyfell.core.truth.piece import Piece, Wound
from greyfell.core.truth.readings import open_circuit_volts

LEVELS = ("cold", "clues", "low", "live")


SHARES = {
    "oven": 0.27,
    "sign": 0.13,
    "lv": 0.19,
    "valve": 0.16,
    "dual": 0.05,
    "isolating": 0.05,
    "step": 0.03,
    "choke": 0.06,
    "variable": 0.06,
}


FAULTS = ("open", "to-core", "leak", "shorted-turns", "between")


FAULT_SHARES = (0.2, 0.3, 0.25, 0.1, 0.15)


COLOURS = {
    "primary": (("black", "black"), ("brown", "blue"), ("black", "white"), ("blue", "blue")),
    "primary-half": (("brown", "blue"), ("grey", "violet"), ("black", "black")),
    "hv-secondary": (("red", "red"), ("red", "red"), ("orange", "orange")),
    "filament": (("yellow", "yellow"), ("green", "green"), ("white", "white"), ("red", "red")),
    "lv-secondary": (
        ("yellow", "yellow"),
        ("green", "green"),
        ("red", "red"),
        ("blue", "blue"),
        ("white", "white"),
        ("orange", "orange"),
    ),
    "bias": (("blue", "blue"), ("grey", "grey")),
    "choke": (("black", "white"), ("black", "black")),
}


ANY_COLOUR = tuple(sorted({c for pairs in COLOURS.values() for pair in pairs for c in pair}))


PLACES = {
    ("oven", "primary"): "lower coil",
    ("oven", "hv"): "upper coil",
    ("oven", "heater"): "between coils",
    ("sign", "primary"): "middle coil",
    ("sign", "hv"): "outer coils",
}


class OwnerTold(Struct):
    """A record with its truth: what the piece is, what the record settles, which faults were put in
    and shown.
    """

    document: dict[str, Any]
    piece: Piece
    level: str
    sound: bool
    supply: float
    faults: list[str] = field(default_factory=list)
    shown: bool = False
    slipped: bool = False
    renamed: dict[str, str] = field(default_factory=dict)

    def volts(self, w: Wound) -> float:
        """True open-circuit volts of a winding, end to end, with the primary on the supply.
        REF-M-02.
        """
        primary = self.piece.winding("primary")
        fed = (primary.leads[0][0], primary.leads[-1][0])
        ends = (w.leads[0][0], w.leads[-1][0])
        halves = any(x.role == "primary-half" for x in self.piece.windings)
        each = half_volts(self.supply) if halves else self.supply
        if primary.role == "primary" and len(primary.leads) > 2 and self.piece.family == "mains":
            each = self.supply / _fed_share(self.piece, self.supply)
        whole = replace(self.piece, damage=())
        return each if w.name == "primary" else open_circuit_volts(whole, fed, each, ends)


def _fed_share(piece: Piece, supply: float) -> float:
    """The share of a tapped primary's turns that a supply goes on: of the usual mains volts that
    its last tap and its end are for, the nearer to the supply in ratio.
    """
    tap = piece.winding("primary").leads[-2][1]
    end = min(MAINS_VOLTS, key=lambda v: abs(math.log(v * tap / piece.rated_volts)))
    apart = {tap: abs(math.log(piece.rated_volts / supply)), 1.0: abs(math.log(end / supply))}
    return min(apart, key=apart.__getitem__)


def kit(rng: np.random.Generator) -> Kit:
    """A pocket meter, a bench meter, or something between; limits sometimes not written down."""
    fine = rng.random() < 0.25
    probes = (
        float(rng.choice([0.1, 0.2, 0.3, 0.4]))
        if not fine
        else float(rng.choice([0.05, 0.1, 0.15]))
    )
    return Kit(
        ohms_step=0.01 if fine else 0.1,
        ohms_percent=0.4 if fine else float(rng.uniform(0.5, 1.2)),
        probe_ohms=probes,
        probes_noted=bool(rng.random() < 0.75),
        volts_percent=float(rng.uniform(0.6, 1.4)),
        henries_percent=float(rng.uniform(1.0, 2.0)),
        range_ohms=float(rng.choice([2e6, 2e7, 6e7])) if rng.random() < 0.6 else None,
        accuracy_noted=bool(rng.random() < 0.5),
    )


def take(
    rng: np.random.Generator,
    level: str,
    *,
    fault_share: float = 0.25,
    slip_share: float = 0.06,
    faults: Sequence[str] = FAULTS,
    world: World = HOME,
) -> OwnerTold:
    """One owner's record of one piece at a level of evidence; `faults` are the kinds put in.

    `world` is what may be otherwise than at home.
    """
    name = str(rng.choice(list(SHARES), p=np.array(list(SHARES.values())) / sum(SHARES.values())))
    region: Region = EUROPE if rng.random() < 0.5 else AMERICA
    made = _made(rng, name, region)
    whole = made if world is HOME else world.piece(made, rng)
    broken = _damaged(rng, whole, faults) if rng.random() < fault_share else whole
    piece, renamed = _relabelled(broken, rng)
    put_in = [d.kind for d in piece.damage]
    other = 240.0 if high_region(region.volts) else region.volts
    supply = float(rng.choice([region.volts, region.volts, other]))
    own = kit(rng)
    bench = SimulatedBench(piece, world.kit(own), rng, celsius=float(rng.uniform(15, 27)))
    bench.wander = world.wander
    shown = _ohms(bench, rng, piece, put_in)
    if level in ("low", "live"):
        shown = _low(bench, rng, piece, region, put_in, level) or shown
    if level != "cold":
        _counted(bench, rng, piece)
    slipped = bool(rng.random() < slip_share) and _slip(bench, rng)
    document = _document(bench, piece, supply, region.hertz)
    if level != "cold":
        _clues(document, rng, piece, name)
    order = rng.permutation(len(document["leads"]))
    document["leads"] = [document["leads"][i] for i in order]
    if world is not HOME:
        document = world.document(document, ANY_COLOUR, rng)
        shown = shown and _still_shown(document, piece)
    return OwnerTold(
        document=document,
        piece=piece,
        level=level,
        sound=not put_in and not slipped,
        supply=supply,
        faults=put_in,
        shown=shown,
        slipped=slipped,
        renamed=renamed,
    )


CAREFUL = Kit(
    ohms_step=0.01,
    ohms_percent=0.5,
    probe_ohms=0.1,
    volts_percent=0.8,
    range_ohms=2e7,
)
"""What a careful bench reads with."""
SALVAGED = {
    "id": "s1",
    "kind": "salvage-done",
    "concerns": "capacitor",
    "text": "unplugged, discharged, shorted, 0.2 V after ten minutes",
    "at": "2026-05-01T18:00:00+01:00",
}


def documented(rng: np.random.Generator, name: str) -> OwnerTold:
    """A sound piece of a kind with everything a cautious bench asks for on record: plate and iron,
    salvage, the core proved, every barrier on a range that counts and at 500 V, the bond, ratios,
    milliohms, the polarity of halves.
    """
    region: Region = EUROPE if rng.random() < 0.5 else AMERICA
    piece = MAKERS[name](rng, region)
    if name in OWN_MAINS:
        region = Region(piece.rated_volts, region.hertz)
    bench = SimulatedBench(piece, CAREFUL, rng)
    bench.core_proof()
    bench.taken.append({"id": "bond", **BOND})
    _every_barrier(bench, piece)
    fed = _ends(piece.winding("primary"))
    for w in piece.windings:
        if w.ohms < 2.0:
            bench.dc_drop(*_ends(w), amps=1.0)
        if w.name == "primary":
            continue
        high = w.role == "hv-secondary"
        driven, sensed = (_ends(w), fed) if high else (fed, _ends(w))
        bench.ratio(driven, 42.0 if high else 12.0, sensed, region.hertz)
    if any(w.name == "half" for w in piece.windings):
        half = _ends(piece.winding("half"))
        bench.polarity(fed, 12.0, half, region.hertz, alike=True)
    document = _document(bench, piece, region.volts, region.hertz)
    document["statements"] = [dict(SALVAGED)]
    told = OwnerTold(document=document, piece=piece, level="all", sound=True, supply=region.volts)
    document["nameplate"] = _plate_of(told, region)
    document["core"] = {"mass_kg": round(piece.iron.mass_kg, 2), "shape": piece.iron.shape}
    if piece.family in ("microwave", "sign"):
        document["core"]["shunts"] = "present"
    return told


def _every_barrier(bench: SimulatedBench, piece: Piece) -> None:
    """Every pair within and between windings, every lead to the core; what carries the mains at
    500 V besides.
    """
    leads = _all_leads(piece)
    for i, x in enumerate(leads):
        for y in [*leads[i + 1 :], "core"]:
            bench.ohms(x, y)
    first = [x for w in piece.windings for x in _ends(w)[:1] if x != "core"]
    for x in first:
        if not piece.locate(x, "core"):
            bench.insulation(x, "core", 500.0)


def _plate_of(told: OwnerTold, region: Region) -> dict[str, Any]:
    """A true plate: its mains, and what it puts out under load, some per cent less than open; open
    volts on a sign transformer's.
    """
    piece = told.piece
    plate: dict[str, Any] = {"primary_volts": region.volts, "hertz": region.hertz}
    outputs = [w for w in piece.windings if w.role not in ("primary", "primary-half", "choke")]
    if piece.family == "sign":
        plate["secondary_volts"] = round(told.volts(outputs[0]), -1)
    elif piece.family == "mains":
        plate["outputs"] = [{"volts": float(f"{told.volts(w) / 1.08:.3g}")} for w in outputs]
    return plate


def _damaged(rng: np.random.Generator, piece: Piece, faults: Sequence[str]) -> Piece:
    """The piece with one fault; one of a single winding has none between windings."""
    kinds = faults if len(piece.windings) > 1 else faults[:3]
    share = np.array(FAULT_SHARES[: len(kinds)])
    return designs.damaged(piece, rng, str(rng.choice(kinds, p=share / share.sum())))


def _document(bench: SimulatedBench, piece: Piece, supply: float, hertz: float) -> dict[str, Any]:
    """The record as far as it was read."""
    return {
        "format": FORMAT,
        "tag": "E-1",
        "supply": {"volts": supply, "hertz": hertz},
        "leads": [{"id": x} for x in _all_leads(piece)],
        "readings": bench.taken,
    }


def _made(rng: np.random.Generator, name: str, region: Region) -> Piece:
    if name == "oven":
        return designs.oven(
            rng, region, heater=bool(rng.random() < 0.72), shunts=bool(rng.random() < 0.8)
        )
    if name == "sign":
        return designs.sign(rng, region, middle=bool(rng.random() < 0.87))
    return MAKERS[name](rng, region)


def _renamed(w: Wound, names: dict[str, str]) -> Wound:
    return replace(w, leads=tuple((names.get(x, x), f) for x, f in w.leads))


def _relabelled(piece: Piece, rng: np.random.Generator) -> tuple[Piece, dict[str, str]]:
    names = [x for w in piece.windings for x, _ in w.leads if x != "core"]
    extra = (
        ["~screen"] if len(piece.windings) > 1 and len(names) > 3 and rng.random() < 0.12 else []
    )
    earth = ["~earth"] if rng.random() < 0.2 else []
    fresh = [chr(ord("A") + i) for i in range(len(names) + 2)]
    shuffled = list(rng.permutation(fresh[: len(names) + len(extra) + len(earth)]))
    mapped = {n: str(shuffled[i]) for i, n in enumerate([*names, *extra, *earth])}
    return replace(
        piece,
        windings=tuple(_renamed(w, mapped) for w in piece.windings),
        loose_leads=tuple(mapped[x] for x in extra),
        core_leads=tuple(mapped[x] for x in earth),
    ), mapped


def _all_leads(piece: Piece) -> list[str]:
    return sorted(
        {x for w in piece.windings for x, _ in w.leads if x != "core"}
        | set(piece.loose_leads)
        | set(piece.core_leads)
    )


def _read_all(
    bench: SimulatedBench, rng: np.random.Generator, chosen: list[tuple[str, str]]
) -> None:
    for i in rng.permutation(len(chosen)):
        x, y = chosen[int(i)]
        bench.ohms(x, y) if rng.random() < 0.5 else bench.ohms(y, x)


def _ohms(bench: SimulatedBench, rng: np.random.Generator, piece: Piece, faults: list[str]) -> bool:
    """All pairs and all to the core, or as many as a less patient owner takes; every winding is
    touched.
    """
    leads = _all_leads(piece)
    pairs = [(x, y) for i, x in enumerate(leads) for y in leads[i + 1 :]]
    to_core = [(x, "core") for x in leads]
    patient = rng.random() < 0.7
    own = [p for p in pairs if piece.locate(*p)]
    others = [p for p in pairs if p not in own]
    if not patient:
        keep = rng.random(len(others)) < max(0.35, 3.0 / max(3, len(leads)))
        others = [p for p, k in zip(others, keep, strict=True) if k]
    if rng.random() < 0.5:
        bench.core_proof()
    _read_all(bench, rng, [*own, *others, *to_core])
    return bool(faults) and patient and _visible(bench, piece)


TOLD, LEAST_TOLD = 0.02, 0.5
"""Ohms that damage changes by this share and so many tell of it, to an owner who forgot some of
his readings. From memory."""


def _visible(bench: SimulatedBench, piece: Piece) -> bool:
    """Whether the ohms show the fault beyond the meter's limits: what a tapped winding would read
    the same is not shown.
    """
    damage = piece.damage[0]
    w = piece.winding(damage.winding)
    if damage.kind == "open":
        return len(w.leads) == 2
    if damage.kind != "between":
        return damage.kind in ("to-core", "leak")
    other = piece.winding(damage.other)
    # leads that hang on no branch of their own stand in line, as on one tapped winding
    branch = max(_branch(w, damage.place), _branch(other, damage.other_place))
    biggest = max(w.ohms, other.ohms)
    step = max(bench.kit.ohms_step, 10 ** (math.floor(math.log10(max(biggest, 1.0))) - 2))
    coarse = bench.kit.counts * step + bench.kit.ohms_percent / 100 * biggest
    return bool(2 * branch > 2.5 * coarse + (0.0 if bench.kit.probes_noted else 0.4))


def _still_shown(document: dict[str, Any], piece: Piece) -> bool:
    """Whether any reading that was not forgotten is other than the sound piece's would be."""
    sound = replace(piece, damage=())
    for r in document["readings"]:
        if r["kind"] == "no_load":
            return True
        if r["kind"] == "resistance":
            now, then = (dc_ohms(p, *r["between"]) for p in (piece, sound))
            if math.isinf(now) != math.isinf(then) or abs(now - then) > TOLD * then + LEAST_TOLD:
                return True
    return False


def _branch(w: Wound, place: float) -> float:
    """Ohms from a place on a winding to its nearer end."""
    return min(place, 1 - place) * w.ohms


def _ends(w: Wound) -> tuple[str, str]:
    """A winding's two ends."""
    return w.leads[0][0], w.leads[-1][0]


def _low(
    bench: SimulatedBench,
    rng: np.random.Generator,
    piece: Piece,
    region: Region,
    faults: list[str],
    level: str,
) -> bool:
    """Inductances, DC milliohms, ratios at a few volts; at live level with the mains and a no-load
    reading.
    """
    live = level == "live"
    fed = _ends(piece.winding("primary"))
    broken = any(d.kind in ("open", "to-core", "between") for d in piece.damage)
    others = [w for w in piece.windings if w.name != "primary"]
    for w in piece.windings:
        _unpowered(bench, rng, w, 0.25 if live else 0.45)
    if broken or not others:
        if not others and live and not faults:
            share = 0.2 if piece.family == "choke" else 1.0
            bench.no_load(fed, region.volts * share, region.hertz)
        return False
    for w in others:
        if rng.random() <= (0.9 if live else 0.55):
            _ratio_of(bench, rng, piece, region, w, live)
    if live and rng.random() < 0.25:
        watts = float(rng.choice([40.0, 60.0, 100.0, 150.0]))
        bench.lamp(*fed, piece.rated_volts, watts, region.hertz)
    if live and rng.random() < 0.7:
        bench.no_load(fed, piece.rated_volts * float(rng.uniform(0.95, 1.03)), region.hertz)
        return "shorted-turns" in faults
    if rng.random() < 0.25:
        turns = int(rng.choice([3, 5, 10]))
        bench.test_turn(fed, piece.rated_volts * float(rng.uniform(0.05, 0.3)), turns, region.hertz)
    return False


def _unpowered(bench: SimulatedBench, rng: np.random.Generator, w: Wound, chance: float) -> None:
    """Milliohms by a small current, and henries, where the owner has the instruments."""
    ends = _ends(w)
    if math.isinf(dc_ohms(bench.piece, *ends)):
        return
    if w.ohms < 1.0 and rng.random() < 0.35:
        bench.dc_drop(*ends, amps=float(rng.uniform(1.0, 2.0)))
    if rng.random() < chance:
        hertz = float(rng.choice([100.0, 120.0, 1000.0], p=[0.45, 0.4, 0.15]))
        bench.inductance(*ends, hertz=hertz)


def _ratio_of(
    bench: SimulatedBench,
    rng: np.random.Generator,
    piece: Piece,
    region: Region,
    w: Wound,
    live: bool,
) -> None:
    """One ratio: into an HV winding with the primary read, or the other way round."""
    fed, ends = _ends(piece.winding("primary")), _ends(w)
    high = w.role == "hv-secondary"
    if high and piece.family != "mains" and rng.random() < 0.6:
        mains = (0.97, 1.03)
        volts = region.volts * float(rng.uniform(*mains)) if live else float(rng.uniform(24, 60))
        bench.ratio(ends, volts, fed, region.hertz)
        return
    if not live or high:
        volts = float(rng.uniform(2, 12))
    else:
        volts = region.volts * float(rng.uniform(0.96, 1.04))
    bench.ratio(fed, min(volts, piece.rated_volts * 1.05), ends, region.hertz)


def _counted(bench: SimulatedBench, rng: np.random.Generator, piece: Piece) -> None:
    """The few turns of a heater or of heavy copper can be seen and counted, by an owner who
    looks.
    """
    for w in piece.windings:
        if w.turns <= 12 and rng.random() < 0.2:
            bench.turns(w.leads[0][0], w.leads[-1][0])


def _slip(bench: SimulatedBench, rng: np.random.Generator) -> bool:
    """A decimal point in the wrong place."""
    finite = [
        r
        for r in bench.taken
        if isinstance(r.get("ohms"), float) and r["ohms"] > 2 and r["kind"] == "resistance"
    ]
    if not finite:
        return False
    victim = finite[int(rng.integers(len(finite)))]
    victim["ohms"] = float(f"{victim['ohms'] * float(rng.choice([10.0, 0.1])):.4g}")
    return True


def _clues(document: dict[str, Any], rng: np.random.Generator, piece: Piece, name: str) -> None:
    """What can be seen, some of it missing, a little of it wrong."""
    by_id = {x["id"]: x for x in document["leads"]}
    for w in piece.windings:
        _seen_on(w, by_id, rng, name)
    core = _seen_core(rng, piece, name)
    if core:
        document["core"] = core
    if rng.random() < 0.3:
        right = rng.random() < 0.85
        guess = str(rng.choice(["mains", "choke", "microwave", "other"])) if not right else ""
        document["declared_family"] = piece.family if right else guess


def _seen_on(
    w: Wound, by_id: dict[str, dict[str, Any]], rng: np.random.Generator, name: str
) -> None:
    """Colours, stripes, wire, places, ends and twists of one winding's leads."""
    table = COLOURS.get(w.role, (("black", "black"),))
    pair = table[int(rng.integers(len(table)))]
    for i, (x, f) in enumerate(w.leads):
        if x not in by_id:
            continue
        lead = by_id[x]
        if rng.random() < 0.6:
            lead["colour"] = pair[0] if i == 0 else pair[1]
        if 0 < f < 1 and rng.random() < 0.5:
            lead["stripe"] = "yellow"
        if rng.random() < 0.6:
            lead["wire_mm"] = round(w.wire_mm * float(rng.uniform(0.95, 1.08)), 2)
        if rng.random() < 0.5:
            lead["place"] = PLACES.get((name, w.name)) or USUAL_PLACES.get(w.role, "outer coil")
        if rng.random() < 0.5:
            lead["end"] = _end_of(w, name)
    ends = [x for x in _ends(w) if x in by_id]
    if len(ends) == 2 and rng.random() < 0.2:
        first, last = (by_id[x] for x in ends)
        first["twisted_with"], last["twisted_with"] = last["id"], first["id"]


USUAL_PLACES = {
    "primary": "inner coil",
    "primary-half": "inner coil",
    "hv-secondary": "middle coil",
    "choke": "coil",
}
"""Where windings of a role usually sit; elsewhere outside."""


def _end_of(w: Wound, name: str) -> str:
    """How a winding's leads end."""
    if name == "oven" and w.role != "filament":
        return "tab"
    return "bushing" if name == "sign" and w.role == "hv-secondary" else "flying"


def _seen_core(rng: np.random.Generator, piece: Piece, name: str) -> dict[str, Any]:
    """Shape, mass, size and shunts of the core, as far as the owner looked."""
    core: dict[str, Any] = {}
    iron = piece.iron
    if rng.random() < 0.6:
        core["shape"] = iron.shape
    if rng.random() < 0.5:
        core["mass_kg"] = float(f"{iron.mass_kg * float(rng.uniform(0.95, 1.1)):.2g}")
    if rng.random() < 0.4 and iron.shape != "toroid":
        side = math.sqrt(iron.area_m2 / 0.95) * 1e3
        core |= {"tongue_mm": round(side / 1.2), "stack_mm": round(side * 1.2)}
    if rng.random() < 0.6:
        shunted = name in ("oven", "sign") and piece.coupling < 0.97
        core["shunts"] = "present" if shunted else _unsure(rng)
    return core


def _unsure(rng: np.random.Generator) -> str:
    return "unknown" if rng.random() < 0.4 else "absent"
