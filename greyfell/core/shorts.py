"""Shorted turns, weighed from every kind of reading together: inductance, Q, watts and current at
no load, ratio, lamp.

A closed loop on the core, be it shorted turns, a ring through the window or a load left on, takes
flux: every winding has less inductance, its reactance turns resistive, watts flow at no load,
ratios fall, a lamp in series lights. No single one proves it; each carries a likelihood ratio, and
Bayes' rule adds them up. A dark lamp clears nothing. Common practice; spreads from memory where not
sourced.
"""

import math
from dataclasses import dataclass
from typing import Any

from greyfell.core.belief import Belief, Fault, Severity
from greyfell.core.coil import Topology
from greyfell.core.instruments import limit
from greyfell.core.priors import FAMILY
from greyfell.core.quantity import engineering, percent, span
from greyfell.core.record import Transformer
from greyfell.core.voltages import LAM, A, Row, Solution, near_resonance

PRIOR = 0.02
"""How often salvaged iron has shorted turns, before anything but ohms was read. From memory,
broad."""
NAMED, SURE = 0.15, 0.99
"""From these probabilities the fault is named as a caution, and as a stop where two kinds of
reading agree. House rule: a piece that may well have shorted turns is asked about before it is
fed."""
TALKS = 1.0
"""A kind of reading speaks for shorted turns from this natural log of its likelihood ratio (a
factor of e)."""
MOST, LEAST = 8.0, -3.0
"""No kind of reading counts for more than this either way: there is always something else that may
explain it. House rule."""

LOSS_PER_KG = {
    "microwave": (12.0, 0.45),
    "mains": (3.5, 0.5),
    "sign": (2.6, 0.5),
    "variable": (1.0, 0.5),
}
"""No-load watts per kilogram of iron at rated volts and spread of the logarithm. M-T4, M-T1 with
M-18; broad."""
LOSS_EXPONENT = 2.5
"""Core loss grows about like B^2.5 around the working flux. REF-M-18 (2 to 3+)."""
IRON_TANGENT = (0.12, 0.7)
"""Loss tangent of a laminated core at an inductance meter's low flux and 100 or 120 Hz, and the
spread of its logarithm."""
IRON_Q = tuple(math.exp(side * 1.96 * IRON_TANGENT[1]) / IRON_TANGENT[0] for side in (-1, 1))
"""The Q that goes with it, 95 %."""
LOOP_TANGENT = (1.0, 0.9)
"""The same with shorted turns: the loop's resistance lies across the reactance, and they are of one
size."""
Q_RESONANT = 0.03
"""Above this share of the way to a winding's own resonance its Q falls by itself and tells nothing
of the iron: HV windings mostly."""
FALLS = {
    "inductance": (-5.0, 0.0),
    "watts": (0.2, 3.2),
    "amps": (0.2, 2.5),
    "ratio": (-0.3, -0.005),
}
"""How far shorted turns move a figure, in its logarithm, every shift between alike."""
LAMP_LIT = 2.8
"""A lamp bright on a winding meant for the mains: ln of its likelihood ratio (seen with most
shorts, and with one sound piece in thirty whose iron is big for the lamp). By itself it asks; a
dark or dim one says nothing. From memory."""

SIZE = (0.0305, 1.05)
"""R/V² of a primary is about 0.0305/VA^1.05: copper loss falls with size. REF-M-05 with M-T3, from
memory, ± 30 %."""
LEAST_LAMP = 0.12
"""A lamp of less than this share of the VA is lit by the magnetising current of sound iron; a fifth
to a half is usual. Domain rule."""


@dataclass(frozen=True)
class Clue:
    """What one kind of reading says: in words, by which readings, and ln of its likelihood ratio,
    shorted turns over none.
    """

    kind: str
    words: str
    readings: tuple[str, ...]
    weight: float
    leads: tuple[str, ...] = ()


