"""What is wrong with a piece, as far as its readings show: every rule, and the faults it gives.

A stop fault is cleared only by a better reading, never by a statement. The rules stand by theme:
what touches, what leaks or is broken, what does not fit, shorted turns, readings under power.
"""

from collections.abc import Callable, Iterable

from greyfell.core.belief.found import Belief
from greyfell.core.evidence.record import Transformer
from greyfell.core.judgement.acts import earth_bond, leakage, unsafe, zeros
from greyfell.core.judgement.contradictions import contradictions
from greyfell.core.judgement.earth_pin import earth_on_winding
from greyfell.core.judgement.fault import GRAVEST, Fault
from greyfell.core.judgement.leaks import bleeder, broken, filtered, leaking
from greyfell.core.judgement.left_out import too_many
from greyfell.core.judgement.odd_readings import belied, contradicted, lamps, misfits, three_phase
from greyfell.core.judgement.paths import hot_joints
from greyfell.core.judgement.shorts import excess, shorted_turns
from greyfell.core.judgement.touches import bonded, crowded, joined, same_place, tapped_oven
from greyfell.core.judgement.warm_runs import soaked


def find_faults(record: Transformer, belief: Belief) -> list[Fault]:
    """Every fault the record shows, the gravest first; the same of the same readings once."""
    found = [fault for rule in RULES for fault in rule(record, belief)]
    unique: dict[tuple[str, tuple[str, ...]], Fault] = {}
    for fault in sorted(found, key=lambda f: GRAVEST[f.severity]):
        if not _said(fault, unique.values()):
            unique.setdefault((fault.code, tuple(sorted(fault.leads))), fault)
    return list(unique.values())


def _said(fault: Fault, told: Iterable[Fault]) -> bool:
    """Whether the same was said of the same readings, where they are weighed together."""
    readings = set(fault.readings)
    alike = [f for f in told if f.code == fault.code]
    return bool(readings) and any(readings <= set(f.readings) for f in alike)


RULES: tuple[Callable[[Transformer, Belief], list[Fault]], ...] = (
    earth_on_winding,
    joined,
    bonded,
    crowded,
    same_place,
    tapped_oven,
    bleeder,
    filtered,
    leaking,
    broken,
    contradicted,
    contradictions,
    shorted_turns,
    misfits,
    excess,
    three_phase,
    belied,
    lamps,
    earth_bond,
    leakage,
    zeros,
    soaked,
    hot_joints,
    unsafe,
    too_many,
)
"""Every rule of judgement; each gives faults of the codes that `fault.FAULTS` tells."""
