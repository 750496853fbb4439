"""Shorted turns, weighed from every kind of reading together: inductance, Q, watts and current at
no load, ratio, lamp.

A closed loop on the core, be it shorted turns, a ring through the window or a load left on, takes
flux: every winding has less inductance, its reactance turns resistive, watts flow at no load,
ratios fall, a lamp in series lights. No single one proves it; each carries a likelihood ratio, and
Bayes' rule adds them up. A dark lamp clears nothing. Common practice; spreads from memory where not
sourced.
"""

import math
from typing import Any

from msgspec import Struct

from greyfell.core.belief.found import Belief
from greyfell.core.belief.observations import Row
from greyfell.core.belief.size import va_of
from greyfell.core.belief.solution import LAM, A, Solution
from greyfell.core.circuit.loss import Loss, Losses, usual_amps
from greyfell.core.evidence.accuracy import limit
from greyfell.core.evidence.kinds.inductance import near_resonance
from greyfell.core.evidence.kinds.no_load import NoLoad
from greyfell.core.evidence.record import Transformer
from greyfell.core.families.registry import does, model_of
from greyfell.core.figures.notation import engineering, percent, span, times
from greyfell.core.judgement.fault import Fault, Severity
from greyfell.core.judgement.lamp_loop import lit_by_iron
from greyfell.core.wiring.coil import Topology

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


LAMP_PERHAPS = 1.6
"""The same where the hungriest iron of its kind would light it too: no question by itself. From
memory."""


LEAST_LAMP = 0.12
"""A lamp of less than this share of the VA is lit by the magnetising current of sound iron; a fifth
to a half is usual. Common practice."""


MOST_HERTZ = 130.0
"""Q is judged at 100 and 120 Hz: above, eddy currents add loss of their own. Common practice."""
COPPER_DECIDES = 0.3
"""Where less than this share of the loss is left once the copper is out, Q tells nothing of
iron."""
NO_LOAD_FLUX = (0.2, 1.15)
"""No-load amps are judged between these shares of rated flux: below, the meter; above, the knee
decides. House rule."""
OVERDRIVEN_FLUX, OVERDRIVEN_SPREAD = 1.5, 0.5
"""Watts are judged up to so many times rated flux: saturated iron still takes them, with so much
more spread of their logarithm beyond the knee. M-18, broad."""
MOST_FLUX = NO_LOAD_FLUX[1]
AMPS_SPREAD = 0.6
"""Spread of the logarithm of no-load amps beyond that of the watts: power factors differ."""
LOW_RATIO = -1.5
"""From this many standard deviations below the rest a ratio speaks for shorted turns. House
rule."""
LAMP_OVER = 1.15
"""A lamp test on more than this times the supply is no test of a mains winding. House rule."""
WATTS_EXCESS, AMPS_EXCESS = 2.6, 2.8
"""So many spreads above the usual, watts or amps at no load are a fault by themselves. House rule:
one sound piece in some two hundred."""


class Clue(Struct, frozen=True):
    """What one kind of reading says: in words, by which readings, and ln of its likelihood ratio,
    shorted turns over none.
    """

    kind: str
    words: str
    readings: tuple[str, ...]
    weight: float
    leads: tuple[str, ...] = ()


def shorted_turns(record: Transformer, belief: Belief) -> list[Fault]:
    """The fault, where the readings together make it likelier than not; a stop where two kinds
    agree and little doubt is left.
    """
    chance, clues = odds_of_shorted_turns(record, belief)
    speaking = sorted((c for c in clues if c.weight > TALKS), key=lambda c: -c.weight)
    if chance < NAMED or all(c.kind == "ratio" for c in speaking):
        return []  # a low ratio by itself is a conflict of readings, and named as one
    agree = chance > SURE and len(speaking) > 1
    severity: Severity = "stop" if agree else "caution"
    leads = next((c.leads for c in speaking if c.kind == "ratio"), speaking[0].leads)
    readings = tuple(dict.fromkeys(i for c in speaking for i in c.readings))
    likely = f"Shorted turns cannot be ruled out ({percent(chance)})"
    if chance > 0.5:
        likely = f"Shorted turns are {percent(chance)} likely"
    sentence = (
        f"{likely}: {'; '.join(c.words for c in speaking)}. A loop through the window or a load "
        "left on shows the same: take everything off and repeat at 100 or 120 Hz, then watts at "
        "no load behind a lamp decide."
    )
    return [
        Fault(
            code="shorted-turns",
            severity=severity,
            leads=leads,
            readings=readings,
            sentence=sentence,
        )
    ]


def odds_of_shorted_turns(record: Transformer, belief: Belief) -> tuple[float, list[Clue]]:
    """Probability of shorted turns and what each kind of reading says of it. Bayes' rule; kinds
    taken as independent.

    A choke's gap and what fits no family are not judged so: the probability is then that before
    looking.
    """
    solution, best = belief.solution, belief.best
    if solution is None or best is None or does(best.family).loss_per_kg is None:
        return PRIOR, []
    found = (
        _inductance(belief, solution),
        _tangent(record, belief.topology),
        _watts(record, belief),
        _ratio(belief, solution),
        _lamp(record, belief, solution),
    )
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
    return _kept_within(math.log(moved / sound))