def shorted_turns(record: Transformer, topology: Topology, belief: Belief) -> list[Fault]:
    """The fault, where the readings together make it likelier than not; a stop where two kinds
    agree and little doubt is left.
    """
    chance, clues = odds_of_shorted_turns(record, topology, belief)
    speaking = sorted((c for c in clues if c.weight > TALKS), key=lambda c: -c.weight)
    if chance < NAMED or all(c.kind == "ratio" for c in speaking):
        return []  # a low ratio by itself is a conflict of readings, and named as one
    severity: Severity = "stop" if chance > SURE and len(speaking) > 1 else "caution"
    leads = next((c.leads for c in speaking if c.kind == "ratio"), speaking[0].leads)
    readings = tuple(dict.fromkeys(i for c in speaking for i in c.readings))
    likely = (
        f"Shorted turns are {percent(chance)} likely"
        if chance > 0.5
        else f"Shorted turns cannot be ruled out ({percent(chance)})"
    )
    return [
        Fault(
            "shorted-turns",
            severity,
            leads,
            readings,
            f"{likely}: {'; '.join(c.words for c in speaking)}. A loop through the window "
            "or a load left on "
            "shows the same: take everything off and repeat at 100 or 120 Hz, then watts "
            "at no load behind a lamp decide.",
        )
    ]


def odds_of_shorted_turns(
    record: Transformer, topology: Topology, belief: Belief
) -> tuple[float, list[Clue]]:
    """Probability of shorted turns and what each kind of reading says of it. Bayes' rule; kinds
    taken as independent.

    A choke's gap and what fits no family are not judged so: the probability is then that before
    looking.
    """
    solution, best = belief.solution, belief.best
    if solution is None or best is None or best.family not in LOSS_PER_KG:
        return PRIOR, []
    found = [
        _inductance(topology, belief, solution),
        _tangent(record, topology),
        _watts(record, topology, belief),
        _ratio(topology, belief, solution),
        _lamp(record, topology, belief),
    ]
    clues = [c for c in found if c is not None]
    total = math.log(PRIOR / (1 - PRIOR)) + sum(c.weight for c in clues)
    return 1 / (1 + math.exp(-total)), clues


def _weight(x: float, shift: tuple[float, float], sd: float) -> float:
    """ln likelihood ratio of a figure x sd from where a sound piece has it, were it moved by any
    shift of a range instead.
    """
    low, high = shift

    def below(y: float) -> float:
        return 0.5 * (1 + math.erf(y / (sd * math.sqrt(2))))

    moved = max(below(x - low) - below(x - high), 1e-12) / (high - low)
    sound = math.exp(-0.5 * min((x / sd) ** 2, 60.0)) / (sd * math.sqrt(2 * math.pi))
    return min(MOST, max(LEAST, math.log(moved / sound)))


def _inductance(topology: Topology, belief: Belief, solution: Solution) -> Clue | None:
    """Henries against turns, over every winding read: how far the core's permeance lies below its
    family's.
    """
    rows = [r for r in solution.rows if r.kind == "inductance"]
    if not rows:
        return None
    away = [
        (2 * (solution.rows[j].value - solution.predicted(belief.index, j)[0]), j)
        for j, _ in belief.outliers
        if solution.rows[j] in rows
    ]
    if away:  # a reading that was set aside as not belonging: what it says is asked all the same
        short, j = min(away)
        rows, wide = [solution.rows[j]], 2 * solution.predicted(belief.index, j)[1]
    else:
        mean, sd = FAMILY[belief.best.family].permeance if belief.best else (0.0, 1.0)
        now, spread = solution.posterior(belief.index, solution.unit((LAM, 1.0)))
        before, after = sd**2, min((2 * spread) ** 2, 0.999 * sd**2)
        told = 1 / (
            1 / after - 1 / before
        )  # what the readings alone say: the expectation taken out again
        short, wide = told * (2 * now / after - mean / before) - mean, math.sqrt(before + told)
    leads = tuple(dict.fromkeys(x for r in rows for x in topology.coils[r.coils[0]].members))
    words = f"inductance {math.exp(short):.2g} times what the turns should give ({_names(rows)})"
    return Clue("inductance", words, _ids(rows), _weight(short, FALLS["inductance"], wide), leads)


