"""An owner at the bench: which readings they take of a piece, with what kit, and where they forget,
guess or slip.

Makes whole records with their truth from the forward model, by level of evidence: cold, clues, low,
live. For evaluation and the practice bench. Nothing here reads what identification believes.
"""

import math
from dataclasses import dataclass, field, replace
from typing import Any

import numpy as np

from greyfell.core.evidence.record import FORMAT
from greyfell.core.figures.mains import half_volts, high_region
from greyfell.core.forward.direct_current import dc_ohms
from greyfell.core.forward.piece import Piece, Wound
from greyfell.core.forward.readings import open_circuit_volts
from greyfell.core.practice import designs
from greyfell.core.practice.designs import AMERICA, EUROPE, MAKERS, Region
from greyfell.core.practice.meters import Bench, Kit

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


PLACES = {
    ("oven", "primary"): "lower coil",
    ("oven", "hv"): "upper coil",
    ("oven", "heater"): "between coils",
    ("sign", "primary"): "middle coil",
    ("sign", "hv"): "outer coils",
}


@dataclass
class Told:
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
        """True open-circuit volts of a winding, end to end, with the primary on the supply."""
        primary = self.piece.winding("primary")
        fed = (primary.leads[0][0], primary.leads[-1][0])
        ends = (w.leads[0][0], w.leads[-1][0])
        halves = any(x.role == "primary-half" for x in self.piece.windings)
        each = half_volts(self.supply) if halves else self.supply
        if primary.role == "primary" and len(primary.leads) > 2 and self.piece.family == "mains":
            each = self.supply / primary.leads[-2][1]
        whole = replace(self.piece, damage=())
        return each if w.name == "primary" else open_circuit_volts(whole, fed, each, ends)


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
    rng: np.random.Generator, level: str, *, fault_share: float = 0.25, slip_share: float = 0.06
) -> Told:
    """One owner's record of one piece at a level of evidence."""
    name = str(rng.choice(list(SHARES), p=np.array(list(SHARES.values())) / sum(SHARES.values())))
    region: Region = EUROPE if rng.random() < 0.5 else AMERICA
    piece = _made(rng, name, region)
    faults: list[str] = []
    if rng.random() < fault_share:
        kinds = FAULTS if len(piece.windings) > 1 else FAULTS[:3]
        share = np.array(FAULT_SHARES[: len(kinds)])
        piece = designs.damaged(piece, rng, str(rng.choice(kinds, p=share / share.sum())))
        faults = [piece.damage[0].kind]
    piece, renamed = _relabelled(piece, rng)
    supply = float(
        rng.choice(
            [region.volts, region.volts, 240.0 if high_region(region.volts) else region.volts]
        )
    )
    bench = Bench(piece, kit(rng), rng, celsius=float(rng.uniform(15, 27)))
    shown = _ohms(bench, rng, piece, faults)
    if level in ("low", "live"):
        shown = _low(bench, rng, piece, region, faults, level) or shown
    if level != "cold":
        _counted(bench, rng, piece)
    slipped = bool(rng.random() < slip_share) and _slip(bench, rng)
    leads = [{"id": x} for x in _all_leads(piece)]
    document: dict[str, Any] = {
        "format": FORMAT,
        "tag": "E-1",
        "supply": {"volts": supply, "hertz": region.hertz},
        "leads": leads,
        "readings": bench.taken,
    }
    if level != "cold":
        _clues(document, rng, piece, name)
    order = rng.permutation(len(leads))
    document["leads"] = [document["leads"][i] for i in order]
    return Told(
        document, piece, level, not faults and not slipped, supply, faults, shown, slipped, renamed
    )


def _made(rng: np.random.Generator, name: str, region: Region) -> Piece:
    if name == "oven":
        return designs.oven(
            rng, region, heater=bool(rng.random() < 0.72), shunts=bool(rng.random() < 0.8)
        )
    if name == "sign":
        return designs.sign(rng, region, middle=bool(rng.random() < 0.87))
    return MAKERS[name](rng, region)


