"""Judge a belief: faults, then the verdict, which sees them."""

from collections.abc import Sequence

from greyfell.core.belief.found import Belief
from greyfell.core.evidence.lenient import LeftOut
from greyfell.core.evidence.record import Reading, Transformer
from greyfell.core.judgement.fault import GRAVEST, PLACE
from greyfell.core.judgement.faults import find_faults
from greyfell.core.judgement.identification import Judgement
from greyfell.core.judgement.left_out import left_out
from greyfell.core.judgement.verdict import verdict_on


def judge(
    record: Transformer,
    belief: Belief,
    struck: Sequence[Reading] = (),
    unweighed: Sequence[LeftOut] = (),
) -> Judgement:
    """What is wrong with a piece, and how far it is tested. Pure."""
    found = (*find_faults(record, belief), *left_out(unweighed))
    faults = sorted(found, key=lambda f: (GRAVEST[f.severity], PLACE[f.code]))
    return Judgement(
        faults=tuple(faults),
        verdict=verdict_on(record, belief, faults, struck),
    )