def _tangent(record: Transformer, topology: Topology) -> Clue | None:
    """Q at 100 or 120 Hz, the winding's own copper taken out: the loss tangent of what is left is
    the iron's, or a loop's.
    """
    seen = []
    for r in record.standing:
        if (
            r.kind != "inductance"
            or not r.q
            or r.hertz > 130
            or r.shorted
            or near_resonance(r) > Q_RESONANT
        ):
            continue
        i = topology.coil_of(r.across[0])
        if i is None or i != topology.coil_of(r.across[1]):
            continue
        copper = topology.coils[i].ohms
        share = topology.coils[i].fraction_between(*r.across) or 1.0
        reactance = 2 * math.pi * r.hertz * r.henries
        left = 1 / r.q - share * copper.high / reactance
        if left > 0.3 / r.q:  # else the copper decides Q, and it tells nothing of the iron
            seen.append((1 / r.q - share * copper.value / reactance, r))
    if not seen:
        return None
    middle = sum(math.log(t) for t, _ in seen) / len(seen)
    away, apart = ((middle - math.log(m)) / s for m, s in (IRON_TANGENT, LOOP_TANGENT))
    sound = -0.5 * min(max(away, 0.0), 5.0) ** 2 - math.log(
        IRON_TANGENT[1]
    )  # less loss than usual is no less sound
    weight = min(MOST, max(LEAST, -0.5 * apart**2 - math.log(LOOP_TANGENT[1]) - sound))
    worst = min((r for _, r in seen), key=lambda r: r.q)
    words = (
        f"Q of {worst.q:.2g} where the iron alone gives {IRON_Q[0]:.0f} to {IRON_Q[1]:.0f} "
        f"({', '.join(r.id for _, r in seen)})"
    )
    return Clue("Q", words, tuple(r.id for _, r in seen), weight, tuple(worst.across))


def expected_watts(
    record: Transformer, topology: Topology, belief: Belief, r: Any
) -> tuple[float, float, float] | None:
    """Watts a no-load reading should show of this iron at these volts, the spread of their
    logarithm, and the flux over rated.

    Loss per kilogram of the family times the mass, weighed or from the size that the ohms tell;
    about like B^2.5. M-18, M-T4.
    """
    solution, best = belief.solution, belief.best
    if solution is None or best is None or best.family not in LOSS_PER_KG:
        return None
    i = topology.coil_of(r.driven[0])
    if i is None or i != topology.coil_of(r.driven[1]):
        return None
    per_kg, spread = LOSS_PER_KG[best.family]
    a, a_sd = solution.posterior(belief.index, solution.unit((A, 1.0)))
    if record.core is not None and record.core.mass_kg:
        mass, mass_sd = record.core.mass_kg, 0.1
    else:
        offset, offset_sd = FAMILY[best.family].mass_offset
        mass, mass_sd = (
            math.exp((math.log(5.6e-4) + offset - a) / 1.5),
            math.hypot(a_sd, offset_sd) / 1.5,
        )
    w, _ = solution.posterior(belief.index, solution.unit((solution.w(i), 1.0)))
    fraction = topology.coils[i].fraction_between(*r.driven) or 1.0
    flux = r.volts / (math.exp(w) * fraction)
    return per_kg * mass * flux**LOSS_EXPONENT, math.hypot(spread, mass_sd), flux


def usual_amps(watts: float, volts: float, flux: float) -> float:
    """Amps at no load that go with so many watts: power factor about 0.2, running away above rated
    flux. M-12, broad.
    """
    return 5 * watts / volts * max(1.0, math.exp(min(30.0, 6 * (flux - 1.0))))


def _watts(record: Transformer, topology: Topology, belief: Belief) -> Clue | None:
    """Watts at no load, or where none were read the amps, against what the iron explains; the most
    telling reading.
    """
    best: Clue | None = None
    for r in record.standing:
        if r.kind != "no_load":
            continue
        usual = expected_watts(record, topology, belief, r)
        if usual is None or not 0.2 < usual[2] < 1.15:
            continue
        expected, wide, flux = usual
        if r.watts:
            x, shift, sd, unit = math.log(r.watts / expected), FALLS["watts"], wide, "W"
            read, should = r.watts, expected
        elif r.amps:
            should = usual_amps(expected, r.volts, flux)
            x, shift, sd, unit, read = (
                math.log(r.amps / should),
                FALLS["amps"],
                math.hypot(wide, 0.6),
                "A",
                r.amps,
            )
        else:
            continue
        usual_span = span(should * math.exp(-1.96 * sd), should * math.exp(1.96 * sd), unit)
        words = f"{engineering(read, unit)} at no load where {usual_span} is usual ({r.id})"
        clue = Clue("no load", words, (r.id,), _weight(x, shift, sd), tuple(r.driven))
        if best is None or clue.weight > best.weight:
            best = clue
    return best


