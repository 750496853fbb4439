"""Which readings still hold: those of the present state, and earlier ones that no change can have
touched.

Common practice, taken strictly: a change voids everything it might have touched; what was not
written down about it (which leads, which winding) is taken to have touched more rather than less.
Each kind of reading says what it outlasts. Insulation outlasts nothing, nor does what an ohmmeter
read open: all is work with blades, hammers, presses or heat beside windings.
"""

from typing import Any

from msgspec import Struct

from greyfell.core.evidence.record import Change, Transformer, ends_of
from greyfell.core.evidence.times import after, in_order

RETIRING = ("winding-removed",)
"""Changes after which the leads they name are no more."""


class Superseded(Struct, frozen=True):
    """A reading that no longer counts, and the change that may have touched it."""

    reading: str
    change: str
    sentence: str


def present(record: Transformer) -> Transformer:
    """The record as it counts now: struck and superseded readings left out, and what was read, done
    and said in the order of its times, whatever order it was entered in. Pure.
    """
    gone = {s.reading for s in superseded(record)}
    cut = retired(record)
    kept = [r for r in record.readings if r.struck is None and r.id not in gone]
    counts = {
        "readings": in_order(r for r in kept if not cut & points_of(r)),
        "leads": [lead for lead in record.leads if lead.id not in cut],
        "changes": in_order(record.changes),
        "statements": in_order(record.statements),
    }
    return record.model_copy(update=counts)


def retired(record: Transformer) -> set[str]:
    """Leads of windings that were cut out; one that was read since, or nobody knows when, is there
    again, or yet.
    """
    return {
        lead
        for change in record.changes
        if change.what in RETIRING
        for lead in named_leads(change) - _read_since(record, change)
    }


def _read_since(record: Transformer, change: Change) -> set[str]:
    since = (r for r in record.standing if not after(change.at, r.at))
    return {p for r in since for p in points_of(r)}


def named_leads(change: Change) -> set[str]:
    """The leads that a change names."""
    return set(change.leads or ())


def points_of(reading: Any) -> set[str]:
    """Every point that a reading touches."""
    return {p for _, pair in ends_of(reading) for p in pair}


def superseded(record: Transformer) -> list[Superseded]:
    """Readings from before a change that the change may have touched. A reading without a time
    counts as before.
    """
    out = []
    for reading in record.standing:
        for change in record.changes:
            if _before(reading, change) and not _untouched(reading, change):
                sentence = (
                    f"{reading.id} is from before “{change.what}”, which may have touched it: "
                    "read it again."
                )
                out.append(Superseded(reading.id, change.id or change.what, sentence))
                break
    return out


def _before(reading: Any, change: Change) -> bool:
    return not after(reading.at, change.at)


def _untouched(reading: Any, change: Change) -> bool:
    if points_of(reading) & named_leads(change):
        return False
    return bool(reading.holds_after(change.what))
