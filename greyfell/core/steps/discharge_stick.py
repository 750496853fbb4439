"""The discharge stick: a chain of resistors on an insulated rod, from what the stores hold or as a
list to buy. The chain is worked by the `discharge` planner (REF-R-05 to R-08, REF-Q-07).
"""

import math
from collections.abc import Iterable

from msgspec import Struct

from greyfell.core.evidence.stores import Item
from greyfell.core.figures.limits import RESISTOR_VOLTS
from greyfell.core.figures.notation import engineering
from greyfell.core.figures.quantity import Quantity, exact
from greyfell.core.planners.discharge import PULSED, Found, Given, work

OVEN = Quantity(1e-6, 0.5e-6, 1.3e-6, ("REF-R-T3",))
"""Farads of an oven's capacitor."""
OVEN_VOLTS = Quantity(2100.0, 1900.0, 2300.0, ("REF-R-T3",))
"""And its rated AC volts."""
MOST_IN_A_ROW = 20
"""A longer row no longer fits a rod that is held. House rule."""
LONGEST_HOLD = 30.0
"""Seconds that somebody holds a stick still. House rule."""
ROD_MM = 500.0
"""Of insulating rod between hand and hook at least. Common practice; IEC 60855 for rods to buy."""
TO_BUY = {"ohms": 22e3, "working_volts": 750.0, "watts": 3.0}
"""A common metal-oxide resistor. From memory of several makers' sheets."""


class Stick(Struct, frozen=True):
    """A chain: what one resistor is, how many in a row, what the planner says of it, from where."""

    ohms: float
    volts: float
    watts: float
    count: int
    found: Found
    source: str

    @property
    def chain(self) -> tuple[float, float]:
        """Ohms the chain must read before each use, five per cent either way."""
        whole = self.count * self.ohms
        return 0.95 * whole, 1.05 * whole

    @property
    def list(self) -> tuple[str, ...]:
        """What goes into it."""
        return (
            f"{self.count} × {engineering(self.ohms, 'Ω')}, {self.volts:g} V, {self.watts:g} W",
            f"insulating rod, {ROD_MM:g} mm and more from hand to hook, dry and clean",
            "hook of stiff wire at the far end, soldered to the chain",
            "clip on kilovolt wire at the near end, for the other terminal or the can",
            "sleeve over the whole chain",
        )


def build(items: Iterable[Item]) -> Stick:
    """The chain from the stores that is held the shortest; to buy where they hold none that will
    do.
    """
    chains = [stick for item in items if (stick := _from(item)) is not None]
    if chains:
        return min(chains, key=lambda s: (s.found.hold_seconds.high, s.count))
    bought = _chain(TO_BUY["ohms"], TO_BUY["working_volts"], TO_BUY["watts"], "to buy")
    assert bought is not None
    return bought


def _from(item: Item) -> Stick | None:
    """A chain of one entry's resistors; None where they are no resistors, or will not do."""
    if item.kind.key != "resistor" or item.gone:
        return None
    ohms, volts, watts = (item.figures.get(k) for k in ("ohms", "working_volts", "watts"))
    if not (ohms and volts and watts):
        return None
    stick = _chain(ohms, volts, watts, item.title)
    return stick if stick is not None and stick.count <= item.count else None


def _chain(ohms: float, volts: float, watts: float, source: str) -> Stick | None:
    """The shortest row that bears its volts and its first watts, if it can be held."""
    first = _worked(ohms, volts, watts, 1).start_volts.high
    count = math.ceil(first / (RESISTOR_VOLTS * volts))
    while count <= MOST_IN_A_ROW:
        found = _worked(ohms, volts, watts, count)
        if found.hold_seconds.high > LONGEST_HOLD:
            return None
        if found.pulse_ratio.high <= PULSED:
            return Stick(
                ohms=ohms, volts=volts, watts=watts, count=count, found=found, source=source
            )
        count += 1
    return None


def _worked(ohms: float, volts: float, watts: float, count: int) -> Found:
    return work(
        Given(
            capacitance_farads=OVEN,
            rated_volts_ac=OVEN_VOLTS,
            resistor_ohms=exact(ohms),
            resistor_volts=volts,
            resistor_watts=watts,
            resistors=count,
        )
    )