def _ratio(topology: Topology, belief: Belief, solution: Solution) -> Clue | None:
    """A ratio lower than the other evidence says: the loop loads the winding that is driven."""
    away = [
        (z, r)
        for r, z in zip(solution.rows, solution.left_out(belief.index), strict=True)
        if r.kind == "ratio"
    ]
    if not away:
        return None
    z, row = min(away, key=lambda x: x[0])
    predicted, sd = solution.predicted(belief.index, solution.rows.index(row))
    if z > -1.5:
        # a ratio that fits says little: most shorted turns are few, and pull it down by less than
        # its doubt
        return None
    leads = tuple(dict.fromkeys(x for i in row.coils for x in topology.coils[i].members))
    short = row.value - predicted
    weight = _weight(short, FALLS["ratio"], sd) - math.log(len(away))
    return Clue(
        "ratio",
        f"a ratio {100 * (1 - math.exp(short)):.0f} % low ({_names([row])})",
        row.readings,
        weight,
        leads,
    )


def _lamp(record: Transformer, topology: Topology, belief: Belief) -> Clue | None:
    """A lamp in series that is bright on a winding meant for the mains, unless it is too small for
    this iron to stay dark behind.
    """
    solution = belief.solution
    if solution is None:
        return None
    a, _ = solution.posterior(belief.index, solution.unit((A, 1.0)))
    rated_va = (SIZE[0] / math.exp(a)) ** (1 / SIZE[1])
    for r in record.standing:
        if (
            r.kind != "lamp"
            or r.glow != "bright"
            or r.supply_volts > 1.15 * record.supply.volts
            or r.lamp_watts < LEAST_LAMP * rated_va
        ):
            continue
        i = topology.coil_of(r.across[0])
        if (
            i is not None
            and belief.roles
            and max(belief.roles[i], key=lambda x: belief.roles[i][x])
            in ("primary", "primary-half")
        ):
            return Clue("lamp", f"a bright lamp ({r.id})", (r.id,), LAMP_LIT, tuple(r.across))
    return None


def _names(rows: list[Row]) -> str:
    return ", ".join(_ids(rows))


def _ids(rows: list[Row]) -> tuple[str, ...]:
    return tuple(dict.fromkeys(i for r in rows for i in r.readings))


def excess(record: Transformer, topology: Topology, belief: Belief) -> list[Fault]:
    """No-load watts or current beyond what the iron explains, whatever else was read."""
    out = []
    for r in record.standing:
        usual = expected_watts(record, topology, belief, r) if r.kind == "no_load" else None
        if usual is None:
            continue
        expected, wide, flux = usual
        amps = usual_amps(expected, r.volts, flux)
        too_many_watts = r.watts is not None and r.watts - limit(r, "watts") > expected * math.exp(
            2.6 * wide
        )
        too_many_amps = r.amps > amps * math.exp(2.8 * wide) and flux < 1.15
        if too_many_watts or too_many_amps:
            read, should, unit = (r.watts, expected, "W") if too_many_watts else (r.amps, amps, "A")
            usual_span = span(should * math.exp(-1.96 * wide), should * math.exp(1.96 * wide), unit)
            out.append(
                Fault(
                    "excess-no-load-current",
                    "caution",
                    tuple(r.driven),
                    (r.id,),
                    f"{engineering(read, unit)} at no load, where {usual_span} would be "
                    "usual for this iron at these volts: shorted turns or too few turns "
                    "for the voltage. Off at once if anything warms; let it cool and "
                    "repeat at half the volts.",
                )
            )
    return out