def _kept_within(weight: float) -> float:
    """A weight no kind of reading may pass either way."""
    return min(MOST, max(LEAST, weight))


def _inductance(belief: Belief, solution: Solution) -> Clue | None:
    """Henries against turns, over every winding read: how far the core's permeance lies below its
    family's.
    """
    rows = [r for r in solution.rows if r.kind == "inductance"]
    if not rows:
        return None
    away = [j for j, _ in belief.outliers if solution.rows[j] in rows]
    if away:  # a reading set aside as not belonging: what it says is asked all the same
        short, wide, row = min(_set_aside(belief, solution, j) for j in away)
        rows = [solution.rows[row]]
    else:
        short, wide = _permeance(belief, solution)
    coils = belief.topology.coils
    leads = tuple(dict.fromkeys(x for r in rows for x in coils[r.coils[0]].members))
    words = f"inductance {times(math.exp(short))} what the turns should give ({_names(rows)})"
    weight = _weight(short, FALLS["inductance"], wide)
    return Clue(kind="inductance", words=words, readings=_ids(rows), weight=weight, leads=leads)


def _set_aside(belief: Belief, solution: Solution, j: int) -> tuple[float, float, int]:
    """ln of an inductance over what the rest says it should be, the spread, and its row."""
    mean, sd = solution.predicted(belief.index, j)
    return 2 * (solution.rows[j].value - mean), 2 * sd, j


def _permeance(belief: Belief, solution: Solution) -> tuple[float, float]:
    """ln of the core's permeance by all inductances over its family's, and the spread.

    What the readings alone say: the expectation is taken out of the posterior again.
    """
    mean, sd = model_of(belief.best.family).permeance if belief.best else (0.0, 1.0)
    now, spread = solution.posterior(belief.index, solution.unit((LAM, 1.0)))
    before, after = sd**2, min((2 * spread) ** 2, 0.999 * sd**2)
    told = 1 / (1 / after - 1 / before)
    return told * (2 * now / after - mean / before) - mean, math.sqrt(before + told)


def _tangent(record: Transformer, topology: Topology) -> Clue | None:
    """Q at 100 or 120 Hz, the winding's own copper taken out: the loss tangent of what is left is
    the iron's, or a loop's.
    """
    seen = [(r, t) for r in record.standing if (t := _iron_tangent(r, topology)) is not None]
    if not seen:
        return None
    middle = sum(math.log(t) for _, t in seen) / len(seen)
    away = (middle - math.log(IRON_TANGENT[0])) / IRON_TANGENT[1]
    apart = (middle - math.log(LOOP_TANGENT[0])) / LOOP_TANGENT[1]
    # less loss than usual is no less sound
    sound = -0.5 * min(max(away, 0.0), 5.0) ** 2 - math.log(IRON_TANGENT[1])
    weight = _kept_within(-0.5 * apart**2 - math.log(LOOP_TANGENT[1]) - sound)
    worst = min((r for r, _ in seen), key=lambda r: r.q)
    ids = tuple(r.id for r, _ in seen)
    words = (
        f"Q of {worst.q:.2g} where the iron alone gives {IRON_Q[0]:.0f} to {IRON_Q[1]:.0f} "
        f"({', '.join(ids)})"
    )
    return Clue(kind="Q", words=words, readings=ids, weight=weight, leads=tuple(worst.across))


def _iron_tangent(r: Any, topology: Topology) -> float | None:
    """The loss tangent of one inductance reading, copper taken out; None where it tells nothing of
    the iron: no Q, too high a frequency, near resonance, or the copper decides.
    """
    known = r.kind == "inductance" and r.q and r.hertz and not r.shorted
    if not known or r.hertz > MOST_HERTZ:
        return None
    i = topology.winding_spanned(r.across)
    if i is None or near_resonance(r) > Q_RESONANT:
        return None
    coil = topology.coils[i]
    share = coil.fraction_between(*r.across) or 1.0
    reactance = 2 * math.pi * r.hertz * r.henries
    if 1 / r.q - share * coil.ohms.high / reactance <= COPPER_DECIDES / r.q:
        return None
    return float(1 / r.q - share * coil.ohms.value / reactance)


def _watts(record: Transformer, belief: Belief) -> Clue | None:
    """Watts at no load, or where none were read the amps, against what the iron explains; the most
    telling reading.
    """
    read = [r for r in record.standing if r.kind == "no_load"]
    losses = Losses(record, belief)
    told = [t for r in read if (t := _no_load(losses, r)) is not None]
    if not told:
        return None
    most = max(told, key=lambda t: t.weight)
    words = f"{engineering(most.read, most.unit)} at no load where "
    words += f"{_usual(most.should, most.sd, most.unit)} is usual ({most.reading.id})"
    return Clue(
        kind="no load",
        words=words,
        readings=(most.reading.id,),
        weight=most.weight,
        leads=tuple(most.reading.driven),
    )


