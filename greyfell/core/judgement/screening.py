"""The cold screening: what keeps windings apart from the iron and from each other, and what is
still not known of it.

A barrier lies between a winding and the core, or between two windings. Each is sound, touches
(conducts) or leaks (some tens of kilohms to some tens of megohms). What is on record moves the
odds: an open reading says as much as its range could show, and one to the core only as much as the
core was proved.
"""

import itertools
import math
from collections.abc import Callable, Sequence
from typing import Any

from msgspec import Struct

from greyfell.core.belief.found import Belief, Winding
from greyfell.core.belief.priors import MISSED, VARNISHED
from greyfell.core.evidence.record import Transformer
from greyfell.core.figures.limits import REINFORCED_OHMS
from greyfell.core.judgement.leaks import LEAK_CAUTION_OHMS, is_insulation_test
from greyfell.core.wiring.coil import Topology

ASKED_RANGE_OHMS = 2e7
"""The range that an "open" is asked on."""
HIGH_RANGE_OHMS = ASKED_RANGE_OHMS
"""An open reading counts towards a screening only from a range above the ohms that would be asked
about. Common practice."""


CORE = -1
"""Stands for the core where a barrier's other side is meant."""


NOWHERE = -2
"""Stands for what is no side of a barrier."""


class Barrier(Struct, frozen=True):
    """Insulation that should read open: winding i to winding j (or CORE), and the highest range it
    read open on.

    `range_ohms` is None where it was not read, 0 where the range was not written down.
    """

    i: int
    j: int
    range_ohms: float | None

    @property
    def screened(self) -> bool:
        """Whether an open reading is on record from a range that counts."""
        return self.range_ohms is not None and self.range_ohms >= HIGH_RANGE_OHMS


def barriers(record: Transformer, topology: Topology) -> list[Barrier]:
    """Every barrier of a piece, windings to core first.

    An open reading to a winding that is itself bonded to the core is none to the core: the bond may
    be the next to fail.
    """
    apart = [i for i, c in enumerate(topology.coils) if c.bond is None and not c.broken]
    sides = dict.fromkeys(topology.iron, CORE)
    for i in apart:
        coil = topology.coils[i]
        sides |= {x: i for x in (*coil.positions, *coil.members) if x not in sides}
    best: dict[tuple[int, int], float] = {}
    for r in record.standing:
        reach = _reach(r, record)
        if reach is None:
            continue
        # a loose lead, or one of a winding bonded to the core, is no side of a barrier
        one, two = sorted(sides.get(x, NOWHERE) for x in r.between)
        best[one, two] = max(best.get((one, two), 0.0), reach)
    to_core = [Barrier(i, CORE, best.get((CORE, i))) for i in apart]
    between = [Barrier(i, j, best.get((i, j))) for i, j in itertools.combinations(apart, 2)]
    return to_core + between


def _reach(r: Any, record: Transformer) -> float | None:
    """Up to how many ohms an open reading would have shown something; None where it was not open,
    or no test of a barrier.
    """
    if not r.may_open or "earth" in r.between:
        return None  # the pin of a lead need not be on the iron
    if is_insulation_test(r, record):
        return HIGH_RANGE_OHMS if r.ohms_shown >= REINFORCED_OHMS else None
    if r.is_open:
        return float(r.range_ohms or 0.0)
    return float(r.ohms) if r.ohms >= LEAK_CAUTION_OHMS else None


def screening_gaps(record: Transformer, belief: Belief) -> list[str]:
    """What still keeps a cold screening from counting; empty when it is complete."""
    return [*_gaps(record, belief, demanded), *_untested(belief)]


def own_gaps(record: Transformer, belief: Belief) -> list[str]:
    """What is still missing of the barriers of what carries the mains."""
    return _gaps(record, belief, carries_mains)


def _gaps(
    record: Transformer, belief: Belief, wanted: Callable[[Barrier, Sequence[Winding]], bool]
) -> list[str]:
    windings = belief.windings
    gaps = []
    if not belief.topology.core_proved:
        gaps.append("the core is not proved: two bare spots against each other")
    for b in barriers(record, belief.topology):
        if b.screened or not wanted(b, windings):
            continue
        other = "the core" if b.j == CORE else windings[b.j].name
        how = "not read" if b.range_ohms is None else "read on an unknown or low range"
        gaps.append(f"{windings[b.i].name} to {other} was {how}")
    return gaps


def _untested(belief: Belief) -> list[str]:
    left = belief.topology.untested
    return [f"{', '.join(left)} not tested against the others"] if left else []


def carries_mains(b: Barrier, windings: Sequence[Winding]) -> bool:
    """Whether a barrier is one of a winding that carries the mains."""
    return windings[b.i].on_mains or (b.j != CORE and windings[b.j].on_mains)


def demanded(b: Barrier, windings: Sequence[Winding]) -> bool:
    """Whether the screening needs this barrier: every winding to the core, and what carries the
    mains to every other.
    """
    return b.j == CORE or carries_mains(b, windings)


