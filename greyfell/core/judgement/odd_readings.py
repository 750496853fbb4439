"""What does not fit: ohms that do not add up, observations that do not belong, an owner who is
belied, legs of a three-phase core.
"""

import math
from collections.abc import Callable
from itertools import permutations

from greyfell.core.belief.found import Belief
from greyfell.core.belief.observations import Row
from greyfell.core.belief.solution import Solution
from greyfell.core.evidence.kinds.ratio import Ratio
from greyfell.core.evidence.record import Transformer
from greyfell.core.families.registry import has
from greyfell.core.figures.limits import SLIP_WITHIN
from greyfell.core.figures.notation import engineering, percent, times
from greyfell.core.judgement.fault import Fault, Severity
from greyfell.core.wiring.coil import Topology

SLIP_FACTORS = (10.0, 0.1, 100.0, 0.01, 1000.0, 1e-3)
"""What a wrong range or a lost decimal point makes of a figure."""
BELIED = 0.05
"""Below this chance of the family that the owner named a slip is asked for. House rule."""
SHORT_FACTOR = 0.6
"""Turns by inductance below this share of what the rest says hint at shorted turns. House rule."""
ODD_LOOK = 5.0
"""So many standard deviations off, what was seen of a piece is asked about. House rule."""
THREE_PHASE = (0.35, 0.65)
"""Half of the driven leg's volts on each of the others, by symmetry of the flux paths. Common
practice takes this range for half."""
LIKE_OHMS = (0.9, 1.12)
"""Ohms of equal windings lie within this ratio. Common practice."""


def contradicted(record: Transformer, belief: Belief) -> list[Fault]:
    """Ohms that do not add up along a winding, or exclude each other."""
    out = []
    for c in belief.topology.contradictions:
        pair = "–".join(c.points)
        said = "open" if math.isinf(c.said) else engineering(max(c.said, 0.0), "Ω")
        expected = engineering(max(c.expected, 0.0), "Ω")
        sentence = (
            f"Reading {c.reading}, {pair}, says {said}; the others say about {expected} "
            f"({c.slip}). Repeat {pair}; strike {c.reading} out if it was a slip."
        )
        readings = (c.reading,)
        out.append(
            Fault(
                code="inconsistent-readings",
                severity="caution",
                leads=c.points,
                readings=readings,
                sentence=sentence,
            )
        )
    return out


def misfits(record: Transformer, belief: Belief) -> list[Fault]:
    """Observations that do not belong with all the others: by how much, and what would explain
    it.
    """
    solution = belief.solution
    if solution is None:
        return []
    found = [_misfit(belief, solution, j, z) for j, z in belief.outliers]
    return [fault for fault in found if fault is not None]


def _misfit(belief: Belief, solution: Solution, j: int, z: float) -> Fault | None:
    """One observation opened wide, told by its kind; None where it is not worth a word."""
    row = solution.rows[j]
    factor = math.exp(row.value - solution.predicted(belief.index, j)[0])
    coils = belief.topology.coils
    leads = tuple(dict.fromkeys(x for i in row.coils for x in coils[i].members))
    tell = MISFITS.get(row.kind)
    if tell is not None:
        code, sentence = tell(row, leads, factor)
        if row.kind == "turns":
            sentence += _as_ratio(belief, row)
        return Fault(
            code=code, severity="caution", leads=leads, readings=row.readings, sentence=sentence
        )
    sentence = (
        f"The {row.kind} noted does not fit the rest ({times(factor)} off). Measure it again."
    )
    if row.kind.startswith("plate"):
        sentence = (
            f"The plate and the readings disagree by {times(factor)}: trust the readings, the "
            "plate may be another's."
        )
    elif abs(z) <= ODD_LOOK:
        return None
    return Fault(
        code="inconsistent-readings", severity="note", leads=leads, readings=(), sentence=sentence
    )


def _odd_ohms(row: Row, leads: tuple[str, ...], factor: float) -> tuple[str, str]:
    return "ohms-out-of-band", (
        f"{'–'.join(leads)}: {engineering(math.exp(row.value), 'Ω')} is {times(factor)} "
        f"what everything else on record lets expect.{_slip_words(factor)} Read it again; "
        "too few ohms may be shorted turns."
    )


def _odd_ratio(row: Row, leads: tuple[str, ...], factor: float) -> tuple[str, str]:
    return "ratio-conflict", (
        f"Reading {_named(row)}: the volts are {times(factor)} what the other evidence says."
        f"{_slip_words(factor)} Repeat it with the line voltage read in the same minute; "
        "shorted turns pull a ratio down too."
    )


def _odd_inductance(row: Row, leads: tuple[str, ...], factor: float) -> tuple[str, str]:
    return "shorted-turns" if factor < SHORT_FACTOR else "ratio-conflict", (
        f"Reading {_named(row)}: the inductance is {times(factor**2)} what the other evidence "
        "says. A fall alone proves no short: unplug everything in parallel and repeat at 100 "
        "or 120 Hz."
    )


def _odd_turns(row: Row, leads: tuple[str, ...], factor: float) -> tuple[str, str]:
    return "ratio-conflict", (
        f"Reading {_named(row)} gives {times(factor)} the turns that the rest gives. A test "
        "turn must pass both windows."
    )


TYPED_AS_RATIO = 0.15
"""A count of turns this near to a ratio of volts, in logarithms, may be that ratio. House rule."""