class _Idle(Struct, frozen=True, kw_only=True):
    """One no-load reading beside what is usual: the figure, what it should be with the spread of
    its logarithm, and what it weighs.
    """

    reading: NoLoad
    read: float
    should: float
    sd: float
    unit: str
    weight: float


def _no_load(losses: Losses, r: NoLoad) -> _Idle | None:
    """What one no-load reading says, by its watts or else its amps."""
    usual = losses.of(r)
    if usual is None or not NO_LOAD_FLUX[0] < usual.flux < OVERDRIVEN_FLUX:
        return None
    over = usual.flux >= NO_LOAD_FLUX[1]
    if r.watts:
        read, should, unit = r.watts, usual.watts, "W"
        shift, sd = FALLS["watts"], math.hypot(usual.spread, OVERDRIVEN_SPREAD if over else 0.0)
    elif r.amps and not over:
        read, should, unit = r.amps, usual_amps(usual.watts, r.volts, usual.flux), "A"
        shift, sd = FALLS["amps"], math.hypot(usual.spread, AMPS_SPREAD)
    else:
        return None
    weight = _weight(math.log(read / should), shift, sd)
    return _Idle(reading=r, read=read, should=should, sd=sd, unit=unit, weight=weight)


def _usual(value: float, sd: float, unit: str) -> str:
    """The usual range of a figure whose logarithm has this spread, 95 %."""
    wide = math.exp(1.96 * sd)
    return span(value / wide, value * wide, unit)


def _ratio(belief: Belief, solution: Solution) -> Clue | None:
    """A ratio lower than the other evidence says: the loop loads the winding that is driven."""
    off = zip(solution.rows, solution.left_out(belief.index), strict=True)
    away = [(float(z), r) for r, z in off if r.kind == "ratio"]
    if not away:
        return None
    z, row = min(away, key=lambda x: x[0])
    if z > LOW_RATIO:
        return None  # a ratio that fits says little: most shorted turns are few
    predicted, sd = solution.predicted(belief.index, solution.rows.index(row))
    coils = belief.topology.coils
    leads = tuple(dict.fromkeys(x for i in row.coils for x in coils[i].members))
    short = row.value - predicted
    weight = _weight(short, FALLS["ratio"], sd) - math.log(len(away))
    words = f"a ratio {100 * (1 - math.exp(short)):.0f} % low ({_names([row])})"
    return Clue(kind="ratio", words=words, readings=row.readings, weight=weight, leads=leads)


def _lamp(record: Transformer, belief: Belief, solution: Solution) -> Clue | None:
    """A lamp in series that is bright on a winding meant for the mains, unless it is too small for
    this iron to stay dark behind.
    """
    a, _ = solution.posterior(belief.index, solution.unit((A, 1.0)))
    rated_va, _ = va_of(a)
    for r in record.standing:
        if r.kind != "lamp" or r.glow != "bright":
            continue
        fair = r.supply_volts <= LAMP_OVER * record.supply.volts
        large = r.lamp_watts >= LEAST_LAMP * rated_va
        winding = belief.winding_of(r.across[0])
        if not (fair and large and winding is not None and winding.on_mains):
            continue
        by_iron = lit_by_iron(record, belief, r)
        if by_iron is True:
            continue
        return Clue(
            kind="lamp",
            words=f"a bright lamp ({r.id})",
            readings=(r.id,),
            weight=LAMP_LIT if by_iron is False else LAMP_PERHAPS,
            leads=tuple(r.across),
        )
    return None


def _names(rows: list[Row]) -> str:
    return ", ".join(_ids(rows))


def _ids(rows: list[Row]) -> tuple[str, ...]:
    return tuple(dict.fromkeys(i for r in rows for i in r.readings))


def _too_many_amps(r: NoLoad, amps: float, usual: Loss) -> bool:
    most = amps * math.exp(AMPS_EXCESS * usual.spread)
    return r.amps is not None and r.amps > most and usual.flux < MOST_FLUX


def excess(record: Transformer, belief: Belief) -> list[Fault]:
    """No-load watts or current beyond what the iron explains, whatever else was read."""
    out = []
    losses = Losses(record, belief)
    for r in record.standing:
        usual = losses.of(r) if r.kind == "no_load" else None
        if usual is None:
            continue
        amps = usual_amps(usual.watts, r.volts, usual.flux)
        if _too_many_watts(r, usual):
            read, should, unit = r.watts, usual.watts, "W"
        elif _too_many_amps(r, amps, usual):
            read, should, unit = r.amps, amps, "A"
        else:
            continue
        sentence = (
            f"{engineering(read, unit)} at no load, where {_usual(should, usual.spread, unit)} "
            "would be usual for this iron at these volts: shorted turns or too few turns for the "
            "voltage. Off at once if anything warms; let it cool and repeat at half the volts."
        )
        leads = tuple(r.driven)
        out.append(
            Fault(
                code="excess-no-load-current",
                severity="caution",
                leads=leads,
                readings=(r.id,),
                sentence=sentence,
            )
        )
    return out


def _too_many_watts(r: NoLoad, usual: Loss) -> bool:
    most = usual.watts * math.exp(WATTS_EXCESS * usual.spread)
    return r.watts is not None and r.watts - limit(r, "watts") > most