def _relabelled(piece: Piece, rng: np.random.Generator) -> tuple[Piece, dict[str, str]]:
    names = [x for w in piece.windings for x, _ in w.leads if x != "core"]
    extra = (
        ["~screen"] if len(piece.windings) > 1 and len(names) > 3 and rng.random() < 0.12 else []
    )
    earth = ["~earth"] if rng.random() < 0.2 else []
    fresh = [chr(ord("A") + i) for i in range(len(names) + 2)]
    shuffled = list(rng.permutation(fresh[: len(names) + len(extra) + len(earth)]))
    mapped = {n: str(shuffled[i]) for i, n in enumerate([*names, *extra, *earth])}
    windings = tuple(
        replace(w, leads=tuple((mapped.get(x, x), f) for x, f in w.leads)) for w in piece.windings
    )
    return replace(
        piece,
        windings=windings,
        loose_leads=tuple(mapped[x] for x in extra),
        core_leads=tuple(mapped[x] for x in earth),
    ), mapped


def _all_leads(piece: Piece) -> list[str]:
    return sorted(
        {x for w in piece.windings for x, _ in w.leads if x != "core"}
        | set(piece.loose_leads)
        | set(piece.core_leads)
    )


def _ohms(bench: Bench, rng: np.random.Generator, piece: Piece, faults: list[str]) -> bool:
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
    chosen = [*own, *others, *to_core]
    for i in rng.permutation(len(chosen)):
        x, y = chosen[int(i)]
        bench.ohms(x, y) if rng.random() < 0.5 else bench.ohms(y, x)
    return bool(faults) and patient and _visible(bench, piece)


def _visible(bench: Bench, piece: Piece) -> bool:
    """Whether the ohms show the fault beyond the meter's limits: what a tapped winding would read
    the same is not shown.
    """
    damage = piece.damage[0]
    w = piece.winding(damage.winding)
    if damage.kind == "open":
        return len(w.leads) == 2
    if damage.kind == "between":
        other = piece.winding(damage.other)
        hang = [
            min(at, 1 - at) * x.ohms for x, at in ((w, damage.place), (other, damage.other_place))
        ]
        branch = max(
            hang
        )  # leads that hang on no branch of their own stand in line, as on one tapped winding
        biggest = max(w.ohms, other.ohms)
        coarse = max(bench.kit.ohms_step, 10 ** (math.floor(math.log10(max(biggest, 1.0))) - 2))
        coarse_limit = bench.kit.counts * coarse + bench.kit.ohms_percent / 100 * biggest
        return bool(2 * branch > 2.5 * coarse_limit + (0.0 if bench.kit.probes_noted else 0.4))
    return damage.kind in ("to-core", "leak")


