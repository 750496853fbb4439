"""How identification does on records of the forward model, by level of evidence; with --worlds in
every world that shifts something. Run: make evaluate [N=2000]

Counts as the public cases' scorer does: topology where no fault breaks the wiring, family and
roles, volts inside their interval and how wide, faults found of those shown, false stops on sound
pieces.
"""

import math
import statistics
import time
from collections import defaultdict

import click
import numpy as np

from greyfell.core.dangers.own import hazards
from greyfell.core.evidence.parse import parse_record
from greyfell.core.identify import identify
from greyfell.core.judgement.gates import live_gate
from greyfell.core.simulated.owner import LEVELS, documented, take
from greyfell.core.simulated.worlds import HOME, WORLDS

ACCEPT = {
    "open": {"open-winding"},
    "to-core": {"shorted-to-core", "windings-shorted"},
    "leak": {"insulation-low"},
    "between": {"windings-shorted", "shorted-to-core"},
    "shorted-turns": {"shorted-turns", "excess-no-load-current", "ratio-conflict"},
}


LIKE = 8.0
"""Windings whose ohms lie within this factor, under three in volts: which one is the primary is not
settled by ohms."""


def like_ohms(piece, w):
    """Whether a winding's role cannot be told by ohms: it is like the primary; or it is the
    primary, and another is like it.
    """
    first = piece.winding(piece.primary)
    others = (
        [w]
        if w.name != first.name
        else [x for x in piece.windings if x.name not in (first.name, "half")]
    )
    return any(1 / LIKE < x.ohms / first.ohms < LIKE for x in others)


def judge(told, ident, score):
    """Add one record's outcome to the score."""
    core = {"core", *told.piece.core_leads}

    def plain(names):
        return frozenset("core" if x in core else x for x in names)

    broken = bool(told.faults) and told.faults[0] != "leak" and told.faults[0] != "shorted-turns"
    if not broken and not told.slipped:
        want = {plain(x for x, _ in w.leads) for w in told.piece.windings}
        got = {plain([*w.coil.leads, *(t.lead for t in w.coil.taps)]) for w in ident.windings}
        score["topology"].append(want == got)
    if not broken:
        score["family"].append(ident.family == told.piece.family)
    for w in told.piece.windings:
        mine = next(
            (
                v
                for v in ident.windings
                if plain([*v.coil.leads]) == plain([w.leads[0][0], w.leads[-1][0]])
            ),
            None,
        )
        if mine is None or broken or told.slipped:
            continue
        same = told.piece.subtype in ("isolating", "step") or (
            w.role in ("lv-secondary", "filament") and mine.role in ("lv-secondary", "filament")
        )
        ratio_known = told.level in ("low", "live")
        if (not same or ratio_known) and (ratio_known or not like_ohms(told.piece, w)):
            accept = {
                w.role,
                *({"lv-secondary", "filament"} if w.role in ("lv-secondary", "filament") else ()),
            }
            if told.piece.subtype not in ("isolating", "step"):
                score["role"].append(mine.role in accept)
        scored = (
            w.name not in ("primary", "half")
            and w.role != "choke"
            and told.piece.subtype not in ("isolating", "step")
        )
        if scored and "shorted-turns" not in told.faults:
            if mine.volts is None:
                score["answered"].append(False)
            else:
                true = told.volts(w)
                score["answered"].append(True)
                score["inside"].append(
                    mine.volts.low <= true * (1 + 1e-6) and true <= mine.volts.high * (1 + 1e-6)
                )
                score["width"].append((mine.volts.high - mine.volts.low) / mine.volts.value)
                sd = (math.log(mine.volts.high) - math.log(mine.volts.low)) / 3.92
                score["z"].append((math.log(true) - math.log(mine.volts.value)) / max(sd, 1e-6))
                score[
                    (
                        f"z {told.piece.subtype} {w.role} "
                        f"{'ratio' if any('ratio' in b for b in mine.volts.basis) else 'other'}"
                    )
                ].append(score["z"][-1])
    codes = {f.code for f in ident.faults if f.severity != "note"}
    if told.faults and told.shown:
        score["fault"].append(bool(codes & ACCEPT[told.faults[0]]))
        damaged = told.piece.damage[0]
        if told.faults[0] == "to-core" and damaged.winding == "primary":
            score["primary"].append(ident.stopped)
    if told.sound:
        score["false stop"].append(ident.stopped)
        score["false caution"].append(any(f.severity == "caution" for f in ident.faults))


CAREFUL = ("lv", "dual", "valve", "isolating", "step", "oven", "sign", "variable")
"""Kinds of piece that a gate may open for."""
USUAL = ("lv", "dual", "isolating", "step")
"""Those of which kilovolts or a capacitor would be a false alarm."""
ALARMS = {"hv", "hv-not-ruled-out", "hv-to-case", "core-live", "capacitor"}


