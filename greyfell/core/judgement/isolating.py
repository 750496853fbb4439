"""What isolates from the mains and what does not, whatever else is wound on the core.

A tap of the fed winding, an autotransformer by its plate, a variable transformer isolate nothing.
Two windings at mains-like volts are a safety isolation only where the plate carries its mark: a
former that was made for something else has one barrier at best.
"""

import re
from collections.abc import Iterable

from greyfell.core.belief.found import Belief, Winding
from greyfell.core.evidence.record import Transformer
from greyfell.core.families.registry import chance, has
from greyfell.core.judgement.high import may_be_high

MAY_BE_VARIABLE = 0.05
"""From this chance of a variable transformer it is said to isolate nothing. House rule."""
AUTO = re.compile(r"\bauto[- ]?(?:transformer|wound)|\bspar(?:trafo|transformator)|\bvariac", re.I)
"""Words of a plate or title that name one winding for both sides."""
MARKED = re.compile(r"61558\s*-\s*2\s*-\s*[46]|\b(?:EN|IEC)?\s*60742|safety isolating", re.I)
"""The mark of a safety isolating transformer on a plate. IEC 61558-2-4 and -6; EN 60742 before."""
LIKE_MAINS = (0.4, 2.5)
"""An output of so many times the supply's volts is one for mains-like work: 115 V from 230 V, and
the reverse. House rule."""
REBUILT = ("rewound", "winding-removed", "core-split", "core-rejoined", "primary-turns-added")
"""Changes after which a maker's mark says nothing any more."""


def autotransformer(record: Transformer, belief: Belief) -> str:
    """Why the whole piece isolates nothing; empty where nothing says so."""
    plate = record.nameplate.text if record.nameplate is not None else ""
    for place, text in (("plate", plate), ("title", record.title)):
        found = AUTO.search(text)
        if found is not None:
            return f"the {place} says “{found.group(0)}”"
    whole = [w for w in belief.windings if not w.coil.broken]
    if len(whole) == 1 and whole[0].coil.taps:
        return "it has one tapped winding and no other"
    variable = chance(belief.families, "isolates_nothing") >= MAY_BE_VARIABLE
    if has(record.declared_family, "isolates_nothing") or (whole and variable):
        return "it is a variable transformer, or may be one"
    return ""


def taps_of_mains(belief: Belief) -> Iterable[tuple[Winding, tuple[str, ...]]]:
    """Windings that may take the mains and have taps, with the taps: no output of theirs
    isolates.
    """
    for w in belief.windings:
        taps = tuple(t.lead for t in w.coil.taps if t.lead != "core")
        if w.on_mains and taps:
            yield w, taps


def safety_marked(record: Transformer) -> bool:
    """Whether the plate carries the mark of a safety isolating transformer, and the iron is as it
    was made.
    """
    plate = record.nameplate
    if plate is None or any(c.what in REBUILT for c in record.changes):
        return False
    return MARKED.search(plate.text) is not None


def like_mains(record: Transformer, belief: Belief) -> list[Winding]:
    """Outputs at mains-like volts."""
    least, most = (record.supply.volts * x for x in LIKE_MAINS)
    outputs = (w for w in belief.windings if not w.on_mains and not may_be_high(w))
    return [w for w in outputs if w.volts is not None and least <= w.volts.value <= most]
