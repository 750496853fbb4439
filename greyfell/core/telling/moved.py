"""What a stored line changed: which reading, strike, statement or correction moved the gate or the
verdict, how, and what would undo it; in one sentence. Pure.
"""

from collections.abc import Iterable

from msgspec import Struct

from greyfell.core.evidence.reading_in_words import told
from greyfell.core.evidence.record import Transformer
from greyfell.core.judgement.fault import FAULTS, GRAVEST, Fault
from greyfell.core.judgement.gates import Gate
from greyfell.core.judgement.identification import Identification
from greyfell.core.telling.words import STATEMENT_WORDS, VERDICT_SHORT

MOST_WORDS = 90
"""Letters of what was stored that stand in the sentence."""


class Side(Struct, frozen=True, kw_only=True):
    """A piece on one side of a stored line: its record with everything on it, what was concluded,
    its gate.
    """

    record: Transformer
    ident: Identification
    gate: Gate


def moved(was: Side, now: Side) -> str:
    """What changed, in a sentence; empty where neither gate nor verdict moved."""
    old, new = was.ident.verdict, now.ident.verdict
    did = []
    if was.gate.open != now.gate.open:
        did.append("opened the gate" if now.gate.open else "shut the gate")
    if old != new:
        words = f"made it “{VERDICT_SHORT[new]}” instead of “{VERDICT_SHORT[old]}”"
        did.append(words)
    if not did:
        return ""
    entry = _entry(was.record, now.record)
    undo = _undo(was, now)
    return f"What changed: {entry} {' and '.join(did)}. To undo it: {undo[:1].lower()}{undo[1:]}"


def _entry(was: Transformer, now: Transformer) -> str:
    """What was stored: the first that is new."""
    found = [*_readings(was, now), *_said(was, now)]
    return found[0] if found else "the correction"


def _readings(was: Transformer, now: Transformer) -> Iterable[str]:
    """Readings that are new, and those struck out since."""
    before = {r.id: r for r in was.readings}
    for r in now.readings:
        if r.id not in before:
            yield f"{r.id}, {told(r)[:MOST_WORDS]},"
        elif r.struck and not before[r.id].struck:
            yield f"striking {r.id} out"


def _said(was: Transformer, now: Transformer) -> Iterable[str]:
    """Changes and statements that are new."""
    for change in now.changes[len(was.changes) :]:
        yield f"the change “{change.what.replace('-', ' ')}”"
    for said in reversed(now.statements[len(was.statements) :]):
        words = STATEMENT_WORDS.get(said.kind, said.kind.replace("-", " "))
        yield f"what was said, “{words}”,"


def _undo(was: Side, now: Side) -> str:
    """What would bring the former state back: what clears the new fault, the gate's first new
    reason settled, or the opposite of what was stored.
    """
    known = {(f.code, f.leads) for f in was.ident.faults}
    fresh = [f for f in now.ident.faults if (f.code, f.leads) not in known]
    if fresh:
        return FAULTS[_worst(fresh).code].clears
    asked = [r for r in now.gate.reasons if r not in was.gate.reasons]
    if asked and not now.gate.open:
        return f"{asked[0]}."
    if any(_readings(was.record, now.record)):
        return "a later reading of the same points that says the opposite, or this one struck out."
    return "say what is so now, or correct it."


def _worst(faults: Iterable[Fault]) -> Fault:
    return min(faults, key=lambda f: GRAVEST[f.severity])