def let_through(count, seed):
    """Sound pieces with everything on record: how many open the gate, how many are cried over."""
    rng = np.random.default_rng(seed)
    opened, cried = defaultdict(list), []
    for n in range(count):
        name = CAREFUL[n % len(CAREFUL)]
        ident = identify(parse_record(documented(rng, name).document))
        opened[name].append(live_gate(ident).open)
        if name in USUAL:
            cried.append(bool(ALARMS & {h.code for h in hazards(ident)}))
    shares = ", ".join(f"{k} {100 * statistics.mean(v):.0f}" for k, v in opened.items())
    whole = [x for v in opened.values() for x in v]
    print(f"sound and documented, gate open: {100 * statistics.mean(whole):.1f} % ({shares})")
    print(f"usual mains pieces told of kilovolts or a capacitor: {sum(cried)} of {len(cried)}")


def scored(count, seed, world=HOME):
    """Scores by level of so many records of a world, what went wrong, and milliseconds a record."""
    rng = np.random.default_rng(seed)
    scores = {level: defaultdict(list) for level in (*LEVELS, "all")}
    spent, wrong = [], defaultdict(list)
    for n in range(count):
        level = LEVELS[n % 4]
        told = take(rng, level, slip_share=world.slips, world=world)
        record = parse_record(told.document)
        start = time.perf_counter()
        ident = identify(record)
        spent.append(time.perf_counter() - start)
        one = defaultdict(list)
        judge(told, ident, one)
        for key, values in one.items():
            scores[level][key] += values
            scores["all"][key] += values
            if key in ("topology", "family", "role", "fault", "primary") and not all(values):
                wrong[key].append((n, told.piece.subtype, level, told.faults, told.slipped))
            if key in ("false stop", "false caution") and any(values):
                wrong[key].append((n, told.piece.subtype, level, [f.code for f in ident.faults]))
    return scores, wrong, 1e3 * statistics.median(spent)


COLUMNS = (
    ("family", "all"),
    ("role", "all"),
    ("inside", "all"),
    *(("inside", level) for level in LEVELS),
    ("fault", "all"),
    ("primary", "all"),
    ("false stop", "all"),
)


def by_world(count, seed):
    """Every world's shares, in per cent, and its median live width."""
    heads = [f"{key[:6]} {level[:5]}" if level != "all" else key[:10] for key, level in COLUMNS]
    print(f"{count} records a world, seed {seed}")
    print(f"{'':36}" + "".join(f"{h:>13}" for h in (*heads, "live width")))
    pooled = defaultdict(list)
    for world in WORLDS:
        scores, _, _ = scored(count, seed, world)
        cells = []
        for column in COLUMNS:
            values = scores[column[1]][column[0]]
            pooled[column] += values
            cells.append(f"{100 * statistics.mean(values):13.1f}" if values else f"{'–':>13}")
        width = statistics.median(scores["live"]["width"])
        print(f"{world.name:36}" + "".join(cells) + f"{100 * width:13.1f}", flush=True)
    shares = (100 * statistics.mean(pooled[c]) for c in COLUMNS)
    print(f"{'all worlds':36}" + "".join(f"{x:13.1f}" for x in shares))


@click.command()
@click.argument("count", type=click.IntRange(min=1), default=2000)
@click.option("--seed", default=1, show_default=True, help="Where the records begin.")
@click.option("--worlds", is_flag=True, help="Score home and every other world.")
@click.option("--verbose", is_flag=True, help="Say where each row errs, and on which records.")
def main(count, seed, worlds, verbose):
    """Score identification on COUNT records of the forward model."""
    if worlds:
        by_world(count, seed)
        return
    scores, wrong, milliseconds = scored(count, seed)
    levels = ("all", *LEVELS)
    print(
        f"{count} records of the forward model, seed {seed}; median {milliseconds:.1f} ms a record"
    )
    print(f"{'':28}" + "".join(f"{x:>15}" for x in levels))
    for key, words in (
        ("topology", "topology exact"),
        ("family", "family first guess"),
        ("role", "role first guess"),
        ("answered", "volts answered"),
        ("inside", "volts inside interval"),
        ("fault", "faults found of those shown"),
        ("primary", "primary to core stopped"),
        ("false stop", "false stop on sound"),
        ("false caution", "false caution on sound"),
    ):
        cells = [scores[x][key] for x in levels]
        print(
            f"{words:28}"
            + "".join(
                f"{100 * sum(c) / len(c):9.1f} % ({len(c)})"[:15].rjust(15) if c else f"{'–':>15}"
                for c in cells
            )
        )
    for key, words, fold in (
        ("width", "median relative width", statistics.median),
        (
            "z",
            "rms of z, 6 at most",
            lambda v: math.sqrt(sum(min(x * x, 36.0) for x in v) / len(v)),
        ),
    ):
        print(
            f"{words:28}"
            + "".join(
                f"{fold(scores[x][key]):15.3f}" if scores[x][key] else f"{'–':>15}" for x in levels
            )
        )
    let_through(max(80, count // 4), seed)
    if verbose:
        for key in sorted(k for k in scores["all"] if k.startswith("z ")):
            v = scores["all"][key]
            print(
                f"  {key:44} n {len(v):4}  mean {statistics.mean(v):6.2f}  rms "
                f"{math.sqrt(sum(x * x for x in v) / len(v)):5.2f}"
            )
        for key, rows in wrong.items():
            print(key, len(rows), rows[:40])


if __name__ == "__main__":
    main()