def _as_ratio(belief: Belief, row: Row) -> str:
    """Words for a count that may have been a ratio typed as turns, with both answers; empty where
    it is near none.
    """
    count = math.exp(row.value)
    own = belief.windings[row.coils[0]]
    for other in belief.windings:
        if other is own or own.volts is None or other.volts is None:
            continue
        ratio = own.volts.value / other.volts.value
        if abs(abs(math.log(ratio)) - math.log(count)) > TYPED_AS_RATIO:
            continue
        out = other.volts.value * (count if ratio > 1 else 1 / count)
        return (
            f" Or was {count:.4g} a ratio to {other.name}, not turns? As a ratio it puts "
            f"{engineering(out, 'V')} on {own.name}; as turns it means "
            f"{engineering(own.volts.value / count, 'V')} a turn. Strike it out and type the volts "
            "driven and read, if so."
        )
    return ""


def _named(row: Row) -> str:
    return ", ".join(row.readings) or row.kind


MISFITS: dict[str, Callable[[Row, tuple[str, ...], float], tuple[str, str]]] = {
    "ohms": _odd_ohms,
    "ratio": _odd_ratio,
    "inductance": _odd_inductance,
    "test turn": _odd_turns,
    "turns": _odd_turns,
}
"""The code and the sentence of a reading that does not fit, by its kind of observation."""


def _slip_words(factor: float) -> str:
    """A likely slip of the pen, where the factor is near a power of ten."""
    ten = next((f for f in SLIP_FACTORS if SLIP_WITHIN[0] < factor / f < SLIP_WITHIN[1]), None)
    return f" That is about {ten:g} times off: range or decimal point?" if ten else ""


LAMP_FIRST = ("dark", "dim", "bright")
"""How a lamp glows, the least first."""


def lamps(record: Transformer, belief: Belief) -> list[Fault]:
    """A larger lamp that glows brighter than a smaller one did on the same pair and supply: it has
    fewer ohms and is left with fewer volts, so something changed between them. Ohm's law.
    """
    seen = [r for r in record.standing if r.kind == "lamp"]
    out = []
    for small, large in permutations(seen, 2):
        same = set(small.across) == set(large.across) and small.supply_volts == large.supply_volts
        brighter = LAMP_FIRST.index(large.glow) > LAMP_FIRST.index(small.glow)
        if not (same and brighter and large.lamp_watts > small.lamp_watts):
            continue
        sentence = (
            f"{large.id}: {large.lamp_watts:g} W is {large.glow} where {small.lamp_watts:g} W "
            f"({small.id}) was {small.glow}. On a piece that stays as it is the larger lamp is "
            "left with fewer volts and glows less: a short came between them, or the lamps are "
            "not what is written. Off; inductance and Q before it is powered again."
        )
        out.append(
            Fault(
                code="inconsistent-readings",
                severity="caution",
                leads=tuple(large.across),
                readings=(small.id, large.id),
                sentence=sentence,
            )
        )
    return out


def belied(record: Transformer, belief: Belief) -> list[Fault]:
    """An owner's belief that the readings leave next to no chance: a slip is likelier than another
    family, so it is asked for.
    """
    said, likely = record.declared_family, belief.family
    if said is None or not belief.windings or belief.families.get(said, 0.0) >= BELIED:
        return []
    severity: Severity = "caution" if has(said, "high") else "note"
    longest = max(belief.windings, key=lambda w: w.coil.ohms.value)
    sentence = (
        f"You said it is of the family “{said}”; what was read leaves that "
        f"{percent(belief.families.get(said, 0.0))} and says “{likely}” "
        f"({percent(belief.families[likely])}). Were ohms ten times too high or too low (range or "
        f"decimal point)? Repeat {longest.name} on a fixed range, or correct what you said."
    )
    return [
        Fault(
            code="inconsistent-readings",
            severity=severity,
            leads=longest.coil.members,
            readings=longest.coil.readings[:1],
            sentence=sentence,
        )
    ]


def _like_legs(r: Ratio, topology: Topology) -> tuple[int, int] | None:
    # two windings of like ohms of which one shows half of the other
    if not _between(r.sensed_volts / r.driven_volts, THREE_PHASE):
        return None
    i, j = topology.coil_of(r.driven[0]), topology.coil_of(r.sensed[0])
    if i is None or j is None or i == j:
        return None
    one, two = topology.coils[i], topology.coils[j]
    alike = one.ohms.value / max(two.ohms.value, 1e-6)
    return (i, j) if _between(alike, LIKE_OHMS) and one.resolved else None


def three_phase(record: Transformer, belief: Belief) -> list[Fault]:
    """Equal windings that read about half of each other: the legs of a three-phase core share the
    flux of the driven one.
    """
    topology = belief.topology
    halves: dict[int, set[int]] = {}
    ids = []
    for r in record.standing:
        legs_of = _like_legs(r, topology) if r.kind == "ratio" else None
        if legs_of is not None:
            i, j = legs_of
            halves.setdefault(i, set()).add(j)
            ids.append(r.id)
    driven = next((i for i, others in halves.items() if len(others) >= 2), None)
    if driven is None:
        return []
    legs = (driven, *sorted(halves[driven]))
    leads = tuple(x for n in legs for x in topology.coils[n].members)
    sentence = (
        "Three equal windings, and two read about half of the driven one: the legs of a "
        "three-phase core. It never goes on single-phase mains as it is."
    )
    return [
        Fault(
            code="inconsistent-readings",
            severity="caution",
            leads=leads,
            readings=tuple(ids),
            sentence=sentence,
        )
    ]


def _between(value: float, limits: tuple[float, float]) -> bool:
    return limits[0] < value < limits[1]
