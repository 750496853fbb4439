"""Readings that would stop the piece and were struck out: each leaves its mark until as many
readings of the same kind, of the same pair, at least as strong, have answered it.

A slip of the pen is struck and read again in the same minute; a fault that is struck out and not
read again kills. What was read before it, or nobody knows when, answers nothing. House rule.
"""

from collections.abc import Iterable
from typing import Any

from greyfell.core.evidence.record import Transformer
from greyfell.core.evidence.times import after, in_order
from greyfell.core.figures.limits import BASIC_OHMS
from greyfell.core.judgement.leaks import LEAK_STOP_OHMS
from greyfell.core.wiring.coil import Topology


def unanswered(struck: Iterable[Any], record: Transformer, topology: Topology) -> list[Any]:
    """Struck readings across a barrier that would stop the piece and were not read again as often,
    as they were, later, with another outcome.
    """
    out: list[Any] = []
    answers = [r for r in record.standing if r.may_open]
    for r in reversed(in_order(struck)):
        if not _stops(r, topology):
            continue
        # the newest takes the newest, so that the older ones keep what only they can use
        answer = next((a for a in reversed(in_order(answers)) if _answers(a, r)), None)
        if answer is None:
            out.append(r)
        else:
            answers.remove(answer)
    return out[::-1]


def _stops(r: Any, topology: Topology) -> bool:
    """Whether a struck reading says that a barrier conducts or leaks."""
    if not r.may_open or r.is_open:
        return False
    if r.ohms >= (BASIC_OHMS if r.proof_volts else LEAK_STOP_OHMS):
        return False
    one, two = (_side(x, topology) for x in r.between)
    return one != two


def _side(point: str, topology: Topology) -> int | str:
    """The winding of a point; -1 for the iron and what is bonded to it; a loose lead is a side of
    its own.
    """
    if point in topology.iron:
        return -1
    i = topology.coil_of(point)
    if i is None:
        return point
    return -1 if topology.coils[i].bond is not None else i


def _answers(answer: Any, r: Any) -> bool:
    """Whether a reading is of the same pair and kind as a struck one, later than it, and at least
    as strong.
    """
    if answer.kind != r.kind or set(answer.between) != set(r.between):
        return False
    if not after(answer.at, r.at):
        return False
    if r.proof_volts:
        return bool(answer.proof_volts >= r.proof_volts)
    if not answer.is_open:
        return True
    return bool((answer.range_ohms or 0.0) >= max(LEAK_STOP_OHMS, r.range_ohms or 0.0))
