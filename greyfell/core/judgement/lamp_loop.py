"""A bright lamp, and whether sound iron lights it by itself."""

from greyfell.core.belief.found import Belief
from greyfell.core.evidence.kinds.lamp import Lamp
from greyfell.core.evidence.record import Transformer


def lit_by_iron(record: Transformer, belief: Belief, r: Lamp) -> bool | None:
    """As `circuit.idle.lights_it` tells; what a lamp's loop is solved by is read in only where a
    lamp is on record.
    """
    from greyfell.core.circuit.idle import lights_it

    return lights_it(record, belief, r)
