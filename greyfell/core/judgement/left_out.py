"""What could not be weighed: named, left out, and a question that stays open."""

from collections.abc import Iterable

from greyfell.core.belief.found import Belief
from greyfell.core.belief.weigh import MOST_WINDINGS
from greyfell.core.evidence.lenient import LeftOut
from greyfell.core.evidence.record import Transformer
from greyfell.core.judgement.fault import Fault, Severity


def left_out(found: Iterable[LeftOut]) -> list[Fault]:
    """A caution for everything that had to be left out, with why and what to do."""
    return [_of(one) for one in found]


def _of(one: LeftOut) -> Fault:
    if one.is_reading:
        name, instead = f"Reading {one.what}", "Strike it out and read it again."
    else:
        name, instead = one.what.replace("_", " ").capitalize(), "Correct it at the clues station."
    why = one.why.removeprefix(f"{name}: ")
    return Fault(
        code="not-weighed",
        severity="caution",
        leads=(),
        readings=(one.what,) if one.is_reading else (),
        sentence=f"{name} could not be weighed and was left out: {why} {instead}",
        firm=True,  # what was not weighed may be what kills
    )


def too_many(_record: Transformer, belief: Belief) -> list[Fault]:
    """More windings than any piece has: nothing is said of their roles."""
    count = len(belief.topology.coils)
    if count <= MOST_WINDINGS:
        return []
    sentence = (
        f"{count} windings: no piece has so many, and past {MOST_WINDINGS} nothing is said of what "
        "each is for. Are leads of one winding down as pairs? Read them against each other."
    )
    told: Severity = "caution"
    return [
        Fault(
            code="not-weighed", severity=told, leads=(), readings=(), sentence=sentence, firm=True
        )
    ]