TOUCH_ODDS = {"primary": 0.035, "primary-half": 0.03, "filament": 0.02, "hv-secondary": 0.03}
"""How often a winding of salvaged iron touches where it must not, by role. From memory, broad."""


USUAL_TOUCH, BETWEEN_TOUCH, LEAK_ODDS = 0.015, 0.012, 0.02
"""The same for other roles, for a touch of two windings, and for leakage. From memory, broad."""


LEAK_RANGE = (5e4, 2e7)
"""Leakage lies between these ohms, every decade alike. Common practice for damp or scorched
insulation."""


class ScreeningState(Struct, frozen=True):
    """Odds of a barrier: sound, touching, leaking."""

    sound: float
    touch: float
    leak: float

    def after(self, likelihood: tuple[float, float, float]) -> "ScreeningState":
        """These odds once something was seen that is so likely under each."""
        odds = (self.sound * likelihood[0], self.touch * likelihood[1], self.leak * likelihood[2])
        total = sum(odds)
        return ScreeningState(*(x / total for x in odds))

    @property
    def nats(self) -> float:
        """Entropy, in nats: what is not known of it. Shannon's definition.

        >>> round(ScreeningState(0.5, 0.5, 0.0).nats, 3)
        0.693
        """
        return -sum(p * math.log(p) for p in (self.sound, self.touch, self.leak) if p > 0)


OUTCOMES = ("open", "conducts", "leaks")


Shown = tuple[tuple[float, float, float], ...]


def shows(range_ohms: float, *, to_core: bool, proved: bool) -> Shown:
    """Probability of each outcome (rows, as OUTCOMES) for a sound, touching and leaking barrier
    (columns) on a range.
    """
    blind = MISSED + (VARNISHED if to_core and not proved else 0.0)
    low, high = LEAK_RANGE
    seen = 0.0 if range_ohms <= low else min(1.0, math.log(range_ohms / low) / math.log(high / low))
    seen *= 1 - blind
    damp = 0.005  # fingers on both probes
    return ((1 - damp, blind, 1 - seen), (0.0, 1 - blind, 0.0), (damp, 0.0, seen))


def state_of(b: Barrier, windings: Sequence[Winding], *, proved: bool) -> ScreeningState:
    """Odds of a barrier under the present beliefs about roles and what was read of it. Bayes' rule;
    odds of the trade from memory.
    """
    if b.j == CORE:
        touch = sum(
            p * TOUCH_ODDS.get(role, USUAL_TOUCH) for role, p in windings[b.i].roles.items()
        )
    else:
        touch = BETWEEN_TOUCH
    prior = ScreeningState(1 - touch - LEAK_ODDS, touch, LEAK_ODDS)
    if b.range_ohms is None:
        return prior
    return prior.after(shows(b.range_ohms, to_core=b.j == CORE, proved=proved)[0])


def outcomes(state: ScreeningState, shown: Shown) -> tuple[tuple[float, ScreeningState], ...]:
    """Each outcome's probability, and what the barrier would be then. Bayes' rule.

    >>> sound = ScreeningState(0.95, 0.03, 0.02)
    >>> shown = shows(2e7, to_core=False, proved=True)
    >>> [round(chance, 3) for chance, _ in outcomes(sound, shown)]
    [0.946, 0.03, 0.025]
    """
    sides = (state.sound, state.touch, state.leak)
    out = []
    for likelihood in shown:
        chance = sum(s * x for s, x in zip(sides, likelihood, strict=True))
        out.append((chance, state.after(likelihood) if chance > 0 else state))
    return tuple(out)


def settled(state: ScreeningState, shown: Shown) -> float:
    """Nats that a reading is expected to settle: entropy now less the mean entropy after it. Mutual
    information, by definition.

    >>> shown = shows(2e7, to_core=False, proved=True)
    >>> round(settled(ScreeningState(0.95, 0.03, 0.02), shown), 2)
    0.22
    """
    return max(0.0, state.nats - sum(chance * then.nats for chance, then in outcomes(state, shown)))


def proof_worth(record: Transformer, belief: Belief) -> float:
    """Nats that proving the core settles: of what was read open to it, and of what is still to be
    read.
    """
    windings = belief.windings
    to_core = [b for b in barriers(record, belief.topology) if b.j == CORE]
    return sum(_proof_of(b, windings) for b in to_core)


def _proof_of(b: Barrier, windings: Sequence[Winding]) -> float:
    """Nats that the proof settles of one barrier to the core.

    It tells whether the probe stood on iron, so that an open reading counts, or on varnish, so that
    it says nothing.
    """
    loose = state_of(b, windings, proved=False)
    if b.range_ohms is None:
        proved = shows(ASKED_RANGE_OHMS, to_core=True, proved=True)
        not_proved = shows(ASKED_RANGE_OHMS, to_core=True, proved=False)
        return settled(loose, proved) - settled(loose, not_proved)
    firm = state_of(b, windings, proved=True)
    void = state_of(Barrier(b.i, CORE, None), windings, proved=False)
    return max(0.0, loose.nats - (1 - VARNISHED) * firm.nats - VARNISHED * void.nats)
