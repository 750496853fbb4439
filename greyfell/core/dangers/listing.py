"""Every danger of a scene in one list. Everything that names a danger of a piece asks here, or, for
the piece's own alone, in `own`.
"""

from greyfell.core.dangers import (
    of_act,
    of_bench,
    of_donor,
    of_fault,
    of_handling,
    of_live,
    of_making,
    of_plan,
    of_row,
)
from greyfell.core.dangers.own import OWN, STOPS, in_order, is_own, standing
from greyfell.core.dangers.rule import Danger
from greyfell.core.dangers.scene import Scene
from greyfell.core.judgement.identification import Identification

FIRST = (*STOPS, *of_bench.WRONG)
"""What stops whatever else is known: what stops the piece, and a bench with something wrong."""
REST = (
    *of_fault.DOUBTS,
    *of_row.RULES,
    *of_bench.RULES,
    *of_donor.RULES,
    *of_handling.RULES,
    *of_act.RULES,
    *of_live.RULES,
    *of_making.RULES,
    *of_plan.RULES,
)
"""Everything that is neither that nor the piece's own."""
ORDER = in_order((FIRST, OWN, REST))
"""Every rule there is, in the order in which it is told."""


def dangers(scene: Scene) -> list[Danger]:
    """Everything that stands, in the one order."""
    return [danger for _, danger in standing(scene, ORDER)]


def strip(ident: Identification) -> list[Danger]:
    """What stands on the strip of a piece and on everything printed of it: the first danger of all,
    then its own.
    """
    told = standing(Scene(ident=ident), ORDER)
    first = told[0][1]
    return [first, *(danger for rule, danger in told[1:] if is_own(rule))]
