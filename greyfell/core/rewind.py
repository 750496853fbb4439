"""How many turns for the volts wanted, and what one turn more or fewer gives.

A turn is whole: through a shell core it passes both windows, and half a turn does not exist there.
Formula: V = v N (REF-M-02), v the volts per turn at the same supply. Open circuit; a load takes its
drop off.
"""

import math
from dataclasses import dataclass

from greyfell.core.errors import within
from greyfell.core.quantity import Quantity, corners, exact

MOST_TURNS = 100_000


@dataclass(frozen=True)
class Rewind:
    """Whole turns and the open-circuit volts RMS they give, with one turn fewer and one more."""

    turns: int
    open_circuit_volts: Quantity
    one_turn_fewer_volts: Quantity
    one_turn_more_volts: Quantity


def plan_rewind(supply_volts: float, volts_per_turn: Quantity, target_volts: float) -> Rewind:
    """Nearest whole number of turns for the target. Volts RMS; volts_per_turn at that supply, with
    its range. REF-M-02.

    At least one turn. Raises FieldError where a figure is not positive, or the turns would pass 100
    000.

    >>> plan_rewind(230.0, exact(0.86, "test turn r3"), 2.5).turns
    3
    """
    within("supply_volts", supply_volts, above=0, unit="V")
    within("volts_per_turn", volts_per_turn.low, above=0, unit="V")
    within("target_volts", target_volts, above=0, unit="V")
    within("target_volts", target_volts / volts_per_turn.value, at_most=MOST_TURNS, unit="turns")
    turns = max(1, math.floor(target_volts / volts_per_turn.value + 0.5))

    def volts(n: int) -> Quantity:
        q = corners(lambda v: v * n, volts_per_turn)
        return Quantity(
            q.value,
            q.low,
            q.high,
            (f"{n} turns × volts per turn at {supply_volts:g} V", *volts_per_turn.basis),
        )

    return Rewind(turns, volts(turns), volts(turns - 1), volts(turns + 1))


def scaled_to(volts_per_turn: Quantity, from_supply: float, to_supply: float) -> Quantity:
    """Volts per turn at another supply voltage: flux follows volts below the knee. REF-M-03.

    >>> scaled_to(exact(0.9), 230.0, 115.0).value
    0.45
    """
    within("from_supply", from_supply, above=0, unit="V")
    return corners(lambda v, a, b: v * b / a, volts_per_turn, exact(from_supply), exact(to_supply))
