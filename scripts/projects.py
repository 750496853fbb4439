"""Rewindings of simulated pieces, plan against outcome: the open volts and the amps shorted of the
new winding as planned from a record with meter errors, against what the forward model then gives.
How often the ranges hold, how wide they are. Run: make projects [N=2000] [SEED=907]
"""

import click
import numpy as np
from msgspec.structs import replace

from greyfell.core.evidence.parse import parse_record
from greyfell.core.identify import identify
from greyfell.core.simulated import designs
from greyfell.core.simulated.meters import LINE_WANDER, Kit, SimulatedBench
from greyfell.core.simulated.worlds import WORLDS
from greyfell.core.truth.loaded import loaded
from greyfell.core.truth.piece import Wound
from greyfell.core.truth.readings import induced_volts
from greyfell.core.uses.all_uses import use_of
from greyfell.core.uses.core_to_wind import iron_of
from greyfell.core.uses.project import design

SUPPLY, HERTZ, TEST_TURNS = 230.0, 50.0, 5
MOST_TURNS = 8
LEFT = (0.2, 0.33)
"""Leakage that is left once shunts are out, as the trade says: a third to a fifth."""


def ends(wound):
    """The two ends of a winding."""
    ordered = sorted(wound.leads, key=lambda lead: lead[1])
    return ordered[0][0], ordered[-1][0]


def named(reading, figures, digits):
    """The meters of a reading, as its owner noted them: volts to one per cent, amps and watts to
    two, half a count of so many figures.
    """
    reading["accuracy"] = {
        key: {
            "percent": 1.0 if "volts" in key else 2.0,
            "digits": 0.5 * 10.0 ** (1 - digits) * reading[key],
        }
        for key in figures
    }


def document_of(piece, rng):
    """A record as the sheet asks for it before the cut: ohms, a ratio, test turns, no load, a short
    circuit; meters named.
    """
    bench = SimulatedBench(piece, Kit(), rng)
    primary = piece.winding(piece.primary)
    fed = ends(primary)
    high = max((w for w in piece.windings if w.name != primary.name), key=lambda w: w.turns)
    bench.core_proof()
    for w in piece.windings:
        bench.ohms(*ends(w))
    bench.dc_drop(*fed, 1.0)
    bench.ratio(fed, 23.0, ends(high), HERTZ)
    turned = bench.test_turn(fed, SUPPLY, TEST_TURNS, HERTZ)
    turned["turn_volts"] *= 1 + float(rng.normal(0, LINE_WANDER))
    named(turned, ("driven_volts", "turn_volts"), 4)
    bench.no_load(fed, SUPPLY, HERTZ)
    named(bench.short_circuit(fed, ends(high), 23.0, HERTZ), ("volts", "amps", "watts"), 3)
    leads = [x for w in piece.windings for x, _ in w.leads if x != "core"]
    return {
        "format": "greyfell.transformer/1",
        "tag": "P-1",
        "supply": {"volts": SUPPLY, "hertz": HERTZ, "breaker_amps": 16},
        "nameplate": {"primary_volts": SUPPLY, "hertz": HERTZ},
        "declared_family": "microwave",
        "core": {"shape": "shell", "shunts": "present"},
        "leads": [{"id": x} for x in dict.fromkeys(leads)],
        "readings": [{**r, "id": f"r{n}"} for n, r in enumerate(bench.taken, 1)],
    }, fed


def rewound(piece, made, turns, share, rng):
    """The piece with its old windings out and the new one on; `share` of the leakage left."""
    primary = piece.winding(piece.primary)
    high = max((w for w in piece.windings if w.name != primary.name), key=lambda w: w.turns)
    mm = 2 * np.sqrt(made.conductor.whole_mm2 / np.pi / (1 + rng.uniform(-0.04, 0.04)))
    new = Wound(
        name="new",
        role="lv-secondary",
        leads=(("X", 0.0), ("Y", 1.0)),
        turns=float(turns),
        wire_mm=float(mm),
        mean_turn_m=made.metres / turns,
        shunted=high.shunted,
    )
    coupling = float(np.sqrt(1 - (1 - piece.coupling**2) * share))
    return replace(piece, windings=(primary, new), coupling=coupling)


def tried(rng):
    """One project: whether volts and amps are held, the widths; None where nothing is planned."""
    world = WORLDS[int(rng.integers(len(WORLDS)))]
    piece = world.piece(designs.oven(rng), rng)
    document, fed = document_of(piece, rng)
    ident = identify(parse_record(document))
    iron = iron_of(ident)
    if iron is None or set(ident.belief.fed[:2]) != set(fed):
        return None
    out = rng.random() < 0.5
    iron = iron.without_shunts() if out and iron.shunts_in else iron
    turns = int(rng.integers(1, MOST_TURNS + 1))
    made = design(iron, use_of("weld-nickel"), turns)
    if made.conductor is None:
        return None
    share = float(rng.uniform(*LEFT)) if out else 1.0
    after = rewound(piece, made, turns, share, rng)
    volts = induced_volts(after, fed, SUPPLY, ("X", "Y"), HERTZ)
    _, amps = loaded(after, fed, SUPPLY, ("X", "Y"), 1e-9, HERTZ)
    pairs = ((made.open_volts, volts), (made.short_amps, amps))
    return [(q.low <= t <= q.high, q.high / q.low, t / q.value) for q, t in pairs]


def report(n, seed):
    """How often volts and amps are held, and how wide."""
    rng = np.random.default_rng(seed)
    found = [x for x in (tried(rng) for _ in range(n)) if x is not None]
    for k, what in enumerate(("open volts", "amps shorted")):
        held = np.mean([x[k][0] for x in found])
        wide = np.median([x[k][1] for x in found])
        off = np.median([x[k][2] for x in found])
        print(
            f"{what} held in {held:.1%} of {len(found)}, median width a factor of {wide:.2f}, "
            f"median outcome over plan {off:.3f}"
        )


@click.command()
@click.argument("n", type=int, default=2000)
@click.option("--seed", type=int, default=907)
def main(n, seed):
    report(n, seed)


if __name__ == "__main__":
    main()
