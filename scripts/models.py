"""Models of pieces of the forward model, each of a world drawn for it, from ever more readings with
meter errors, held against what was left aside: loads that nobody read, and the short. How often the
ranges hold, and how wide they are. Run: python scripts/models.py [N=2000] [--seed S]
"""

import click
import numpy as np

from greyfell.core.circuit.model import model_of
from greyfell.core.evidence.parse import parse_record
from greyfell.core.identify import identify
from greyfell.core.simulated import designs
from greyfell.core.simulated.meters import Kit, SimulatedBench
from greyfell.core.simulated.worlds import WORLDS
from greyfell.core.truth.loaded import loaded

MAKERS = (designs.oven, designs.sign, designs.low_voltage, designs.valve, designs.isolating)
SUPPLY, HERTZ = 230.0, 50.0
ASIDE = (0.5, 2.0)
"""Loads left aside, in times the best match."""
LEVELS = ("cold and ratio", "a short besides", "a load besides")


def ends(wound):
    """The two ends of a winding."""
    ordered = sorted(wound.leads, key=lambda lead: lead[1])
    return ordered[0][0], ordered[-1][0]


def document_of(piece, level, rng):
    """A record with so many readings, its primary and the output that is asked for."""
    bench = SimulatedBench(piece, Kit(), rng)
    primary = piece.winding(piece.primary)
    fed = ends(primary)
    others = [w for w in piece.windings if w.name != primary.name]
    out = max(others, key=lambda w: w.turns)
    pair = ends(out)
    bench.core_proof()
    for w in piece.windings:
        bench.ohms(*ends(w))
        if w.turns < 0.5 * primary.turns:
            bench.dc_drop(*ends(w), 1.0)
    for w in others:
        bench.ratio(fed, 23.0, ends(w), HERTZ)
    bench.no_load(fed, SUPPLY, HERTZ)
    if level >= 1:
        amps = 0.1 * SUPPLY
        _named(bench.short_circuit(fed, pair, amps, HERTZ), ("volts", "amps", "watts"))
    if level >= 2:
        match = _match(piece, fed, pair)
        _named(
            bench.load(fed, SUPPLY, pair, match, HERTZ),
            ("driven_volts", "load_volts", "load_amps"),
        )
    leads = [x for w in piece.windings for x, _ in w.leads if x != "core"]
    document = {
        "format": "greyfell.transformer/1",
        "tag": "S-1",
        "supply": {"volts": SUPPLY, "hertz": HERTZ},
        "nameplate": {"primary_volts": SUPPLY, "hertz": HERTZ},
        "leads": [{"id": x} for x in dict.fromkeys(leads)],
        "readings": [{**r, "id": f"r{n}"} for n, r in enumerate(bench.taken, 1)],
    }
    return document, fed, pair


def _named(reading, figures):
    """The meters of a reading, as its owner noted them: volts to one per cent, amps and watts to
    two, half a count of three figures.
    """
    reading["accuracy"] = {
        key: {"percent": 1.0 if "volts" in key else 2.0, "digits": 0.005 * reading[key]}
        for key in figures
    }


def _match(piece, fed, pair):
    """The load that halves its volts, near enough, by the truth."""
    low, high = 1e-3, 1e9
    opened, _ = loaded(piece, fed, SUPPLY, pair, 1e12, HERTZ)
    for _ in range(60):
        middle = (low * high) ** 0.5
        volts, _ = loaded(piece, fed, SUPPLY, pair, middle, HERTZ)
        low, high = (middle, high) if volts < 0.7 * opened else (low, middle)
    return low


def tried(piece, level, rng):
    """Whether ranges hold, and their widths, at loads left aside and shorted; None where no model
    is made.
    """
    document, fed, pair = document_of(piece, level, rng)
    ident = identify(parse_record(document))
    w = next((x for x in ident.windings if set(pair) <= {*x.coil.leads, "core"}), None)
    model = None if w is None else model_of(ident.record, ident.belief, w)
    if model is None or set(ident.belief.fed[:2]) != set(fed):
        return None
    match = _match(piece, fed, pair)
    out = []
    for share in ASIDE:
        truth, _ = loaded(piece, fed, SUPPLY, pair, share * match, HERTZ)
        out.append((model.line.volts(share * match), truth))
    _, short = loaded(piece, fed, SUPPLY, pair, 1e-6, HERTZ)
    out.append((model.line.amps(1e-6), short))
    return [(q.low <= t <= q.high, q.high / q.low, t / q.value) for q, t in out]


def report(n, seed):
    """Per level: how often volts and the short are held, and how wide."""
    for level, words in enumerate(LEVELS):
        rng = np.random.default_rng([seed, level])
        volts, shorts, none = [], [], 0
        for k in range(n):
            world = WORLDS[int(rng.integers(len(WORLDS)))]
            piece = world.piece(MAKERS[k % len(MAKERS)](rng), rng)
            found = tried(piece, level, rng)
            if found is None:
                none += 1
                continue
            volts += found[:-1]
            shorts.append(found[-1])
        for what, told in (("volts", volts), ("short", shorts)):
            held = np.mean([t[0] for t in told])
            wide = np.median([t[1] for t in told])
            print(
                f"{words}: {what} held in {held:.1%} of {len(told)}, median width a factor of "
                f"{wide:.2f}; no model for {none}"
            )


@click.command()
@click.argument("n", type=int, default=2000)
@click.option("--seed", type=int, default=811)
def main(n, seed):
    report(n, seed)


if __name__ == "__main__":
    main()