def _low(
    bench: Bench,
    rng: np.random.Generator,
    piece: Piece,
    region: Region,
    faults: list[str],
    level: str,
) -> bool:
    """Inductances, DC milliohms, ratios at a few volts; at live level with the mains and a no-load
    reading.
    """
    primary = piece.winding("primary")
    fed = (primary.leads[0][0], primary.leads[-1][0])
    broken = any(d.kind == "open" for d in piece.damage) or any(
        d.kind in ("to-core", "between") for d in piece.damage
    )
    others = [w for w in piece.windings if w.name != "primary"]
    for w in piece.windings:
        ends = (w.leads[0][0], w.leads[-1][0])
        if math.isinf(dc_ohms(piece, *ends)):
            continue
        if w.ohms < 1.0 and rng.random() < 0.35:
            bench.dc_drop(*ends, amps=float(rng.uniform(1.0, 2.0)))
        if rng.random() < (0.45 if level == "low" else 0.25):
            bench.inductance(
                *ends, hertz=float(rng.choice([100.0, 120.0, 1000.0], p=[0.45, 0.4, 0.15]))
            )
    if broken or not others:
        if not others and level == "live" and not faults:
            bench.no_load(
                fed, region.volts * (0.2 if piece.family == "choke" else 1.0), region.hertz
            )
        return False
    for w in others:
        ends = (w.leads[0][0], w.leads[-1][0])
        if rng.random() > (0.55 if level == "low" else 0.9):
            continue
        reverse = w.role == "hv-secondary" and piece.family != "mains" and rng.random() < 0.6
        if reverse:
            volts = (
                float(rng.uniform(24, 60))
                if level == "low"
                else region.volts * float(rng.uniform(0.97, 1.03))
            )
            bench.ratio(ends, volts, fed, region.hertz)
        else:
            volts = (
                float(rng.uniform(2, 12))
                if level == "low" or w.role == "hv-secondary"
                else region.volts * float(rng.uniform(0.96, 1.04))
            )
            bench.ratio(fed, min(volts, piece.rated_volts * 1.05), ends, region.hertz)
    if level == "live" and rng.random() < 0.25:
        bench.lamp(
            *fed, piece.rated_volts, float(rng.choice([40.0, 60.0, 100.0, 150.0])), region.hertz
        )
    if level == "live" and rng.random() < 0.7:
        bench.no_load(fed, piece.rated_volts * float(rng.uniform(0.95, 1.03)), region.hertz)
        return "shorted-turns" in faults
    if rng.random() < 0.25:
        turns = int(rng.choice([3, 5, 10]))
        bench.test_turn(fed, piece.rated_volts * float(rng.uniform(0.05, 0.3)), turns, region.hertz)
    return False


def _counted(bench: Bench, rng: np.random.Generator, piece: Piece) -> None:
    """The few turns of a heater or of heavy copper can be seen and counted, by an owner who
    looks.
    """
    for w in piece.windings:
        if w.turns <= 12 and rng.random() < 0.2:
            bench.turns(w.leads[0][0], w.leads[-1][0])


def _slip(bench: Bench, rng: np.random.Generator) -> bool:
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
        table = COLOURS.get(w.role, (("black", "black"),))
        pair = table[int(rng.integers(len(table)))]
        ends = [x for x, _ in (w.leads[0], w.leads[-1]) if x in by_id]
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
                lead["place"] = PLACES.get((name, w.name)) or {
                    "primary": "inner coil",
                    "primary-half": "inner coil",
                    "hv-secondary": "middle coil",
                    "choke": "coil",
                }.get(w.role, "outer coil")
            if rng.random() < 0.5:
                lead["end"] = (
                    "tab"
                    if name == "oven" and w.role != "filament"
                    else "bushing"
                    if name == "sign" and w.role == "hv-secondary"
                    else "flying"
                )
        if len(ends) == 2 and rng.random() < 0.2:
            by_id[ends[0]]["twisted_with"], by_id[ends[1]]["twisted_with"] = ends[1], ends[0]
    core: dict[str, Any] = {}
    if rng.random() < 0.6:
        core["shape"] = piece.iron.shape
    if rng.random() < 0.5:
        core["mass_kg"] = float(f"{piece.iron.mass_kg * float(rng.uniform(0.95, 1.1)):.2g}")
    if rng.random() < 0.4 and piece.iron.shape != "toroid":
        side = math.sqrt(piece.iron.area_m2 / 0.95) * 1e3
        core |= {"tongue_mm": round(side / 1.2), "stack_mm": round(side * 1.2)}
    if rng.random() < 0.6:
        core["shunts"] = (
            "present"
            if name in ("oven", "sign") and piece.coupling < 0.97
            else "unknown"
            if rng.random() < 0.4
            else "absent"
        )
    if core:
        document["core"] = core
    if rng.random() < 0.3:
        right = rng.random() < 0.85
        document["declared_family"] = (
            piece.family if right else str(rng.choice(["mains", "choke", "microwave", "other"]))
        )
